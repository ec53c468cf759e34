"""Sketches with exact answers, singular ones among them: coordinates, freedoms, what is not needed and what fights."""

from __future__ import annotations

import math
from typing import Any

import pytest

from tests.samples import drawn, settled
from wendal.core.errors import SketchError
from wendal.core.route import figures_of
from wendal.core.sketch import Drawing, Line, find_freedoms, solve
from wendal.demo.builder import Builder

H3, H2 = math.sqrt(3), math.sqrt(2)
L, C, P, A = "line", "circle", "point", "arc"
Tie = tuple[Any, ...]


def named(drawing: Drawing, curves: list[str], thing: int | str) -> str:
    """Return the id of what a case names: 2 a curve (or point), "2.a", "2.b", "2.m" its start, end, middle; "o", "x", "y"."""
    if isinstance(thing, int):
        return curves[thing]
    if thing in ("o", "x", "y"):
        return {"o": "origin", "x": "x_axis", "y": "y_axis"}[thing]
    which, end = thing.split(".")
    points = drawing.curves[curves[int(which)]].points
    return points[0] if end == "m" else points[-2:]["ab".index(end)]


def tied(b: Builder, curves: list[str], ties: list[Tie]) -> None:
    """Add constraints, each (kind, (things), formula)."""
    for kind, of, *formula in ties:
        things = [named(b.drawing("s1"), curves, t) for t in of]
        b.constrain("s1", kind, *things, **({"formula": formula[0]} if formula else {}))


def things(*shapes: tuple[Any, ...]) -> tuple[Builder, list[str]]:
    """Draw shapes; points count among the curves, in order."""
    b, sketch, _ = drawn()
    found: list[str] = []
    for shape, *ends in shapes:
        made = b.draw(sketch, shape, *ends)
        found += made or [f"p{b.drawing(sketch).last}"]
    return b, found


def joined(*pairs: str) -> list[Tie]:
    """Joints, each written "0.b 1.a"."""
    return [("coincident", tuple(p.split())) for p in pairs]


def ring(n: int) -> list[Tie]:
    return joined(*(f"{i}.b {(i + 1) % n}.a" for i in range(n)))


TRIANGLE = [(L, (0, 0), (5, 0.3)), (L, (5, 0.3), (4, 3)), (L, (4, 3), (0, 0))]
QUAD = [(L, (0, 0), (10, 0)), (L, (10, 0), (14, 9)), (L, (14, 9), (4, 9)), (L, (4, 9), (0, 0))]
PLACED: list[Tie] = [("coincident", ("0.a", "o")), ("horizontal", (0,))]
THREE_ROUND = [(C, (0, 0), (3, 0)), (C, (8, 0), (12, 0)), (C, (3, 7), (8, 7))]

