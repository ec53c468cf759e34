"""Patches of faces pushed out or in: where a surface runs on beside a face, its neighbours can not follow."""

from __future__ import annotations

import math
from collections.abc import Sequence

from OCP.TopoDS import TopoDS_Shape

from ..errors import StepError
from .boolean import cut, fuse
from .merging import alike_pairs
from .named import NamedShape, source_of
from .query import check_solid, volume_of
from .sheets import sheet_of_faces, thickened

__all__ = ["patches_pushed", "runs_on"]

TOO_FAR = (
    "The patch runs into other faces, or into itself, on its way. Push it less far, or build a step of its "
    "own."
)
PUSHED = 1e-6  # share of what a patch adds by which the body may differ: more means it ran into something


def runs_on(body: NamedShape, faces: Sequence[int]) -> bool:
    """Tell whether the surface of some faces runs on in neighbours that are not among them, so that these can
    not follow."""
    own = set(faces)
    a, b = alike_pairs(body.anatomy)
    return any((i in own) != (j in own) for i, j in zip(a.tolist(), b.tolist(), strict=True))


def patches_pushed(body: NamedShape, faces: list[int], distance: float, prefix: str) -> NamedShape:
    """Push patches of faces out (mm, negative: in), square to their surfaces; what they stand in stays.

    A pushed face keeps its names, the walls round it are named `prefix/wall/<the face>`. Raises StepError.
    """
    sheet = sheet_of_faces(body, faces, prefix)
    try:
        tool = thickened(sheet, max(distance, 0.0), max(-distance, 0.0), prefix)
    except StepError as error:
        raise StepError(TOO_FAR, field="distance") from error
    own = {source_of({f"{prefix}/copy/{source_of(body.names[i])}"}): body.names[i] for i in faces}
    far = f"{prefix}/{'front' if distance > 0 else 'back'}/"
    fresh: list[tuple[TopoDS_Shape, frozenset[str]]] = []
    for face, names in tool.pairs():
        name = min(names)
        source = name.split("/", 2)[2]
        moved = name.startswith(far) and source in own
        wall = f"{prefix}/wall/{source.split('~', 2)[2]}"
        fresh.append((face, own[source] if moved else frozenset({wall})))
    solid = NamedShape.collect(tool.shape, fresh)
    made = fuse([body, solid]) if distance > 0 else cut(body, [solid])
    check_solid(made)
    grown, meant = volume_of(made) - volume_of(body), math.copysign(volume_of(tool), distance)
    if abs(grown - meant) > PUSHED * abs(meant):
        raise StepError(TOO_FAR, field="distance")
    return made
