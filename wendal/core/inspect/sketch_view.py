"""A sketch explained: solved geometry, what is still free, its regions, open ends, constraints in words."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import asdict
from typing import Any

from ..errors import CommandRefused, SketchError, WendalError
from ..lettering import FONTS
from ..quantity import Kind, format_quantity, parse
from ..quantity.units import format_plain, quantity
from ..route import Part, figures_of
from ..sketch import (
    Constraint,
    Counted,
    Drawing,
    Layout,
    PartFigures,
    Solution,
    bare_name,
    count_freedoms,
    find_freedoms,
    find_regions,
    grouped,
    measured,
    motion_frames,
    propose,
    region_ref,
    rehearse,
    rule_for,
    say_bound,
    say_constraint,
    solve,
    text_outline,
    ways_out,
)
from ..steps.sketch import Sketch

__all__ = ["dragged", "motion_view", "proposals", "rehearsed", "sketch_of", "sketch_view"]

SOON = 150  # freedoms up to which their words are there about as soon as their number


def sketch_view(
    part: Part, step: str, first: Callable[[dict[str, Any]], None] | None = None
) -> dict[str, Any]:
    """Return all that the drawing board shows of a sketch. Where it can not be solved, `trouble` says why.

    first : told the same before there are words for the freedoms (they are None then), where there are many.
    """
    sketch = sketch_of(part, step)
    trouble, drawing, figures = "", sketch.drawing, figures_of(part)
    fights: list[str] = []
    solution: Solution | None = None
    counted = Counted(0, [*drawing.points, *drawing.curves], [], [])
    try:
        solution = solve(drawing, figures.values(drawing))
        drawing, counted = solution.drawing, count_freedoms(solution)
    except SketchError as error:
        trouble, fights = error.message, ways_out(drawing, figures.values(drawing))
    except WendalError as error:
        trouble = error.message
    regions = find_regions(drawing)
    view = {
        "step": step,
        "name": sketch.name,
        "trouble": trouble,
        "fights": fights,
        "drawing": drawing.model_dump(mode="json"),
        "free": counted.number,
        "freedoms": None,
        "groups": [],
        "notes": counted.notes,
        "pencilled": counted.pencilled,
        "regions": [
            {"ref": region_ref(step, r).model_dump(mode="json"), "area": r.area, "outline": r.outline()}
            for r in regions.found
        ],
        "open_ends": [
            {"curve": c, "at": at, "gap": None if math.isinf(gap) else gap}
            for c, at, gap in regions.open_ends
            if c not in drawing.taken
        ],
        "meetings": [
            {"what": what, "of": [a, b], "at": at}
            for what, met in (("crossing", regions.crossings), ("overlap", regions.overlaps))
            for a, b, at in met
        ],
        "constraints": _constraints(part, drawing, figures),
        "texts": _texts(part, drawing, figures),
        "names": {e: bare_name(drawing, e) for e in [*drawing.points, *drawing.curves, *drawing.texts]},
    }
    if first and counted.number > SOON:
        first(view)
    motions = find_freedoms(solution, counted).motions if solution else []
    return {
        **view,
        "freedoms": [{"words": m.words, "moves": m.moves, "grows": m.grows} for m in motions],
        "groups": [asdict(g) for g in grouped(drawing, motions)],
    }


def sketch_of(part: Part, step: str) -> Sketch:
    """Return a step that is a sketch; raises CommandRefused for another."""
    sketch = part.step(step)
    if not isinstance(sketch, Sketch):
        raise CommandRefused(f"“{sketch.name}” is not a sketch.", step=step)
    return sketch


def motion_view(part: Part, step: str, index: int) -> list[dict[str, Any]]:
    """Return what moves in every frame of a freedom's motion."""
    drawing = sketch_of(part, step).drawing
    values = figures_of(part).values(drawing)
    return [dragged(d, values) for d in motion_frames(solve(drawing, values), index)]


def rehearsed(part: Part, step: str, edit: Any) -> dict[str, Any]:
    """Return what an edit would make of a sketch, what it would lose, and what there is to tell."""
    sketch = sketch_of(part, step)
    figures = figures_of(part, sketch.name)
    told = rehearse(sketch.drawing, edit, figures)
    return {
        "drawing": told.drawing.model_dump(mode="json"),
        "lost": told.lost,
        "notes": told.notes,
        "texts": _written(told.drawing, figures.values(told.drawing)),
    }


