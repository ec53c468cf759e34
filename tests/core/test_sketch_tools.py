"""Tools that change drawn geometry: what they make, what stays bound, what is lost, what is refused."""

from __future__ import annotations

import math
from typing import Any

import pytest
from pydantic import TypeAdapter

from tests.samples import drawn, free_sketch, freedoms, settled
from wendal.core.errors import SketchError, WendalError
from wendal.core.route import figures_of
from wendal.core.sketch import Drawing, SketchEdit, find_freedoms, find_regions, rehearse, solve
from wendal.demo.builder import Builder

_edits: TypeAdapter[Any] = TypeAdapter(SketchEdit)


def edit(b: Builder, **fields: Any) -> list[str]:
    """Carry an edit out; return what it lost."""
    drawing = b.drawing("s1")
    told = rehearse(drawing, _edits.validate_python(fields), figures_of(b.part, "Outline"))
    b.do(do="edit_sketch", step="s1", edit=fields)
    return told.lost


def ends(b: Builder, curve: str) -> list[tuple[float, float]]:
    d = settled(b)
    return [d.points[p] for p in d.curves[curve].points[-2:]]


def kinds(b: Builder) -> list[str]:
    return sorted(c.kind for c in b.drawing("s1").curves.values())


def areas(b: Builder) -> list[float]:
    return [r.area for r in find_regions(settled(b)).found]


CROSS = [("line", (0, 0), (30, 0)), ("line", (10, -5), (10, 20)), ("line", (20, -5), (20, 20))]


# name, shapes, the edit (indices of curves), freedoms after, kinds after
TRIMS: list[tuple[str, list[Any], dict[str, Any], int, list[str]]] = [
    ("an end", CROSS, {"curves": [0], "path": [(25, 0)]}, 11, ["line"] * 3),
    ("a beginning", CROSS, {"curves": [0], "path": [(4, 0)]}, 11, ["line"] * 3),
    ("a middle leaves two in line", CROSS, {"curves": [0], "path": [(15, 0)]}, 12, ["line"] * 4),
    ("all of it where nothing crosses", [("line", (0, 0), (9, 0))], {"curves": [0], "path": [(4, 0)]}, 0, []),
    ("a circle becomes an arc", [("circle", (0, 0), (10, 0)), ("line", (-20, 3), (20, 3))], {"curves": [0], "path": [(0, 10)]}, 7, ["arc", "line"]),
    ("a circle all of which goes", [("circle", (0, 0), (10, 0))], {"curves": [0], "path": [(0, 10)]}, 0, []),
    ("the middle of an arc", [("arc", (10, 0), (-10, 0), (0, 10)), ("line", (3, 0), (3, 20)), ("line", (-3, 0), (-3, 20))],
     {"curves": [0], "path": [(0, 10)]}, 13, ["arc", "arc", "line", "line"]),
    ("a sweep across two ends", CROSS, {"manner": "sweep", "path": [(5, 15), (25, 15)]}, 10, ["line"] * 3),
    ("a corner of crossing lines", CROSS[:2], {"manner": "corner", "curves": [0, 1], "path": [(2, 0), (10, 15)]}, 6, ["line"] * 2),
    ("a corner of lines that do not reach", [("line", (0, 0), (5, 0)), ("line", (10, 5), (10, 9))],
     {"manner": "corner", "curves": [0, 1], "path": [(2, 0), (10, 8)]}, 6, ["line"] * 2),
    ("inside two boundaries", CROSS, {"manner": "inside", "curves": [1, 2, 0]}, 12, ["line"] * 4),
    ("outside two boundaries", CROSS, {"manner": "outside", "curves": [1, 2, 0]}, 10, ["line"] * 3),
    ("inside, of a circle", [*CROSS[1:], ("circle", (15, 0), (25, 0))], {"manner": "inside", "curves": [0, 1, 2]}, 11, ["arc", "line", "line"]),
]


