"""DXF, SVG and STEP out: read back by other means, lengths, areas and radii against the kernel's and closed formulas."""

from __future__ import annotations

import io
import itertools
import math
import re
from dataclasses import replace
from typing import Any

import ezdxf
import pytest

from tests.building import TOP, axis, drawn_on, f
from tests.samples import demo, evaluated, plate
from wendal.core import exchange, kernel
from wendal.core.drawing import views
from wendal.core.drawing.views import drawn
from wendal.core.errors import WendalError
from wendal.core.exchange.flat import _beside, _part_of, stroke_of
from wendal.core.exchange.svg import path_data
from wendal.core.route.document import BodyLook, PartText
from wendal.core.route.pages import Page, View
from wendal.core.sketch.drawn import path_of
from wendal.core.strokes import Stroke, chained, length_of
from wendal.demo import DEMO_PARTS
from wendal.demo.builder import Builder


def written(b: Any, ending: str, subject: dict[str, Any], **options: Any) -> bytes:
    part = b.part if isinstance(b, Builder) else b
    found = evaluated(part)
    content = exchange.export(part, found, ending, subject, options)
    assert content == exchange.export(part, found, ending, subject, options)  # the same thing gives the same bytes
    return content


def dxf(content: bytes) -> Any:
    document = ezdxf.read(io.StringIO(content.decode()))
    assert not document.audit().errors
    assert document.header["$INSUNITS"] == 4  # mm
    return document.modelspace()


def lengths(space: Any) -> float:
    """The length of all that is drawn, by ezdxf's own means: flattened finely, but lines and arcs by formula."""
    total = 0.0
    for e in space:
        kind = e.dxftype()
        if kind == "LINE":
            total += (e.dxf.end - e.dxf.start).magnitude
        elif kind == "CIRCLE":
            total += 2 * math.pi * e.dxf.radius
        elif kind == "ARC":
            total += e.dxf.radius * math.radians((e.dxf.end_angle - e.dxf.start_angle) % 360 or 360)
        elif kind in ("SPLINE", "ELLIPSE"):
            places = list(e.flattening(1e-6))
            total += sum((q - p).magnitude for p, q in itertools.pairwise(places))
    return total


def bored() -> Builder:
    b = plate("40 mm", "25 mm", "10 mm")
    for n, (x, r) in enumerate(((8, 3), (30, 4))):
        ring = drawn_on(b, axis("XY"), "circle", (x, 12), (x + r, 12))
        b.step("extrude", f"Bore {n}", profile=b.profile(ring, 0), extent="through", result="cut")
    return b


def test_a_face_is_its_outline_and_its_holes_by_size() -> None:
    space = dxf(written(bored(), "dxf", {"of": "face", "thing": TOP}))
    assert sorted((e.dxftype(), e.dxf.layer) for e in space) == [("CIRCLE", "holes Ø6"), ("CIRCLE", "holes Ø8")] + [("LINE", "outline")] * 4
    assert lengths(space) == pytest.approx(130 + 2 * math.pi * 7, abs=1e-9)
    assert sorted(e.dxf.radius for e in space.query("CIRCLE")) == pytest.approx([3, 4], abs=1e-9)


def test_a_section_is_cut_where_it_is_wanted() -> None:
    b = bored()
    for off, wanted in ((5.0, [3, 4]), (12.0, [])):
        subject = {"of": "section", "thing": axis("XY"), "off": off}
        if not wanted:
            with pytest.raises(WendalError, match="meets no body"):
                written(b, "dxf", subject)
            continue
        space = dxf(written(b, "dxf", subject))
        assert sorted(e.dxf.radius for e in space.query("CIRCLE")) == pytest.approx(wanted, abs=1e-9)
    across = dxf(written(b, "dxf", {"of": "section", "thing": axis("ZX"), "off": -12.0}))
    # Cut through both bores: three rectangles.
    assert len(list(across)) == 12
    assert lengths(across) == pytest.approx(2 * (5 + 15 + 6) + 6 * 10, abs=1e-6)


