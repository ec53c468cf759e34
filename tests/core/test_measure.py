"""Measuring against calculation by hand: a plate of 40 x 25 x 10 at the origin, and a pin of Ø10, 30 high, on X 60, Y 10."""

from __future__ import annotations

import itertools
import math
from functools import cache
from typing import Any

import pytest

from tests.building import axis, datum, drawn_on, f
from tests.samples import evaluated
from wendal.core import inspect
from wendal.core.errors import CommandRefused, ReferenceLost
from wendal.core.reference import edge_ref, face_ref, vertex_ref
from wendal.core.route import Evaluation
from wendal.core.sketch import path_of
from wendal.demo.builder import Builder

PI = math.pi
Z, X, Y = axis("Z"), axis("X"), axis("Y")
XY, YZ = axis("XY"), axis("YZ")
ORIGIN = axis("origin")


@cache
def scene() -> tuple[Builder, Evaluation, dict[str, str]]:
    b = Builder("Measured")
    outline = drawn_on(b, XY, "rectangle", (0, 0), (40, 25))
    plate = b.step("extrude", "Plate", profile=b.profile(outline, 0), depth=f("10 mm"))
    ring = drawn_on(b, XY, "circle", (60, 10), (65, 10))
    pin = b.step("extrude", "Pin", profile=b.profile(ring, 0), depth=f("30 mm"))
    tilted = b.step("plane", "Tilted", how="angle", first=X, second=XY, angle=f("30 deg"))
    high = b.step("plane", "High", how="offset", first=XY, distance=f("50 mm"))
    spot = b.step("point", "Spot", how="coordinates", x=f("20 mm"), y=f("12 mm"), z=f("5 mm"))
    lines = b.step("sketch", "Lines", on=datum(high))
    line = b.draw(lines, "line", (0, 0), (30, 40))[0]
    circle = b.draw(lines, "circle", (60, 10), (80, 10))[0]
    arc = b.draw(lines, "arc_centre", (100, 0), (110, 0), (100, 10))[0]
    half = b.step("sketch", "Half", on=axis("ZX"))
    frame = evaluated(b).site.sketches[half].frame
    flat = lambda p: frame.local(p)[:2]  # noqa: E731
    b.draw(half, "arc_centre", *map(flat, ((-50, 0, 0), (-50, 0, -8), (-50, 0, 8))))
    b.draw(half, "line", flat((-50, 0, -8)), flat((-50, 0, 8)))
    left = b.step("point", "Left", how="coordinates", x=f("-50 mm"), y=f("0 mm"), z=f("0 mm"))
    middle = b.step("axis", "Middle", how="numbers", first=datum(left), x=f("0"), y=f("0"), z=f("1"))
    ball = b.step("revolve", "Ball", profile=[{"of": "sketch", "step": half}], axis=datum(middle))
    spline = b.draw(lines, "spline", (0, 60), (10, 70), (20, 60))[0]
    names = {"plate": plate, "pin": pin, "tilted": tilted, "high": high, "spot": spot, "lines": lines, "line": line, "circle": circle, "arc": arc,
             "spline": spline, "ball": ball}
    return b, evaluated(b), names


def face(*at: float, body: str = "plate") -> Any:
    _, e, names = scene()
    topology = e.site.bodies[names[body]].topology
    return face_ref(names[body], topology, min(range(len(topology.faces)), key=lambda i: math.dist(topology.faces[i].centre, at)))


def edge(*at: float, body: str = "plate") -> Any:
    _, e, names = scene()
    topology = e.site.bodies[names[body]].topology
    spot = lambda x: x.centre if x.form == "circle" else x.middle  # noqa: E731
    return edge_ref(names[body], topology, min(range(len(topology.edges)), key=lambda i: math.dist(spot(topology.edges[i]), at)))


def corner(*at: float) -> Any:
    _, e, names = scene()
    topology = e.site.bodies[names["plate"]].topology
    return vertex_ref(names["plate"], topology, min(range(len(topology.vertices)), key=lambda i: math.dist(topology.vertices[i].place, at)))