@pytest.mark.parametrize(("shapes", "fields", "free", "left"), [t[1:] for t in TRIMS], ids=[t[0] for t in TRIMS])
def test_trim(shapes: list, fields: dict, free: int, left: list[str]) -> None:
    b, _, curves = drawn(*shapes)
    b_curves = [curves[i] for i in fields.get("curves", [])]
    edit(b, op="trim", **{**fields, "curves": b_curves})
    assert kinds(b) == left
    assert freedoms(b) == free


def test_a_trimmed_end_stays_on_what_cut_it() -> None:
    b, _, (base, *_rest) = drawn(*CROSS)
    edit(b, op="trim", curves=[base], path=[(25, 0)])
    assert sorted(ends(b, base)) == [(0, 0), (20, 0)]
    assert any(c.kind == "on_curve" and c.of[1] == _rest[1] for c in b.drawing("s1").constraints.values())


def test_a_length_holds_between_the_old_ends_after_a_middle_went() -> None:
    b, _, curves = drawn(*CROSS)
    b.constrain("s1", "distance", curves[0], formula="30 mm")
    b.constrain("s1", "horizontal", curves[0])
    lost = edit(b, op="trim", curves=[curves[0]], path=[(15, 0)])
    assert lost == []
    b.do(do="set_formula", tag="outline_width", formula="36 mm")
    xs = sorted(x for c in settled(b).curves.values() if c.kind == "line" for x, y in [settled(b).points[p] for p in c.points] if abs(y) < 1e-6)
    assert xs[-1] - xs[0] == pytest.approx(36)


def test_what_a_trim_loses_is_told_first() -> None:
    b, _, curves = drawn(*CROSS)
    b.constrain("s1", "equal", curves[0], curves[1])
    b.constrain("s1", "distance", curves[0], formula="30 mm")
    lost = edit(b, op="trim", curves=[curves[0]], path=[(25, 0)])
    assert len(lost) == 2
    assert any("outline_width" in words or "outline_length" in words for words in lost)
    assert any(words.startswith("equal") for words in lost)


def test_extend_to_the_next_line_and_keep_its_direction() -> None:
    b, _, (line, _wall) = drawn(("line", (0, 0), (5, 0)), ("line", (12, -3), (12, 9)))
    b.constrain("s1", "horizontal", line)
    edit(b, op="extend", curve=line, at=(5, 0))
    assert ends(b, line)[1] == pytest.approx((12, 0))
    assert freedoms(b) == 6


def test_extend_an_arc_to_a_line() -> None:
    b, _, (arc, _wall) = drawn(("arc", (10, 0), (0, 10), (10 * math.cos(0.7), 10 * math.sin(0.7))), ("line", (-20, 5), (-2, 5)))
    edit(b, op="extend", curve=arc, at=(0, 10))
    assert ends(b, arc)[1] == pytest.approx((-math.sqrt(75), 5))


def test_split_a_line_and_a_circle() -> None:
    b, _, (line, circle) = drawn(("line", (0, 0), (10, 0)), ("circle", (30, 0), (35, 0)))
    edit(b, op="split", curve=line, at=[(4, 0)])
    edit(b, op="split", curve=circle, at=[(35, 0), (30, 5)])
    assert kinds(b) == ["arc", "arc", "line", "line"]
    assert freedoms(b) == 5 + 5  # the line's two ends and a place between; the circle and two places on it
    assert areas(b) == [pytest.approx(25 * math.pi)]


