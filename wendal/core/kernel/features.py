"""Pockets and bosses found on a body by their faces: the body is healed without them, and what it differs by is the solid they make."""

from __future__ import annotations

from OCP.BRepAlgoAPI import BRepAlgoAPI_Defeaturing

from ..errors import StepError
from .boolean import cut
from .named import NamedShape, carry
from .query import volume_of
from .shapes import faces_of, shape_list, solids_of

__all__ = ["feature_of"]

NOTHING = 1e-9  # of the body's volume


def feature_of(body: NamedShape, faces: list[int], prefix: str) -> tuple[bool, NamedShape]:
    """Return whether some faces are those of a boss (else a pocket), and its solid; what closes it is named `prefix/lid`.

    Raises StepError where the body can not be healed without them.
    """
    own = faces_of(body.shape)
    picked = {name for i in faces for name in body.names[i]}
    maker = BRepAlgoAPI_Defeaturing()
    maker.SetShape(body.shape)
    maker.AddFacesToRemove(shape_list(own[i] for i in faces))
    maker.Build()
    if not maker.IsDone() or maker.Shape().IsNull() or not solids_of(maker.Shape()):
        raise StepError("These faces do not make a pocket or boss of their own: the body does not close without them. Pick all of its faces.",
                        field="seeds")
    healed = carry(maker, [body], maker.Shape())
    before, after = volume_of(body), volume_of(healed)
    if abs(after - before) < NOTHING * before:
        raise StepError("Without these faces the body would be the same, so there is nothing to repeat. Pick all faces of a pocket or boss.",
                        field="seeds")
    boss = after < before
    solid = cut(body, [healed], merge=False) if boss else cut(healed, [body], merge=False)
    lid = frozenset({f"{prefix}/lid"})
    return boss, NamedShape(solid.shape, [names & picked or lid for names in solid.names])
