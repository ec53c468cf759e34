"""The drawing: lines, sections, figures, pages and files against closed formulas and the files' own readers."""

from __future__ import annotations

import io
import math
from typing import Any

import ezdxf
import pypdfium2
import pytest

from tests.overlaps import overlaps
from tests.samples import evaluated, plate, plate_with_circle
from wendal.core import exchange, inspect, kernel
from wendal.core.drawing.hatching import hatched
from wendal.core.drawing.ink import width_of
from wendal.core.drawing.issues import changed_since, figures_of
from wendal.core.drawing.page import Sheet, drawn_page
from wendal.core.drawing.proposing import proposed_dimensions, proposed_page
from wendal.core.drawing.signs import GEOMETRY, SIGNS
from wendal.core.drawing.titles import titles_of
from wendal.core.drawing.views import drawn
from wendal.core.errors import CommandRefused
from wendal.core.kernel import Frame
from wendal.core.kernel.types import unit
from wendal.core.lettering.letters import unknown_signs
from wendal.core.reference.resolve import edge_ref, face_ref
from wendal.core.route import Part, apply, read_part, write_part
from wendal.core.route.commands import RemoveStep, SetFormula
from wendal.core.route.page_commands import (
    AddPage,
    EditOnPage,
    EditPage,
    IssuePage,
    PutOnPage,
    RemovePage,
    TakeOffPage,
)
from wendal.core.route.pages import Dimension, Issue, Mark, Page, View
from wendal.core.steps.hole_note import figure
from wendal.core.strokes import Stroke, length_of
from wendal.demo import DEMO_PARTS
from wendal.demo.bracket import instrument_bracket
from wendal.demo.builder import Builder

TOP, FRONT = Frame((0, 0, 0), (1, 0, 0), (0, 1, 0)), Frame((0, 0, 0), (1, 0, 0), (0, 0, 1))
CORNER = Frame((0, 0, 0), unit((1, 1, 0)), unit((-1, 1, 2)))


def with_page(part: Part, *more: View, size: str = "A3", dimensions: bool = True) -> Part:
    """A part with a page by itself, and views more on it. The same part's is proposed once."""
    key = id(part), size, dimensions
    if key not in _paged:
        _paged[key] = part, apply(part, AddPage(page=proposed_page(part, evaluated(part), size=size, dimensions=dimensions)))
    part = _paged[key][1]
    return apply(part, PutOnPage(page="p1", views=list(more))) if more else part


_paged: dict[tuple[int, str, bool], tuple[Part, Part]] = {}  # with the part before, which is held


def sheet_of(part: Part) -> Sheet:
    return drawn_page(part, evaluated(part), part.pages[0])


def said(part: Part) -> dict[str, str]:
    return {m.of.kind: m.said for m in sheet_of(part).measured}


def said_by_view(part: Part, dimensions: list[Dimension], view: str) -> dict[str, list[str]]:
    """What dimensions would tell in a view, by their kinds."""
    page = part.pages[0].model_copy(update={"dimensions": dimensions})
    found: dict[str, list[str]] = {}
    for m in drawn_page(part, evaluated(part), page).measured:
        if m.of.view == view:
            found.setdefault(m.of.kind, []).append(m.said)
    return found


# — lines —


def lengths(shape: kernel.NamedShape, frame: Frame) -> tuple[float, float]:
    """What is seen and what is hidden, each line once, smooth edges left out."""
    from wendal.core.drawing.overlaid import shown
    from wendal.core.drawing.views import Line

    found = shown([Line(p.stroke, p.kind, p.visible, "b", p.edge, p.face) for p in kernel.lines_of_view([shape], frame)], True, False)
    lines: dict[Any, float] = {}
    for ln in found:
        ends = sorted([tuple(round(c, 5) for c in ln.stroke.start), tuple(round(c, 5) for c in ln.stroke.end)])
        lines[(ln.visible, *ends, round(ln.stroke.radius, 5))] = length_of(ln.stroke)
    return tuple(sum(v for k, v in lines.items() if k[0] == seen) for seen in (True, False))  # type: ignore[return-value]


