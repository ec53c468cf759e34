"""Colours and names that were given to single faces, where these are now."""

from __future__ import annotations

from collections.abc import Mapping

from ..errors import ReferenceLost
from ..reference import find_face
from ..route import Part
from ..route.document import FaceLook
from ..steps import Body

__all__ = ["painted"]


def painted(part: Part, bodies: Mapping[str, Body]) -> dict[str, dict[int, FaceLook]]:
    """Return the looks of faces by body and by the face's place. A face that is not there, or may be another
    one, has none: a colour says nothing about which was meant."""
    if not part.faces:
        return {}
    known = {b: body.topology for b, body in bodies.items()}
    found: dict[str, dict[int, FaceLook]] = {}
    for look in part.faces:
        try:
            hit = find_face(look.face, known)
        except ReferenceLost:
            continue
        if not hit.doubt:
            found.setdefault(hit.body, {})[hit.index] = look
    return found
