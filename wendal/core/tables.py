"""Tables as spreadsheet files (Office Open XML, ISO/IEC 29500), made of their form as CSV and read to it."""

from __future__ import annotations

import csv
import io
import re
import zipfile
from datetime import datetime

from .errors import DocumentError

__all__ = ["as_sheet", "as_table"]

MOST_BYTES = 60 * 2**20  # of a file, unpacked
MOST_ROWS, MOST_COLUMNS = 20_000, 500
NUMBER = re.compile(r"-?\d+(\.\d+)?")
WHEN = datetime(2000, 1, 1)  # the same table is the same file, but for the times in its packing


def as_sheet(table: str, title: str) -> bytes:
    """Return a table as a spreadsheet: figures as figures, everything else as text, which is never run."""
    from openpyxl import Workbook  # half a second that no other process needs
    from openpyxl.styles import Font

    book = Workbook()
    book.properties.created = book.properties.modified = WHEN
    book.properties.creator = "Wendal"
    sheet = book.active
    assert sheet is not None
    sheet.title = re.sub(r"[\[\]:*?/\\]", " ", title)[:31] or "Table"
    widths: dict[int, int] = {}
    for r, row in enumerate(csv.reader(io.StringIO(table)), 1):
        for c, text in enumerate(row, 1):
            if not text:
                continue
            cell = sheet.cell(r, c)
            if NUMBER.fullmatch(text) and _said(float(text)) == text:  # a name such as 007 stays as it is
                cell.value = float(text)
            else:
                said = text.removeprefix("'") if text[1:2] in ("=", "+", "-", "@") else text
                cell.value = re.sub(r"[\x00-\x08\x0b\x0c\x0e-\x1f]", " ", said)
                cell.data_type = "s"
            if r == 1:
                cell.font = Font(bold=True)
            widths[c] = min(max(widths.get(c, 0), len(text)), 60)
    for c, width in widths.items():
        sheet.column_dimensions[sheet.cell(1, c).column_letter].width = width + 2
    sheet.freeze_panes = "A2"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def as_table(content: bytes) -> str:
    """Return the first sheet of a spreadsheet as CSV, formulas of its own by their last values; raises
    DocumentError for what is none, or too large."""
    from openpyxl import load_workbook

    try:
        with zipfile.ZipFile(io.BytesIO(content)) as packed:
            if sum(i.file_size for i in packed.infolist()) > MOST_BYTES:
                raise DocumentError("This spreadsheet is too large, unpacked.", field="file")
        book = load_workbook(io.BytesIO(content), read_only=True, data_only=True)
        sheet = book.worksheets[0]
        text = io.StringIO()
        writer = csv.writer(text, lineterminator="\r\n")
        for n, row in enumerate(sheet.iter_rows(values_only=True), 1):
            if n > MOST_ROWS or len(row) > MOST_COLUMNS:
                raise DocumentError(
                    f"At most {MOST_ROWS} rows of {MOST_COLUMNS} cells are taken from a spreadsheet.",
                    field="file",
                )
            cells = [_said(value) for value in row]
            while cells and not cells[-1]:
                cells.pop()
            if cells:
                writer.writerow(cells)
    except DocumentError:
        raise
    except Exception as error:  # its reader has no errors of its own for what is damaged
        raise DocumentError("This is no spreadsheet that can be read (.xlsx).", field="file") from error
    return text.getvalue()


def _said(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float) and value.is_integer() and abs(value) < 1e15:
        return str(int(value))
    return repr(value) if isinstance(value, float) else str(value)
