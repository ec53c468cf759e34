"""What the curves, points and regions of a sketch are called in lists and sentences: no two of a sketch
alike."""

from __future__ import annotations

from collections.abc import Sequence

from ..reference.calling import apart, figure, said_place
from ..sketch import Drawing, path_of
from ..sketch.explaining import name_of

__all__ = ["drawn_called", "regions_called"]


def drawn_called(name: str, drawing: Drawing) -> tuple[dict[str, str], dict[str, str]]:
    """Return what the curves and the points of a sketch are called, by id: "upper horizontal line of Outline,
    40 mm"."""
    curves, places = {}, []
    for c in drawing.curves:
        path = path_of(drawing, c)
        size = (
            f"R{figure(path.radius)}"
            if path.radius and not path.closed
            else f"Ø{figure(2 * path.radius)}"
            if path.radius
            else ""
        )
        if not size and drawing.curves[c].kind == "line":
            size = f"{figure(path.t1 - path.t0)} mm"
        curves[c] = f"{name_of(drawing, c).removeprefix('the ')} of {name}" + (f", {size}" if size else "")
        x, y = path.at((path.t0 + path.t1) / 2)
        places.append((x, y, 0.0))
    points = {
        p: f"{name_of(drawing, p).removeprefix('the ')} of {name}, at {figure(x)}, {figure(y)}"
        for p, (x, y) in drawing.points.items()
    }
    told = apart(list(curves.values()), [said_place(p) for p in places])
    return dict(zip(curves, told, strict=True)), dict(
        zip(points, apart(list(points.values()), []), strict=True)
    )


def regions_called(name: str, areas: Sequence[float]) -> list[str]:
    """Return what the regions of a sketch are called, by their areas (mm²)."""
    return apart([f"region of {name}, {area:.1f} mm²" for area in areas], [])