# shapes, constraints, places expected (mm), radii expected (mm)
PLACES: dict[str, tuple[list[Any], list[Tie], dict[str, tuple[float, float]], dict[int, float]]] = {
    "a triangle of 3, 4 and 5": (TRIANGLE, [*ring(3), *PLACED, ("distance", (0,), "4 mm"), ("distance", (1,), "3 mm"),
                                            ("distance", (2,), "5 mm")], {"1.b": (4, 3), "0.b": (4, 0)}, {}),
    "an equal-sided triangle": (TRIANGLE, [*ring(3), *PLACED, ("equal", (0, 1)), ("equal", (1, 2)), ("distance", (0,), "10 mm")],
                                {"1.b": (5, 5 * H3)}, {}),
    "a right angle and two legs": (TRIANGLE, [*ring(3), *PLACED, ("square", (0, 1)), ("distance", (0,), "12 mm"), ("distance", (1,), "5 mm")],
                                   {"1.b": (12, 5)}, {}),
    "two angles and a side": (TRIANGLE, [*ring(3), *PLACED, ("distance", (0,), "6 mm"), ("angle", (0, 1), "120 deg"), ("angle", (1, 2), "120 deg")],
                              {"1.b": (3, 3 * H3)}, {}),
    "a rhombus by side and angle": (QUAD, [*ring(4), *PLACED, ("equal", (0, 1)), ("equal", (1, 2)), ("equal", (2, 3)),
                                           ("distance", (0,), "10 mm"), ("angle", (0, 1), "60 deg")], {"2.a": (15, 5 * H3), "2.b": (5, 5 * H3)}, {}),
    "a rhombus by its diagonal": (QUAD, [*ring(4), *PLACED, ("equal", (0, 1)), ("equal", (1, 2)), ("equal", (2, 3)),
                                         ("distance", (0,), "10 mm"), ("distance", ("0.b", "2.b"), "12 mm")],
                                  {"0.b": (10, 0), "2.b": (2.8, 9.6), "2.a": (12.8, 9.6)}, {}),
    "a trapezoid, symmetric": ([(L, (-8, 0), (9, 0)), (L, (9, 0), (5, 6)), (L, (5, 6), (-4, 6)), (L, (-4, 6), (-8, 0))],
                               [*ring(4), ("symmetric", ("0.a", "0.b", "y")), ("symmetric", ("2.a", "2.b", "y")), ("on_curve", ("0.a", "x")),
                                ("distance", (0,), "20 mm"), ("distance", (2,), "8 mm"), ("distance", (1,), "10 mm")],
                               {"0.b": (10, 0), "2.a": (4, 8), "2.b": (-4, 8)}, {}),
    "three touching circles": (THREE_ROUND, [("coincident", ("0.m", "o")), ("on_curve", ("1.m", "x")), ("tangent", (0, 1)), ("tangent", (1, 2)),
                                             ("tangent", (0, 2)), ("radius", (0,), "1 mm"), ("radius", (1,), "2 mm"), ("radius", (2,), "3 mm")],
                               {"1.m": (3, 0), "2.m": (0, 4)}, {}),
    "a circle in a triangle of 3, 4 and 5": ([*TRIANGLE, (C, (3, 1), (3.5, 1))],
                                             [*ring(3), *PLACED, ("distance", (0,), "4 mm"), ("distance", (1,), "3 mm"), ("distance", (2,), "5 mm"),
                                              *(("tangent", (i, 3)) for i in range(3))], {"3.m": (3, 1)}, {3: 1}),
    "a line touching two circles from outside": ([(C, (0, 0), (5, 0)), (C, (20, 0), (25, 0)), (L, (1, 5), (20, 6))],
                                                 [("coincident", ("0.m", "o")), ("on_curve", ("1.m", "x")), ("distance", ("0.m", "1.m"), "20 mm"),
                                                  ("radius", (0,), "5 mm"), ("equal", (0, 1)), ("tangent", (2, 0)), ("tangent", (2, 1)),
                                                  ("vertical", ("2.a", "0.m")), ("vertical", ("2.b", "1.m"))], {"2.a": (0, 5), "2.b": (20, 5)}, {}),
    "a line crossing between two circles": ([(C, (-6, 0), (-3, 0)), (C, (6, 0), (9, 0)), (L, (-5, 3), (5, -3))],
                                            [("on_curve", ("0.m", "x")), ("on_curve", ("1.m", "x")), ("distance", ("0.m", "y"), "6 mm"),
                                             ("distance", ("1.m", "y"), "6 mm"), ("radius", (0,), "3 mm"), ("radius", (1,), "3 mm"),
                                             ("tangent", (2, 0)), ("tangent", (2, 1)), ("on_curve", ("2.a", 0)), ("on_curve", ("2.b", 1))],
                                            {"2.a": (-4.5, 1.5 * H3), "2.b": (4.5, -1.5 * H3)}, {}),
    "a circle inside another": ([(C, (0, 0), (10, 0)), (C, (5, 0), (8, 0))], [("coincident", ("0.m", "o")), ("on_curve", ("1.m", "x")), ("radius", (0,), "10 mm"),
                                ("tangent", (0, 1)), ("radius", (1,), "4 mm")], {"1.m": (6, 0)}, {}),
    "a circle's size from what it touches": ([(C, (0, 0), (4, 0)), (C, (13, 0), (18, 0))],
                                             [("coincident", ("0.m", "o")), ("on_curve", ("1.m", "x")), ("distance", ("1.m", "y"), "13 mm"),
                                              ("radius", (0,), "4 mm"), ("tangent", (0, 1))], {}, {1: 9}),
    "a point on a circle above a line": ([(C, (0, 0), (5, 0)), (P, (3, 3.5))], [("coincident", ("0.m", "o")), ("radius", (0,), "5 mm"), ("on_curve", (1, 0)),
                                         ("distance", (1, "y"), "3 mm")], {"1": (3, 4)}, {}),
    "the foot of a perpendicular": ([(L, (0, 0), (10, 10)), (L, (8, 1), (5, 5))], [("coincident", ("0.a", "o")), ("angle", ("x", 0), "45 deg"), ("distance", (0,), "20 mm"),
                                    ("on_curve", ("1.a", "x")), ("distance", ("1.a", "y"), "8 mm"), ("on_curve", ("1.b", 0)), ("square", (0, 1))],
                                    {"1.b": (4, 4)}, {}),
    "middles of middles": ([(L, (0, 0), (16, 2)), (P, (7, 1)), (L, (1, 1), (7, 1)), (P, (3, 1))],
                           [*PLACED, ("distance", (0,), "16 mm"), ("midpoint", (1, 0)), ("coincident", ("2.a", "0.a")), ("coincident", ("2.b", 1)), ("midpoint", (3, 2))],
                           {"1": (8, 0), "3": (4, 0)}, {}),
    "a quarter arc by its length": ([(A, (10, 0), (0, 10), (7, 7))], [("coincident", ("0.m", "o")), ("on_curve", ("0.a", "x")), ("radius", (0,), "10 mm"),
                                    ("arc_length", (0,), f"{5 * math.pi:.15f} mm")], {"0.b": (0, 10), "0.a": (10, 0)}, {}),
    "an arc that leaves a line smoothly": ([(L, (0, 0), (10, 0)), (A, (10, 0), (14, 4), (13, 1.2))],
                                           [*joined("0.b 1.a"), *PLACED, ("distance", (0,), "10 mm"), ("tangent", (0, 1)), ("radius", (1,), "4 mm"),
                                            ("horizontal", ("1.b", "1.m"))], {"1.m": (10, 4), "1.b": (14, 4)}, {}),
    "an arc that bends back after another": ([(A, (0, -5), (5, 0), (3.5, -3.5)), (A, (10, 5), (5, 0), (6.5, 3.5))],
                                             [("coincident", ("0.m", "o")), *joined("0.b 1.b"), ("radius", (0,), "5 mm"), ("radius", (1,), "3 mm"), ("tangent", (0, 1)),
                                              ("on_curve", ("0.a", "y")), ("on_curve", ("0.b", "x")), ("vertical", ("1.a", "1.m"))],
                                             {"0.b": (5, 0), "1.m": (8, 0), "1.a": (8, 3)}, {}),
    "a chord by its distance from the middle": ([(C, (0, 0), (5, 0)), (L, (-4, 3), (4, 3))],
                                                [("coincident", ("0.m", "o")), ("radius", (0,), "13 mm"), ("horizontal", (1,)), ("on_curve", ("1.a", 0)), ("on_curve", ("1.b", 0)),
                                                 ("distance", ("0.m", 1), "5 mm")], {"1.a": (-12, 5), "1.b": (12, 5)}, {}),
    "a polygon of lengths that closes": (QUAD, [*ring(4), *PLACED, ("distance", (0,), "9 mm"), ("angle", (0, 1), "90 deg"), ("distance", (1,), "4 mm"),
                                                ("angle", (1, 2), "90 deg"), ("distance", (2,), "6 mm")], {"3.a": (3, 4)}, {}),
    "points at equal spans": ([(P, (0, 0)), (P, (4, 1)), (P, (9, 2))], [("coincident", (0, "o")), ("on_curve", (1, "x")), ("on_curve", (2, "x")),
                              ("equal", (0, 1, 2)), ("distance", (0, 2), "18 mm")], {"1": (9, 0), "2": (18, 0)}, {}),
    "a web between circles": ([(C, (0, 0), (3, 0)), (C, (20, 0), (25, 0))], [("coincident", ("0.m", "o")), ("on_curve", ("1.m", "x")), ("radius", (0,), "3 mm"),
                              ("radius", (1,), "5 mm"), ("distance", (0, 1), "2 mm")], {"1.m": (10, 0)}, {}),
    "a line clear of a circle": ([(C, (0, 0), (3, 0)), (L, (-9, 9), (9, 8))], [("coincident", ("0.m", "o")), ("radius", (0,), "3 mm"), ("horizontal", (1,)),
                                 ("distance", (1, 0), "2 mm"), ("distance", ("1.a", "y"), "9 mm"), ("distance", (1,), "18 mm")], {"1.a": (-9, 5)}, {}),
    "a hexagon by the way across its corners": ([("polygon", (0, 0), (10, 0))], [("concentric", (0, "o")), ("diameter", (0,), "24 mm"), ("horizontal", (2,))],
                                                {"0.m": (0, 0)}, {0: 12}),
    "lines in line, a gap apart": ([(L, (0, 0), (9, 0)), (L, (12, 0.4), (20, 0))], [*PLACED, ("collinear", (0, 1)), ("distance", (0,), "9 mm"), ("distance", (1,), "8 mm"),
                                   ("distance", ("0.b", "1.a"), "3 mm")], {"1.a": (12, 0), "1.b": (20, 0)}, {}),
    "a flat triangle": (TRIANGLE, [*ring(3), *PLACED, ("distance", (0,), "12 mm"), ("distance", (1,), "5 mm"), ("distance", (2,), "7.5 mm")],
                        {"1.b": ((144 + 56.25 - 25) / 24, math.sqrt(56.25 - ((144 + 56.25 - 25) / 24) ** 2))}, {}),
}