def body(name: str) -> Any:
    return {"of": "body", "body": scene()[2][name]}


def drawn(entity: str) -> Any:
    names = scene()[2]
    return {"of": "drawn", "step": names["lines"], "entity": names[entity]}


def data(ref: Any) -> Any:
    return ref if isinstance(ref, dict) else ref.model_dump(mode="json")


def measured(*things: Any, part: Any = None, evaluation: Any = None, **more: Any) -> inspect.Measured:
    b, e, _ = scene()
    asked = inspect.asked({"of": "measure", "things": [data(t) for t in things], **more})
    found = inspect.ask(part or b.part, evaluation or e, asked)
    assert isinstance(found, inspect.Measured)
    return found


def root(*v: float) -> float:
    return math.sqrt(sum(x * x for x in v))


TOP, BOTTOM, RIGHT, LEFT, FRONT, BACK = (
    lambda: face(20, 12.5, 10), lambda: face(20, 12.5, 0), lambda: face(40, 12.5, 5), lambda: face(0, 12.5, 5), lambda: face(20, 0, 5), lambda: face(20, 25, 5),
)  # fmt: skip
WALL, CAP, FOOT = lambda: face(60, 10, 15, body="pin"), lambda: face(60, 10, 30, body="pin"), lambda: face(60, 10, 0, body="pin")
RIM, RING = lambda: edge(60, 10, 30, body="pin"), lambda: edge(60, 10, 0, body="pin")
BALL = lambda: face(-50, 0, 0, body="ball")  # noqa: E731
PIN, PLATE = lambda: body("pin"), lambda: body("plate")