def test_a_plate_with_a_bore_is_drawn_as_by_hand() -> None:
    (body,) = evaluated(plate_with_circle(drilled=True)).site.bodies.values()
    seen, hidden = lengths(body.shape, TOP)
    assert seen == pytest.approx(2 * (40 + 25) + math.pi * 10, abs=1e-6)
    assert hidden == pytest.approx(0, abs=1e-6)
    seen, hidden = lengths(body.shape, FRONT)
    assert seen == pytest.approx(2 * (40 + 10), abs=1e-6)
    assert hidden == pytest.approx(2 * 10, abs=1e-6)  # the two sides of the bore
    # From the corner all lines along the axes are shortened by sqrt(2/3); nine of a block's twelve are seen.
    (block,) = evaluated(plate()).site.bodies.values()
    seen, hidden = lengths(block.shape, CORNER)
    assert seen == pytest.approx(math.sqrt(2 / 3) * 3 * (40 + 25 + 10), abs=1e-6)
    assert hidden == pytest.approx(math.sqrt(2 / 3) * (40 + 25 + 10), abs=1e-6)


@pytest.mark.parametrize("name", ["mast clamp", "cable hook"])
def test_every_stroke_is_the_shadow_of_its_edge(name: str) -> None:
    """Of each piece of an edge, both ends and a place between lie where the edge's own curve is seen."""
    make = next(m for n, m in DEMO_PARTS.items() if n.replace("_", " ").lower() == name)
    evaluation = evaluated(make())
    for body in evaluation.site.bodies.values():
        ends = dict(enumerate(body.topology.edges))
        for frame in (TOP, CORNER):
            for p in kernel.lines_of_view([body.shape], frame):
                assert math.dist(p.stroke.at(0.0), p.stroke.start) < 1e-6
                assert math.dist(p.stroke.at(1.0), p.stroke.end) < 1e-6
                if p.edge < 0 or ends[p.edge].form != "circle":
                    continue
                e = ends[p.edge]
                assert e.centre
                for share in (0.1, 0.5, 0.9):
                    # A place on a circle seen aslant lies within its shadow: (p - c) = A u with |u| = r.
                    u, v = p.stroke.at(share)
                    cu, cv, _ = frame.local(e.centre)
                    assert math.hypot(u - cu, v - cv) <= e.radius + 1e-6


def test_a_section_has_the_area_that_is_cut_and_hatching_that_fills_it() -> None:
    b = plate_with_circle(drilled=True)
    part = with_page(b.part, View(id="v1", way="section", parent="v2", line=[(-30, -0.5), (30, -0.5)], letter="A"))
    evaluation = evaluated(part)
    page = part.pages[0]
    section = page.views[-1]
    found = drawn(part, evaluation, page, section)
    wide = 2 * math.sqrt(5**2 - 0)  # the bore's middle lies at Y 12, 0.5 below that of the plate
    area = (40 - wide) * 10
    cut = [loop for a in found.areas for loop in a.loops]
    assert sum(_area(loop) for loop in cut) == pytest.approx(area, abs=1e-6)
    k = 2.0
    lines = [i for a in found.areas for i in hatched([list(loop) for loop in a.loops], k, math.radians(45), 1.0)]
    assert sum(length_of(i.stroke) for i in lines) * 1.0 == pytest.approx(area * k * k, rel=0.02)
    for i in lines:
        for share in (0.01, 0.5, 0.99):
            x, y = (c / k for c in i.stroke.at(share))
            assert abs(y) <= 5 + 1e-6
            assert wide / 2 - 1e-6 <= abs(x) <= 20 + 1e-6


def _area(loop: Any) -> float:
    places = [s.at(i / 64) for s in loop for i in range(64)]
    return abs(sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(places, [*places[1:], places[0]], strict=True))) / 2


def test_a_stepped_section_cuts_at_each_leg_and_draws_no_line_where_it_steps() -> None:
    b = plate_with_circle(drilled=True)
    line = [(-30.0, 8.0), (10.0, 8.0), (10.0, -0.5), (30.0, -0.5)]
    part = with_page(b.part, View(id="v1", way="section", parent="v2", line=line))
    evaluation = evaluated(part)
    found = drawn(part, evaluation, part.pages[0], part.pages[0].views[-1])
    assert sum(_area(loop) for a in found.areas for loop in a.loops) == pytest.approx(40 * 10, abs=1e-6)
    upright = [ln.stroke for ln in found.lines if ln.visible and abs(ln.stroke.start[0] - ln.stroke.end[0]) < 1e-9]
    assert not any(abs(s.start[0] - 10) < 1e-6 for s in upright)


@pytest.mark.parametrize(
    ("line", "says"),
    [([(-30, 40), (30, 40)], "meets no body"), ([(-30, -13), (30, -13)], "meets no body")],
)
def test_a_section_that_can_not_be_cut_says_so_in_its_place(line: list[tuple[float, float]], says: str) -> None:
    sheet = sheet_of(with_page(plate().part, View(id="v1", way="section", parent="v2", line=line)))
    assert says in next(i.trouble for i in sheet.items if i.of == "view" and i.trouble)


# — figures —


