"""Pockets and bosses found on a body by their faces: the body is healed without them, and what it differs by
is the solid they make."""

from __future__ import annotations

from ..errors import StepError
from .boolean import cut
from .facing import FaceRefused, without_faces
from .named import NamedShape
from .query import volume_of

__all__ = ["feature_of", "lifted"]


def lifted(body: NamedShape, faces: list[int], prefix: str) -> tuple[bool, NamedShape, NamedShape]:
    """Return whether some faces are those of a boss (else a pocket), its solid, and the body healed without
    it.

    What closes the solid is named `prefix/lid`. Raises FaceRefused where the body can not be healed without
    them.
    """
    picked = {name for i in faces for name in body.names[i]}
    healed = without_faces(body, faces)
    boss = volume_of(healed) < volume_of(body)
    solid = cut(body, [healed], merge=False) if boss else cut(healed, [body], merge=False)
    lid = frozenset({f"{prefix}/lid"})
    return boss, NamedShape(solid.shape, [names & picked or lid for names in solid.names]), healed


def feature_of(body: NamedShape, faces: list[int], prefix: str) -> tuple[bool, NamedShape]:
    """Return whether some faces are those of a boss (else a pocket), and its solid; raises StepError where
    they are neither."""
    try:
        boss, solid, _ = lifted(body, faces, prefix)
    except FaceRefused as error:
        raise StepError(
            "These faces do not make a pocket or boss of their own: the body does not close without them. "
            "Pick all of its faces.",
            field="seeds",
        ) from error
    return boss, solid
