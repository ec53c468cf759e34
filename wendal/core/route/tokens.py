"""Content as bytes, for keys: equal content gives equal bytes in any process, and what is not known to be
content raises.

A type is written by what it is made of. Of a dataclass, fields that take no part in comparing
(`compare=False`) are left out: they follow from the others. Fields marked as words (`metadata=WORDS`) are
what things are called; they are written only when the words themselves are asked for, so that renaming builds
nothing anew.
"""

from __future__ import annotations

import dataclasses
import hashlib
from collections.abc import Iterator
from enum import Enum
from functools import lru_cache, singledispatch
from typing import Any

import numpy as np
import pint
from pydantic import BaseModel
from scipy.interpolate import BSpline

from ..datum import Picked
from ..steps import Body, Seed

__all__ = ["digest", "words_in"]


def digest(*parts: object) -> str:
    """Return a short digest of content; raises TypeError for a type that is not known to be content."""
    return _hashed(b"".join(_token(p) for p in parts))


def words_in(*parts: object) -> str:
    """Return a digest of what the things in some content are called."""
    return _hashed("\n".join(w for p in parts for w in _words(p)).encode())


def _hashed(content: bytes) -> str:
    return hashlib.blake2b(content, digest_size=16).hexdigest()


def _framed(mark: str, *pieces: bytes) -> bytes:
    """Put pieces together so that no other pieces give the same bytes."""
    head = f"{mark}{len(pieces)}"
    return b"".join([head.encode(), *(f":{len(p)}:".encode() + p for p in pieces)])


@singledispatch
def _token(value: Any) -> bytes:
    if dataclasses.is_dataclass(value):
        kind: Any = type(value)
        return _framed(_name(kind), *(_token(getattr(value, f)) for f in _content(kind)))
    raise TypeError(f"{type(value).__name__} is not known to be content, so no key can be made of it")


def _name(kind: type) -> str:
    return f"{kind.__module__}.{kind.__qualname__}"


@lru_cache(maxsize=256)
def _content(kind: Any) -> tuple[str, ...]:
    return tuple(f.name for f in dataclasses.fields(kind) if f.compare and "words" not in f.metadata)


@_token.register(type(None))
@_token.register(bool)
@_token.register(int)
@_token.register(str)
def _plain(value: Any) -> bytes:
    return _framed(type(value).__name__, str(value).encode())


@_token.register
def _float(value: float) -> bytes:
    return _framed("float", (value + 0.0).hex().encode())  # -0.0 is 0.0


@_token.register
def _enum(value: Enum) -> bytes:
    return _framed(_name(type(value)), value.name.encode())


@_token.register(list)
@_token.register(tuple)
def _row(value: Any) -> bytes:
    return _framed("row", *(_token(v) for v in value))


@_token.register(set)
@_token.register(frozenset)
def _set(value: Any) -> bytes:
    return _framed("set", *sorted(_token(v) for v in value))


@_token.register
def _table(value: dict) -> bytes:
    rows = sorted((_token(k), _token(v)) for k, v in value.items())
    return _framed("table", *(piece for row in rows for piece in row))


@_token.register
def _numbers(value: np.ndarray) -> bytes:
    return _framed(
        "numbers", str(value.dtype).encode(), str(value.shape).encode(), np.ascontiguousarray(value).tobytes()
    )


@_token.register
def _unit(value: pint.Unit) -> bytes:
    return _framed("unit", str(value).encode())


@_token.register
def _spline(value: BSpline) -> bytes:
    return _framed("spline", _token(value.t), _token(value.c), _token(value.k))


@_token.register
def _model(value: BaseModel) -> bytes:
    return _framed(_name(type(value)), *(_token(getattr(value, f)) for f in type(value).model_fields))


@_token.register
def _body(value: Body) -> bytes:
    return _framed("body", value.key.encode())


@_token.register
def _seed(value: Seed) -> bytes:
    return _framed("seed", value.step.encode(), value.key.encode())


@_token.register
def _picked(value: Picked) -> bytes:
    if not value.key and (value.curve or value.face or value.curved):
        raise TypeError("a picked curve or face without a key is no content")
    return _framed("picked", *(_token(getattr(value, f)) for f in _content(Picked)))


def _words(value: Any) -> Iterator[str]:
    """Yield what things in some content are called, in its order."""
    if isinstance(value, dict):
        for key in sorted(value, key=str):
            yield from _words(value[key])
    elif isinstance(value, (list, tuple)):
        for item in value:
            yield from _words(item)
    elif isinstance(value, Body):
        yield value.name
    elif dataclasses.is_dataclass(value) and not isinstance(value, type):
        yield from (str(getattr(value, f.name)) for f in dataclasses.fields(value) if "words" in f.metadata)