REFUSED: list[tuple[str, list[Any], dict[str, Any], str]] = [
    ("a circle that one line touches", [("circle", (0, 0), (10, 0)), ("line", (-20, 10), (20, 10))],
     {"op": "trim", "curves": [0], "path": [(10, 0)]}, "at one place"),
    ("parallels to a corner", [("line", (0, 0), (9, 0)), ("line", (0, 5), (9, 5))],
     {"op": "trim", "manner": "corner", "curves": [0, 1], "path": [(2, 0), (2, 5)]}, "never meet"),
    ("a corner of one", CROSS, {"op": "trim", "manner": "corner", "curves": [0], "path": [(2, 0)]}, "wants two curves"),
    ("no boundary crossed", [*CROSS[1:], ("line", (0, 50), (30, 50))], {"op": "trim", "manner": "inside", "curves": [0, 1, 2]}, "does not cross"),
    ("a sweep through nothing", CROSS, {"op": "trim", "manner": "sweep", "path": [(40, 40), (50, 50)]}, "crossed no curve"),
    ("extend a circle", [("circle", (0, 0), (3, 0))], {"op": "extend", "curve": 0, "at": (3, 0)}, "no end"),
    ("extend into the void", [("line", (0, 0), (9, 0))], {"op": "extend", "curve": 0, "at": (9, 0)}, "Nothing lies ahead"),
    ("split at an end", [("line", (0, 0), (9, 0))], {"op": "split", "curve": 0, "at": [(9, 0)]}, "is the end"),
    ("split a circle once", [("circle", (0, 0), (3, 0))], {"op": "split", "curve": 0, "at": [(3, 0)]}, "two different places"),
    ("a radius too large", [("rectangle", (0, 0), (30, 20))], {"op": "round_corner", "points": ["p1"], "radius": "25 mm"}, "no radius of more than about 20 mm"),
    ("a radius of nothing", [("rectangle", (0, 0), (30, 20))], {"op": "round_corner", "points": ["p1"], "radius": "0 mm"}, "greater than zero"),
    ("a corner with one line", [("line", (0, 0), (9, 0))], {"op": "round_corner", "points": ["p1"], "radius": "2 mm"}, "one curve ends here"),
    ("a chamfer longer than the side", [("rectangle", (0, 0), (30, 20))], {"op": "chamfer_corner", "points": ["p1"], "leg": "21 mm"}, "no room"),
    ("a chamfer without its second leg", [("rectangle", (0, 0), (30, 20))],
     {"op": "chamfer_corner", "points": ["p1"], "leg": "2 mm", "manner": "two"}, "second leg is missing"),
    ("an offset that swallows an arc", [("slot", (0, 0), (30, 0), (30, 5))],
     {"op": "offset", "curves": [0, 1, 2, 3], "distance": "6 mm", "side": -1}, r"shrink to nothing or turn over. Up to about 5 mm"),
    ("an offset by nothing", CROSS, {"op": "offset", "curves": [0], "distance": "0 mm"}, "greater than zero"),
    ("a mirror about a circle", [("circle", (0, 0), (3, 0)), *CROSS], {"op": "mirror", "entities": [1], "axis": 0}, "about a line"),
    ("copies all round", [("circle", (9, 0), (11, 0))], {"op": "repeat", "entities": [0], "by": "origin", "count": 5, "spacing": "90 deg"}, "once round"),
    ("an axis to be copied", [("circle", (9, 0), (11, 0))], {"op": "mirror", "entities": ["y_axis"], "axis": "x_axis"}, "stay|not copied"),
]


def _named(value: Any, curves: list[str]) -> Any:
    return curves[value] if isinstance(value, int) else [curves[v] if isinstance(v, int) else v for v in value]


@pytest.mark.parametrize(("shapes", "fields", "words"), [r[1:] for r in REFUSED], ids=[r[0] for r in REFUSED])
def test_refused_and_nothing_changes(shapes: list, fields: dict, words: str) -> None:
    b, _, curves = drawn(*shapes)
    before = b.drawing("s1")
    told = {k: _named(v, curves) if k in ("curves", "curve", "entities", "axis") and not isinstance(v, str) else v for k, v in fields.items()}
    with pytest.raises(WendalError, match=words):
        edit(b, **told)
    assert b.drawing("s1") == before


def plate() -> tuple[Builder, list[str]]:
    """Return a fully constrained plate of 30 by 20 with a corner at the origin."""
    b, _, _ = drawn()
    return b, b.draw("s1", "rectangle", (0, 0), (30, 20), on="origin", width="30 mm", height="20 mm")


