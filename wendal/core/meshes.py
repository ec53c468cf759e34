"""Meshes of STL files: triangles made one mesh, and flat faces of those beside each other in one plane."""

from __future__ import annotations

import io
from collections import defaultdict, deque
from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from .errors import DocumentError
from .receiving import HEAD, is_binary_stl

__all__ = ["Facet", "Mesh", "flat_faces", "lumps", "read_stl"]

MOST = 60_000  # triangles
MOST_FACES = 6_000
RECORD = np.dtype([("n", "<f4", 3), ("v", "<f4", (3, 3)), ("a", "<u2")])
UNITS = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
# Of the mesh's size: what lies no farther off a plane lies in it. Places are told to about 1e-7 of it.
EVEN = 2e-6
SAME = 2e-7  # of the mesh's extent: figures of four bytes are no better
ALIGNED = 0.9995  # cosine: triangles beside each other that look more apart are never one face


@dataclass(slots=True)
class Mesh:
    """Welded triangles: places (n, 3) in mm, corners (m, 3).

    unit : of the file. dropped : how many triangles had no area.
    """

    places: np.ndarray
    corners: np.ndarray
    unit: str
    dropped: int

    @property
    def size(self) -> float:
        """The diagonal of its box, mm."""
        return float(np.linalg.norm(np.ptp(self.places, axis=0)))


@dataclass(slots=True)
class Facet:
    """A flat face: a place in it, its normal out of the material, and its loops of places by number.

    The outer one comes first, counter-clockwise seen from outside.
    """

    at: tuple[float, float, float]
    normal: tuple[float, float, float]
    loops: list[list[int]]


def read_stl(content: bytes, unit: str) -> Mesh:
    """Read a mesh; unit : "mm", "cm", "m" or "in". Raises DocumentError for what is no mesh of triangles."""
    triangles = _of_binary(content) if is_binary_stl(content) else _of_words(content)
    if not len(triangles):
        raise DocumentError("There is no triangle in this file.", field="file")
    if len(triangles) > MOST:
        raise _too_many(f"{len(triangles)} triangles")
    if not np.isfinite(triangles).all():
        raise DocumentError("There are numbers in this file that are none (NaN).", field="file")
    places, corners = _welded(triangles.reshape(-1, 3).astype(float))
    a, b, c = (places[corners[:, k]].astype(float) for k in range(3))
    twice = np.linalg.norm(np.cross(b - a, c - a), axis=1)
    longest = np.maximum.reduce([np.linalg.norm(p - q, axis=1) for p, q in ((a, b), (b, c), (c, a))])
    good = (twice > 1e-9 * longest * longest) & (longest > 0)
    mesh = Mesh(places.astype(float) * UNITS[unit], corners[good], unit, int((~good).sum()))
    if not len(mesh.corners):
        raise DocumentError("No triangle in this file has an area.", field="file")
    _manifold(mesh)
    return mesh


def _too_many(what: str) -> DocumentError:
    return DocumentError(f"This mesh has {what}; at most {MOST} are taken. Write it coarser.", field="file")


