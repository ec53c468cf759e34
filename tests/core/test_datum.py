"""Every datum construction: exact results, degenerate picks, and that it moves along with what it stands on."""

from __future__ import annotations

import math
from types import SimpleNamespace
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from wendal.core.datum import FACETS, KINDS, Curve, Datum, EndlessLine, Picked, Round, Surface, constructions
from wendal.core.datum.planes import BASE_PLANES
from wendal.core.datum.taken import circle_curve, line_curve
from wendal.core.errors import StepError
from wendal.core.kernel.types import Frame, Vec, add, dot, minus, scaled, turned, unit, upright

S2, S3 = math.sqrt(2), math.sqrt(3)
Motion = tuple[Vec, float, Vec]  # axis, angle, shift
STILL: Motion = ((0.0, 0.0, 1.0), 0.0, (0.0, 0.0, 0.0))


def moved(p: Vec, m: Motion) -> Vec:
    return add(turned(p, m[0], m[1]), m[2])


def spun(v: Vec, m: Motion) -> Vec:
    return turned(v, m[0], m[1])


class Picks:
    """Makes picks, all moved by one rigid motion."""

    def __init__(self, motion: Motion = STILL) -> None:
        self.m = motion

    def plane(self, through: Vec, normal: Vec) -> Picked:
        return Picked("plane", plane=upright(moved(through, self.m), spun(unit(normal), self.m)))

    def face(self, through: Vec, normal: Vec, centre: Vec) -> Picked:
        plane = upright(moved(through, self.m), spun(unit(normal), self.m))
        middle = moved(centre, self.m)
        foot = lambda p: plane.at(*plane.local(p)[:2])  # noqa: E731
        return Picked("face", plane=plane, face=Surface(middle, foot, foot, lambda p: plane.normal))

    def ball(self, centre: Vec, radius: float) -> Picked:
        c = moved(centre, self.m)
        foot = lambda p: add(c, scaled(unit(minus(p, c)), radius))  # noqa: E731
        surface = Surface(c, foot, foot, lambda p: unit(minus(p, c)))
        return Picked("ball", face=surface, curved=surface)

    def line(self, start: Vec, direction: Vec, length: float = 10.0) -> Picked:
        line = EndlessLine(moved(start, self.m), spun(unit(direction), self.m), length)
        return Picked("line", line=line, axis=line, curve=line_curve(line))

    def point(self, *p: float) -> Picked:
        return Picked("point", point=moved(p, self.m))  # type: ignore[arg-type]

    def round(self, base: Vec, direction: Vec, radius: float, slope: float = 0.0) -> Picked:
        axis = EndlessLine(moved(base, self.m), spun(unit(direction), self.m))
        return Picked("round", axis=axis, turned=axis, round=Round(axis, radius, slope))

    def circle(self, centre: Vec, x: Vec, y: Vec, radius: float, t1: float = 2 * math.pi) -> Picked:
        frame = Frame(moved(centre, self.m), spun(x, self.m), spun(y, self.m))
        ring = EndlessLine(frame.origin, frame.normal)
        return Picked("circle", axis=ring, turned=ring, circle=ring, curve=circle_curve(frame, radius, 0.0, t1))

    def system(self, origin: Vec, x: Vec, y: Vec) -> Picked:
        frame = Frame(moved(origin, self.m), spun(unit(x), self.m), spun(unit(y), self.m))
        return Picked("system", system=frame, point=frame.origin, plane=frame)

    def towards(self, v: Vec) -> Vec:
        return spun(v, self.m)


ORIGIN, X, Y, Z = (0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)
DEG = math.radians(1)
P = Picks