# Two things, the least distance, and the angle between them in degrees (None for none).
PAIRS: list[tuple[Any, Any, float, float | None]] = [
    (TOP, BOTTOM, 10, 0), (RIGHT, LEFT, 40, 0), (FRONT, BACK, 25, 0), (TOP, RIGHT, 0, 90), (RIGHT, WALL, 15, 0), (TOP, WALL, 15, 90), (TOP, CAP, 25, 0),
    (BOTTOM, CAP, root(15, 30), 0), (BOTTOM, FOOT, 15, 0), (LEFT, WALL, 55, 0), (FRONT, WALL, root(20, 10) - 5, 0), (BACK, WALL, 20, 0),
    (PLATE, PIN, 15, None), (PLATE, CAP, 25, None), (PIN, RIGHT, 15, None), (PIN, TOP, 15, None),
    (lambda: corner(40, 25, 10), WALL, 20, None), (lambda: corner(0, 0, 0), WALL, root(60, 10) - 5, None), (lambda: corner(40, 25, 10), CAP, root(20, 20), None),
    (lambda: corner(0, 0, 0), lambda: corner(40, 25, 10), root(40, 25, 10), None), (lambda: corner(0, 0, 10), TOP, 0, None), (lambda: corner(0, 0, 10), BOTTOM, 10, None),
    (lambda: corner(40, 0, 0), LEFT, 40, None), (lambda: corner(40, 0, 0), PIN, root(20, 10) - 5, None),
    (lambda: edge(20, 0, 0), lambda: edge(20, 25, 10), root(25, 10), 0), (lambda: edge(20, 0, 0), lambda: edge(40, 12.5, 10), 10, 90), (lambda: edge(0, 0, 5), lambda: edge(40, 25, 5), root(40, 25), 0),
    (lambda: edge(20, 0, 0), TOP, 10, 0), (lambda: edge(0, 0, 5), TOP, 0, 90), (lambda: edge(40, 12.5, 10), RIM, 25, 90), (lambda: edge(40, 12.5, 10), WALL, 15, 90), (lambda: edge(0, 0, 5), WALL, root(60, 10) - 5, 0),
    (RIM, RING, 30, 0), (RIM, CAP, 0, 90), (RIM, TOP, 25, 90), (RING, lambda: corner(40, 10, 0), root(20, 10) - 5, None), (RIM, lambda: edge(20, 0, 0), root(root(20, 10) - 5, 30), 90),
    (ORIGIN, WALL, root(60, 10) - 5, None), (ORIGIN, TOP, 10, None), (ORIGIN, CAP, root(root(60, 10) - 5, 30), None), (ORIGIN, lambda: corner(40, 25, 10), root(40, 25, 10), None),
    (XY, TOP, 10, 0), (XY, CAP, 30, 0), (XY, RIM, 30, 90), (XY, WALL, 0, 90), (YZ, RIGHT, 40, 0), (YZ, WALL, 55, 0), (YZ, PIN, 55, None), (XY, ORIGIN, 0, None), (XY, X, 0, 0), (XY, Z, 0, 90),
    (X, WALL, 5, 90), (X, Z, 0, 90), (Z, WALL, root(60, 10) - 5, 0), (Z, RIGHT, 40, 0), (Y, RIGHT, 40, 0), (X, TOP, 10, 0), (Z, RIM, root(60, 10) - 5, 0), (Z, PIN, root(60, 10) - 5, None), (X, CAP, root(5, 30), 0),
    (lambda: datum(scene()[2]["tilted"]), XY, 0, 30), (lambda: datum(scene()[2]["tilted"]), TOP, 0, 30), (lambda: datum(scene()[2]["tilted"]), X, 0, 0), (lambda: datum(scene()[2]["tilted"]), Z, 0, 60),
    (lambda: datum(scene()[2]["high"]), TOP, 40, 0), (lambda: datum(scene()[2]["high"]), CAP, 20, 0), (lambda: datum(scene()[2]["high"]), XY, 50, 0), (lambda: datum(scene()[2]["high"]), PIN, 20, None),
    (lambda: datum(scene()[2]["spot"]), PLATE, 0, None), (lambda: datum(scene()[2]["spot"]), TOP, 5, None), (lambda: datum(scene()[2]["spot"]), FRONT, 12, None), (lambda: datum(scene()[2]["spot"]), RIGHT, 20, None),
    (lambda: datum(scene()[2]["spot"]), WALL, root(40, 2) - 5, None), (lambda: datum(scene()[2]["spot"]), ORIGIN, root(20, 12, 5), None), (lambda: datum(scene()[2]["spot"]), Z, root(20, 12), None),
    (lambda: drawn("line"), TOP, 40, 0), (lambda: drawn("line"), Z, 0, 90), (lambda: drawn("line"), X, 50, math.degrees(math.atan2(40, 30))), (lambda: drawn("line"), YZ, 0, math.degrees(math.atan2(30, 40))),
    (lambda: drawn("circle"), RIM, root(15, 20), 0), (lambda: drawn("circle"), CAP, root(15, 20), 90), (lambda: drawn("circle"), XY, 50, 90), (lambda: drawn("arc"), lambda: drawn("circle"), 20, 0),
    (BALL, LEFT, 42, None), (BALL, ORIGIN, 42, None), (BALL, lambda: face(60, 10, 15, body="pin"), root(110, 10) - 13, None), (lambda: body("ball"), PLATE, 42, None), (BALL, YZ, 42, None),
    (lambda: drawn("arc"), TOP, root(60, 40), 90), (lambda: drawn("arc"), Z, root(100, 10), 0),
]  # fmt: skip


def it(ref: Any) -> Any:
    return ref() if callable(ref) else ref


@pytest.mark.parametrize(("one", "other", "least", "angle"), PAIRS, ids=[str(i) for i in range(len(PAIRS))])
def test_the_way_between_two_things(one: Any, other: Any, least: float, angle: float | None) -> None:
    for a, b in ((it(one), it(other)), (it(other), it(one))):
        found = measured(a, b)
        (meaning,) = [m for m in found.meanings if m.words == "least distance"]
        assert meaning.value == pytest.approx(least, abs=1e-6)
        assert math.dist(*meaning.feet) == pytest.approx(least, abs=1e-6)
        assert root(*(p.value for p in meaning.parts)) == pytest.approx(least, abs=1e-6)
        assert [math.degrees(x.value) for x in found.figures] == ([] if angle is None else [pytest.approx(angle, abs=1e-6)])