def corners(b: Builder) -> list[str]:
    d = settled(b)
    return [next(p for p in d.points if d.points[p] == pytest.approx(at)) for at in ((0, 0), (30, 0), (30, 20), (0, 20))]


def test_four_rounded_corners_keep_one_radius_and_the_plate_its_size() -> None:
    b, _ = plate()
    assert edit(b, op="round_corner", points=corners(b), radius="4 mm") == []
    assert kinds(b) == ["arc"] * 4 + ["line"] * 4
    assert freedoms(b) == 0
    assert areas(b) == [pytest.approx(600 - (4 - math.pi) * 16)]
    b.do(do="set_formula", tag="outline_width", formula="50 mm")
    b.do(do="set_formula", tag="outline_corner_radius", formula="6 mm")
    assert areas(b) == [pytest.approx(1000 - (4 - math.pi) * 36)]


def test_each_corner_has_a_radius_of_its_own() -> None:
    b, _ = plate()
    edit(b, op="round_corner", points=corners(b)[:2], radius="4 mm", each=True)
    b.do(do="set_formula", tag="outline_corner_radius_second", formula="2 mm")
    assert areas(b) == [pytest.approx(600 - (1 - math.pi / 4) * (16 + 4))]


def test_what_does_not_fit_is_told_corner_by_corner() -> None:
    b, _ = plate()
    drawing = b.drawing("s1")
    told = rehearse(drawing, _edits.validate_python({"op": "round_corner", "points": corners(b), "radius": "11 mm"}), figures_of(b.part, "Outline"))
    assert len(told.notes) == 3
    assert told.notes[-1] == "All of them take up to about 9.99 mm."  # the plate is 20 high
    assert all("no radius of more than about 9 mm" in note for note in told.notes[:2])
    assert sum(c.kind == "arc" for c in told.drawing.curves.values()) == 2


def test_the_sharp_corner_stays_and_is_dimensioned_to() -> None:
    b, lines = plate()
    sharp = corners(b)[2]
    b.draw("s1", "circle", (22, 12), (25, 12), diameter="6 mm")
    centre = list(b.drawing("s1").points)[-1]
    b.constrain("s1", "distance", sharp, centre, manner="horizontal", formula="8 mm")
    b.constrain("s1", "distance", sharp, centre, manner="vertical", formula="8 mm")
    assert edit(b, op="chamfer_corner", points=[sharp], leg="5 mm") == []
    assert freedoms(b) == 0
    b.do(do="set_formula", tag="outline_width", formula="40 mm")
    d = settled(b)
    assert d.points[centre] == pytest.approx((32, 12))
    outer = areas(b)[0]
    assert outer == pytest.approx(800 - 12.5 - 9 * math.pi)
    assert lines


@pytest.mark.parametrize(("more", "cut"), [({"manner": "equal"}, 8), ({"manner": "two", "other": "6 mm"}, 12),
                                           ({"manner": "angle", "other": "30 deg"}, 8 * math.tan(math.radians(30)))])
def test_chamfers(more: dict[str, str], cut: float) -> None:
    b, _ = plate()
    edit(b, op="chamfer_corner", points=[corners(b)[2]], leg="4 mm", **more)
    assert freedoms(b) == 0
    assert areas(b) == [pytest.approx(600 - cut)]
    b.do(do="set_formula", tag="outline_height", formula="31 mm")
    assert areas(b) == [pytest.approx(930 - cut)]


def test_the_legs_of_a_chamfer_are_swapped() -> None:
    shapes = []
    for swap in (False, True):
        b, _ = plate()
        edit(b, op="chamfer_corner", points=[corners(b)[2]], leg="4 mm", manner="two", other="6 mm", swap=swap)
        line = list(b.drawing("s1").curves)[-1]
        (ax, ay), (bx, by) = ends(b, line)
        shapes.append((round(abs(ax - bx), 6), round(abs(ay - by), 6)))
    assert sorted(shapes) == [(4, 6), (6, 4)]