@pytest.mark.parametrize("name", DEMO_PARTS)
def test_every_flat_face_of_a_part_has_its_own_length_in_both_formats(name: str) -> None:
    part, found = demo(name)
    for body in found.site.bodies.values():
        topology, anatomy = body.topology, body.shape.anatomy
        flat = [i for i, face in enumerate(topology.faces) if face.form == "flat"][:6]
        for i in flat:
            around = sum(e.described.length for e in anatomy.faces[i].edges)
            loops = kernel.outlines_of_face(body.shape, i, topology.faces[i].frame)
            assert sum(length_of(s) for loop in loops for s in loop) == pytest.approx(around, rel=1e-7)
            for loop in loops:
                assert all(math.dist(a.end, b.start) < 1e-6 for a, b in zip(loop, [*loop[1:], loop[0]], strict=True))
            thing = {"of": "face", "body": body.id, "names": sorted(topology.faces[i].names), "near": list(topology.faces[i].centre)}
            try:
                content = exchange.export(part, found, "dxf", {"of": "face", "thing": thing})
            except WendalError:
                continue  # a piece of a face by its place alone
            assert lengths(dxf(content)) > 0


SHAPES = {
    "ellipse": ([(0, 0), (20, 0), (0, 8)], None), "spline": ([(0, 0), (10, 8), (20, -6), (30, 4)], None),
    "circle": ([(0, 0), (7, 0)], 2 * math.pi * 7), "line": ([(0, 0), (30, 40)], 50.0),
}


@pytest.mark.parametrize("shape", SHAPES)
def test_sketch_curves_are_written_as_what_they_are(shape: str) -> None:
    ends, length = SHAPES[shape]
    b = Builder("Curves")
    sketch = b.step("sketch", "Drawn", on=axis("XY"))
    b.draw(sketch, shape, *ends)
    space = dxf(written(b, "dxf", {"of": "sketch", "step": sketch}))
    (entity,) = space
    assert entity.dxftype() == {"ellipse": "ELLIPSE", "spline": "SPLINE", "circle": "CIRCLE", "line": "LINE"}[shape]
    if length:
        assert lengths(space) == pytest.approx(length, abs=1e-9)
    made = evaluated(b).site.sketches[sketch]
    (curve,) = [c for c, held in made.drawing.curves.items() if not held.construction]
    stroke = stroke_of(made.drawing, curve)
    assert lengths(space) == pytest.approx(length_of(stroke), rel=2e-6)
    path = path_of(made.drawing, curve)
    for k in range(11):  # place by place, by the parameter both have
        assert math.dist(path.at(path.t0 + (path.t1 - path.t0) * k / 10), stroke.at(k / 10)) < 1e-9


def bent(shape: str) -> Any:
    b = Builder("Curves")
    sketch = b.step("sketch", "Drawn", on=axis("XY"))
    ends, _ = SHAPES[shape]
    b.draw(sketch, shape, *ends)
    (curve,) = [c for c, held in b.drawing(sketch).curves.items() if not held.construction]
    return path_of(b.drawing(sketch), curve)


@pytest.mark.parametrize(("t0", "t1"), [(0.0, 1.0), (0.2, 0.9), (1 / 3, 0.5), (0.0, 0.4), (0.61, 1.0)])
def test_a_part_of_a_spline_is_that_part_exactly(t0: float, t1: float) -> None:
    path = replace(bent("spline"), t0=t0, t1=t1)
    stroke = _part_of(path)
    for k in range(21):
        assert math.dist(path.at(t0 + (t1 - t0) * k / 20), stroke.at(k / 20)) < 1e-9


@pytest.mark.parametrize(("shape", "away"), [("ellipse", 3.0), ("ellipse", -2.0), ("spline", 1.0), ("spline", -1.5)])
def test_what_runs_beside_a_bent_curve_is_off_by_less_than_a_tenth_of_a_micron(shape: str, away: float) -> None:
    path = replace(bent(shape), away=away)
    stroke = _beside(path)
    assert max(math.dist(path.at(path.t0 + (path.t1 - path.t0) * k / 1000), stroke.at(k / 1000)) for k in range(1001)) < 1e-4


def test_svg_pieces_of_a_spline_lie_on_it() -> None:
    stroke = _part_of(bent("spline"))
    numbers = [float(x) for x in re.findall(r"-?[0-9.]+(?:e-?[0-9]+)?", path_data([stroke]))]
    places = list(zip(numbers[::2], numbers[1::2], strict=True))
    on = [stroke.at(i / 4000) for i in range(4001)]
    for a, p, q, c in zip(places[0::3], places[1::3], places[2::3], places[3::3], strict=False):
        for t in (0.25, 0.5, 0.75):
            s = 1 - t
            x, y = (s**3 * a[i] + 3 * s * s * t * p[i] + 3 * s * t * t * q[i] + t**3 * c[i] for i in (0, 1))
            assert min(math.dist((x, y), o) for o in on) < 0.01  # as near as the places looked at are to each other