@pytest.mark.parametrize("name", DEMO_PARTS)
def test_pages_of_the_demo_parts_have_nothing_on_anything_and_fit(name: str) -> None:
    part = with_page(DEMO_PARTS[name]())
    sheet = sheet_of(part)
    assert sheet.fits
    assert not any(overlaps(sheet).values()), overlaps(sheet)
    assert all(m.state == "sound" for m in sheet.measured)
    assert not any(i.trouble for i in sheet.items)
    assert not [s for i in sheet.items for t in i.texts for s in unknown_signs(t.words, "barlow")]


def test_figures_follow_changes_to_their_last_digit() -> None:
    part = with_page(instrument_bracket())
    for n in range(0, 10, 3):
        width, tilt, height = 120 + 0.37 * n, 22 + 0.9 * n, 80 + 0.111 * n
        for tag, formula in (("foot_outline_width", f"{width} mm"), ("seat_tilt", f"{tilt} deg"), ("foot_outline_height", f"{height} mm")):
            part = apply(part, SetFormula(tag=tag, formula=formula))
        sheet = sheet_of(part)
        told = [m.said for m in sheet.measured]
        assert figure(width, False) in told
        assert figure(height, False) in told
        assert figure(width - 12, False) in told  # the feet are 12 from both sides
        assert f"{tilt:.3f}".rstrip("0").rstrip(".") + "°" in told
        assert not any(overlaps(sheet).values()), overlaps(sheet)


def test_a_dimension_that_tells_a_number_names_its_tag() -> None:
    part = with_page(plate().part)
    driven = {i.drives: i.told for i in sheet_of(part).items if i.drives}
    tags = {r.tag: r.formula.split(" ")[0] for r in part.rows()}
    assert driven == {t: tags[t] for t in driven}
    assert len(driven) == 3


def test_a_dimension_that_measures_something_else_than_its_number_is_held() -> None:
    part = with_page(plate().part)
    (wide,) = [m.of for m in sheet_of(part).measured if m.said == "40"]
    (high,) = [m.of for m in sheet_of(part).measured if m.said == "25"]
    swapped = apply(part, EditOnPage(page="p1", thing=wide.id, fields={"place": high.place, "step": high.step}))
    (m,) = [m for m in sheet_of(swapped).measured if m.of.id == wide.id]
    assert m.state == "held"
    assert "something else" in m.trouble


def things(b: Builder) -> tuple[Any, Any]:
    (body,) = evaluated(b).site.bodies.values()
    return body, body.topology


def test_what_can_not_be_told_is_refused_in_words() -> None:
    b = plate_with_circle(drilled=True)
    body, topology = things(b)
    part = with_page(b.part, dimensions=False)
    end = next(i for i, f in enumerate(topology.faces) if f.form == "flat" and f.frame.normal[2] > 0.9)
    side = next(i for i, f in enumerate(topology.faces) if f.form == "flat" and f.frame.normal[0] > 0.9)
    bore = next(i for i, f in enumerate(topology.faces) if f.form == "round")
    refs = {"top": face_ref(body.id, topology, end), "side": face_ref(body.id, topology, side), "bore": face_ref(body.id, topology, bore)}
    cases = [
        ("across", ["top", "side"], "v2", "not seen edge-on"),
        ("across", ["top", "side"], "v1", "does not run upright"),
        ("straight", ["top", "side"], "v1", "not parallel"),
        ("angle", ["side"], "v1", "between two straight things"),
        ("radius", ["top"], "v2", "one round edge or face"),
        ("holes", ["bore"], "v2", "not of a hole"),
        ("up", ["side"], "v1", ""),
        ("across", ["side"], "v1", "nothing to measure"),
        ("across", ["side", "side"], "v1", "nothing to measure"),
    ]
    for kind, names, view, says in cases:
        put = Dimension(id="d1", view=view, kind=kind, things=[refs[n] for n in names])  # type: ignore[arg-type]
        (m,) = sheet_of(apply(part, PutOnPage(page="p1", dimensions=[put]))).measured
        assert (m.state == "lost") == bool(says), (kind, m.trouble)
        assert says in m.trouble


