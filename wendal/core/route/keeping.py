"""Results as bytes and back, so that a part that was built once need not be built by the next process.

What is kept says by what code and with what libraries it was made, and is nothing to any other; its checksum
is looked at first. Only classes of the core and plain arrays are made from it.
"""

from __future__ import annotations

import dataclasses
import hashlib
import importlib.metadata
import io
import pickle
from collections.abc import Callable
from enum import Enum
from functools import cache
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from .. import kernel
from ..steps import Body
from .evaluate import Evaluation
from .memory import Memory

__all__ = ["NotKept", "bytes_of", "made_by", "take_up"]

CORE = Path(__file__).parents[1]
LIBRARIES = ("cadquery-ocp-novtk", "numpy", "scipy", "uharfbuzz")
OTHERS = {
    ("numpy", "ndarray"),
    ("numpy", "dtype"),
    ("numpy._core.multiarray", "_reconstruct"),
    ("numpy._core.multiarray", "scalar"),
    ("numpy._core.numeric", "_frombuffer"),
    ("scipy.interpolate._bsplines", "BSpline"),
    ("builtins", "frozenset"),
    ("builtins", "set"),
    ("types", "SimpleNamespace"),
    ("copyreg", "_reconstructor"),
    ("builtins", "object"),
}


class NotKept(ValueError):
    """These bytes are damaged, or were made by other code."""


@cache
def made_by() -> bytes:
    """Return a digest of all that results hang on beside their keys: the core's own code and data, and its
    libraries.

    To be asked for when that code is loaded: what lies on the disk later may be newer than what runs.
    """
    found = hashlib.blake2b(digest_size=16)
    for file in sorted(p for p in CORE.rglob("*") if p.is_file() and p.suffix != ".pyc"):
        found.update(f"{file.relative_to(CORE)}\n".encode())
        found.update(file.read_bytes())
    for name in LIBRARIES:
        found.update(f"{name} {importlib.metadata.version(name)}\n".encode())
    return found.digest()


def bytes_of(memory: Memory, evaluation: Evaluation, more: Any = None) -> bytes:
    """Return what an evaluation came to as bytes; refusals are not kept.

    more : plain data that is kept with it.
    """
    keys = dict.fromkeys(r.key for r in evaluation.reports if r.key)
    results = {k: r for k in keys if (r := memory.get(k)) is not None and r.error is None}
    stream = io.BytesIO()
    pickler = _Writing(stream)
    pickler.dump((results, evaluation.standing, more))
    shapes = kernel.bytes_of_shapes(pickler.shapes)
    content = len(shapes).to_bytes(8, "little") + shapes + stream.getvalue()
    return made_by() + hashlib.blake2b(content, digest_size=32).digest() + content


def take_up(memory: Memory, content: bytes) -> Any:
    """Remember what was kept; return what was kept with it. Raises NotKept."""
    maker, checksum, rest = content[:16], content[16:48], content[48:]
    if maker != made_by() or hashlib.blake2b(rest, digest_size=32).digest() != checksum:
        raise NotKept("this is damaged, or was made by other code")
    size = int.from_bytes(rest[:8], "little")
    try:
        results, reports, more = _Reading(
            io.BytesIO(rest[8 + size :]), kernel.shapes_of_bytes(rest[8 : 8 + size])
        ).load()
    except NotKept:
        raise
    except Exception as error:  # whatever it is, the part can be built
        raise NotKept(f"this can not be read: {error!r}") from error
    memory.take_up(results, reports)
    return more


class _Writing(pickle.Pickler):
    """Writes shapes as their numbers in `shapes`; of bodies and named shapes, what can be worked out again is
    left out."""

    def __init__(self, stream: io.BytesIO) -> None:
        super().__init__(stream, protocol=5)
        self.shapes: list[Any] = []
        self._numbers: dict[int, int] = {}

    def persistent_id(self, thing: Any) -> int | None:
        if not kernel.is_shape(thing):
            return None
        if id(thing) not in self._numbers:
            self._numbers[id(thing)] = len(self.shapes)
            self.shapes.append(thing)
        return self._numbers[id(thing)]

    def reducer_override(self, thing: Any) -> Any:
        if isinstance(thing, kernel.NamedShape):
            return kernel.NamedShape, (thing.shape, thing.names)
        if isinstance(thing, Body):
            return _body, (thing.id, thing.name, thing.shape, thing.key)
        return NotImplemented


def _body(id: str, name: str, shape: Any, key: str) -> Body:
    return Body(id, name, shape, kernel.describe(shape), key)


class _Reading(pickle.Unpickler):
    """Makes data of the core's own classes and plain arrays, and nothing else."""

    def __init__(self, stream: io.BytesIO, shapes: list[Any]) -> None:
        super().__init__(stream)
        self._shapes = shapes

    def persistent_load(self, number: Any) -> Any:
        return self._shapes[number]

    def find_class(self, module: str, name: str) -> Any:
        if module == __name__ and name == "_body":
            return _body
        if (module, name) in OTHERS:
            return super().find_class(module, name)
        found: Callable[..., Any] | type = (
            super().find_class(module, name) if module.startswith("wendal.core.") else object
        )
        if isinstance(found, type) and (
            dataclasses.is_dataclass(found) or issubclass(found, (BaseModel, Enum, kernel.NamedShape))
        ):
            return found
        raise NotKept(f"{module}.{name} is not made from what is kept")
