"""The ledger as a spreadsheet file."""

from __future__ import annotations

from ..tables import as_sheet
from .base import Format, Order, formats, register


def _write(order: Order) -> bytes:
    return as_sheet(formats()["csv"].write(order).decode(), f"{order.part.name} ledger")


register(
    Format(
        "xlsx",
        "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
        "the ledger (spreadsheet)",
        _write,
        bare=lambda part: formats()["csv"].bare(part),
    )
)
