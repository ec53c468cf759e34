"""Edits of a drawing. Each is a small message that turns one solved drawing into the next, or is refused."""

from typing import Annotated

from pydantic import Field

from .arrange import Move, Remove, SetConstruction
from .base import PartFigures, Rehearsal, apply_edit, rehearse, say_edit
from .constrain import Constrain, ConstrainAll, PlaceFigure, SetReference, SetValue
from .copies import MirrorCurves, Paste, Repeat, Transform
from .corner import ChamferCorner, RoundCorner
from .draft import End
from .draw import Draw
from .offering import constraints_for, tools_for
from .offset import FlipOffset, OffsetChain, beside, chain_from, gone_on
from .spline_points import AddSplinePoint
from .take import Retake, TakeIn
from .trim import Break, Extend, Trim
from .write import SetText, Write

__all__ = [
    "Constrain",
    "Draw",
    "End",
    "PartFigures",
    "Rehearsal",
    "SketchEdit",
    "TakeIn",
    "apply_edit",
    "beside",
    "chain_from",
    "constraints_for",
    "gone_on",
    "rehearse",
    "say_edit",
    "tools_for",
]

SketchEdit = Annotated[
    Draw
    | Constrain
    | ConstrainAll
    | SetValue
    | SetReference
    | PlaceFigure
    | Remove
    | SetConstruction
    | Move
    | Trim
    | Extend
    | Break
    | RoundCorner
    | ChamferCorner
    | OffsetChain
    | FlipOffset
    | MirrorCurves
    | Repeat
    | Transform
    | Paste
    | TakeIn
    | Retake
    | Write
    | SetText
    | AddSplinePoint,
    Field(discriminator="op"),
]
