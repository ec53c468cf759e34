"""Drawing a shape."""

from __future__ import annotations

from contextlib import suppress
from typing import Literal

from pydantic import Field

from ...errors import SketchError
from ...stored import Stored
from ..constraints import rule_for
from ..drawn import Constraint, Drawing, Layout
from ..explaining import check_new
from ..solving import solve
from .base import PartFigures, edits, with_constraint
from .constrain import Constrain, constrained
from .draft import End, NewGeometry
from .shapes import AUTOMATIC, SHAPES

__all__ = ["Automatic", "Draw", "drawn"]


class Automatic(Stored):
    """A constraint that came by itself while drawing: its kind, and to which other entity ("" for none)."""

    kind: str
    to: str = ""


class Draw(Stored):
    """Draw a shape through places; values are typed measures, such as {"width": "40 mm"}; sides : of a
    polygon."""

    op: Literal["draw"] = "draw"
    shape: Literal[
        "point",
        "line",
        "rectangle",
        "rectangle_centre",
        "rectangle_three",
        "circle",
        "circle_three",
        "circle_tangent",
        "arc",
        "arc_centre",
        "tangent_arc",
        "slot",
        "arc_slot",
        "polygon",
        "ellipse",
        "ellipse_arc",
        "spline",
        "spline_pulled",
    ]
    ends: list[End] = Field(min_length=1, max_length=200)
    automatic: list[Automatic] = Field(default_factory=list)
    values: dict[str, str] = Field(default_factory=dict)
    sides: int = Field(default=6, ge=3, le=60)
    construction: bool = False


@edits(Draw, "Draw a {shape}")
def drawn(drawing: Drawing, edit: Draw, figures: PartFigures) -> Drawing:
    draft = NewGeometry(drawing, edit.construction, edit.sides)
    try:
        made = SHAPES[edit.shape](draft, edit.ends)
        draft.begun_at(edit.ends[0].at)
    except IndexError as error:
        raise SketchError(
            f"The {edit.shape.split('_')[0]} needs more places than the {len(edit.ends)} given.", field="ends"
        ) from error
    result = draft.drawing()
    wanted = [
        (draft.is_needed(a.kind), Constraint(kind=a.kind, of=[made, *([a.to] if a.to else [])]))
        for a in edit.automatic
    ]
    for needed, c in [*draft.joins, *wanted]:
        result = _add_if_new(result, c, figures, needed=needed)
    for name, formula in edit.values.items():
        if name not in AUTOMATIC[edit.shape]:
            raise SketchError(f"A {edit.shape} has no {name}.", field=name)
        kind, index, manner = AUTOMATIC[edit.shape][name]
        of = [draft.made[index]]
        result = constrained(result, Constrain(kind=kind, of=of, formula=formula, manner=manner), figures)
        result = _sized(result, draft.first, figures)
    return result


def _sized(drawing: Drawing, first: str, figures: PartFigures) -> Drawing:
    """Solve for typed measures: the shape grows from where it was begun.

    Where that place can not stay, it moves least.
    """
    if first:
        held = with_constraint(drawing, Constraint(kind="fixed", of=[first]))
        with suppress(SketchError):
            solved = solve(held, figures.values(held)).drawing
            return drawing.model_copy(update={"points": solved.points, "curves": solved.curves})
    return solve(drawing, figures.values(drawing)).drawing


def _add_if_new(drawing: Drawing, c: Constraint, figures: PartFigures, *, needed: bool) -> Drawing:
    """Add an automatic constraint, unless it says nothing new."""
    rule = rule_for(c.kind)
    c = c.model_copy(update={"of": rule.ordered(c.of, drawing)})
    c = c.model_copy(update={"sense": rule.choose(c, Layout(drawing))})
    if not needed:
        try:
            check_new(drawing, figures.values(drawing), c, 0.0)
            return solve(with_constraint(drawing, c), figures.values(drawing)).drawing
        except SketchError:
            return drawing
    return with_constraint(drawing, c)