def test_two_lines_that_do_not_meet_are_rounded() -> None:
    b, _, (one, two) = drawn(("line", (0, 0), (20, 0)), ("line", (30, 10), (30, 30)))
    edit(b, op="round_corner", curves=[one, two], keep=[(3, 0), (30, 25)], radius="5 mm")
    assert ends(b, one)[1] == pytest.approx((25, 0))
    assert sum(c.kind == "tangent" for c in b.drawing("s1").constraints.values()) == 2
    assert freedoms(b) == 6


def test_a_line_and_an_arc_are_rounded() -> None:
    b, _, (_line, arc) = drawn(("line", (-30, 0), (30, 0)), ("circle", (0, 0), (10, 0)))
    edit(b, op="trim", curves=[arc], path=[(0, -10)])
    edit(b, op="trim", curves=[_line], path=[(0, 0)])
    right = next(c for c in b.drawing("s1").curves if c not in (_line, arc))
    edit(b, op="round_corner", curves=[right, arc], keep=[(25, 0), (0, 10)], radius="3 mm")
    d = settled(b)
    made = list(d.curves)[-1]
    centre = d.points[d.curves[made].centre]  # type: ignore[union-attr]
    assert centre == pytest.approx((math.sqrt(13**2 - 9), 3))


def test_rounding_again_what_is_round_is_refused() -> None:
    b, _ = plate()
    edit(b, op="round_corner", points=[corners(b)[0]], radius="4 mm")
    joint = next(p for p in settled(b).points if settled(b).points[p] == pytest.approx((4, 0)))
    with pytest.raises(WendalError, match="runs smoothly"):
        edit(b, op="round_corner", points=[joint], radius="1 mm")


OFFSETS: list[tuple[str, list[Any], list[int], dict[str, Any], float, int]] = [
    ("a rectangle outside", [("rectangle", (0, 0), (30, 20))], [0, 1, 2, 3], {}, 34 * 24 - 600, 4),
    ("a rectangle inside", [("rectangle", (0, 0), (30, 20))], [0, 1, 2, 3], {"side": -1}, 26 * 16, 4),
    ("with rounded gaps", [("rectangle", (0, 0), (30, 20))], [0, 1, 2, 3], {"round_gaps": True}, 200 + 4 * math.pi, 4),
    ("a circle", [("circle", (0, 0), (10, 0))], [0], {}, math.pi * 44, 3),
    ("a slot outside", [("slot", (0, 0), (30, 0), (30, 5))], [0, 1, 2, 3], {}, 120 + math.pi * (49 - 25), 5),
    ("a slot inside", [("slot", (0, 0), (30, 0), (30, 5))], [0, 1, 2, 3], {"side": -1}, 180 + math.pi * 9, 5),
]


@pytest.mark.parametrize(("shapes", "which", "more", "area", "free"), [o[1:] for o in OFFSETS], ids=[o[0] for o in OFFSETS])
def test_offset_follows_its_source(shapes: list, which: list[int], more: dict, area: float, free: int) -> None:
    b, _, curves = drawn(*shapes)
    edit(b, op="offset", curves=[curves[i] for i in which], distance="2 mm", **more)
    assert area == pytest.approx(min(areas(b), key=lambda a: abs(a - area)))
    assert freedoms(b) == free


def test_a_seal_is_offset_and_turned_over() -> None:
    b, curves = plate()
    edit(b, op="round_corner", points=corners(b), radius="5 mm")
    chain = list(b.drawing("s1").curves)
    edit(b, op="offset", curves=chain, distance="3 mm", side=-1)
    inner = 24 * 14 - (4 - math.pi) * 4
    assert areas(b)[0] == pytest.approx(inner)
    assert freedoms(b) == 0
    offset = next(k for k, c in b.drawing("s1").constraints.items() if c.kind == "offset")
    edit(b, op="flip_offset", constraint=offset)
    assert sum(areas(b)) == pytest.approx(36 * 26 - (4 - math.pi) * 64)
    b.do(do="set_formula", tag="outline_offset", formula="4 mm")
    b.do(do="set_formula", tag="outline_width", formula="45 mm")
    assert sum(areas(b)) == pytest.approx(53 * 28 - (4 - math.pi) * 81)
    assert freedoms(b) == 0
    assert curves