def test_svg_has_the_size_in_mm_and_the_area_of_the_face() -> None:
    text = written(bored(), "svg", {"of": "face", "thing": TOP}).decode()
    assert 'width="44mm" height="29mm"' in text
    data = " ".join(re.findall(r' d="([^"]+)"', text))
    assert data.count("Z") == 3
    assert data.count("A") == 4


def test_an_svg_path_of_lines_encloses_what_the_face_does() -> None:
    text = written(plate("40 mm", "25 mm", "10 mm"), "svg", {"of": "face", "thing": TOP}).decode()
    (data,) = re.findall(r' d="([^"]+)"', text)
    places = [tuple(map(float, p.split())) for p in re.findall(r"[ML]([^MLZ]+)", data)]
    area = sum(a[0] * c[1] - c[0] * a[1] for a, c in zip(places, [*places[1:], places[0]], strict=True)) / 2
    assert abs(area) == pytest.approx(1000, abs=1e-9)


@pytest.mark.parametrize(("ending", "subject", "options", "told"), [
    ("dxf", {"of": "part"}, {}, "not of a part"), ("dxf", {"of": "sketch", "step": "s9"}, {}, "Choose a sketch"),
    ("dxf", {"of": "face"}, {}, "flat face"), ("svg", {"of": "section", "thing": axis("X")}, {}, "plane or a flat face"),
    ("stl", {"of": "part"}, {"fineness": "extreme"}, "fineness"), ("stl", {"of": "bodies", "bodies": []}, {}, "Pick the bodies"),
    ("step", {"of": "part"}, {"colour": 1}, "colour"), ("dxf", {"of": "face", "thing": {"of": "face", "body": "s2", "names": ["s4/side/x/r1"]}}, {}, "not there"),
])
def test_what_can_not_be_written_is_told(ending: str, subject: dict[str, Any], options: dict[str, Any], told: str) -> None:
    with pytest.raises(WendalError, match=told):
        written(bored(), ending, subject, **options)


def test_triangles_are_as_fine_as_wanted() -> None:
    sizes = [len(written(bored(), "stl", {"of": "part"}, fineness=how)) for how in ("coarse", "normal", "fine")]
    assert sizes == sorted(set(sizes))


def test_step_has_names_colours_and_a_header_and_the_same_volume() -> None:
    b = bored()
    looks, about = {"s2": BodyLook(colour="moss")}, PartText(number="HP-7", drawn_by="A. Tern")
    b.part = b.part.model_copy(update={"looks": looks, "about": about})
    content = written(b, "step", {"of": "part"})
    text = content.decode()
    assert "HP-7" in text
    assert "A. Tern" in text
    assert "COLOUR_RGB" in text
    assert "'s2/end/r1'" in text
    assert kernel.step_volume(content) == pytest.approx(10_000 - 10 * math.pi * 25, rel=1e-9)


def test_loose_strokes_are_chained_in_any_order_and_sense() -> None:
    corners = [(0.0, 0.0), (10.0, 0.0), (10.0, 5.0), (0.0, 5.0)]
    sides = [Stroke("line", a, b) for a, b in zip(corners, [*corners[1:], corners[0]], strict=True)]
    loose = [sides[2].reversed(), sides[0], sides[3], sides[1].reversed()]
    (chain,) = chained(loose, 1e-6)
    assert all(math.dist(a.end, b.start) < 1e-9 for a, b in zip(chain, [*chain[1:], chain[0]], strict=True))
    assert len(chained([sides[0], sides[2]], 1e-6)) == 2
    (open_,) = chained([sides[1], sides[0].reversed()], 1e-6)
    assert len(open_) == 2


def layer_lengths(content: bytes) -> dict[str, float]:
    """The length drawn on each layer of a DXF file."""
    found: dict[str, float] = {}
    for e in dxf(content):
        found[e.dxf.layer] = found.get(e.dxf.layer, 0.0) + lengths([e])
    return found


