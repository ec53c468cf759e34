"""Files of earlier versions: each is read, and comes to the same."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from tests.building import volume
from tests.core.test_drawing import with_page
from tests.samples import plate
from wendal.core.errors import DocumentError
from wendal.core.route import apply, read_part, write_part
from wendal.core.route.page_commands import PutOnPage
from wendal.core.route.pages import Mark
from wendal.demo.bracket import instrument_bracket
from wendal.demo.builder import Builder


def test_documents_of_the_first_version_still_open_and_come_to_the_same() -> None:
    text = (Path(__file__).parents[1] / "data" / "bracket_v1.json").read_text(encoding="utf-8")
    part = read_part(text)
    assert part.version == 3
    assert read_part(write_part(part)) == part
    b = Builder("x")
    b.part = instrument_bracket()
    b.do(do="remove_step", step=b.part.steps[-1].id)  # its corners are rounded since
    assert volume(part) == pytest.approx(volume(b.part), rel=1e-9)


def test_a_page_of_the_second_version_opens_and_tells_the_same() -> None:
    part = with_page(plate().part)
    part = apply(part, PutOnPage(page="p1", marks=[Mark(id="m1", kind="note", words="the sort of burr", put=(30, 30))]))
    today = json.loads(write_part(part))
    (page,) = today["pages"]
    assert all(page[k] for k in ("dimensions", "marks"))
    old = {**today, "version": 2, "pages": [{**page, **{k: [{"sort" if n == "kind" else n: v for n, v in t.items()} for t in page[k]] for k in ("dimensions", "marks")}}]}
    assert read_part(json.dumps(old)) == part
    with pytest.raises(DocumentError, match="kind: Field required"):
        read_part(json.dumps({**old, "version": 3}))