def _welded(corners: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return places, each once, and the corners (m, 3) by their numbers.

    What lies nearer than figures of four bytes can tell is one place.
    """
    places, each = np.unique(corners + 0.0, axis=0, return_inverse=True)  # minus nought is nought
    near = SAME * float(np.abs(np.ptp(places, axis=0)).max())
    pairs = cKDTree(places).query_pairs(near, output_type="ndarray")
    links = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(places),) * 2)
    count, group = connected_components(links, directed=False)
    first = np.full(count, len(places))
    np.minimum.at(first, group, np.arange(len(places)))
    return places[first], group[each.reshape(-1)].reshape(-1, 3)


def lumps(mesh: Mesh) -> list[Mesh]:
    """Return the pieces of a mesh that hang together, one by one."""
    corners = mesh.corners
    ends = np.concatenate([corners[:, [0, 1]], corners[:, [1, 2]]])
    links = coo_matrix((np.ones(len(ends)), (ends[:, 0], ends[:, 1])), shape=(len(mesh.places),) * 2)
    _, group = connected_components(links, directed=False)
    of = group[corners[:, 0]]
    return [Mesh(mesh.places, corners[of == g], mesh.unit, 0) for g in dict.fromkeys(of.tolist())]


def _of_binary(content: bytes) -> np.ndarray:
    count = (len(content) - HEAD) // 50
    return np.frombuffer(content, RECORD, count, HEAD)["v"]


def _of_words(content: bytes) -> np.ndarray:
    """Read an STL file in words, line by line; raises DocumentError with the line."""
    found: list[tuple[float, float, float]] = []
    open_ = False
    ended = False
    for number, line in enumerate(io.TextIOWrapper(io.BytesIO(content), "utf-8", errors="replace"), 1):
        words = line.split()
        if not words:
            continue
        first = words[0].lower()
        if first == "vertex":
            try:
                x, y, z = (float(w) for w in words[1:4])
            except ValueError as error:
                raise DocumentError(
                    f"Line {number} of the file is no corner of a triangle.", field="file"
                ) from error
            found.append((x, y, z))
            if not open_:
                break
            if len(found) > 3 * MOST:
                raise _too_many("more triangles")
        elif first == "facet":
            open_ = True
        elif first == "endfacet":
            if not open_ or len(found) % 3:
                raise DocumentError(
                    f"Line {number} of the file ends a triangle that has no three corners.", field="file"
                )
            open_ = False
        elif first == "endsolid":
            ended = True
    if open_ or len(found) % 3 or not ended:
        raise DocumentError("The file is cut off, or no STL file.", field="file")
    return np.array(found, dtype=np.float32).reshape(-1, 3, 3)


def _manifold(mesh: Mesh) -> None:
    """Raise DocumentError where more than two triangles meet in an edge, or two run along it the same way."""
    sides = np.concatenate([mesh.corners[:, [0, 1]], mesh.corners[:, [1, 2]], mesh.corners[:, [2, 0]]])
    _, same_way = np.unique(sides, axis=0, return_counts=True)
    _, together = np.unique(np.sort(sides, axis=1), axis=0, return_counts=True)
    if (together > 2).any():
        raise DocumentError(
            f"In {int((together > 2).sum())} edges of this mesh more than two triangles meet. Mend it "
            "where it comes from.",
            field="file",
        )
    if (same_way > 1).any():
        raise DocumentError(
            "Triangles of this mesh look both ways: its inside is not told from its outside. Mend it where "
            "it comes from.",
            field="file",
        )


def flat_faces(mesh: Mesh) -> list[Facet]:
    """Return the mesh's flat faces: triangles beside each other in one plane are one face.

    Raises DocumentError where there are too many.
    """
    groups = _grouped(mesh)
    count = int(groups.max()) + 1
    if count > MOST_FACES:
        raise DocumentError(
            f"This mesh has {count} flat faces; at most {MOST_FACES} are taken. Write it coarser.",
            field="file",
        )
    owner: dict[tuple[int, int], int] = {}
    for t, corners in enumerate(mesh.corners.tolist()):
        for p, q in zip(corners, [*corners[1:], corners[0]], strict=True):
            owner[p, q] = int(groups[t])
    rims: dict[int, list[tuple[int, int]]] = defaultdict(list)
    for (p, q), group in owner.items():
        if owner.get((q, p)) != group:
            rims[group].append((p, q))
    a, b, c = (mesh.places[mesh.corners[:, k]] for k in range(3))
    crosses = np.cross(b - a, c - a)
    normals = np.zeros((count, 3))
    np.add.at(normals, groups, crosses)
    normals /= np.linalg.norm(normals, axis=1)[:, None]
    facets = [_facet(mesh, normals[g], rims[g]) for g in range(count)]
    _straighten(mesh, facets)
    return facets


def _straighten(mesh: Mesh, facets: list[Facet]) -> None:
    """Leave out of the loops the places in the middle of a straight edge between two faces, or of a rim."""
    met: dict[int, set[int]] = defaultdict(set)
    for i, facet in enumerate(facets):
        for loop in facet.loops:
            for p in loop:
                met[p].add(i)

    def straight(loop: list[int], k: int) -> bool:
        if len(met[loop[k]]) > 2 or loop.count(loop[k]) > 1:
            return False
        one = mesh.places[loop[k]] - mesh.places[loop[k - 1]]
        other = mesh.places[loop[(k + 1) % len(loop)]] - mesh.places[loop[k]]
        lengths = np.linalg.norm(one) * np.linalg.norm(other)
        return bool(one @ other > 0 and np.linalg.norm(np.cross(one, other)) < EVEN * lengths)

    needed: set[int] = set()
    for facet in facets:
        for loop in facet.loops:
            needed.update(p for k, p in enumerate(loop) if not straight(loop, k))
    for facet in facets:
        facet.loops = [kept for loop in facet.loops if len(kept := [p for p in loop if p in needed]) > 2]


def _grouped(mesh: Mesh) -> np.ndarray:
    """Return the face that each triangle is of, growing faces from the largest triangles."""
    a, b, c = (mesh.places[mesh.corners[:, k]] for k in range(3))
    crosses = np.cross(b - a, c - a)
    areas = np.linalg.norm(crosses, axis=1)
    normals = crosses / areas[:, None]
    beside: dict[tuple[int, int], int] = {}
    for t, corners in enumerate(mesh.corners.tolist()):
        for p, q in zip(corners, [*corners[1:], corners[0]], strict=True):
            beside[p, q] = t
    groups = np.full(len(mesh.corners), -1)
    off = max(EVEN * mesh.size, 1e-7)
    count = 0
    for seed in np.argsort(-areas):
        if groups[seed] >= 0:
            continue
        normal, at = normals[seed], a[seed]
        groups[seed] = count
        left = deque([int(seed)])
        while left:
            corners = mesh.corners[left.popleft()].tolist()
            for p, q in zip(corners, [*corners[1:], corners[0]], strict=True):
                other = beside.get((q, p))
                if other is None or groups[other] >= 0 or normals[other] @ normal < ALIGNED:
                    continue
                if np.abs((mesh.places[mesh.corners[other]] - at) @ normal).max() > off:
                    continue
                groups[other] = count
                left.append(other)
        count += 1
    return groups


def _facet(mesh: Mesh, normal: np.ndarray, rim: list[tuple[int, int]]) -> Facet:
    """Return a face by the sides at its rim, chained to loops; its largest loop is its outer one."""
    onward: dict[int, list[int]] = defaultdict(list)
    for p, q in rim:
        onward[p].append(q)
    x = np.cross(normal, [1.0, 0, 0] if abs(normal[0]) < 0.9 else [0, 1.0, 0])
    x /= np.linalg.norm(x)
    y = np.cross(normal, x)
    loops: list[list[int]] = []
    while onward:
        start = next(iter(onward))
        loop, here = [start], start
        came: np.ndarray | None = None
        while True:
            ways = onward[here]
            next_ = ways[0] if len(ways) == 1 else _leftmost(mesh, here, ways, came, x, y)
            ways.remove(next_)
            if not ways:
                del onward[here]
            came, here = mesh.places[next_] - mesh.places[here], next_
            if here == start:
                break
            loop.append(here)
        loops.append(loop)

    def area(loop: list[int]) -> float:
        u, v = mesh.places[loop] @ x, mesh.places[loop] @ y
        return float(np.sum(u * np.roll(v, -1) - v * np.roll(u, -1)) / 2)

    loops.sort(key=area, reverse=True)
    places = mesh.places[loops[0]]
    middle = places.mean(axis=0)
    return Facet(
        (float(middle[0]), float(middle[1]), float(middle[2])),
        (float(normal[0]), float(normal[1]), float(normal[2])),
        loops,
    )


def _leftmost(
    mesh: Mesh, here: int, ways: list[int], came: np.ndarray | None, x: np.ndarray, y: np.ndarray
) -> int:
    """Return the way on where loops touch in a place: the first one clockwise from where it came from, which
    keeps to the face."""
    if came is None:
        return ways[0]
    back = np.arctan2(-came @ y, -came @ x)

    def turn(to: int) -> float:
        way = mesh.places[to] - mesh.places[here]
        return float((back - np.arctan2(way @ y, way @ x)) % (2 * np.pi)) or 2 * np.pi

    return min(ways, key=turn)