def test_an_open_chain_on_both_sides() -> None:
    b, _, (one,) = drawn(("line", (0, 0), (20, 0)))
    end = b.drawing("s1").curves[one].points[1]
    b.do(do="edit_sketch", step="s1", edit={"op": "draw", "shape": "line", "ends": [{"at": (20, 0), "on": end}, {"at": (20, 15)}]})
    two = list(b.drawing("s1").curves)[-1]
    edit(b, op="offset", curves=[one, two], distance="2 mm", both=True)
    assert len(b.drawing("s1").curves) == 6
    assert freedoms(b) == 6
    assert sum(c.value is not None and c.value.tag != "" for c in b.drawing("s1").constraints.values()) == 1


def test_a_linked_mirror_follows_and_takes_no_freedom() -> None:
    b, _, curves = drawn(("slot", (10, 0), (30, 8), (34, 16)), ("circle", (50, 5), (54, 5)), ("point", (3, 9)))
    was = freedoms(b)
    edit(b, op="mirror", entities=[*curves, list(b.drawing("s1").points)[-1]], axis="y_axis")
    assert freedoms(b) == was
    b.constrain("s1", "diameter", curves[-1], formula="14 mm")
    d = settled(b)
    radii = [c.radius for c in d.curves.values() if c.kind == "circle"]
    assert radii == pytest.approx([7, 7])
    assert len(areas(b)) == 4
    xs = [x for x, _ in d.points.values()]
    assert sum(xs) == pytest.approx(0, abs=1e-9)


def test_a_mirrored_half_closes_on_the_axis() -> None:
    b, _, (one,) = drawn(("line", (0, 0), (20, 0)))
    end = b.drawing("s1").curves[one].points[1]
    b.do(do="edit_sketch", step="s1", edit={"op": "draw", "shape": "line", "ends": [{"at": (20, 0), "on": end}, {"at": (0, 15)}]})
    two = list(b.drawing("s1").curves)[-1]
    for line, i in ((one, 0), (two, 1)):
        b.constrain("s1", "on_curve", b.drawing("s1").curves[line].points[i], "y_axis")
    was = freedoms(b)
    edit(b, op="mirror", entities=[one, two], axis="y_axis")
    assert areas(b) == [pytest.approx(300)]
    assert freedoms(b) == was


def test_a_free_mirror_keeps_its_own_shape_only() -> None:
    b, _, curves = drawn(("slot", (10, 0), (30, 8), (34, 16)))
    edit(b, op="mirror", entities=curves, axis="y_axis", linked=False)
    assert freedoms(b) == 10


@pytest.mark.parametrize(("by", "spacing", "places"), [("x_axis", "20 mm", [(25, 0), (45, 0), (65, 0)]),
                                                        ("origin", "90 deg", [(0, 5), (-5, 0), (0, -5)])])
def test_copies_follow_their_source(by: str, spacing: str, places: list) -> None:
    b, _, curves = drawn(("circle", (5, 0), (7, 0)))
    edit(b, op="repeat", entities=curves, by=by, count=4, spacing=spacing)
    assert freedoms(b) == 3
    d = settled(b)
    centres = [d.points[c.centre] for c in d.curves.values() if c.kind == "circle"][1:]
    for centre, place in zip(centres, places, strict=True):
        assert centre == pytest.approx(place, abs=1e-9)
    b.constrain("s1", "diameter", curves[0], formula="6 mm")
    assert [c.radius for c in settled(b).curves.values() if c.kind == "circle"] == pytest.approx([3] * 4)


