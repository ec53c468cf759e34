"""Pieces of a face or edge that is cut up: a reference finds its own piece again, or says that it is gone."""

from __future__ import annotations

import math
from typing import Any

import pytest

from tests.building import axis, built, drawn_on, f
from tests.samples import XY, evaluated
from tools.hunts import pieces
from tools.hunts.pieces import hunt_pieces
from wendal.core import kernel
from wendal.core.reference import edge_ref, face_ref, find_edge
from wendal.demo.builder import Builder


def test_no_reference_to_a_piece_lands_on_another() -> None:
    found = hunt_pieces(5, seed=3)
    assert not [k for k in found if "wrong" in k or "figures" in k], found
    told = sum(n for k, n in found.items() if not k.startswith("  "))
    assert sum(n for k, n in found.items() if "though" in k) <= 0.02 * told, found
    assert found["right"] > 100
    assert found["corner right"] > 50


def test_the_oracle_of_pieces_notices_a_wrong_reference(monkeypatch: pytest.MonkeyPatch) -> None:
    """Were pieces taken for one another, the hunt would say so: the first of them is taken on purpose."""
    monkeypatch.setattr(pieces, "find_face", lambda ref, bodies: _first(ref, bodies))
    assert hunt_pieces(3, seed=3)["wrong"] > 5


def _first(ref: Any, bodies: Any) -> Any:
    from wendal.core.reference import Found

    return Found("s2", bodies["s2"].named(ref.names)[0])


def grooved(low: float = 18, high: float = 22, rounded: bool = False) -> Builder:
    """A bar of 40 x 20 x 10 with a groove 4 deep right across, from low to high along X."""
    b = Builder("Bar")
    sketch = b.step("sketch", "Outline", on=XY)
    b.draw(sketch, "rectangle", (0, 0), (40, 20))
    b.step("extrude", "Base", profile=b.profile(sketch, 0), depth=f("10 mm"))
    corner = {"of": "edge", "body": "s2", "faces": [["s2/side/c3/r1"], ["s2/side/c6/r1"]], "alone": True}
    b.step("fillet", "Corner", edges=[corner], radius=f("3 mm"), suppressed=not rounded)
    level = b.step("plane", "Level", how="offset", first=XY, distance=f("10 mm"))
    across = b.step("sketch", "Groove", on={"of": "datum", "step": level})
    b.draw(across, "rectangle", (low, -5), (high, 25))
    b.step("extrude", "Cut", profile=b.profile(across, 0), extent="into", depth=f("4 mm"), result="cut")
    return b


def top(b: Builder, right: bool) -> dict[str, Any]:
    """A reference to one piece of the top."""
    topology = evaluated(b).site.bodies["s2"].topology
    at = [i for i in topology.named({"s2/end/r1"}) if (topology.faces[i].centre[0] > 20) == right]
    return face_ref("s2", topology, at[0]).model_dump(mode="json")


def front(b: Builder, right: bool) -> dict[str, Any]:
    """A reference to one piece of the top's front edge."""
    topology = evaluated(b).site.bodies["s2"].topology
    at = [i for i, e in enumerate(topology.edges) if e.form == "line" and abs(e.middle[1]) < 1e-9 and abs(e.middle[2] - 10) < 1e-9
          and abs(e.tangent[0]) > 0.9 and (e.middle[0] > 20) == right]
    return edge_ref("s2", topology, at[0]).model_dump(mode="json")


ON_FACE = {
    "a pad": lambda ref: ("extrude", {"profile": [{**ref, "key": "r1"}], "depth": f("5 mm"), "result": "add"}),
    "a shell": lambda ref: ("shell", {"body": {"of": "body", "body": "s2"}, "thickness": f("1 mm"), "openings": [ref]}),
    "offset faces": lambda ref: ("offset_faces", {"faces": [ref], "distance": f("1 mm")}),
}


@pytest.mark.parametrize("what", ON_FACE)
def test_what_stands_on_the_piece_that_a_groove_swallows_stops(what: str) -> None:
    kind, fields = ON_FACE[what](top(grooved(), right=True))
    moved = grooved(low=18, high=44)  # it grows over the right end; the left piece is the only one left
    moved.step(kind, "On it", **fields)
    report = evaluated(moved).reports[-1]
    assert report.state == "stopped"
    assert "is not there any more; another piece is left" in report.message