def test_kinds_of_dimensions_by_known_figures() -> None:
    b = plate_with_circle(drilled=True)
    body, topology = things(b)
    part = with_page(b.part, dimensions=False)

    def face(n: int, way: float) -> Any:
        return face_ref(body.id, topology, next(i for i, f in enumerate(topology.faces) if f.form == "flat" and f.frame.normal[n] * way > 0.9))

    bore = face_ref(body.id, topology, next(i for i, f in enumerate(topology.faces) if f.form == "round"))
    rim = edge_ref(body.id, topology, next(i for i, e in enumerate(topology.edges) if e.form == "circle"))
    cases = [
        ("across", [face(0, -1), bore], "v2", {}, "20"),
        ("up", [face(1, -1), bore], "v2", {}, "12"),
        ("straight", [face(1, -1), face(1, 1)], "v3", {}, "25"),
        ("diameter", [bore], "v1", {}, "Ø10"),
        ("diameter", [rim], "v2", {"tolerance": "H7"}, "Ø10 H7 (+0.015/0)"),
        ("diameter", [rim], "v2", {"tolerance": "H7/g6"}, "Ø10 H7/g6"),
        ("up", [face(2, -1), face(2, 1)], "v1", {"tolerance": "±0.1", "reference": True}, "(10 ±0.1)"),
        ("angle", [face(0, 1), face(1, 1)], "v2", {}, "90°"),
        ("places_x", [face(0, -1), bore, face(0, 1)], "v2", {}, "0 · 20 · 40"),
        ("chain_x", [face(0, -1), face(0, 1), bore], "v2", {"before": ""}, "20 · 20"),
    ]
    for kind, refs, view, more, want in cases:
        put = Dimension(id="d1", view=view, kind=kind, things=refs, **more)  # type: ignore[arg-type]
        (m,) = sheet_of(apply(part, PutOnPage(page="p1", dimensions=[put]))).measured
        assert m.said == want, (kind, m.trouble)


def test_what_is_gone_is_lost_with_candidates_and_the_rest_stands() -> None:
    b = plate_with_circle(drilled=True)
    part = with_page(b.part)
    (bored,) = [m.of.id for m in sheet_of(part).measured if m.said == "Ø10"]
    part = apply(part, RemoveStep(step=b.part.steps[-1].id))
    sheet = sheet_of(part)
    states = {m.of.id: m.state for m in sheet.measured}
    assert states[bored] in ("lost", "sound")  # a dimension of the sketch stays where the sketch does
    part = apply(part, RemoveStep(step=part.steps[-1].id))
    sheet = sheet_of(part)
    assert next(m for m in sheet.measured if m.of.id == bored).state == "lost"
    assert any("lost" in t.words for i in sheet.items if i.id == bored for t in i.texts)
    assert {m.said for m in sheet.measured if m.state == "sound"} >= {"40", "25", "10"}


# — pages —


def test_views_keep_to_each_other_by_the_angle_of_projection() -> None:
    for angle, under in (("first", True), ("third", False)):
        part = with_page(plate().part)
        part = apply(part, EditPage(page="p1", fields={"angle": angle}))
        places = sheet_of(part).places
        assert places["v1"][0] == pytest.approx(places["v2"][0])
        assert places["v1"][1] == pytest.approx(places["v3"][1])
        assert (places["v2"][1] < places["v1"][1]) is under
        assert (places["v3"][0] > places["v1"][0]) is under  # from the left, on the right in the first angle


def test_what_was_put_by_hand_stays_as_the_part_changes() -> None:
    part = with_page(plate().part)
    (wide,) = [m.of.id for m in sheet_of(part).measured if m.said == "40"]
    still = dict(sheet_of(part).places.items())
    part = apply(part, EditOnPage(page="p1", thing=wide, fields={"put": (3.0, -31.0)}, pinned=still))
    for width in ("40 mm", "44 mm", "38 mm"):
        part = apply(part, SetFormula(tag="outline_width", formula=width))
        sheet = sheet_of(part)
        item = next(i for i in sheet.items if i.id == wide)
        assert item.place[0] - item.base[0] == pytest.approx(3.0)
        assert item.place[1] - item.base[1] == pytest.approx(-31.0)
        assert sheet.places == {v: pytest.approx(at) for v, at in still.items()}