@pytest.mark.parametrize("case", PLACES)
def test_places(case: str) -> None:
    shapes, ties, places, radii = PLACES[case]
    b, curves = things(*shapes)
    tied(b, curves, ties)
    made = settled(b)
    for thing, place in places.items():
        at = made.place(named(made, curves, int(thing) if thing.isdigit() else thing))
        assert at == pytest.approx(place, abs=1e-8), thing
    for i, radius in radii.items():
        assert made.curves[curves[i]].radius == pytest.approx(radius, abs=1e-8)  # type: ignore[union-attr]


# shapes, constraints, the one too many, what is told of it
EQUAL_QUAD: list[Tie] = [*ring(4), ("equal", (0, 1)), ("equal", (1, 2)), ("equal", (2, 3))]
TRAPEZOID: list[Tie] = [*ring(4), ("symmetric", ("0.a", "0.b", "y")), ("symmetric", ("2.a", "2.b", "y"))]
MEDIANS = [*TRIANGLE, (P, (2.5, 0.1)), (P, (4.5, 1.6)), (P, (2, 1.5)), (L, (4, 3), (2.5, 0.1)), (L, (0, 0), (4.5, 1.6)), (L, (5, 0.3), (2, 1.5)),
           (P, (3, 1.1))]
MIDDLES: list[Tie] = [*ring(3), *((("midpoint"), (3 + i, i)) for i in range(3)),
                      *joined("6.a 1.b"), ("coincident", ("6.b", 3)), *joined("7.a 0.a"), ("coincident", ("7.b", 4)),
                      *joined("8.a 0.b"), ("coincident", ("8.b", 5))]