@pytest.mark.parametrize(("low", "high"), [(14, 22), (18, 30), (25, 30), (5, 8)])
@pytest.mark.parametrize("right", [True, False])
def test_a_pad_stays_on_its_piece_while_the_groove_moves(low: float, high: float, right: bool) -> None:
    ref = top(grooved(), right)
    b = grooved(low, high)
    b.step("extrude", "Pad", profile=[{**ref, "key": "r1"}], depth=f("5 mm"), result="add")
    evaluation = evaluated(b)
    assert evaluation.reports[-1].state == "built"
    length = 40 - high if right else low
    assert kernel.volume_of(evaluation.site.bodies["s2"].shape) == pytest.approx(8000 - (high - low) * 80 + length * 20 * 5)


@pytest.mark.parametrize("rounded", [False, True])
@pytest.mark.parametrize(("low", "high"), [(18, 22), (10, 30), (18, 34)])
def test_a_chamfer_stays_on_its_piece_and_does_not_spread(low: float, high: float, rounded: bool) -> None:
    """An unrelated fillet upstream changes what bounds the piece; it is known by what is rounded."""
    ref = front(grooved(), right=True)
    b = grooved(low, high, rounded)
    before = kernel.volume_of(evaluated(b).site.bodies["s2"].shape)
    b.step("chamfer", "Bevel", edges=[ref], leg=f("1 mm"))
    evaluation = evaluated(b)
    assert evaluation.reports[-1].state == "built"
    bevels = [x for x in evaluation.site.bodies["s2"].topology.faces if any("/bevel/" in n for n in x.names)]
    assert all(x.centre[0] > high for x in bevels)  # none along the left piece
    taken = before - kernel.volume_of(evaluation.site.bodies["s2"].shape)
    if not rounded:
        assert taken == pytest.approx(0.5 * (40 - high))
    else:  # it runs on round the rounded corner and along the end, and never along the left piece
        assert 0.5 * (40 - high) - 3 < taken < 0.5 * (40 - high + 20)


def test_a_chamfer_of_the_piece_that_is_gone_stops_and_does_not_jump() -> None:
    ref = front(grooved(), right=True)
    b = grooved(18, 44)
    b.step("chamfer", "Bevel", edges=[ref], leg=f("1 mm"))
    assert evaluated(b).reports[-1].state == "stopped"


def shaft(notch: float = 0.0) -> Builder:
    """A shaft Ø20 with a flat at y = 6 over its whole length; a notch eats its left edge."""
    b = Builder("Shaft")
    sketch = b.step("sketch", "Outline", on=XY)
    b.draw(sketch, "circle", (0, 0), (10, 0))
    b.step("extrude", "Shaft", profile=b.profile(sketch, 0), depth=f("30 mm"))
    flat = b.step("sketch", "Flat", on=XY)
    b.draw(flat, "rectangle", (-20, 6), (20, 20))
    b.step("extrude", "Flat cut", profile=b.profile(flat, 0), depth=f("50 mm"), result="cut")
    if notch:
        eaten = b.step("sketch", "Notch", on=XY)
        b.draw(eaten, "rectangle", (-20, -20), (-notch, 20))
        b.step("extrude", "Notch cut", profile=b.profile(eaten, 0), depth=f("50 mm"), result="cut")
    return b


@pytest.mark.parametrize("left", [True, False])
def test_an_edge_of_a_shafts_flat_is_not_taken_for_the_other(left: bool) -> None:
    topology = evaluated(shaft()).site.bodies["s2"].topology
    at = next(i for i, e in enumerate(topology.edges) if e.form == "line" and abs(e.tangent[2]) > 0.9 and abs(e.middle[1] - 6) < 1e-9
              and (e.middle[0] < 0) == left)
    ref = edge_ref("s2", topology, at).model_dump(mode="json")
    b = shaft(notch=5)
    b.step("fillet", "Round", edges=[ref], radius=f("1 mm"))
    assert evaluated(b).reports[-1].state == ("stopped" if left else "built")


