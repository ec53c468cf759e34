"""A body from a file: of which kind the file is, what a STEP file's text must have before the kernel may look
at it, what is kept of it, and which of its faces are those of an older file."""

from __future__ import annotations

import json
import math
import re
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from scipy.optimize import linear_sum_assignment

from . import kernel
from .errors import DocumentError

__all__ = ["HEAD", "Kept", "is_binary_stl", "is_stl", "keep", "look_at_text", "matched", "opened"]

MARK = b"wendal body 1\n"
HEAD = 84  # bytes of a binary STL file before its first triangle
MOST, MOST_ENTITIES, DEEPEST = 64 * 2**20, 1_000_000, 64
SAME, TIGHT, MARGIN, LEVEL, TURNED, FEW, CLOSE = 1e-3, 0.15, 0.05, 0.99, 0.2, 3, 0.06  # see `matched`
_STRINGS = re.compile(rb"'(?:[^']|'')*'|/\*.*?\*/", re.DOTALL)


@dataclass(slots=True)
class Kept:
    """What is kept of a file: its name, its solids' names, the numbers of all faces in their order, the
    highest number ever given, and the shape."""

    source: str
    names: list[str]
    numbers: list[int]
    last: int
    unit: str
    shape: bytes

    def content(self) -> bytes:
        """Return it as it is kept."""
        head = {
            "source": self.source,
            "names": self.names,
            "numbers": self.numbers,
            "last": self.last,
            "unit": self.unit,
        }
        return MARK + json.dumps(head, ensure_ascii=False).encode() + b"\n" + self.shape


def opened(content: bytes) -> Kept:
    """Read what was kept; raises DocumentError for what is no such thing."""
    try:
        if not content.startswith(MARK):
            raise ValueError("no mark")
        head, _, shape = content.removeprefix(MARK).partition(b"\n")
        data = json.loads(head)
        return Kept(data["source"], data["names"], data["numbers"], data["last"], data["unit"], shape)
    except (ValueError, KeyError, TypeError) as error:
        raise DocumentError(
            "What was kept of this file can not be read. Read the file again.", field="file"
        ) from error


def is_stl(content: bytes) -> bool:
    """Tell whether a file is an STL file, binary or in words."""
    return is_binary_stl(content) or (
        content.lstrip()[:5].lower() == b"solid" and b"facet" in content[:4096].lower()
    )


def is_binary_stl(content: bytes) -> bool:
    """Tell whether a file is a binary STL file, by its length."""
    # Whatever the first words are: files that begin with "solid" may be binary.
    return len(content) >= HEAD and len(content) == HEAD + 50 * int.from_bytes(content[80:84], "little")


def look_at_text(content: bytes) -> int:
    """Return the number of faces that a STEP file tells of; raises DocumentError for what is damaged: the
    kernel ends over references to nothing."""
    if len(content) > MOST:
        raise DocumentError(
            f"This file has {len(content) / 2**20:.0f} MB; at most {MOST // 2**20} are taken.", field="file"
        )
    if not content.lstrip()[:13].startswith(b"ISO-10303-21"):
        raise DocumentError("This is no STEP file: it does not begin as one (ISO-10303-21).", field="file")
    text = _STRINGS.sub(b"''", content)
    if b"END-ISO-10303-21" not in text:
        raise DocumentError("The file is cut off: its closing line is missing.", field="file")
    defined = re.findall(rb"#(\d+)\s*=", text)
    if len(defined) > MOST_ENTITIES:
        raise DocumentError(
            f"This file has {len(defined)} entries; at most {MOST_ENTITIES} are taken.", field="file"
        )
    known = set(defined)
    if len(known) < len(defined):
        raise DocumentError(
            "Some numbers in this file are given twice: it was changed by hand, or damaged.", field="file"
        )
    missing = set(re.findall(rb"#(\d+)", text)) - known
    if missing:
        raise DocumentError(
            f"{len(missing)} references in this file lead nowhere: it was cut or changed.", field="file"
        )
    _parentheses(text)
    if re.search(rb"[(,]\s*[-+]?nan\b", text, re.IGNORECASE):
        raise DocumentError("There are numbers in this file that are none (NaN).", field="file")
    if not re.search(rb"LENGTH_UNIT", text):
        raise DocumentError(
            "The file does not say in which unit it is. Write it again with a unit.", field="file"
        )
    return len(re.findall(rb"\bADVANCED_FACE\s*\(", text))


def _parentheses(text: bytes) -> None:
    depth = 0
    for sign in re.findall(rb"[()]", text):
        depth += 1 if sign == b"(" else -1
        if depth < 0 or depth > DEEPEST:
            break
    if depth:
        raise DocumentError("The parentheses in this file do not fit: it is damaged.", field="file")