# kind, how, the given picks and numbers, the expected answers: planes as (normal, offset along it), axes as (through, direction),
# points as places, systems as (origin, x, y).
CASES: list[tuple[str, str, Any, list[Any]]] = [
    ("plane", "offset", lambda p: {"first": p.plane((0, 0, 5), Z), "distance": 20, "side": "out"}, [(Z, 25)]),
    ("plane", "offset", lambda p: {"first": p.plane((0, 0, 5), Z), "distance": 20, "side": "back"}, [(Z, -15)]),
    ("plane", "midway", lambda p: {"first": p.plane((0, 0, 4), Z), "second": p.plane((0, 0, 10), (0, 0, -1))}, [(Z, 7)]),
    ("plane", "midway", lambda p: {"first": p.plane(ORIGIN, Z), "second": p.plane(ORIGIN, X)},
     [((1 / S2, 0, 1 / S2), 0), ((-1 / S2, 0, 1 / S2), 0)]),
    ("plane", "angle", lambda p: {"first": p.line((0, 0, 22), X), "second": p.plane(ORIGIN, Z), "angle": 30 * DEG},
     [((0, -0.5, S3 / 2), 11 * S3), ((0, 0.5, S3 / 2), 11 * S3)]),
    ("plane", "angle", lambda p: {"first": p.round((3, 0, 2), X, 4), "second": p.plane(ORIGIN, Z), "angle": 90 * DEG},
     [((0, -1, 0), 0), ((0, 1, 0), 0)]),
    ("plane", "points", lambda p: {"first": p.point(6, 0, 0), "second": p.point(0, 6, 0), "third": p.point(0, 0, 6)},
     [((1 / S3, 1 / S3, 1 / S3), 6 / S3)]),
    ("plane", "parallel", lambda p: {"first": p.point(1, 2, 3), "second": p.plane((0, 0, 9), Z)}, [(Z, 3)]),
    ("plane", "square", lambda p: {"first": p.point(1, 2, 3), "second": p.line(ORIGIN, (1, 1, 0))}, [((1 / S2, 1 / S2, 0), 3 / S2)]),
    ("plane", "curve_share", lambda p: {"first": p.line(ORIGIN, X, 40), "share": 0.25}, [(X, 10)]),
    ("plane", "curve_share", lambda p: {"first": p.circle(ORIGIN, X, Y, 10, math.pi), "share": 0.5}, [((-1, 0, 0), 0)]),
    ("plane", "curve_length", lambda p: {"first": p.circle(ORIGIN, X, Y, 10), "distance": 5 * math.pi}, [((-1, 0, 0), 0)]),
    ("plane", "curve_point", lambda p: {"first": p.circle(ORIGIN, X, Y, 10), "second": p.point(0, -10, 0)}, [(X, 0)]),
    ("plane", "lines", lambda p: {"first": p.line(ORIGIN, X), "second": p.line((5, 0, 0), Y)}, [(Z, 0)]),
    ("plane", "lines", lambda p: {"first": p.line(ORIGIN, X), "second": p.line((3, 0, 4), X)}, [((0, -1, 0), 0)]),
    ("plane", "line_point", lambda p: {"first": p.line((0, 0, 2), X), "second": p.point(7, 5, 2)}, [(Z, 2)]),
    ("plane", "line_square", lambda p: {"first": p.line((0, 3, 0), X), "second": p.plane(ORIGIN, Z)}, [((0, -1, 0), -3)]),
    ("plane", "view", lambda p: {"first": p.point(0, 0, 4), "facing": p.towards((0.0, 0.0, 2.0))}, [(Z, 4)]),
    ("plane", "touch_point", lambda p: {"first": p.round(ORIGIN, Z, 3), "second": p.point(6, 0, 9)},
     [((0.5, S3 / 2, 0), 3), ((0.5, -S3 / 2, 0), 3)]),
    ("plane", "touch_point", lambda p: {"first": p.round(ORIGIN, Z, 3), "second": p.point(3, 0, 1)}, [(X, 3)]),
    ("plane", "touch_point", lambda p: {"first": p.round(ORIGIN, Z, 3, 1.0), "second": p.point(9, 0, 3)},  # a cone, half angle 45°
     [((2 / 3 / S2, math.sqrt(5) / 3 / S2, -1 / S2), 3 / S2), ((2 / 3 / S2, -math.sqrt(5) / 3 / S2, -1 / S2), 3 / S2)]),
    ("plane", "touch_line", lambda p: {"first": p.round(ORIGIN, Z, 3), "second": p.line((6, 0, 0), Z)},
     [((0.5, S3 / 2, 0), 3), ((0.5, -S3 / 2, 0), 3)]),
    ("plane", "touch_parallel", lambda p: {"first": p.round((1, 0, 0), Z, 3), "second": p.plane((20, 0, 0), X)}, [(X, 4), ((-1, 0, 0), 2)]),
    ("plane", "touch_square", lambda p: {"first": p.round(ORIGIN, Z, 3), "second": p.plane(ORIGIN, X)}, [(Y, 3), ((0, -1, 0), 3)]),
    ("plane", "touch_angle", lambda p: {"first": p.round(ORIGIN, Z, 3), "second": p.plane(ORIGIN, X), "angle": 60 * DEG},
     [((0.5, S3 / 2, 0), 3), ((0.5, -S3 / 2, 0), 3), ((-0.5, S3 / 2, 0), 3), ((-0.5, -S3 / 2, 0), 3)]),
    ("axis", "of_round", lambda p: {"first": p.round((1, 2, 3), Z, 4)}, [((1, 2, 3), Z)]),
    ("axis", "of_round", lambda p: {"first": p.circle((1, 2, 3), X, Y, 4)}, [((1, 2, 3), Z)]),
    ("axis", "planes", lambda p: {"first": p.plane((0, 0, 5), Z), "second": p.plane((3, 0, 0), X)}, [((3, 0, 5), Y)]),
    ("axis", "points", lambda p: {"first": p.point(1, 1, 1), "second": p.point(1, 4, 5)}, [((1, 1, 1), (0, 0.6, 0.8))]),
    ("axis", "along", lambda p: {"first": p.line((1, 1, 1), Y)}, [((1, 1, 1), Y)]),
    ("axis", "square", lambda p: {"first": p.plane((0, 0, 5), Z), "second": p.point(7, 8, 9)}, [((7, 8, 9), Z)]),
    ("axis", "square_curved", lambda p: {"first": p.ball(ORIGIN, 5), "second": p.point(10, 0, 0)}, [((5, 0, 0), X)]),
    ("axis", "spot", lambda p: {"first": p.face((0, 0, 5), Z, (20, 10, 5)), "second": p.line((0, 0, 5), X), "third": p.line((0, 0, 5), Y),
                                "distance": 4, "distance_two": 7}, [((7, 4, 5), Z)]),
    ("axis", "direction", lambda p: {"first": p.point(1, 2, 3), "second": p.line((9, 9, 9), (0, -2, 0))}, [((1, 2, 3), (0, -1, 0))]),
    ("axis", "numbers", lambda p: {"first": p.point(1, 2, 3), "x": 3, "y": 4, "z": 0, "second": p.system((9, 9, 9), Y, (-1, 0, 0))},
     [((1, 2, 3), (-0.8, 0.6, 0))]),
    ("point", "centre", lambda p: {"first": p.circle((1, 2, 3), X, Y, 4, 1.0)}, [(1, 2, 3)]),
    ("point", "centroid", lambda p: {"first": p.face((0, 0, 5), Z, (20, 10, 5))}, [(20, 10, 5)]),
    ("point", "lines_cross", lambda p: {"first": p.line((0, 2, 1), X), "second": p.line((7, 0, 1), Y)}, [(7, 2, 1)]),
    ("point", "line_plane", lambda p: {"first": p.line((1, 2, 9), (0, 0, -1)), "second": p.plane((0, 0, 5), Z)}, [(1, 2, 5)]),
    ("point", "planes", lambda p: {"first": p.plane((0, 0, 5), Z), "second": p.plane((3, 0, 0), X), "third": p.plane((0, -2, 0), Y)},
     [(3, -2, 5)]),
    ("point", "dropped", lambda p: {"first": p.point(1, 2, 9), "second": p.plane((0, 0, 5), Z)}, [(1, 2, 5)]),
    ("point", "dropped_curved", lambda p: {"first": p.point(0, 0, 9), "second": p.ball(ORIGIN, 5)}, [(0, 0, 5)]),
    ("point", "at_point", lambda p: {"first": p.point(1, 2, 3)}, [(1, 2, 3)]),
    ("point", "curve_share", lambda p: {"first": p.line(ORIGIN, X, 40), "share": 0.25}, [(10, 0, 0)]),
    ("point", "curve_length", lambda p: {"first": p.circle(ORIGIN, X, Y, 10), "distance": 5 * math.pi}, [(0, 10, 0)]),
    ("point", "spread", lambda p: {"first": p.line(ORIGIN, X, 40), "count": 3}, [(0, 0, 0), (20, 0, 0), (40, 0, 0)]),
    ("point", "spread", lambda p: {"first": p.circle(ORIGIN, X, Y, 10), "count": 4}, [(10, 0, 0), (0, 10, 0), (-10, 0, 0), (0, -10, 0)]),
    ("point", "spread", lambda p: {"first": p.line(ORIGIN, X, 40), "count": 1}, [(20, 0, 0)]),
    ("point", "coordinates", lambda p: {"first": p.system((1, 1, 1), Y, (-1, 0, 0)), "x": 5, "y": 2, "z": 3}, [(-1, 6, 4)]),
    ("point", "nearest_face", lambda p: {"first": p.ball(ORIGIN, 5), "second": p.point(0, 8, 0)}, [(0, 5, 0)]),
    ("point", "nearest_curve", lambda p: {"first": p.line(ORIGIN, X, 40), "second": p.point(50, 3, 0)}, [(40, 0, 0)]),
    ("point", "nearest_curve", lambda p: {"first": p.circle(ORIGIN, X, Y, 10, math.pi), "second": p.point(9, -3, 0)}, [(10, 0, 0)]),
    ("point", "spot", lambda p: {"first": p.face((0, 0, 5), Z, (20, 10, 5)), "second": p.line((0, 0, 5), X), "third": p.line((0, 0, 5), Y),
                                 "distance": 4, "distance_two": 7}, [(7, 4, 5)]),
    ("system", "axes", lambda p: {"first": p.point(1, 2, 3), "second": p.line(ORIGIN, Y), "third": p.line(ORIGIN, (-1, 1, 0))}, [((1, 2, 3), Y, (-1, 0, 0))]),
    ("system", "axes_z", lambda p: {"first": p.point(1, 2, 3), "second": p.line(ORIGIN, X), "third": p.line(ORIGIN, (1, 0, 1))}, [((1, 2, 3), X, Y)]),
    ("system", "points", lambda p: {"first": p.point(1, 1, 1), "second": p.point(1, 5, 1), "third": p.point(1, 6, 9)}, [((1, 1, 1), Y, Z)]),
    ("system", "on_face", lambda p: {"first": p.plane((0, 0, 5), Z), "second": p.line(ORIGIN, (0, 2, 0)), "third": p.point(3, 4, 9)},
     [((3, 4, 5), Y, (-1, 0, 0))]),
    ("system", "moved", lambda p: {"first": p.system((1, 1, 1), Y, (-1, 0, 0)), "x": 5, "y": 2, "z": 3}, [((-1, 6, 4), Y, (-1, 0, 0))]),
    ("system", "on_axis", lambda p: {"first": p.round((1, 2, 3), Z, 4)}, [((1, 2, 3), X, Y)]),
    ("system", "on_plane", lambda p: {"first": p.system((1, 1, 1), Y, (-1, 0, 0))}, [((1, 1, 1), Y, (-1, 0, 0))]),
]