@pytest.mark.parametrize(("way", "outline", "hidden", "marks"), [
    # 40 x 25 x 10 with bores of 6 and 8: seen from above both circles, from the side two lines of each, hidden.
    ("top", 130 + 14 * math.pi, 0.0, 2 * (6 + 5) + 2 * (8 + 5)),
    ("bottom", 130 + 14 * math.pi, 0.0, 2 * (6 + 5) + 2 * (8 + 5)),
    ("front", 100.0, 4 * 10.0, 2 * (10 + 5)),
    ("back", 100.0, 4 * 10.0, 2 * (10 + 5)),
    # From the side both bores lie behind each other, 6 within 8, about the same axis as it is seen.
    ("left", 70.0, 4 * 10.0, 10 + 5),
    ("right", 70.0, 4 * 10.0, 10 + 5),
])
def test_a_view_is_drawn_at_full_size_by_layers(way: str, outline: float, hidden: float, marks: float) -> None:
    found = layer_lengths(written(bored(), "dxf", {"of": "view", "way": way}, hidden=True, bends=True, centres=True))
    wanted = {"outline": outline, "hidden": hidden, "centre": marks}
    assert found == pytest.approx({k: v for k, v in wanted.items() if v}, abs=1e-9)


def test_a_view_square_to_a_plane_is_the_one_that_looks_that_way() -> None:
    """Round every axis by more than a quarter turn each: what is drawn is as long as from above."""
    b = bored()
    above = layer_lengths(written(b, "dxf", {"of": "view", "way": "top"}, hidden=True))
    assert layer_lengths(written(b, "dxf", {"of": "view", "thing": TOP}, hidden=True)) == pytest.approx(above, abs=1e-9)
    for n, (base, way) in enumerate((("XY", "top"), ("ZX", "front"), ("YZ", "right"))):
        main = layer_lengths(written(b, "dxf", {"of": "view", "way": way}, hidden=True))
        square = layer_lengths(written(b, "dxf", {"of": "view", "thing": axis(base)}, hidden=True))
        assert square == pytest.approx(main, abs=1e-9), n


def test_bends_lie_on_a_layer_of_their_own() -> None:
    """A plate with one rounded corner: its blend begins and ends in smooth lines, as long as it is high."""
    b = plate("40 mm", "25 mm", "10 mm")
    rim = {"of": "edge", "body": "s2", "faces": [["s2/side/c3/r1"], ["s2/side/c6/r1"]]}
    b.step("fillet", "Round", edges=[rim], radius=f("4 mm"))
    found = layer_lengths(written(b, "dxf", {"of": "view", "way": "front"}, bends=True))
    assert found == pytest.approx({"outline": 100.0, "bend": 10.0}, abs=1e-9)
    assert layer_lengths(written(b, "dxf", {"of": "view", "way": "front"})) == pytest.approx({"outline": 100.0}, abs=1e-9)


def test_centre_marks_and_hatching_of_a_section() -> None:
    found = layer_lengths(written(bored(), "dxf", {"of": "section", "thing": axis("XY"), "off": 5.0}, centres=True, hatching=True))
    assert found["centre"] == pytest.approx(2 * (6 + 5) + 2 * (8 + 5), abs=1e-9)
    # Lines at 3 mm cover the area but for what lies beside the outermost ones: it is what they stand for.
    assert found["hatch"] * 3.0 == pytest.approx(40 * 25 - math.pi * (9 + 16), rel=0.05)
    assert "hatch" not in layer_lengths(written(bored(), "dxf", {"of": "section", "thing": axis("XY"), "off": 5.0}))


def test_a_view_is_never_written_as_the_draft_that_a_page_was_shown_with() -> None:
    """A draft has every edge and hides nothing; a page that is heavy is shown with it first, and it is remembered."""
    b = bored()
    evaluation = evaluated(b)
    page = Page(id="p1", name="Page", views=[View(id="v1", way="front")])
    wanted = views._wanted(b.part, evaluation, page, page.views[0])
    draft = views._keep(wanted, views._draft(wanted, views._cut(wanted), False))
    assert drawn(b.part, evaluation, page, page.views[0]) is draft
    content = exchange.export(b.part, evaluation, "dxf", {"of": "view", "way": "front"}, {"hidden": True})
    assert layer_lengths(content) == pytest.approx({"outline": 100.0, "hidden": 40.0}, abs=1e-9)
    views._keep(wanted, replace(draft, given_up=True))  # and where the exact lines were not found in time, nothing is
    with pytest.raises(WendalError, match="nothing was written"):
        exchange.export(b.part, evaluation, "dxf", {"of": "view", "way": "front"})
    views._known.clear()
