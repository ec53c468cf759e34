"""Versions over the service: listed, looked at, gone back to, branched, compared, brought together; the bin."""

from __future__ import annotations

import io
import json
import zipfile
from typing import Any

import pytest
from starlette.testclient import TestClient

from tests.api.test_service import ORIGIN, Talk, client, part, talk  # noqa: F401
from tests.samples import plate
from wendal.core import files
from wendal.core.route import write_part


def changed(window: Talk, formula: str) -> None:
    assert window.command(do="set_formula", tag="base_depth", formula=formula)["type"] == "done"


def versions(service: TestClient, of: int) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = service.get(f"/api/parts/{of}/versions").json()["versions"]
    return found


def test_every_version_is_listed_looked_at_and_gone_back_to(talk: Talk, client: TestClient, part: int) -> None:  # noqa: F811
    changed(talk, "12 mm")
    changed(talk, "14 mm")
    rows = versions(client, part)
    assert [(v["number"], v["summary"], v["present"]) for v in rows] == [
        (3, "Change base_depth to 14 mm", True), (2, "Change base_depth to 12 mm", False), (1, "Read from JSON", False)]
    with client.websocket_connect(f"/api/parts/{part}/session?version=1", headers=ORIGIN) as socket:
        past = Talk(socket)
        told = past.hear("part")
        assert (told["version"], told["undo"], told["redo"]) == (1, "", "")
        assert past.built()["scene"]["bodies"]
        refused = past.command(do="set_formula", tag="base_depth", formula="3 mm")
        assert "v1 as it was" in refused["message"]
        assert "v1 as it was" in past.ask("done", type="undo", edition=past.edition)["message"]
        # The present goes on beside it, and it stays as it was.
        changed(talk, "15 mm")
        measured = past.ask("answer", type="ask", ask={"of": "mass"})["answer"]["bodies"][0]["volume"]
        assert measured == pytest.approx(10_471.24, rel=1e-4)
        # Files of the past are of the past.
        whole = client.get(f"/api/parts/{part}/file.json?version=1").json()
        assert next(s for s in whole["steps"] if s["id"] == "s2")["depth"]["formula"] == "10 mm"
        orders = {"orders": [{"format": "json"}, {"format": "csv"}]}
        packed = client.post(f"/api/parts/{part}/write?version=1", json=orders).content
        with zipfile.ZipFile(io.BytesIO(packed)) as archive:
            assert b"base_depth,10 mm" in archive.read("Sample.csv")
    assert client.post(f"/api/parts/{part}/versions/2/back").status_code == 204
    (row,) = [r for r in talk.hear("part")["document"]["steps"] if r["id"] == "s2"]
    while row["depth"]["formula"] != "12 mm":
        (row,) = [r for r in talk.hear("part")["document"]["steps"] if r["id"] == "s2"]
    assert versions(client, part)[0]["summary"] == "Back to v2"
    assert talk.ask("done", type="undo", edition=talk.edition)["type"] == "done"
    assert "no version 9" in client.put(f"/api/parts/{part}/versions/9/name", json={"name": "x"}).json()["message"]
    assert "no version 9" in client.post(f"/api/parts/{part}/versions/9/back").json()["message"]


def test_what_was_undone_and_left_is_still_there_beside_the_line(talk: Talk, client: TestClient, part: int) -> None:  # noqa: F811
    changed(talk, "12 mm")
    talk.ask("done", type="undo", edition=talk.edition)
    changed(talk, "20 mm")
    assert [(v["number"], v["line"]) for v in versions(client, part)] == [(3, True), (2, False), (1, True)]
    assert client.put(f"/api/parts/{part}/versions/2/name", json={"name": "thin"}).status_code == 204
    assert versions(client, part)[1]["name"] == "thin"
    assert "is called" in client.put(f"/api/parts/{part}/versions/1/name", json={"name": "thin"}).json()["message"]