TOO_MANY: dict[str, tuple[list[Any], list[Tie], Tie, str]] = {
    "opposite sides of a rhombus": (QUAD, EQUAL_QUAD, ("parallel", (0, 2)), "not needed"),
    "diagonals of a rhombus": ([*QUAD, (L, (0, 0), (14, 9)), (L, (10, 0), (4, 9))],
                               [*EQUAL_QUAD, *joined("4.a 0.a", "4.b 1.b", "5.a 0.b", "5.b 2.b")], ("square", (4, 5)), "not needed"),
    "an angle against a rhombus": (QUAD, [*EQUAL_QUAD, ("angle", (0, 1), "60 deg")], ("angle", (1, 2), "80 deg"), "fight"),
    "legs of a symmetric trapezoid": ([(L, (-8, 0), (9, 0)), (L, (9, 0), (5, 6)), (L, (5, 6), (-4, 6)), (L, (-4, 6), (-8, 0))], TRAPEZOID,
                                      ("equal", (1, 3)), "not needed"),
    "sides of a symmetric trapezoid": ([(L, (-8, 0), (9, 0)), (L, (9, 0), (5, 6)), (L, (5, 6), (-4, 6)), (L, (-4, 6), (-8, 0))], TRAPEZOID,
                                       ("parallel", (0, 2)), "not needed"),
    "the angle in a half circle": ([(C, (0, 0), (5, 0)), (L, (-5, 0), (5, 0)), (L, (5, 0), (3, 4)), (L, (3, 4), (-5, 0))],
                                   [*joined("1.b 2.a", "2.b 3.a", "3.b 1.a"), ("midpoint", ("0.m", 1)), ("on_curve", ("1.a", 0)), ("on_curve", ("2.b", 0))],
                                   ("square", (2, 3)), "not needed"),
    "the third median": (MEDIANS, [*MIDDLES, ("on_curve", (9, 6)), ("on_curve", (9, 7))], ("on_curve", (9, 8)), "not needed"),
    "points in one line, once more": ([(L, (0, 0), (9, 0.2)), (P, (3, 0.1)), (P, (6, 0.2)), (L, (3, 0.1), (6, 0.2))],
                                      [("on_curve", (1, 0)), ("on_curve", (2, 0)), ("coincident", ("3.a", 1)), ("coincident", ("3.b", 2))],
                                      ("collinear", (0, 3)), "not needed"),
    "the fourth angle of a quadrilateral": (QUAD, [*ring(4), ("angle", (0, 1), "70 deg"), ("angle", (1, 2), "110 deg"), ("angle", (2, 3), "65 deg")],
                                            ("angle", (3, 0), "115 deg"), "not needed"),
    "a fourth angle that does not add up": (QUAD, [*ring(4), ("angle", (0, 1), "70 deg"), ("angle", (1, 2), "110 deg"), ("angle", (2, 3), "65 deg")],
                                            ("angle", (3, 0), "100 deg"), "fight"),
    "a chain of level lines": ([(L, (0, 0), (9, 0)), (L, (9, 0), (15, 1))], [*joined("0.b 1.a"), ("horizontal", (0,)), ("horizontal", (1,))],
                               ("collinear", (0, 1)), "not needed"),
    "a tangency at a joint, said twice": ([(L, (0, 0), (10, 0)), (A, (10, 0), (14, 4), (13, 1.2))], [*joined("0.b 1.a"), ("tangent", (0, 1))],
                                          ("square", (0, 0)), "picked twice"),
    "one circle touched three times": (THREE_ROUND, [("tangent", (0, 1)), ("tangent", (1, 2)), ("tangent", (0, 2)), *(("radius", (i,), "3 mm") for i in range(3))],
                                       ("distance", ("0.m", "1.m"), "6 mm"), "not needed"),
    "touching circles too far apart": (THREE_ROUND, [("tangent", (0, 1)), *(("radius", (i,), "3 mm") for i in range(2))],
                                       ("distance", ("0.m", "1.m"), "7 mm"), "fight"),
    "a triangle that can not close": (TRIANGLE, [*ring(3), ("distance", (0,), "1 mm"), ("distance", (1,), "1 mm")], ("distance", (2,), "5 mm"), "no further"),
    "a span through the middle": ([(L, (0, 0), (10, 0)), (P, (5, 0))], [("midpoint", (1, 0)), ("distance", (0,), "10 mm")], ("distance", ("0.a", 1), "5 mm"), "not needed"),
    "half a span that is not half": ([(L, (0, 0), (10, 0)), (P, (5, 0))], [("midpoint", (1, 0)), ("distance", (0,), "10 mm")], ("distance", ("0.a", 1), "6 mm"), "fight"),
    "concentric, once more": ([(C, (0, 0), (3, 0)), (C, (1, 0), (6, 0))], [("coincident", ("0.m", "o")), ("coincident", ("1.m", "o"))], ("concentric", (0, 1)), "not needed"),
    "a radius and its diameter": ([(C, (0, 0), (3, 0))], [("radius", (0,), "3 mm")], ("diameter", (0,), "6 mm"), "not needed"),
    "a radius against its diameter": ([(C, (0, 0), (3, 0))], [("radius", (0,), "3 mm")], ("diameter", (0,), "7 mm"), "fight"),
    "fixed and moved": ([(L, (0, 0), (10, 0))], [("fixed", (0,))], ("distance", (0,), "12 mm"), "fight"),
    "fixed and as it is": ([(L, (0, 0), (10, 0))], [("fixed", (0,))], ("distance", (0,), "10 mm"), "not needed"),
}


