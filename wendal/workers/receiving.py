"""Reads a file that somebody sent, in a process of its own: a damaged one can end it, or go on for ever.

Of a script or the command line it is a process from nothing: it gets the file on its standard input behind a
line of JSON, and answers a line of JSON and what is kept. The service forks it from a process that has the
kernel loaded, which takes milliseconds.
"""

from __future__ import annotations

import asyncio
import json
import os
import resource
import sys
from concurrent.futures import ThreadPoolExecutor
from multiprocessing.connection import Connection
from typing import Any

from wendal.core.errors import DocumentError, WendalError

from .process import Say, WorkerDied, WorkerProcess, WorkerTooSlow, serve

__all__ = ["receive"]

HEAD = 8192  # bytes in which a file says what it is
SECONDS = 120  # that reading may take
MEMORY = 6 * 2**30  # bytes
OPAQUE = 230  # of 255: from there on nothing is seen through


# Their own: files that take long hold up no thread in which edits are kept. So many are read at once.
_readers = ThreadPoolExecutor(8, "reading")
TOO_LONG = f"Reading this file took longer than {SECONDS} s and was given up. Nothing was changed."
DAMAGED = "The process that read this file ended over it: it is damaged. Nothing was changed."


async def receive(
    content: bytes, source: str, before: bytes = b"", unit: str = "", *, forked: bool = False
) -> tuple[dict[str, Any], bytes]:
    """Read a STEP or STL file; return what is told of it, and the content to keep: none where the unit of the
    file is asked for, since it does not say it.

    before : what was kept of an older one, whose faces keep their numbers. forked : for a process that may
    fork (`wendal.workers.process`). Raises DocumentError in words.
    """
    return await _child({"source": source, "unit": unit}, content, before, forked)


async def _child(
    asked: dict[str, Any], content: bytes, before: bytes = b"", forked: bool = False
) -> tuple[dict[str, Any], bytes]:
    if not forked:
        return await _from_nothing(asked, content, before)
    loop = asyncio.get_running_loop()
    line, kept = await loop.run_in_executor(_readers, _forked, (asked, content, before))
    return _checked(json.loads(line)), kept


def _forked(request: tuple[dict[str, Any], bytes, bytes]) -> tuple[str, bytes]:
    worker = WorkerProcess(_serve)
    try:
        answer: tuple[str, bytes] = worker.call("read", request, SECONDS)
        return answer
    except WorkerTooSlow as error:
        raise DocumentError(TOO_LONG, field="file") from error
    except WorkerDied as error:
        raise DocumentError(DAMAGED, field="file") from error
    finally:
        worker.end()


def _checked(told: dict[str, Any]) -> dict[str, Any]:
    if "error" in told:
        raise DocumentError(told["error"], field=told.get("field") or "file")
    return told


async def _from_nothing(asked: dict[str, Any], content: bytes, before: bytes) -> tuple[dict[str, Any], bytes]:
    head = json.dumps({**asked, "size": len(content)}).encode() + b"\n"
    process = await asyncio.create_subprocess_exec(
        sys.executable,
        "-m",
        __name__,
        stdin=asyncio.subprocess.PIPE,
        stdout=asyncio.subprocess.PIPE,
        stderr=asyncio.subprocess.DEVNULL,
    )
    try:
        answer, _ = await asyncio.wait_for(process.communicate(head + content + before), SECONDS)
    except TimeoutError as error:
        raise DocumentError(TOO_LONG, field="file") from error
    finally:
        if process.returncode is None:
            process.kill()
            await process.wait()
    line, _, kept = answer.partition(b"\n")
    if process.returncode or not line:
        raise DocumentError(DAMAGED, field="file")
    return _checked(json.loads(line)), kept


async def receive_curves(
    content: bytes, unit: str, layers: list[str] | None, within: float, *, forked: bool = False
) -> dict[str, Any]:
    """Read a DXF file's curves for a sketch, in a process of its own; return what is told of it, the
    drawing with it. Raises DocumentError in words."""
    asked = {"kind": "curves", "unit": unit, "layers": layers, "within": within}
    told, _ = await _child(asked, content, forked=forked)
    return told


async def receive_table(content: bytes, *, forked: bool = False) -> str:
    """Read a spreadsheet as CSV, in a process of its own. Raises DocumentError in words."""
    told, _ = await _child({"kind": "table"}, content, forked=forked)
    return str(told["table"])


def main() -> None:
    """Read one file."""
    data = sys.stdin.buffer.read()
    line, _, rest = data.partition(b"\n")
    head = json.loads(line)
    _limited()
    told, kept = _told(head, rest[: head["size"]], rest[head["size"] :])
    sys.stdout.buffer.write(json.dumps(told).encode() + b"\n" + kept)


def _serve(line: Connection) -> None:
    """Read one file that comes on the line; what the kernel prints about it is of no use to anybody."""
    nowhere = os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, 1)
    os.dup2(nowhere, 2)
    serve(line, {"read": _one})


def _one(request: tuple[dict[str, Any], bytes, bytes], say: Say) -> tuple[str, bytes]:
    _limited()
    told, kept = _told(*request)
    return json.dumps(told), kept