def test_commands_are_refused_with_their_field_and_change_nothing() -> None:
    part = with_page(plate().part)
    page = part.pages[0]
    for command, field in (
        (EditPage(page="p1", fields={"size": "A7"}), "size"),
        (EditPage(page="p1", fields={"views": []}), "views"),
        (EditPage(page="p1", fields={"name": " "}), "name"),
        (EditPage(page="p9", fields={}), "page"),
        (EditOnPage(page="p1", thing="d99", fields={}), "thing"),
        (EditOnPage(page="p1", thing="v2", fields={"scale": "1:3"}), "scale"),
        (EditOnPage(page="p1", thing="v1", fields={"parent": "v2"}), "parent"),
        (PutOnPage(page="p1", views=[View(id="v1", way="section", parent="v1")]), "line"),
        (PutOnPage(page="p1", views=[View(id="v1", way="section", parent="v1", line=[(5, 5), (5, 5)])]), "line"),
        (PutOnPage(page="p1", views=[View(id="v1", way="section", parent="v1", line=[(0, 5), (5, 5), (5, 5)])]), "line"),
        (PutOnPage(page="p1", views=[View(id="v1", way="section", parent="v1", line=[(-30, 0), (0, 0), (20, 20), (40, 20)])]), "line"),
        (PutOnPage(page="p1", dimensions=[Dimension(id="d1", view="v1", kind="width", tolerance="about 1")]), "tolerance"),
        (PutOnPage(page="p1", views=[View(id="v1", way="detail", parent="v1")]), "around"),
        (PutOnPage(page="p1", dimensions=[Dimension(id="d1", view="v77", kind="width")]), "view"),
        (TakeOffPage(page="p1", things=["v77"]), "things"),
        (IssuePage(page="p1", issue=Issue(name=" ")), "name"),
        (AddPage(page=page), "name"),
    ):
        with pytest.raises(CommandRefused) as refused:
            apply(part, command)
        assert refused.value.field.split(".")[0] == field


def test_a_view_goes_with_what_stands_on_it() -> None:
    part = with_page(plate().part, View(id="v1", way="section", parent="v2", line=[(-30, 0), (30, 0)]), View(id="v1", way="detail", parent="v2", around=3))
    assert len(part.pages[0].views) == 6
    part = apply(part, TakeOffPage(page="p1", things=["v2"]))
    assert [v.way for v in part.pages[0].views] == ["front", "left", "corner"]
    assert {d.view for d in part.pages[0].dimensions} <= {"v1", "v3"}
    assert read_part(write_part(part)) == part
    assert not apply(part, RemovePage(page="p1")).pages


def test_what_changed_since_an_issue_is_listed() -> None:
    part = with_page(plate().part)
    part = apply(part, IssuePage(page="p1", issue=Issue(name="A", figures=figures_of(sheet_of(part)))))
    assert changed_since(part.pages[0], figures_of(sheet_of(part))) == []
    part = apply(part, SetFormula(tag="outline_width", formula="44 mm"))
    (change,) = changed_since(part.pages[0], figures_of(sheet_of(part)))
    assert (change.was, change.now) == ("40", "44")
    part = apply(part, IssuePage(page="p1", issue=Issue(name="B", figures=figures_of(sheet_of(part)))))
    assert changed_since(part.pages[0], figures_of(sheet_of(part))) == []
    (between,) = changed_since(part.pages[0], {}, "A", "B")
    assert (between.was, between.now) == ("40", "44")
    with pytest.raises(CommandRefused):
        changed_since(part.pages[0], {}, "C")


def test_a_second_proposal_finds_nothing_that_is_there() -> None:
    part = with_page(plate_with_circle(drilled=True).part, dimensions=False)
    evaluation = evaluated(part)
    first = proposed_dimensions(part, evaluation, part.pages[0])
    assert {d.kind for d in first} >= {"across", "up", "diameter"}
    assert len({(d.view, d.kind, str(d.things)) for d in first}) == len(first)


def test_marks_and_tables() -> None:
    b = plate_with_circle(drilled=True)
    body, topology = things(b)
    top = face_ref(body.id, topology, next(i for i, f in enumerate(topology.faces) if f.form == "flat" and f.frame.normal[2] > 0.9))
    part = with_page(b.part)
    marks = [
        Mark(id="m1", kind="datum", view="v1", thing=top, letters=["A"], put=(10, 15)),
        Mark(id="m1", kind="geometry", view="v1", thing=top, sign="flatness", value="0.05", put=(-20, 18)),
        Mark(id="m1", kind="texture", view="v1", thing=top, words="Ra 1.6", put=(0, 0)),
        Mark(id="m1", kind="note", words="Break all edges\nNo burrs", put=(30, 30)),
        Mark(id="m1", kind="tolerances"),
    ]
    part = apply(part, PutOnPage(page="p1", marks=marks))
    items = [i for i in sheet_of(part).items if i.of == "mark"]
    words = " ".join(t.words for i in items for t in i.texts)
    for held in ("A", "0.05", "Ra 1.6", "No burrs"):
        assert held in words
    assert "No dimension" in items[-1].trouble
    assert set(GEOMETRY.values()) <= set(SIGNS)


