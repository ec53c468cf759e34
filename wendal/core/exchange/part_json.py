"""Wendal's own readable JSON."""

from __future__ import annotations

from ..route import Evaluation, Part, read_part, write_part
from .base import Format, register


def _write(part: Part, evaluation: Evaluation) -> bytes:
    return write_part(part).encode()


register(
    Format(
        "json", "application/json", "Wendal part, with its whole route", _write, read_part, lambda part: True
    )
)