def test_an_axis_along_an_edge_in_two_pieces_of_one_line_needs_no_word() -> None:
    b = Builder("Bar")
    sketch = b.step("sketch", "Outline", on=XY)
    b.draw(sketch, "rectangle", (0, 0), (40, 20))
    b.step("extrude", "Base", profile=b.profile(sketch, 0), depth=f("10 mm"))
    topology = evaluated(b).site.bodies["s2"].topology
    at = next(i for i, e in enumerate(topology.edges) if abs(e.middle[1]) < 1e-9 and abs(e.middle[2] - 10) < 1e-9)
    ref = edge_ref("s2", topology, at).model_dump(mode="json")
    cut = grooved()
    axis = cut.step("axis", "Axis", how="along", first=ref)
    assert evaluated(cut).report(axis).state == "built"


def test_a_reference_of_an_older_file_that_lies_elsewhere_wants_to_be_confirmed() -> None:
    """Older files do not say whether what was picked was a piece; then a doubt is asked, and nothing is built on a guess."""
    ref = {k: v for k, v in top(grooved(), right=True).items() if k not in ("whole", "telling", "low", "high")}
    b = grooved(18, 44)
    b.step("extrude", "Pad", profile=[{**ref, "near": (31, 10, 10), "key": "r1"}], depth=f("5 mm"), result="add")
    assert evaluated(b).reports[-1].state == "held"


@pytest.mark.parametrize("left", [True, False])
def test_an_edge_of_an_older_file_that_had_siblings_is_asked_for_where_it_lies_elsewhere(left: bool) -> None:
    topology = evaluated(shaft()).site.bodies["s2"].topology
    at = next(i for i, e in enumerate(topology.edges) if e.form == "line" and abs(e.tangent[2]) > 0.9 and abs(e.middle[1] - 6) < 1e-9
              and (e.middle[0] < 0) == left)
    ref = {k: v for k, v in edge_ref("s2", topology, at).model_dump(mode="json").items() if k not in ("whole", "ends")}
    b = shaft(notch=5)
    b.step("fillet", "Round", edges=[ref], radius=f("1 mm"))
    assert evaluated(b).reports[-1].state == ("held" if left else "built")


SHAPES = {
    "spline": [(0, 0), (10, 14), (20, -9), (34, 11)],
    "line": [(0, 0), (30, 4)],
    "arc": [(0, 0), (30, 0), (12, 9)],
}


def rims(b: Builder, step: str) -> dict[str, int]:
    """The free edges of a sheet by where they are: below, above, at the curve's start and end."""
    body = built(b).site.bodies[step]
    edges = body.topology.edges
    low, high = (pick(p[2] for e in edges for p in (e.start, e.middle)) for pick in (min, max))
    found = {}
    for i, e in enumerate(edges):
        upright = abs(e.tangent[2]) > 0.5
        where = ("start" if math.dist(e.middle[:2], (0, 0)) < 1e-3 else "end") if upright else "below" if e.middle[2] < (low + high) / 2 else "above"
        found[where] = i
    return found


@pytest.mark.parametrize("shape", SHAPES)
def test_a_rim_of_a_sheet_is_sound_as_picked_and_never_another_one_without_a_doubt(shape: str) -> None:
    b = Builder("Sheet")
    sketch = drawn_on(b, axis("XY"), shape, *SHAPES[shape])
    curve = next(iter(b.drawing(sketch).curves))
    step = b.step("extrude", "Sheet", profile=[{"of": "drawn", "step": sketch, "entity": curve, "key": "r1"}], wall="sheet", depth=f("6 mm"))
    topology = built(b).site.bodies[step].topology
    refs = {where: edge_ref(step, topology, i) for where, i in rims(b, step).items()}
    assert set(refs) == {"below", "above", "start", "end"}
    told = 0
    # Deeper, to the other side, to both, and begun where it ended: the rim below comes to lie where the one above lay.
    for fields in ({}, {"depth": f("9 mm")}, {"extent": "into"}, {"extent": "both"}, {"start": "off", "start_by": f("6 mm")}, {"start": "off", "start_by": f("-6 mm")}):
        b.do(do="edit_step", step=step, fields={"extent": "out", "start": "", "depth": f("6 mm"), **fields})
        now = built(b).site.bodies[step].topology
        there = rims(b, step)
        if fields.get("extent") == "into":  # what is begun with is above now
            there["below"], there["above"] = there["above"], there["below"]
        for where, ref in refs.items():
            found = find_edge(ref, {step: now})
            assert found.doubt or found.index == there[where], (shape, fields, where)
            told += not found.doubt
    assert told >= 4  # as picked, all are sound