def test_holes_of_a_table_are_labelled_where_they_are_seen() -> None:
    part = with_page(instrument_bracket())
    part = apply(part, PutOnPage(page="p1", marks=[Mark(id="m1", kind="holes", put=(30, 90))]))
    sheet = sheet_of(part)
    table = next(i for i in sheet.items if i.of == "mark")
    labels = [t.words for i in sheet.items if i.of == "labels" for t in i.texts]
    assert sorted(labels) == ["A1", "A2", "A3", "A4"]
    assert set(labels) <= {t.words for t in table.texts}
    assert not overlaps(sheet)["words on outlines"]


def test_the_title_block_is_filled_from_the_part() -> None:
    part = with_page(instrument_bracket())
    titles = titles_of(part, evaluated(part), part.pages[0], "v7", "2026-11-30")
    assert (titles.part, titles.scale, titles.of, titles.version, titles.date) == (part.name, part.pages[0].scale, "1 of 1", "v7", "2026-11-30")


# — files —


def test_a_pdf_is_the_same_each_time_and_has_every_figure() -> None:
    part = with_page(plate_with_circle(drilled=True).part)
    evaluation = evaluated(part)
    content = exchange.export(part, evaluation, "pdf", {"of": "drawing"}, {"version": "v3"})
    assert content == exchange.export(part, evaluated(part), "pdf", {"of": "drawing"}, {"version": "v3"})
    (page,) = pypdfium2.PdfDocument(content)
    text = page.get_textpage().get_text_range()
    for m in sheet_of(part).measured:
        assert m.said in text
    assert "v3" in text
    assert page.get_size() == pytest.approx((420 * 72 / 25.4, 297 * 72 / 25.4), abs=0.01)


def test_a_dxf_measures_what_it_says() -> None:
    part = with_page(instrument_bracket())
    content = exchange.export(part, evaluated(part), "dxf", {"of": "page", "page": "p1"})
    document = ezdxf.read(io.StringIO(content.decode()))
    assert not document.audit().errors
    held = [e for e in document.modelspace() if e.dxftype() == "DIMENSION"]
    assert len(held) >= 8
    for e in held:
        figure = float(e.dxf.text.split("× ")[-1].lstrip("ØR").split(" ")[0])
        assert e.get_measurement() == pytest.approx(figure, abs=1e-3)
    assert {e.dxf.layer for e in document.modelspace()} >= {"OUTLINE", "HIDDEN", "CENTRE", "BORDER", "DIMENSIONS"}


def test_a_page_as_svg_has_what_the_sheet_has() -> None:
    import xml.etree.ElementTree as ET

    part = with_page(plate().part)
    content = exchange.export(part, evaluated(part), "svg", {"of": "page", "page": "p1"})
    root = ET.fromstring(content)
    texts = ["".join(t.itertext()) for t in root.iter("{http://www.w3.org/2000/svg}text")]
    assert {"40", "25", "10"} <= set(texts)
    assert root.get("width") == "420mm"


def test_a_bare_part_is_drawn_without_a_page_of_its_own() -> None:
    part = plate().part
    assert exchange.export(part, evaluated(part), "pdf").startswith(b"%PDF")
    with pytest.raises(CommandRefused):
        exchange.export(part, evaluated(part), "svg", {"of": "page", "page": "p1"})
    empty = Builder("Nothing").part
    with pytest.raises(CommandRefused):
        proposed_page(empty, evaluated(empty))


def test_questions_of_a_page() -> None:
    part = with_page(plate().part)
    evaluation = evaluated(part)
    answer: Any = inspect.ask(part, evaluation, inspect.asked({"of": "page", "page": "p1"}))
    assert {i.kind for i in answer.items} == {"frame", "view", "dimension"}
    (body,) = evaluation.site.bodies.values()
    lines = [p for i in answer.items if i.kind == "view" for p in i.paths if p.edge >= 0]
    assert all(p.edge < len(body.topology.edges) for p in lines)
    edges = [edge_ref(body.id, body.topology, i) for i, e in enumerate(body.topology.edges) if e.form == "line" and abs(e.middle[2] - 10) < 1e-6]
    ask = {"of": "dimension_tried", "page": "p1", "view": "v2", "things": [edges[0].model_dump(mode="json")]}
    tried: Any = inspect.ask(part, evaluation, inspect.asked(ask))
    assert tried.kinds[0].said in ("40", "25")
    with pytest.raises(CommandRefused):
        inspect.ask(part, evaluation, inspect.asked({"of": "page", "page": "p9"}))


def test_words_are_as_long_as_they_are_set() -> None:
    assert width_of("", 3.5) == 0
    assert width_of("120", 7.0) == pytest.approx(2 * width_of("120", 3.5))
    assert width_of("⌴ Ø11", 3.5) > width_of(" Ø11", 3.5)


