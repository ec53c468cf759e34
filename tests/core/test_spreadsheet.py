"""Tables as spreadsheets: figures as figures, text never run, read back as they were; what is damaged or hostile is told."""

from __future__ import annotations

import io
import random
import zipfile
from contextlib import suppress

import pytest
from openpyxl import Workbook, load_workbook

from tests.samples import plate
from wendal.core import exchange
from wendal.core.errors import DocumentError
from wendal.core.route import Memory, evaluate
from wendal.core.route.ledger_commands import ReadLedger
from wendal.core.tables import as_sheet, as_table
from wendal.demo.builder import Builder


def test_figures_are_figures_and_text_is_text() -> None:
    table = "name,wide,\"said, so\"\r\nA,40,'=1+1\r\nB,-2.5,\"two\nlines\"\r\n007,1e-3,2.50\r\n"
    content = as_sheet(table, "a/b[c]")
    sheet = load_workbook(io.BytesIO(content)).worksheets[0]
    assert sheet.title == "a b c "
    assert [sheet["B2"].value, sheet["B3"].value, sheet["B4"].value] == [40, -2.5, "1e-3"]
    assert sheet["C2"].value == "=1+1"
    assert sheet["C2"].data_type == "s"  # it is never run
    assert sheet["C3"].value == "two\nlines"
    assert as_table(content) == 'name,wide,"said, so"\r\nA,40,=1+1\r\nB,-2.5,"two\nlines"\r\n007,1e-3,2.50\r\n'


def test_the_ledger_goes_out_and_comes_back() -> None:
    b = plate()
    b.do(do="set_remark", tag="base_depth", note="=thick", least="5 mm", most="20 mm")
    content = exchange.export(b.part, evaluate(b.part, Memory()), "xlsx")
    text = as_table(content)
    assert "base_depth,10 mm" in text
    again = Builder("Again")
    again.part = b.part.model_copy(deep=True)
    again.do(do="set_formula", tag="base_depth", formula="12 mm")
    again.do(**ReadLedger(text=text).model_dump())
    assert next(r.formula for r in again.part.rows() if r.tag == "base_depth") == "10 mm"
    assert again.part.remarks["base_depth"].least == "5 mm"


def test_hostile_spreadsheets_are_told() -> None:
    whole = as_sheet("a,b\r\n1,2\r\n", "t")
    rng = random.Random(1)
    bad = [b"", b"PK", whole[: len(whole) // 2], b"\x00" * 1000, b"a,b\n1,2"]
    bomb = io.BytesIO()
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("xl/worksheets/sheet1.xml", b" " * (80 * 2**20))
    bad.append(bomb.getvalue())
    tall = Workbook()
    for _ in range(21_000):
        tall.active.append([1])  # type: ignore[union-attr]
    out = io.BytesIO()
    tall.save(out)
    bad.append(out.getvalue())
    for content in bad:
        with pytest.raises(DocumentError):
            as_table(content)
    for _ in range(60):
        content = bytearray(whole)
        for _ in range(rng.choice([1, 5, 60])):
            content[rng.randrange(len(content))] = rng.randrange(256)
        with suppress(DocumentError):  # anything else is a fault
            as_table(bytes(content))