def made(kind: str, how: str, given: dict[str, Any]) -> list[Datum]:
    return list(constructions(kind)[how].answers(SimpleNamespace(**given)))


def same(datum: Datum, expected: Any, m: Motion) -> None:
    """Check a datum against what is expected, moved."""
    f = datum.frame
    if datum.kind == "plane":
        normal, offset = spun(expected[0], m), expected[1]
        through = moved(scaled(expected[0], offset), m)
        assert f.normal == pytest.approx(normal, abs=1e-9) or f.normal == pytest.approx(scaled(normal, -1), abs=1e-9)
        assert dot(minus(f.origin, through), normal) == pytest.approx(0, abs=1e-8)
    elif datum.kind == "axis":
        through, direction = moved(expected[0], m), spun(expected[1], m)
        assert f.x == pytest.approx(direction, abs=1e-9)
        off = minus(f.origin, through)
        assert minus(off, scaled(direction, dot(off, direction))) == pytest.approx(ORIGIN, abs=1e-8)
    elif datum.kind == "point":
        assert f.origin == pytest.approx(moved(expected, m), abs=1e-8)
    else:
        assert f.origin == pytest.approx(moved(expected[0], m), abs=1e-8)
        assert f.x == pytest.approx(spun(expected[1], m), abs=1e-9)
        assert f.y == pytest.approx(spun(expected[2], m), abs=1e-9)


