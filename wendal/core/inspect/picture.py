"""A small ink drawing of a part for the list of parts."""

from __future__ import annotations

from .. import kernel
from ..route import Evaluation

__all__ = ["picture"]

WIDTH, HEIGHT, MARGIN = 240.0, 160.0, 14.0
NOTHING = (
    '<text x="120" y="84" text-anchor="middle" font-family="sans-serif" font-size="11" fill="#6f6459">'
    "no body yet</text>"
)


def picture(evaluation: Evaluation) -> str:
    """Return an SVG (240 x 160) of the visible edges; an empty part says that it has no body yet."""
    lines = (
        kernel.ink_drawing([b.shape for b in evaluation.site.bodies.values()])
        if evaluation.site.bodies
        else []
    )
    paths, words = "", NOTHING
    if lines:
        xs, ys = ([p[i] for line in lines for p in line] for i in (0, 1))
        span = max(
            (max(xs) - min(xs)) / (WIDTH - 2 * MARGIN), (max(ys) - min(ys)) / (HEIGHT - 2 * MARGIN), 1e-9
        )
        mx, my = (max(xs) + min(xs)) / 2, (max(ys) + min(ys)) / 2
        words = ""
        paths = "".join(
            "M"
            + "L".join(
                f"{WIDTH / 2 + (x - mx) / span:.1f} {HEIGHT / 2 - (y - my) / span:.1f}" for x, y in line
            )
            for line in lines
        )
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH:g} {HEIGHT:g}">'
        f'<path d="{paths}" fill="none" stroke="#2a211a" stroke-width="1" '
        f'stroke-linejoin="round"/>{words}</svg>'
    )