@pytest.mark.parametrize("case", TOO_MANY)
def test_the_one_too_many(case: str) -> None:
    shapes, ties, last, told = TOO_MANY[case]
    b, curves = things(*shapes)
    tied(b, curves, ties)
    before = b.part
    with pytest.raises(SketchError, match=told):
        tied(b, curves, [last])
    assert b.part is before


# shapes, constraints, how many freedoms there are at a generic place though the drawing stands at a singular one
SINGULAR: dict[str, tuple[list[Any], list[Tie], int]] = {
    "a folded linkage": ([(L, (0, 0), (10, 0)), (L, (10, 0), (4, 0))], [("coincident", ("0.a", "o")), *joined("0.b 1.a"), ("distance", (0,), "10 mm"),
                                                                   ("distance", (1,), "6 mm"), ("on_curve", ("1.b", "x"))], 1),
    "circles that touch on the axis": ([(C, (0, 0), (4, 0)), (C, (9, 0), (14, 0))], [("coincident", ("0.m", "o")), ("tangent", (0, 1)), ("radius", (0,), "4 mm"),
                                                                              ("radius", (1,), "5 mm")], 1),
    "smooth joints of a slot": ([("slot", (0, 0), (20, 0), (10, 6))], [], 5),
    "a line on a line": ([(L, (0, 0), (9, 0)), (L, (2, 0), (7, 0))], [("on_curve", ("1.a", 0)), ("on_curve", ("1.b", 0))], 6),
    "parallel lines at one height": ([(L, (0, 0), (9, 0)), (L, (12, 0), (20, 0))], [("parallel", (0, 1))], 7),
    "a square drawn as a rectangle": ([("rectangle", (0, 0), (10, 10))], [], 4),
}