@pytest.mark.parametrize(("kind", "how", "picks", "expected"), CASES, ids=[f"{c[0]} {c[1]} {i}" for i, c in enumerate(CASES)])
def test_exact_results(kind: str, how: str, picks: Any, expected: list[Any]) -> None:
    found = made(kind, how, picks(P()))
    assert len(found) == len(expected)
    for datum, wanted in zip(found, expected, strict=True):
        same(datum, wanted, STILL)
        assert datum.kind == kind


@given(st.integers(0, len(CASES) - 1), st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda v: dot(v, v) > 0.01), st.floats(-3, 3),
       st.tuples(*[st.floats(-50, 50)] * 3))
@settings(max_examples=400, deadline=None)
def test_a_datum_moves_along_with_what_it_stands_on_answer_by_answer(case: int, axis: Vec, angle: float, shift: Vec) -> None:
    kind, how, picks, expected = CASES[case]
    if how in ("on_axis",):
        return  # its X is level in the part, by definition
    m = (unit(axis), angle, shift)
    for datum, wanted in zip(made(kind, how, picks(P(m))), expected, strict=True):
        same(datum, wanted, m)


def test_every_construction_is_tried_here_and_well_formed() -> None:
    assert {(c[0], c[1]) for c in CASES} == {(s, how) for s in KINDS for how in constructions(s)}
    for kind in KINDS:
        for c in constructions(kind).values():
            assert all(f"{{{name}}}" in c.sentence for name in c.blanks)
            assert all(f in FACETS for b in c.picks.values() for f in b.accepts)
            assert c.need[0] == "D"
    needs = {c.need for s in KINDS for c in constructions(s).values()}
    # D11 is D3 with a round face; D14 and D15 are for all of them.
    assert needs == {f"D{n}" for n in (*range(1, 11), 12, 13, *range(20, 27), *range(30, 38), *range(40, 45))}