@pytest.mark.parametrize(("one", "other", "words", "value"), [
    (TOP, BOTTOM, "square from plane to plane", 10), (TOP, CAP, "square from plane to plane", 20), (RIM, RING, "from axis to axis", 0), (RIM, RING, "from centre to centre", 30),
    (lambda: drawn("circle"), RIM, "from centre to centre", 20), (WALL, ORIGIN, "from the axis of a face to", root(60, 10)), (WALL, RIGHT, "from the axis of a face to", 20),
    (lambda: corner(40, 25, 10), CAP, "square to", 20), (lambda: drawn("arc"), lambda: drawn("circle"), "from axis to axis", root(40, 10)),
])  # fmt: skip
def test_other_meanings(one: Any, other: Any, words: str, value: float) -> None:
    found = [m for m in measured(it(one), it(other)).meanings if m.words.startswith(words)]
    assert found[0].value == pytest.approx(value, abs=1e-9)
    assert math.dist(*found[0].feet) == pytest.approx(value, abs=1e-9)


@pytest.mark.parametrize(("thing", "figures"), [
    (TOP, {"area": 1000, "perimeter": 130}), (WALL, {"area": PI * 10 * 30, "perimeter": 2 * PI * 10, "diameter": 10, "radius": 5}), (CAP, {"area": PI * 25, "perimeter": PI * 10}),
    (RIM, {"length round": PI * 10, "diameter": 10, "X of the centre": 60, "Y of the centre": 10, "Z of the centre": 30}), (lambda: edge(20, 0, 0), {"length": 40}),
    (lambda: corner(40, 25, 10), {"X of the place": 40, "Y of the place": 25, "Z of the place": 10}), (PIN, {"volume": PI * 25 * 30, "area": PI * 10 * 30 + 2 * PI * 25, "Z of the centre": 15}),
    (BALL, {"area": 4 * PI * 64, "diameter": 16, "X of the centre": -50}), (lambda: drawn("line"), {"length": 50}), (lambda: drawn("arc"), {"length": PI * 5, "radius": 10}), (ORIGIN, {"X of the place": 0}),
])  # fmt: skip
def test_one_thing_by_itself(thing: Any, figures: dict[str, float]) -> None:
    found = {x.words: x.value for x in measured(it(thing)).figures}
    for words, value in figures.items():
        assert found[words] == pytest.approx(value, rel=1e-9), words


FARTHEST = [
    (TOP, BOTTOM, math.hypot(40, 25, 10)), (lambda: corner(0, 0, 0), TOP, math.hypot(40, 25, 10)), (lambda: corner(0, 0, 10), RIM, math.hypot(math.hypot(60, 10) + 5, 20)),
    (lambda: corner(0, 0, 0), BALL, 58.0), (CAP, lambda: corner(40, 0, 0), math.hypot(math.hypot(20, 10) + 5, 30)), (BALL, lambda: drawn("circle"), None), (WALL, RIM, math.hypot(10, 30)),
    (lambda: edge(20, 0, 0), lambda: edge(20, 25, 10), math.hypot(40, 25, 10)), (PIN, TOP, None), (CAP, CAP, 10.0),
]  # fmt: skip


def spots(thing: Any) -> Any:
    """Places spread over a thing, by its own formula."""
    turn = [2 * PI * k / 720 for k in range(720)]
    if thing is BALL:
        return [(-50 + 8 * math.sin(a) * math.cos(b), 8 * math.sin(a) * math.sin(b), 8 * math.cos(a)) for a in turn[:360:9] for b in turn[::9]]
    if thing is PIN:
        return [(60 + 5 * math.cos(a), 10 + 5 * math.sin(a), z) for a in turn for z in (0, 30)]
    if thing is TOP:
        return [(x, y, 10) for x in (0, 40) for y in (0, 25)]
    return [(60 + 20 * math.cos(a), 10 + 20 * math.sin(a), 50) for a in turn[::3]]