def test_two_versions_are_compared_in_steps_and_in_space(talk: Talk, client: TestClient, part: int) -> None:  # noqa: F811
    changed(talk, "12 mm")
    found = talk.ask("compared", type="compare", version=1)
    assert [(s["name"], s["was"]) for s in found["steps"]] == [("Base", "changed")]
    (body,) = found["bodies"]
    assert body["volumes"][1] - body["volumes"][0] == pytest.approx(2000, abs=1e-6)
    common, here, there = body["shares"]
    assert common + here == pytest.approx(body["volumes"][0], abs=1e-6)
    assert common + there == pytest.approx(body["volumes"][1], abs=1e-6)
    assert all(d in talk.content for d in body["common"]["faces"])
    same = talk.ask("compared", type="compare", version=2)
    assert (same["steps"], same["bodies"][0]["state"]) == ([], "same")
    assert "no version 9" in talk.ask("compared", type="compare", version=9)["message"]
    with client.websocket_connect(f"/api/parts/{part}/session?version=1", headers=ORIGIN) as socket:
        past = Talk(socket)
        past.hear("part")
        again = past.ask("compared", type="compare")  # with the present, which is the later one
    assert (again["before"]["version"], again["after"]["version"]) == (1, 2)
    assert again["bodies"][0]["volumes"] == body["volumes"]


def test_branches_are_brought_together_as_one_version_with_two_parents(talk: Talk, client: TestClient, part: int) -> None:  # noqa: F811
    branch = client.post(f"/api/parts/{part}/versions/1/branch").json()
    assert branch["name"] == "Sample, branch"
    with client.websocket_connect(f"/api/parts/{branch['id']}/session", headers=ORIGIN) as socket:
        other = Talk(socket)
        other.built()
        changed(other, "20 mm")
        assert other.command(do="add_tag", tag="spare", formula="3 mm")["type"] == "done"
    assert client.get(f"/api/parts/{part}/versions").json()["branches"] == [[branch["id"], 1]]
    changed(talk, "12 mm")
    look = client.post(f"/api/parts/{part}/together/look", json={"part": branch["id"]}).json()
    (conflict,) = [c for c in look["conflicts"] if c["field"] == "depth"]
    assert (conflict["base"], conflict["ours"], conflict["theirs"]) == ("10 mm", "12 mm", "20 mm")
    refused = client.post(f"/api/parts/{part}/together", json={"part": branch["id"], "edition": look["edition"]}).json()
    assert "Choose first" in refused["message"]
    assert versions(client, part)[0]["number"] == 2  # nothing was changed
    chosen = {c["key"]: "theirs" if c is conflict else "ours" for c in look["conflicts"]}
    stale = client.post(f"/api/parts/{part}/together", json={"part": branch["id"], "edition": 1, "chosen": chosen})
    assert "has changed since" in stale.json()["message"]
    asked = {"part": branch["id"], "edition": look["edition"], "chosen": chosen}
    assert client.post(f"/api/parts/{part}/together", json=asked).status_code == 204
    first = versions(client, part)[0]
    assert (first["number"], first["parent"], first["other"]) == (3, 2, [branch["id"], 3])
    document = client.get(f"/api/parts/{part}/file.json").json()
    assert [e["tag"] for e in document["ledger"]][-1] == "spare"
    assert next(s for s in document["steps"] if s["id"] == "s2")["depth"]["formula"] == "20 mm"
    again = client.post(f"/api/parts/{part}/together/look", json={"part": branch["id"]}).json()
    assert "nothing to bring together" in again["message"]


def test_parts_that_have_nothing_in_common_are_not_brought_together(client: TestClient, part: int) -> None:  # noqa: F811
    other = client.post("/api/parts", json={"name": "Other"}).json()["id"]
    assert "no version in common" in client.post(f"/api/parts/{part}/together/look", json={"part": other}).json()["message"]


