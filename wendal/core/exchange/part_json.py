"""Wendal's own readable JSON."""

from __future__ import annotations

from ..route import read_part, write_part
from .base import Format, Order, register


def _write(order: Order) -> bytes:
    return write_part(order.part).encode()


register(
    Format(
        "json",
        "application/json",
        "Wendal part, with its whole route",
        _write,
        read=read_part,
        bare=lambda part: True,
    )
)