@pytest.mark.parametrize("case", SINGULAR)
def test_freedoms_at_singular_places(case: str) -> None:
    shapes, ties, expected = SINGULAR[case]
    b, curves = things(*shapes)
    tied(b, curves, ties)
    drawing = b.drawing("s1")
    assert find_freedoms(solve(drawing, figures_of(b.part).values(drawing))).number == expected


def test_a_line_of_no_length_after_a_change_comes_back() -> None:
    """A stair's riser vanishes when both treads stand at one height, and turns over beyond it; nothing is lost on the way."""
    b, curves = things((L, (0, 0), (0, 5)), (L, (0, 5), (10, 5)), (L, (10, 5), (10, 9)), (L, (10, 9), (20, 9)), (L, (20, 9), (20, 0)), (L, (20, 0), (0, 0)))
    tied(b, curves, [*ring(6), ("coincident", ("0.a", "o")), *(("vertical" if i % 2 == 0 else "horizontal", (i,)) for i in range(6)),
                     ("distance", ("0.b", "x"), "5 mm"), ("distance", ("3.a", "x"), "9 mm"), ("distance", ("1.b", "y"), "10 mm"),
                     ("distance", (5,), "20 mm")])
    high = next(c.value.tag for c in b.drawing("s1").constraints.values() if c.value and c.value.formula == "9 mm")
    for formula, riser in (("5 mm", 0.0), ("3 mm", -2.0), ("9 mm", 4.0)):
        b.do(do="set_formula", tag=high, formula=formula)
        made = settled(b)
        line = made.curves[curves[2]]
        assert isinstance(line, Line)
        assert made.points[line.end][1] - made.points[line.start][1] == pytest.approx(riser, abs=1e-9)
        assert find_freedoms(solve(made, figures_of(b.part).values(made))).number == 0