def test_the_bin_gives_back_what_was_deleted(client: TestClient, part: int) -> None:  # noqa: F811
    assert "not in the bin" in client.delete(f"/api/parts/{part}?for_good=true").json()["message"]
    client.put(f"/api/parts/{part}/labels", json={"labels": "gauge, hung"})
    client.delete(f"/api/parts/{part}")
    assert (client.get("/api/parts").json(), [p["labels"] for p in client.get("/api/parts?bin=true").json()]) == ([], ["gauge, hung"])
    assert "in the bin" in client.get(f"/api/parts/{part}/report").json()["message"]
    assert client.post(f"/api/parts/{part}/back").status_code == 204
    assert len(client.get("/api/parts").json()) == 1
    client.delete(f"/api/parts/{part}")
    assert client.delete(f"/api/parts/{part}?for_good=true").status_code == 204
    assert client.get("/api/parts?bin=true").json() == []


def test_a_step_file_is_received_kept_copied_and_in_the_part_s_own_file(client: TestClient, part: int, talk: Talk) -> None:  # noqa: F811
    content = client.get(f"/api/parts/{part}/file.step").content
    told = client.post(f"/api/parts/{part}/files?name=sent.step", content=content).json()
    assert (told["names"], told["new"]) == (["Base"], told["faces"])
    new = client.post("/api/parts", json={"name": "Received"}).json()["id"]
    with client.websocket_connect(f"/api/parts/{new}/session", headers=ORIGIN) as socket:
        window = Talk(socket)
        window.hear("part")
        assert window.command(do="add_step", step={"kind": "from_file", "name": "Sent", "file": told["digest"], "source": "sent.step"})["type"] == "done"
    volume = client.get(f"/api/parts/{new}/report").json()["bodies"][0]["volume"]
    assert volume == pytest.approx(10_471.24, rel=1e-4)
    whole = client.get(f"/api/parts/{new}/file.json").json()
    assert list(whole["files"]) == [told["digest"]]
    again = client.post("/api/parts/read", json={"text": json.dumps(whole)}).json()["id"]
    assert client.get(f"/api/parts/{again}/report").json()["bodies"][0]["volume"] == pytest.approx(volume)
    files.use_folder(files.folder() / "elsewhere")  # as another machine would have it: from the database alone
    try:
        copied = client.post(f"/api/parts/{new}/copy").json()["id"]
        assert client.get(f"/api/parts/{copied}/file.json").json()["files"] == whole["files"]
    finally:
        files.use_folder(files.folder().parent)
    bad = client.post(f"/api/parts/{part}/files?name=bad.step", content=b"hello")
    assert "no STEP file" in bad.json()["message"]


def test_two_bodies_of_a_part_are_compared(client: TestClient) -> None:  # noqa: F811
    b = plate()
    for name, x, wide in (("Near", 60, 40), ("Less", 160, 30)):
        ring = b.step("sketch", f"{name} ring", on={"of": "base", "name": "XY"})
        b.draw(ring, "rectangle", (x, 0), (x + wide, 25))
        b.step("extrude", name, profile=b.profile(ring, 0), depth={"formula": "10 mm"}, result="new")
    made = client.post("/api/parts/read", json={"text": write_part(b.part)}).json()["id"]
    with client.websocket_connect(f"/api/parts/{made}/session", headers=ORIGIN) as socket:
        two = Talk(socket)
        two.built()
        (same,) = two.ask("compared", type="compare", bodies=["s2", "s4"])["bodies"]
        assert same["state"] == "moved"
        assert "60" in same["words"]
        (other,) = two.ask("compared", type="compare", bodies=["s2", "s6"])["bodies"]
        assert other["state"] == "changed"
        assert other["volumes"] == pytest.approx([10000, 7500])
        assert "not there any more" in two.ask("compared", type="compare", bodies=["s2", "s99"])["message"]


def test_the_curves_of_an_svg_file_are_read_for_a_sketch(client: TestClient, part: int) -> None:  # noqa: F811
    svg = '<svg xmlns="http://www.w3.org/2000/svg" width="4cm" viewBox="0 0 40 20"><rect width="40" height="20" stroke="black"/></svg>'
    found = client.post(f"/api/parts/{part}/curves", content=svg.encode()).json()
    assert (found["unit"], found["low"], found["high"], found["joined"]) == ("mm", [0, -20], [40, 0], 4)
    assert "how large" in client.post(f"/api/parts/{part}/curves", content=svg.replace('width="4cm"', "").encode()).json()["message"]