DEGENERATE: list[tuple[str, str, Any, str]] = [
    ("plane", "angle", lambda p: {"first": p.line(ORIGIN, Z), "second": p.plane(ORIGIN, Z), "angle": 30 * DEG}, "square to the plane"),
    ("plane", "angle", lambda p: {"first": p.line(ORIGIN, (1, 0, 1)), "second": p.plane(ORIGIN, Z), "angle": 20 * DEG}, "rises at 45.000°"),
    ("plane", "points", lambda p: {"first": p.point(0, 0, 0), "second": p.point(1, 1, 1), "third": p.point(3, 3, 3)}, "in one line"),
    ("plane", "points", lambda p: {"first": p.point(0, 0, 0), "second": p.point(0, 0, 0), "third": p.point(3, 3, 3)}, "in one line"),
    ("plane", "curve_share", lambda p: {"first": p.line(ORIGIN, X, 40), "share": 1.2}, "0 %"),
    ("plane", "curve_length", lambda p: {"first": p.line(ORIGIN, X, 40), "distance": 41}, "40 mm long"),
    ("plane", "curve_point", lambda p: {"first": p.line(ORIGIN, X, 40), "second": p.point(3, 2, 0)}, "2 mm off the curve"),
    ("plane", "lines", lambda p: {"first": p.line(ORIGIN, X), "second": p.line((0, 0, 3), Y)}, "3 mm apart"),
    ("plane", "lines", lambda p: {"first": p.line(ORIGIN, X), "second": p.line((4, 0, 0), X)}, "on one line"),
    ("plane", "line_point", lambda p: {"first": p.line(ORIGIN, X), "second": p.point(4, 0, 0)}, "lies on the line"),
    ("plane", "line_square", lambda p: {"first": p.line(ORIGIN, Z), "second": p.plane(ORIGIN, Z)}, "square to the plane already"),
    ("plane", "view", lambda p: {"first": p.point(0, 0, 0), "facing": ORIGIN}, "direction of the view"),
    ("plane", "touch_point", lambda p: {"first": p.round(ORIGIN, Z, 3), "second": p.point(1, 0, 0)}, "inside the round face (1 mm"),
    ("plane", "touch_line", lambda p: {"first": p.round(ORIGIN, Z, 3), "second": p.line((6, 0, 0), Y)}, "crosses the direction"),
    ("plane", "touch_parallel", lambda p: {"first": p.round(ORIGIN, Z, 3), "second": p.plane(ORIGIN, (1, 0, 1))}, "run along the round face"),
    ("plane", "touch_square", lambda p: {"first": p.round(ORIGIN, Z, 3), "second": p.plane(ORIGIN, Z)}, "across its axis"),
    ("plane", "touch_angle", lambda p: {"first": p.round(ORIGIN, Z, 3), "second": p.plane(ORIGIN, (1, 0, 1)), "angle": 10 * DEG}, "at that angle"),
    ("axis", "planes", lambda p: {"first": p.plane(ORIGIN, Z), "second": p.plane((0, 0, 4), Z)}, "parallel"),
    ("axis", "points", lambda p: {"first": p.point(1, 1, 1), "second": p.point(1, 1, 1)}, "same place"),
    ("axis", "spot", lambda p: {"first": p.face(ORIGIN, Z, (5, 5, 0)), "second": p.line(ORIGIN, X), "third": p.line((0, 9, 0), X), "distance": 1,
                                "distance_two": 1}, "edges are parallel"),
    ("axis", "spot", lambda p: {"first": p.face(ORIGIN, Z, (5, 5, 0)), "second": p.line(ORIGIN, Z), "third": p.line((0, 9, 0), X), "distance": 1,
                                "distance_two": 1}, "square to the face"),
    ("axis", "numbers", lambda p: {"first": p.point(1, 1, 1), "x": 0, "y": 0, "z": 0, "second": None}, "parts are zero"),
    ("point", "lines_cross", lambda p: {"first": p.line(ORIGIN, X), "second": p.line((0, 0, 3), Y)}, "3 mm apart"),
    ("point", "lines_cross", lambda p: {"first": p.line(ORIGIN, X), "second": p.line((0, 0, 3), X)}, "parallel"),
    ("point", "line_plane", lambda p: {"first": p.line(ORIGIN, X), "second": p.plane((0, 0, 3), Z)}, "runs along the plane"),
    ("point", "planes", lambda p: {"first": p.plane(ORIGIN, Z), "second": p.plane(ORIGIN, X), "third": p.plane((0, 0, 4), Z)}, "no single point"),
    ("point", "spread", lambda p: {"first": p.line(ORIGIN, X), "count": 501}, "500"),
    ("system", "points", lambda p: {"first": p.point(1, 1, 1), "second": p.point(1, 1, 1), "third": p.point(0, 0, 0)}, "same place"),
    ("system", "points", lambda p: {"first": p.point(1, 1, 1), "second": p.point(2, 2, 2), "third": p.point(5, 5, 5)}, "along each other"),
    ("system", "axes", lambda p: {"first": p.point(1, 1, 1), "second": p.line(ORIGIN, X), "third": p.line(ORIGIN, X)}, "along each other"),
    ("system", "on_face", lambda p: {"first": p.plane(ORIGIN, Z), "second": p.line(ORIGIN, Z), "third": p.point(1, 1, 1)}, "square to the face"),
]


