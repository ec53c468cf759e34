"""The drawing over the service: a page proposed, kept, drawn, followed and written; of a version as it was."""

from __future__ import annotations

from typing import Any

import pypdfium2
from starlette.testclient import TestClient

from tests.api.test_service import Talk, client, part, talk  # noqa: F401


def asked(service: TestClient, of: int, question: str, **more: Any) -> dict[str, Any]:
    answer = service.post(f"/api/parts/{of}/ask/{question}", json=more)
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def told(page: dict[str, Any]) -> set[str]:
    return {i["told"] for i in page["items"] if i["told"]}


def test_a_page_is_proposed_kept_drawn_and_written(talk: Talk, client: TestClient, part: int) -> None:  # noqa: F811
    proposed = asked(client, part, "page_proposed")["page"]
    assert talk.command(do="add_page", page=proposed)["type"] == "done"
    page = asked(client, part, "page", page="p1")
    assert page["fits"]
    assert not any(i["trouble"] for i in page["items"])
    frame = next(i for i in page["items"] if i["kind"] == "frame")
    assert "v2" in {w["words"] for w in frame["words"]}, "the version stands in the title block"
    before = told(page)
    assert talk.command(do="set_formula", tag="base_depth", formula="17 mm")["type"] == "done"
    after = told(asked(client, part, "page", page="p1"))
    assert "17" in after - before
    # A version that is looked at is drawn and written as it was.
    assert told(client.post(f"/api/parts/{part}/ask/page?version=2", json={"page": "p1"}).json()) == before
    order = {"orders": [{"format": "pdf", "subject": {"of": "drawing"}}]}
    content = [client.post(f"/api/parts/{part}/write?version={v}", json=order).content for v in (2, 2, 3)]
    assert content[0] == content[1] != content[2]
    text = pypdfium2.PdfDocument(content[2])[0].get_textpage().get_text_range()
    assert "17" in text
    assert "v3" in text


def test_a_page_that_is_not_there_and_fields_that_do_not_fit_are_named(talk: Talk, client: TestClient, part: int) -> None:  # noqa: F811
    assert "not in the drawing" in client.post(f"/api/parts/{part}/ask/page", json={"page": "p7"}).json()["message"]
    refused = talk.command(do="edit_page", page="p1", fields={})
    assert (refused["type"], refused["field"]) == ("refused", "page")