def test_a_spline_s_part_is_the_spline() -> None:
    s = Stroke("spline", (0, 0), (4, 0), poles=((0, 0), (1, 2), (3, -2), (4, 0)), knots=(0, 0, 0, 0, 1, 1, 1, 1), degree=3)
    part = s.part(0.2, 0.7)
    for share in (0.0, 0.3, 1.0):
        assert math.dist(part.at(share), s.at(0.2 + share * 0.5)) < 1e-9


def test_a_page_is_kept_through_json() -> None:
    part = with_page(instrument_bracket())
    assert read_part(write_part(part)).pages == part.pages
    assert Page(id="p1", name="x", size="A4").paper == (210.0, 297.0)
    assert Page(id="p1", name="x", size="A3", turned=True).paper == (297.0, 420.0)


def test_a_hole_s_note_is_that_of_its_own_step_though_two_lie_on_one_axis() -> None:
    part = with_page(DEMO_PARTS["mast_clamp"]())
    notes = {m.said for m in sheet_of(part).measured if m.of.kind == "holes"}
    assert notes == {"2 × Ø9 through ⌴ Ø15 ↧ 8.6", "2 × M8, Ø6.8 through"}


@pytest.mark.parametrize("count", [3, 8])
def test_holes_round_a_bore_are_told_by_their_circle_and_others_by_their_places(count: int) -> None:
    part = DEMO_PARTS["well_head_flange"]()
    tag = next(r.tag for r in part.rows() if r.place == "count")
    part = with_page(apply(part, SetFormula(tag=tag, formula=str(count))))
    ring = next(m.said for m in sheet_of(part).measured if "Ø13.5" in m.said)
    assert ring.startswith(f"{count} × ")
    assert ring.endswith(" on Ø124")
    square = with_page(instrument_bracket())
    told = sheet_of(square).measured
    assert not any(" on Ø" in m.said for m in told)
    assert {m.said for m in told if m.of.kind == "across"} >= {"12", "108"}


def test_a_boss_half_hidden_is_no_rounding_that_is_counted() -> None:
    """A boss of R6 under a plate that hides half of it, beside four corners of R6: still four."""
    part = with_page(instrument_bracket())
    (before,) = [m.said for m in sheet_of(part).measured if m.of.kind == "radius"]
    assert before == "4 × R6"
    b = Builder("With a boss")
    b.part = instrument_bracket()
    spot = b.step("sketch", "Spot", on={"of": "base", "name": "XY"})
    b.draw(spot, "circle", (60, -3), (66, -3), diameter="12 mm")
    b.step("extrude", "Boss", profile=b.profile(spot, 0), depth={"formula": "4 mm"}, result="add")
    part = with_page(b.part)
    assert any(m.said == "4 × R6" for m in sheet_of(part).measured if m.of.kind == "radius")


def test_a_class_is_of_a_length_and_limits_of_an_angle_are_degrees() -> None:
    part = with_page(instrument_bracket())
    (angle,) = [m.of.id for m in sheet_of(part).measured if m.of.kind == "angle"]
    (lean,) = [m for m in sheet_of(apply(part, EditOnPage(page="p1", thing=angle, fields={"tolerance": "±0.5"}))).measured if m.of.id == angle]
    assert lean.said == "22° ±0.5°"
    (lean,) = [m for m in sheet_of(apply(part, EditOnPage(page="p1", thing=angle, fields={"tolerance": "H7"}))).measured if m.of.id == angle]
    assert (lean.state, "of one length" in lean.trouble) == ("lost", True)


def test_a_page_in_inches_tells_nothing_in_millimetres() -> None:
    """Ø9, through holes of a bracket of 120 by 80: 0.3543, 4.7244, 3.1496 in; H7 of Ø9 is +15 µm, 0.00059 in."""
    from wendal.core.route.commands import SetUnits
    from wendal.core.route.document import UnitChoice

    part = with_page(apply(instrument_bracket(), SetUnits(units=UnitChoice(length="in"))))
    told = {m.said for m in sheet_of(part).measured}
    assert {"4.7244", "3.1496", "4 × Ø0.3543 through"} <= told
    (note,) = [m.of.id for m in sheet_of(part).measured if m.of.kind == "holes"]
    (m,) = [m for m in sheet_of(apply(part, EditOnPage(page="p1", thing=note, fields={"tolerance": "H7"}))).measured if m.of.id == note]
    assert m.said.endswith("H7 (+0.00059/0)")
    assert "inches" in titles_of(part, evaluated(part), part.pages[0]).unit