@pytest.mark.parametrize(("one", "other", "value"), FARTHEST)
def test_the_greatest_distance_in_both_orders(one: Any, other: Any, value: float | None) -> None:
    ends = [it(one), it(other)]
    if value is None:  # against the farthest of many places
        value = max(math.dist(p, q) for p in spots(one) for q in spots(other))
    for things in (ends, ends[::-1]):
        found = next(m for m in measured(*things, greatest=True).meanings if m.key == "greatest")
        assert found.value == pytest.approx(value, rel=1e-3 if found.value > value else 1e-7)
        assert math.dist(*found.feet) == pytest.approx(found.value, rel=1e-9)


def test_a_spline_and_an_ellipse_of_a_sketch() -> None:
    spline = drawn("spline")
    (length,) = [x.value for x in measured(spline).figures if x.words == "length"]
    _, e, names = scene()
    curve = e.site.sketches[names["lines"]]
    path = path_of(curve.drawing, names["spline"])
    chords = [path.at(path.t0 + (path.t1 - path.t0) * k / 4000) for k in range(4001)]
    assert length == pytest.approx(sum(math.dist(p, q) for p, q in itertools.pairwise(chords)), rel=1e-6)
    # Symmetric about X 10, its top at Y 70 in the plane at Z 50: the way to a corner below by the nearest chord.
    least = next(m for m in measured(spline, it(lambda: corner(0, 0, 0))).meanings if m.key == "least")
    assert least.value == pytest.approx(min(math.dist((x, y, 50), (0, 0, 0)) for x, y in chords), abs=1e-4)


def test_several_are_added_up() -> None:
    edges = [edge(20, 0, 0), edge(40, 12.5, 0), edge(60, 10, 0, body="pin")]
    assert measured(*edges).figures[0].value == pytest.approx(40 + 25 + PI * 10)
    assert measured(TOP(), RIGHT(), CAP()).figures[0].value == pytest.approx(1000 + 250 + PI * 25)
    with pytest.raises(CommandRefused, match="all of them are edges"):
        measured(TOP(), RIGHT(), edge(20, 0, 0))


def test_what_can_not_be_measured_says_why() -> None:
    for ref, told in ((XY, "has no end"), (Z, "has no end")):
        with pytest.raises(CommandRefused, match=told):
            measured(ref)
    with pytest.raises(ReferenceLost, match="not there any more"):
        measured({"of": "body", "body": "s99"})
    for bad in ({"of": "measure", "things": []}, {"of": "weight"}, {"of": "measure", "things": [{"of": "what"}]}):
        with pytest.raises(CommandRefused):
            inspect.asked(bad)


def test_places_and_parts_follow_the_active_system_and_the_unit() -> None:
    b = Builder("Turned")
    outline = drawn_on(b, XY, "rectangle", (0, 0), (40, 25))
    plate = b.step("extrude", "Plate", profile=b.profile(outline, 0), depth=f("10 mm"))
    point = b.step("point", "Corner", how="coordinates", x=f("40 mm"), y=f("25 mm"), z=f("10 mm"))
    system = b.step("system", "Turned", how="axes", first=datum(point), second=Y, third=Z)
    b.do(do="set_active_system", step=system)
    e = evaluated(b)
    topology = e.site.bodies[plate].topology
    first, last = (vertex_ref(plate, topology, next(i for i, v in enumerate(topology.vertices) if math.dist(v.place, p) < 1e-6)) for p in ((0, 0, 0), (40, 25, 10)))
    assert [x.value for x in measured(first, part=b.part, evaluation=e).figures] == pytest.approx([-25, -10, -40])
    way = measured(first, last, part=b.part, evaluation=e).meanings[0]
    assert [p.value for p in way.parts] == pytest.approx([25, 10, 40])
    b.do(do="set_units", units={"length": "in", "angle": "deg"})
    way = measured(first, last, part=b.part, evaluation=evaluated(b)).meanings[0]
    assert way.shown.endswith(" in")
    assert float(way.shown.split()[0]) == pytest.approx(root(40, 25, 10) / 25.4, abs=1e-3)
