"""A part from a file that somebody sent, without server, database or browser."""

from __future__ import annotations

import asyncio
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from os import PathLike
from pathlib import Path
from typing import Any, TypeVar

from wendal.core import files
from wendal.core.errors import CommandRefused
from wendal.part import Part, new
from wendal.workers.receiving import receive, receive_curves

__all__ = ["part_from"]

BODIES, CURVES = (".step", ".stp", ".stl"), (".dxf", ".svg")
T = TypeVar("T")


def part_from(file: str | PathLike[str], unit: str = "", within: float = 0.01) -> tuple[Part, list[str]]:
    """Return a part that begins with what a file holds, and what is told of it: bodies of a STEP or STL file,
    the curves of a DXF or SVG file as a sketch on XY.

    unit : mm, cm, m or in, for a file that does not say its own; within : mm at which ends of curves are one.
    The file is read in a process of its own. Raises CommandRefused or DocumentError in words.
    """
    path = Path(file)
    ending = path.suffix.lower()
    if ending not in BODIES + CURVES:
        known = ", ".join(e.removeprefix(".") for e in BODIES + CURVES)
        raise CommandRefused(f"“{path.name}” is none of: {known}.", field=str(path))
    try:
        content = path.read_bytes()
    except OSError as error:
        raise CommandRefused(f"{path} is not read: {error.strerror}.", field=str(path)) from error
    part = new(path.stem[:80] or "Received")
    return part, (_bodies if ending in BODIES else _curves)(part, content, path, unit, within)


def _apart(work: Coroutine[Any, Any, T]) -> T:
    """Run async work in a thread of its own: a notebook has a loop already."""
    with ThreadPoolExecutor(1) as thread:
        return thread.submit(asyncio.run, work).result()


def _bodies(part: Part, content: bytes, path: Path, unit: str, within: float) -> list[str]:
    told, kept = _apart(receive(content, path.name[:200], b"", unit))
    if told.get("asks_unit") or not kept:
        size = " × ".join(f"{h - low:.5g}" for low, h in zip(told["low"], told["high"], strict=True))
        raise CommandRefused(
            f"This file does not say its unit; it is {size} of them. Name it: mm, cm, m or in.", field="unit"
        )
    step = {"kind": "from_file", "name": part.name[:60], "file": files.put(kept), "source": path.name}
    part.do(do="add_step", step=step, looks=told["looks"], painted=told["painted"])
    return [str(line) for line in told["told"]]


def _curves(part: Part, content: bytes, path: Path, unit: str, within: float) -> list[str]:
    told = _apart(receive_curves(content, unit, None, within))
    sketch = part.add("sketch", part.name[:60], on={"of": "base", "name": "XY"})
    part.do(do="edit_sketch", step=sketch, edit={"op": "paste", "what": told["drawing"]})
    return [str(line) for line in told.get("told", [])]