def test_a_thread_is_drawn_where_its_hole_is_seen_and_as_long_as_it_is() -> None:
    b = plate(depth="20 mm")
    (body,) = evaluated(b).site.bodies.values()
    top = {"of": "face", "body": body.id, "names": ["s2/end/r1"]}
    spot = b.step("point", "Spot", how="coordinates", x={"formula": "20 mm"}, y={"formula": "12 mm"}, z={"formula": "20 mm"})
    b.step("hole", "Tapped", at=[{"of": "datum", "step": spot}], start="from", start_at=top, end="depth", depth={"formula": "15 mm"},
           sizing="tapped", thread="M6", threaded="part", thread_depth={"formula": "9 mm"})
    part = with_page(b.part)
    evaluation = evaluated(part)
    assert all(r.state == "built" for r in evaluation.reports), [r.message for r in evaluation.reports]
    sheet = drawn_page(part, evaluation, part.pages[0])
    k = sheet.page.ratio_of(sheet.page.views[0])
    ink = {i.id: i.inks for i in sheet.items}
    (arc,) = [i.stroke for i in ink["v2"] if i.pen == "thread"]
    assert arc.radius == pytest.approx(3 * k)
    under = apply(part, PutOnPage(page="p1", views=[View(id="v1", way="bottom")]))
    assert not [i for i in next(i for i in sheet_of(under).items if i.id == under.pages[0].views[-1].id).inks if i.pen == "thread"]
    x, _ = sheet.places["v1"]
    sides = [i.stroke for i in ink["v1"] if i.pen == "hidden" and abs(abs(i.stroke.start[0] - x) - 3 * k) < 1e-6]
    assert len(sides) == 2
    assert [length_of(s) / k for s in sides] == [pytest.approx(9), pytest.approx(9)]


def test_a_view_that_takes_too_long_is_a_draft_that_says_so_and_is_not_tried_again(monkeypatch: pytest.MonkeyPatch) -> None:
    from wendal.core.drawing import views

    monkeypatch.setattr(views, "HEAVY", 0.0)
    part = with_page(plate("41.5 mm").part, dimensions=False)
    evaluation = evaluated(part)
    page = part.pages[0]
    views._known.clear()
    views.prepare(part, evaluation, page, drafts=True)
    sheet = drawn_page(part, evaluation, page, drafts=True)
    assert any("DRAFT" in t.words for i in sheet.items for t in i.texts)
    assert not any(i.trouble for i in sheet.items), "a draft that the exact view follows is no trouble"
    views.prepare(part, evaluation, page, limit=0.0)
    began: list[int] = []
    monkeypatch.setattr(views, "in_children", lambda works, limit: began.append(len(works)))
    sheet = drawn_page(part, evaluation, page)
    assert [i.id for i in sheet.items if "not found in time" in i.trouble] == ["v1", "v2", "v3", "v4"]
    assert began == []
    monkeypatch.undo()
    views._known.clear()
    exact = drawn_page(part, evaluation, page)
    views._known.clear()
    monkeypatch.setattr(views, "HEAVY", 0.0)
    apart = drawn_page(part, evaluation, page)  # the same lines from children of this process
    assert [i.inks for i in exact.items] == [i.inks for i in apart.items]


def test_work_in_children_ends_in_time_and_a_failure_is_no_answer() -> None:
    import time

    from wendal.core.drawing.children import in_children

    def slow() -> int:
        time.sleep(30)
        return 1

    def fails() -> int:
        raise ValueError("on purpose")

    began = time.monotonic()
    assert in_children([lambda: 7, slow, fails, lambda: 9], 2.0, 4) == [7, None, None, 9]
    assert time.monotonic() - began < 10


def test_no_edit_makes_a_part_that_can_not_be_read_again() -> None:
    part = with_page(plate().part)
    view = View(id="v1", way="corner")
    with pytest.raises(CommandRefused) as refused:
        apply(part, PutOnPage(page="p1", dimensions=[Dimension(id="d1", view="v1", kind="width")] * 400))
    assert refused.value.field == "dimensions"
    part = apply(apply(part, PutOnPage(page="p1", views=[view] * 20)), PutOnPage(page="p1", views=[view] * 20))
    with pytest.raises(CommandRefused) as refused:
        apply(part, PutOnPage(page="p1", views=[view] * 20))
    assert refused.value.field == "views"
    assert read_part(write_part(part)) == part


def test_a_sign_that_the_font_lacks_is_told() -> None:
    part = apply(with_page(plate().part), PutOnPage(page="p1", marks=[Mark(id="m1", kind="note", words="Deburr 漢")]))
    assert [i.trouble for i in sheet_of(part).items if i.trouble] == ["The font of drawings has no sign for 漢. Write it in other words."]