@pytest.mark.parametrize(("kind", "how", "picks", "told"), DEGENERATE, ids=[f"{c[0]} {c[1]} {i}" for i, c in enumerate(DEGENERATE)])
def test_degenerate_picks_are_named(kind: str, how: str, picks: Any, told: str) -> None:
    with pytest.raises(StepError) as caught:
        made(kind, how, picks(P()))
    assert told in caught.value.message


@given(st.floats(0, 6.28), st.floats(-40, 40), st.floats(-40, 40), st.floats(0.1, 20))
@settings(max_examples=100, deadline=None)
def test_touching_planes_touch(turn: float, x: float, y: float, radius: float) -> None:
    if math.hypot(x, y) < radius * 1.001:
        return
    for datum in made("plane", "touch_point", {"first": P((X, turn, (1, 2, 3))).round(ORIGIN, Z, radius), "second": P((X, turn, (1, 2, 3))).point(x, y, 7)}):
        _, _, height = datum.frame.local(moved(ORIGIN, (X, turn, (1, 2, 3))))
        assert abs(height) == pytest.approx(radius, rel=1e-9)
        assert datum.frame.local(moved((x, y, 7), (X, turn, (1, 2, 3))))[2] == pytest.approx(0, abs=1e-8)


def test_base_planes_have_z_up() -> None:
    assert {n: f.y for n, f in BASE_PLANES.items()} == {"XY": Y, "YZ": Z, "ZX": Z}


def test_curves_measure_from_their_start() -> None:
    curve: Curve = circle_curve(Frame(), 10, 0.5, 2.5)
    assert curve.length == pytest.approx(20)
    assert curve.nearest((10 * math.cos(1.5), 10 * math.sin(1.5), 4)) == pytest.approx(10)
    assert curve.at(0)[0] == pytest.approx((10 * math.cos(0.5), 10 * math.sin(0.5), 0))