def test_the_spacing_of_copies_is_one_dimension() -> None:
    b, _, curves = drawn(("slot", (5, 0), (5, 9), (8, 4)))
    edit(b, op="repeat", entities=curves, by="x_axis", count=3, spacing="20 mm")
    assert freedoms(b) == 5
    b.do(do="set_formula", tag="outline_spacing", formula="25 mm")
    d = settled(b)
    middles = sorted({round(d.points[c.centre][0], 6) for c in d.curves.values() if c.kind == "arc"})
    assert [m - middles[0] for m in middles] == pytest.approx([0, 25, 50])


def test_moved_geometry_loses_only_what_no_longer_holds() -> None:
    b, lines = plate()
    lost = edit(b, op="transform", entities=lines, move=("5 mm", "7 mm"))
    assert lost == []  # the joint at the origin goes, as a joint
    assert freedoms(b) == 2
    assert min(settled(b).points.values()) == pytest.approx((5, 7))
    lost = edit(b, op="transform", entities=lines, turn="30 deg", about=(5, 7))
    assert len(lost) == 4
    assert all(words.startswith(("horizontal", "vertical")) for words in lost)
    assert areas(b) == [pytest.approx(600)]


def test_a_scaled_copy_has_the_shape_but_no_dimensions() -> None:
    b, lines = plate()
    edit(b, op="transform", entities=lines, scale=0.5, about=(0, 0), move=("50 mm", "0 mm"), copied=True)
    assert areas(b) == [pytest.approx(600), pytest.approx(150)]
    assert freedoms(b) == 4


def test_paste_takes_shape_and_dimensions_along() -> None:
    b, _ = plate()
    what = b.drawing("s1").model_dump(mode="json")
    other = b.step("sketch", "Lid", on={"of": "base", "name": "XY"})
    b.do(do="edit_sketch", step=other, edit={"op": "paste", "what": what, "move": (3, 0)})
    drawing = b.drawing(other)
    assert find_freedoms(solve(drawing, figures_of(b.part).values(drawing))).number == 2
    assert {c.value.tag for c in drawing.constraints.values() if c.value} == {"lid_distance", "lid_distance_second"}
    with pytest.raises(WendalError, match="nothing to paste"):
        b.do(do="edit_sketch", step=other, edit={"op": "paste", "what": Drawing().model_dump(mode="json")})


def test_a_corner_of_a_curve_that_is_not_there_is_refused_in_words() -> None:
    b, _, (line,) = drawn(("line", (0, 0), (5, 5)))
    with pytest.raises(SketchError, match="no curve “c99”"):
        edit(b, op="trim", manner="corner", curves=[line, "c99"], path=[(0, 0), (1, 1)])


@pytest.mark.parametrize(("shape", "places", "values", "stays", "other"), [
    ("rectangle", [(20, 10), (35, 18)], {"width": "40 mm", "height": "25 mm"}, (20, 10), (60, 35)),
    ("rectangle", [(20, 10), (5, 2)], {"width": "40 mm"}, (20, 10), (-20, 2)),
    ("rectangle_centre", [(20, 10), (35, 18)], {"width": "40 mm", "height": "25 mm"}, (20, 10), (40, 22.5)),
    ("line", [(20, 10), (26, 18)], {"length": "20 mm"}, (20, 10), (32, 26)),
    ("slot", [(20, 10), (50, 10), (50, 13)], {"width": "10 mm"}, (20, 10), (50, 10)),
])
def test_a_shape_with_typed_measures_grows_from_where_it_was_begun(shape: str, places: list, values: dict, stays: tuple, other: tuple) -> None:
    b, sketch = free_sketch()
    b.do(do="edit_sketch", step=sketch, edit={"op": "draw", "shape": shape, "ends": [{"at": p} for p in places], "values": values})
    points = list(settled(b).points.values())
    for place in (stays, other):
        assert min(math.dist(p, place) for p in points) < 1e-9