def _limited() -> None:
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS + 5))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _told(asked: dict[str, Any], content: bytes, before: bytes) -> tuple[dict[str, Any], bytes]:
    """Return what is told of a file, under "error" why it can not be read, and what is kept."""
    try:
        if asked.get("kind") == "curves":
            return _read_curves(content, asked), b""
        if asked.get("kind") == "table":
            return _read_table(content), b""
        return _read(content, asked["source"], asked["unit"], before)
    except WendalError as error:
        return {"error": error.message, "field": getattr(error, "field", "")}, b""
    except RecursionError:
        return {"error": "Things in this file lie in themselves. Nothing was changed."}, b""
    except MemoryError:
        return {"error": "This file needs more memory than is given to reading one."}, b""
    except Exception as error:  # the kernel's own classes lie in the binding
        said = f"The kernel can not read this file ({type(error).__name__}). Nothing was changed."
        return {"error": said}, b""


NOTHING = {
    "names": [],
    "looks": [],
    "painted": [],
    "unit": "",
    "volume": 0.0,
    "sheets": 0,
    "told": [],
    "same": 0,
    "new": 0,
    "gone": 0,
}


def _read(content: bytes, source: str, unit: str, before: bytes) -> tuple[dict[str, Any], bytes]:
    from wendal.core import kernel
    from wendal.core.receiving import is_stl, keep, look_at_text, opened

    older = opened(before) if before else None
    if is_stl(content):
        from wendal.core.meshes import EVEN, flat_faces, lumps, read_stl

        unit = unit or (older.unit if older else "")
        mesh = read_stl(content, unit or "mm")
        if not unit:  # it does not say it: asked for, with its size
            low, high = mesh.places.min(axis=0), mesh.places.max(axis=0)
            size = {"low": low.tolist(), "high": high.tolist()}
            return {**NOTHING, **size, "faces": len(mesh.corners), "asks_unit": True}, b""
        pieces = [[(f.at, f.normal, f.loops) for f in flat_faces(lump)] for lump in lumps(mesh)]
        off = 2 * max(EVEN * mesh.size, 1e-7)
        name = source.rpartition(".")[0] or source
        received = kernel.mesh_received(name[:80], mesh.places.tolist(), pieces, off, unit)
        count = sum(map(len, pieces))
        received.told.insert(0, f"{len(mesh.corners)} triangles became {count} flat faces.")
        if mesh.dropped:
            received.told.append(f"{mesh.dropped} triangles without an area were left out.")
    else:
        received = kernel.read_step(content, look_at_text(content))
    kept, matched = keep(received, source, older)
    told = {
        "names": received.names,
        **_looks(received),
        "unit": received.unit,
        "volume": received.volume,
        "faces": received.faces,
        "sheets": received.sheets,
        "told": received.told,
        "low": received.low,
        "high": received.high,
        **matched,
    }
    return told, kept.content()


def _looks(received: Any) -> dict[str, Any]:
    """Return what the bodies are called and how they look, and the faces of another colour than their body:
    as in the file, in the stage's colours."""
    from wendal.core.exchange.colours import nearest
    from wendal.core.route.document import MOST_FACES

    colours = [nearest(c[:3]) if c else "" for c in received.colours]
    through = [bool(c and c[3] < OPAQUE) for c in received.colours]
    names = [n or layer for n, layer in zip(received.names, received.layers, strict=True)]
    on = dict.fromkeys(layer for layer in received.layers if layer)
    if on:
        received.told.append(f"On layers: {', '.join(on)}.")
    if any(received.colours):
        received.told.append("Colours are the nearest ones of the stage.")
    rows = zip(names, colours, through, strict=True)
    others: list[tuple[int, int, str]] = []
    number = 0
    for body, own in enumerate(received.painted):
        for colour in own:
            number += 1
            if colour and (shown := nearest(colour[:3])) != colours[body]:
                others.append((body, number, shown))
    painted = [{"body": b, "face": n, "colour": c} for b, n, c in others if c]
    if len(painted) < len(others):  # a look without a colour means that of its body
        count = len(others) - len(painted)
        received.told.append(f"Faces that are stone in the file and have their body's colour here: {count}.")
    if len(painted) > MOST_FACES:
        count, painted = len(painted), []
        received.told.append(f"{count} faces have colours of their own; none are taken above {MOST_FACES}.")
    return {"looks": [{"name": n, "colour": c, "through": t} for n, c, t in rows], "painted": painted}


def _read_table(content: bytes) -> dict[str, Any]:
    from wendal.core.tables import as_table

    return {"table": as_table(content)}


def _read_curves(content: bytes, head: dict[str, Any]) -> dict[str, Any]:
    from dataclasses import asdict

    from wendal.core.exchange.dxf_in import read_dxf
    from wendal.core.exchange.svg_in import read_svg

    read = read_svg if b"<svg" in content[:HEAD] else read_dxf
    found = read(content, head["unit"], head["layers"], head["within"])
    return {**asdict(found), "drawing": found.drawing.model_dump(mode="json")}


if __name__ == "__main__":
    main()