def proposals(part: Part, step: str, baselines: list[str]) -> list[dict[str, Any]]:
    """Return what would constrain the rest of a sketch, with the value each dimension would have."""
    drawing = sketch_of(part, step).drawing
    figures = figures_of(part)
    solution = solve(drawing, figures.values(drawing))
    layout = Layout(solution.drawing)
    found = []
    for p in propose(solution, baselines):
        rule = rule_for(p.kind)
        c = Constraint(kind=p.kind, of=p.of, manner=p.manner)
        shown = figures.show(rule.measure(c, layout), rule.quantity) if rule.quantity else ""
        found.append({**asdict(p), "symbol": rule.symbol, "shown": shown})
    return found


def _constraints(part: Part, drawing: Drawing, figures: PartFigures) -> list[dict[str, Any]]:
    now = measured(drawing)
    try:
        wanted: Mapping[str, float] = figures.values(drawing)
    except WendalError:
        wanted = now
    units = part.units.units()
    layout = Layout(drawing)
    rows = []
    for k, c in drawing.constraints.items():
        rule = rule_for(c.kind)
        row = {
            "id": k,
            "kind": c.kind,
            "symbol": rule.symbol,
            "words": say_constraint(drawing, c),
            "bound": say_bound(drawing, c),
            "title": rule.title.lower(),
            "of": c.of,
            "dimension": bool(rule.quantity),
            "reference": c.reference,
            "manner": c.manner,
            "at": c.at,
            "shown": "",
            "figure": "",
            "unit": "",
            "tag": "",
            "formula": "",
        }
        if c.reference:
            told = rule.measure(c, layout)
            shown = figures.show(told, rule.quantity).replace(" deg", "°")
            row |= {"shown": f"({shown})", "value": told, "figure": f"({_bare(shown)})"}
        if c.value:
            shown = format_plain(wanted[k], Kind(rule.quantity), units)
            row |= {
                "shown": shown,
                "figure": _bare(shown),
                "tag": c.value.tag,
                "formula": c.value.formula,
                "value": now[k],
            }
            plain = parse(c.value.formula).plain
            if rule.quantity == "length" and plain in ("", "mm", "in"):
                row["unit"] = plain or units.length
        rows.append(row)
    return rows


def _bare(shown: str) -> str:
    """Return a figure as drawings have it: without the unit of length that is everywhere the same."""
    return shown.removesuffix(" mm").removesuffix(" in")


def dragged(drawing: Drawing, values: Mapping[str, float]) -> dict[str, Any]:
    """Return only what moves while dragging: places, radii, distances beside and texts.

    values : heights of the texts, mm by their ids.
    """
    layout = Layout(drawing)
    return {
        "points": dict(drawing.points),
        "radii": {c: float(layout.x[layout.radius(c)]) for c in layout.round},
        "aways": {c: float(layout.x[layout.away(c)[0]]) for c in layout.beside},
        "texts": _written(drawing, values),
    }


def _written(drawing: Drawing, values: Mapping[str, float]) -> dict[str, str]:
    """Return how texts are drawn, by id; one that can not be set as the drawing stands is left out."""
    found = {}
    for t in drawing.texts:
        try:
            found[t] = text_outline(drawing, t, values[t]).path
        except SketchError:
            continue
    return found


def _texts(part: Part, drawing: Drawing, figures: PartFigures) -> list[dict[str, Any]]:
    outcomes, units = part.evaluated() if drawing.texts else {}, part.units.units()
    rows = []
    for t, text in drawing.texts.items():
        row: dict[str, Any] = {
            "id": t,
            "base": text.base,
            "words": text.words,
            "font": FONTS[text.font][0],
            "path": "",
            "boxes": [],
            "tag": text.height.tag,
            "formula": text.height.formula,
            "shown": text.height.formula,
        }
        try:
            height = figures.number(text.height.formula, "length")
            outline = text_outline(drawing, t, height)
            told = outcomes[text.height.tag].value if text.height.tag in outcomes else None
            row |= {
                "path": outline.path,
                "boxes": outline.boxes,
                "shown": format_quantity(told if told is not None else quantity(height, "mm"), units),
            }
        except WendalError as error:
            row["trouble"] = error.message
        rows.append(row)
    return rows
