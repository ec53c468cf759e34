"""SVG read as curves for a sketch: against what was written into the file by hand, and what Wendal itself writes."""

from __future__ import annotations

import math

import pytest

from tests.samples import evaluated, plate
from wendal.core import exchange
from wendal.core.errors import DocumentError
from wendal.core.exchange.svg_in import read_svg
from wendal.core.sketch import find_regions
from wendal.core.sketch.drawn import path_of

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" width="80mm" height="40mm" viewBox="0 0 160 80">'


def read(inner: str, head: str = HEAD, **more: object):  # type: ignore[no-untyped-def]
    return read_svg(f"{head}{inner}</svg>".encode(), **more)  # type: ignore[arg-type]


def test_shapes_have_their_places_and_sizes_in_mm() -> None:
    found = read('<rect x="10" y="10" width="60" height="40" stroke="#ff0000"/><circle cx="120" cy="40" r="20" stroke="black"/>')
    assert found.layers == {"#ff0000": 4, "#000000": 1}
    assert found.low == pytest.approx((5, -30))
    assert found.high == pytest.approx((70, -5))
    assert not found.gaps
    circle = next(c for c in found.drawing.curves.values() if c.kind == "circle")
    assert circle.radius == pytest.approx(10, rel=1e-9)
    assert found.drawing.place(circle.centre) == pytest.approx((60, -20))
    assert sorted(r.area for r in find_regions(found.drawing).found) == pytest.approx([100 * math.pi, 600])


def test_a_turned_ellipse_keeps_its_turn() -> None:
    (ellipse,) = read('<g transform="translate(10,20) rotate(30)"><ellipse cx="50" cy="10" rx="8" ry="16" stroke="blue"/></g>').drawing.curves.values()
    assert ellipse.kind == "ellipse"
    assert ellipse.radius == pytest.approx(4)
    drawing = read('<g transform="translate(10,20) rotate(30)"><ellipse cx="50" cy="10" rx="8" ry="16" stroke="blue"/></g>').drawing
    (x, y), (u, v) = drawing.place(ellipse.centre), drawing.place(ellipse.tip)
    assert math.dist((x, y), (u, v)) == pytest.approx(8)
    assert abs(math.degrees(math.atan2(v - y, u - x)) % 180) == pytest.approx(60)  # 120 with their Y, which runs down


@pytest.mark.parametrize(("rx", "ry", "turn", "sweep"), [(5, 5, 0, 1), (5, 5, 0, 0), (8, 4, 20, 1), (4, 8, 20, 0), (9, 3, -75, 1)])
def test_an_arc_ends_where_it_is_written(rx: float, ry: float, turn: float, sweep: int) -> None:
    found = read(f'<path d="M 20 30 A {rx} {ry} {turn} 0 {sweep} 26 34" stroke="black"/>')
    (arc,) = found.drawing.curves.values()
    places = sorted(found.drawing.place(p) for p in (arc.start, arc.end))
    assert places == [pytest.approx((10, -15)), pytest.approx((13, -17))]
    # Their sweep of 1 is clockwise as it is seen, so that the arc bulges to the left of its way.
    path = path_of(found.drawing, next(iter(found.drawing.curves)))
    middle = path.at((path.t0 + path.t1) / 2)
    side = (13 - 10) * (middle[1] + 15) - (-17 + 15) * (middle[0] - 10)
    assert (side > 0) == (sweep == 1)
    assert abs(side) > 0.1


def test_a_bezier_stays_what_it_is_and_ends_are_joined() -> None:
    found = read('<path d="M 0 60 C 10 50 20 70 30 60 L 30 80 L 0 80 Z" stroke="black"/>')
    assert kinds_of(found) == {"spline": 1, "line": 3}
    assert (found.joined, found.gaps) == (4, [])


def kinds_of(found) -> dict[str, int]:  # type: ignore[no-untyped-def]
    kinds = [c.kind for c in found.drawing.curves.values()]
    return {k: kinds.count(k) for k in kinds}


def test_units_are_asked_where_the_file_does_not_say_and_taken_where_they_are_chosen() -> None:
    bare = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10">'
    with pytest.raises(DocumentError, match="how large") as refused:
        read('<line x1="0" y1="0" x2="3" y2="4" stroke="black"/>', bare)
    assert refused.value.field == "unit"
    found = read('<line x1="0" y1="0" x2="3" y2="4" stroke="black"/>', bare, unit="in")
    assert math.dist(found.low, found.high) == pytest.approx(5 * 25.4, rel=1e-6)


def test_the_size_is_the_root_s_width_and_not_that_of_a_stroke() -> None:
    head = '<svg xmlns="http://www.w3.org/2000/svg" stroke-width="2mm" width="20mm" height="10mm" viewBox="0 0 10 5">'
    found = read('<line x1="1" y1="1" x2="4" y2="5" stroke="black" stroke-width="3"/>', head)
    assert math.dist(found.low, found.high) == pytest.approx(2 * 5)


@pytest.mark.parametrize("content", [
    b"", b"nothing", b"<svg", b"<svg><path d='M 0 0 L'/></svg>", b"\xff\xfe<svg width='3mm'>", b"<html><svg width='3mm'></html>",
    b'<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><svg width="3mm">&b;</svg>',
    b'<svg xmlns="http://www.w3.org/2000/svg" width="0mm" height="0mm"><rect width="3" height="3"/></svg>',
    b'<svg xmlns="http://www.w3.org/2000/svg" width="9mm"><path d="M nan nan L inf 3 A 0 0 0 0 0 1e999 2"/></svg>',
    b'<svg xmlns="http://www.w3.org/2000/svg" width="9mm"><g id="a"><use href="#a"/></g></svg>',
    b'<svg xmlns="http://www.w3.org/2000/svg" width="9mm">' + b"<g>" * 3000 + b"</g>" * 3000 + b"</svg>",
])
def test_what_is_no_drawing_is_refused_in_words(content: bytes) -> None:
    with pytest.raises(DocumentError):
        read_svg(content)


def test_what_wendal_writes_comes_back() -> None:
    b = plate()
    b.draw("s1", "circle", (12, 12), (17, 12))
    content = exchange.export(b.part, evaluated(b), "svg", {"of": "sketch", "step": "s1"})
    found = read_svg(content)
    assert sorted(r.area for r in find_regions(found.drawing).found) == pytest.approx(sorted([1000 - 25 * math.pi, 25 * math.pi]), rel=1e-6)