def test_a_rounding_grows_until_its_side_is_used_up_and_no_further() -> None:
    """Beyond that the straight piece would turn over and both joints become cusps, though every equation could be met."""
    b, _, curves = drawn(("rectangle", (0, 0), (50, 30)))
    for curve, formula in ((curves[0], "50 mm"), (curves[1], "30 mm")):
        b.constrain("s1", "distance", curve, formula=formula)
    right = [p for p, at in b.drawing("s1").points.items() if at[0] > 49]
    b.do(do="edit_sketch", step="s1", edit={"op": "round_corner", "points": right, "radius": "6 mm"})
    (tag,) = (c.value.tag for c in b.drawing("s1").constraints.values() if c.kind == "radius" and c.value)
    b.do(do="set_formula", tag=tag, formula="14.5 mm")
    assert settled(b).curves
    b.do(do="set_formula", tag=tag, formula="42 mm")
    with pytest.raises(SketchError, match=r"follows to about (14\.9|15)"):
        settled(b)
    b.do(do="set_formula", tag=tag, formula="9 mm")
    assert sum(c.kind == "arc" and c.radius == pytest.approx(9) for c in settled(b).curves.values()) == 2


@pytest.mark.parametrize("shape", ["arc", "ellipse_arc"])
def test_an_arc_does_not_close_up_and_come_out_as_nearly_a_circle(shape: str) -> None:
    """Its end comes down to its start and could pass it; every equation would be met, but the arc would go all the way round."""
    ends = [(10, 0), (8, 6), (9.4868330, 3.1622777)] if shape == "arc" else [(0, 0), (0, 10), (10, 0), (8, 6)]
    b, curves = things((shape, *ends), (P, (14, -5)))
    tied(b, curves, [("fixed", ("0.m",)), ("fixed", ("0.a",)), ("fixed", (1,))])
    if shape == "ellipse_arc":
        b.constrain("s1", "fixed", b.drawing("s1").curves[curves[0]].points[1])
    point, end = curves[1], named(b.drawing("s1"), curves, "0.b")
    b.constrain("s1", "distance", point, end, manner="vertical", formula="11 mm", tag="rise")
    for formula in ("8 mm", "5.5 mm"):
        b.do(do="set_formula", tag="outline_rise", formula=formula)
        made = settled(b)
        (cx, cy), (sx, sy), (ex, ey) = (made.place(named(made, curves, f"0.{which}")) for which in "mab")
        assert (math.atan2(ey - cy, ex - cx) - math.atan2(sy - cy, sx - cx)) % (2 * math.pi) < 1
    b.do(do="set_formula", tag="outline_rise", formula="3 mm")
    with pytest.raises(SketchError, match=r"follows to about (5|5\.0\d*) and no further"):
        settled(b)


def test_a_tangent_arc_flattens_as_its_lines_come_into_one() -> None:
    """Two lines joined by a tangent arc, their angle opened until they are nearly straight."""
    b, curves = things((L, (-20, 0), (0, 0)), (A, (0, 0), (7.0710678, 2.9289322), (3.8268343, 0.7612047)), (L, (7.0710678, 2.9289322), (17, 13)))
    tied(b, curves, [("coincident", ("0.b", "1.a")), ("coincident", ("1.b", "2.a")), ("fixed", (0,)), ("tangent", (0, 1)), ("tangent", (2, 1)),
                     ("radius", (1,), "10 mm"), ("distance", (2,), "12 mm"), ("distance", ("2.b", 0), "11 mm")])
    (tag,) = (c.value.tag for c in b.drawing("s1").constraints.values() if c.value and c.value.formula == "11 mm")
    b.do(do="set_formula", tag=tag, formula="0.4 mm")
    made = settled(b)
    (cx, cy), (sx, sy), (ex, ey) = (made.points[p] for p in made.curves[curves[1]].points)
    assert (math.atan2(ey - cy, ex - cx) - math.atan2(sy - cy, sx - cx)) % (2 * math.pi) < 0.2
