"""Bodies cut in two by planes and faces."""

from __future__ import annotations

from OCP.BRepAlgoAPI import BRepAlgoAPI_Splitter
from OCP.TopAbs import TopAbs_Orientation

from ..errors import StepError
from .ending import Target, _whole
from .named import NamedShape, carry
from .query import describe, mass_of
from .shapes import faces_of, shape_list, solids_of
from .types import Frame, dot, minus

__all__ = ["split"]

FLAT = 1e-9


def split(body: NamedShape, target: Target, reach: float, prefix: str) -> tuple[list[NamedShape], list[NamedShape]]:
    """Cut a body by the whole of a plane or face: the pieces in front of it (where its normal looks), and those behind.

    The cut faces are named `prefix/cut`. Raises StepError where it misses the body, or does not cut it through.
    """
    cutter = _whole(target, reach)
    splitter = BRepAlgoAPI_Splitter()
    splitter.SetArguments(shape_list([body.shape]))
    splitter.SetTools(shape_list([cutter]))
    splitter.Build()
    if not splitter.IsDone() or splitter.Shape().IsNull():
        raise StepError("The kernel could not split this body.")
    name = f"{prefix}/cut"
    made = carry(splitter, [body, NamedShape(cutter, [frozenset({name})] * len(faces_of(cutter)))], splitter.Shape())
    pieces = [NamedShape.collect(solid, made.pairs()) for solid in solids_of(splitter.Shape())]
    if any(f.Orientation() == TopAbs_Orientation.TopAbs_INTERNAL for p in pieces for f in faces_of(p.shape)):
        raise StepError("This does not cut the body through. Pick a plane or a face that does.", field="by")
    front: list[NamedShape] = []
    behind: list[NamedShape] = []
    for piece in pieces:
        (front if _in_front(piece, target, name) else behind).append(piece)
    if not front or not behind:  # a body in several pieces is also split where the plane runs between them
        raise StepError("This does not cut the body: it misses it, only touches it, or does not go through.", field="by")
    return front, behind


def _in_front(piece: NamedShape, target: Target, name: str) -> bool:
    """Tell on which side of the cut a piece lies: its cut faces look away from it, against the target's normal in front; a piece that is
    not cut lies where its middle does."""
    topology = describe(piece)
    face = next((f for f in topology.faces if name in f.names), None)
    if face is None:
        frame = target if isinstance(target, Frame) else describe(NamedShape(target[0].shape, target[0].names)).faces[target[1]].frame
        return dot(minus(mass_of(piece).centre, frame.origin), frame.normal) > 0
    if isinstance(target, Frame):
        return dot(face.frame.normal, target.normal) < 0
    tool = describe(NamedShape(target[0].shape, target[0].names)).faces[target[1]]
    if face.form == "flat":
        return dot(face.frame.normal, tool.frame.normal) < 0
    if face.axis is not None and tool.axis is not None:  # of a round cut: hollow tells
        return face.hollow != tool.hollow
    return dot(minus(face.centre, tool.centre), tool.frame.normal) < FLAT
