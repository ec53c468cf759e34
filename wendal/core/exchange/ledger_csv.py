"""The ledger as CSV (RFC 4180): tag, formula, value, note and limits; it can be read back as a command."""

from __future__ import annotations

import csv
import io

from ..quantity import format_quantity
from ..route import Remark
from ..route.ledger_commands import COLUMNS, RUN
from ..route.measures import used_measures
from .base import Format, Order, register


def _write(order: Order) -> bytes:
    part, evaluation = order.part, order.evaluation
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for row in part.rows():
        remark, value = part.remarks.get(row.tag, Remark()), evaluation.ledger[row.tag].value
        shown = "" if value is None else format_quantity(value, part.units.units(), row.kind)
        cells = [
            row.tag,
            row.formula,
            shown,
            remark.note,
            remark.least,
            remark.most,
            "; ".join(remark.values),
            remark.tolerance,
        ]
        writer.writerow(
            ["'" + c if c.startswith(RUN) else c for c in cells]
        )  # what a spreadsheet would run is text to it
    return text.getvalue().encode()


register(Format("csv", "text/csv", "the ledger (CSV)", _write, bare=lambda part: not used_measures(part)))