def keep(received: kernel.Received, source: str, before: Kept | None) -> tuple[Kept, dict[str, Any]]:
    """Return what is kept of a file, and what is told of it: faces that are those of the file before keep
    their numbers."""
    rows = kernel.faces_of_received(received.shape)
    if before is None:
        numbers = list(range(1, len(rows) + 1))
        kept = Kept(source, received.names, numbers, len(rows), received.unit, received.shape)
        return kept, {"same": 0, "new": len(rows), "gone": 0}
    old = kernel.faces_of_received(before.shape)
    found = matched(old, rows)
    last, numbers = before.last, []
    for i in range(len(rows)):
        if i in found:
            numbers.append(before.numbers[found[i]])
        else:
            last += 1
            numbers.append(last)
    kept = Kept(source, received.names, numbers, last, received.unit, received.shape)
    return kept, {"same": len(found), "new": len(rows) - len(found), "gone": len(old) - len(found)}


def matched(old: list[kernel.FaceRow], new: list[kernel.FaceRow]) -> dict[int, int]:
    """Return, by a new face's place, the old face that it is.

    Exact first: form, sense, area and middle the same, where that is so of one alone on both sides. Then the
    nearest of the rest by an assignment, where it is near and no other is about as near. A part that was
    shifted as a whole is shifted back first; where faces that are as they were look elsewhere, it was turned,
    and nothing is guessed.
    """
    pairs = _congruent(old, new)
    flat = [
        sum(a * b for a, b in zip(old[i].normal, new[j].normal, strict=True))
        for i, j in pairs
        if old[i].form == "flat"
    ]
    if flat and sum(d < LEVEL for d in flat) > TURNED * len(flat):
        return _exact(old, new)
    if len(pairs) >= FEW:
        ways = np.array([np.subtract(new[j].middle, old[i].middle) for i, j in pairs])
        shift = np.median(ways, axis=0)
        if (np.linalg.norm(ways - shift, axis=1) < SAME).mean() > 0.5:
            old = [replace(r, middle=tuple(np.add(r.middle, shift).tolist())) for r in old]
    found = _exact(old, new)
    sure = len(found) + len(pairs) >= len(old) / 4
    left = [j for j in range(len(new)) if j not in found]
    free = [i for i in range(len(old)) if i not in set(found.values())]
    if not left or not free:
        return found
    places = np.array([r.middle for r in (*old, *new)])
    size = float(np.linalg.norm(places.max(0) - places.min(0))) or 1.0
    cost = np.full((len(free), len(left)), 10.0)
    for a, i in enumerate(free):
        for b, j in enumerate(left):
            if _kin(old[i], new[j]):
                way = math.dist(old[i].middle, new[j].middle) / size
                cost[a, b] = way + 0.3 * abs(math.log(old[i].area / new[j].area))
    near: dict[int, int] = {}
    costs = []
    for a, b in zip(*linear_sum_assignment(cost), strict=True):
        others = np.concatenate([np.delete(cost[a], b), np.delete(cost[:, b], a)])
        second = float(others.min()) if len(others) else 10.0
        if cost[a, b] < TIGHT and second - cost[a, b] > MARGIN:
            near[left[b]] = free[a]
            costs.append(float(cost[a, b]))
    # Where little is as it was, all must fit, and closely: a part that was turned never does.
    fits = costs and len(near) >= 0.9 * min(len(left), len(free)) and sum(costs) / len(costs) < CLOSE
    return found | near if sure or fits else found


def _congruent(old: list[kernel.FaceRow], new: list[kernel.FaceRow]) -> list[tuple[int, int]]:
    """Return pairs of faces of the same form, sense and area, of which there is one alone on both sides."""

    def alone(rows: list[kernel.FaceRow]) -> dict[tuple[str, bool, float], int]:
        keys = [(r.form, r.hollow, round(r.area, 3)) for r in rows]
        return {k: i for i, k in enumerate(keys) if keys.count(k) == 1}

    a, b = alone(old), alone(new)
    return [(a[k], b[k]) for k in a.keys() & b.keys()]


def _kin(a: kernel.FaceRow, b: kernel.FaceRow) -> bool:
    if (a.form, a.hollow) != (b.form, b.hollow):
        return False
    return a.form != "flat" or sum(x * y for x, y in zip(a.normal, b.normal, strict=True)) > 0.5


def _exact(old: list[kernel.FaceRow], new: list[kernel.FaceRow]) -> dict[int, int]:
    def same(a: kernel.FaceRow, b: kernel.FaceRow) -> bool:
        return (
            _kin(a, b)
            and abs(a.area - b.area) < SAME * max(1.0, a.area**0.5)
            and math.dist(a.middle, b.middle) < SAME
        )

    pairs = [(i, j) for i, a in enumerate(old) for j, b in enumerate(new) if same(a, b)]
    once_old, once_new = ({k: sum(p[n] == k for p in pairs) for k in {p[n] for p in pairs}} for n in (0, 1))
    return {j: i for i, j in pairs if once_old[i] == once_new[j] == 1}
