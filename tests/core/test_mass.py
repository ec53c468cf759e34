"""Mass and inertia of solids against their formulas, alone and together."""

from __future__ import annotations

import math
from collections.abc import Callable

import pytest

from tests.building import axis, datum, drawn_on, f
from tests.samples import evaluated
from wendal.core import inspect
from wendal.core.errors import CommandRefused
from wendal.core.inspect.mass import MassesAndSizes
from wendal.demo.builder import Builder

PI = math.pi
XY, ZX, Z = axis("XY"), axis("ZX"), axis("Z")


def asked(b: Builder) -> MassesAndSizes:
    found = inspect.ask(b.part, evaluated(b), inspect.asked({"of": "mass"}))
    assert isinstance(found, MassesAndSizes)
    return found


def extruded(b: Builder, depth: float, shape: str, *ends: tuple[float, float]) -> None:
    sketch = drawn_on(b, XY, shape, *ends)
    b.step("extrude", f"Body {b.part.last}", profile=b.profile(sketch, 0), depth=f(f"{depth} mm"))


def turned(b: Builder, *places: tuple[float, float], arc: tuple[tuple[float, float], ...] = ()) -> None:
    """A polygon of (radius, height) places turned about Z; arc : centre, start, end in place of all lines but the last."""
    sketch = b.step("sketch", f"Half {b.part.last}", on=ZX)
    frame = evaluated(b).site.sketches[sketch].frame
    flat = lambda p: frame.local((p[0], 0.0, p[1]))[:2]  # noqa: E731
    if arc:
        centre, start, end = map(flat, arc)
        b.draw(sketch, "arc_centre", centre, start, end)
        b.draw(sketch, "line", start, end)
    else:
        for p, q in zip(places, places[1:] + places[:1], strict=True):
            b.draw(sketch, "line", flat(p), flat(q))
    b.step("revolve", f"Body {b.part.last}", profile=[{"of": "sketch", "step": sketch}], axis=Z)


def round_(m: float, r: float, h: float) -> tuple[float, float, float]:
    side = m * (3 * r * r + h * h) / 12
    return side, side, m * r * r / 2


def box(m: float, a: float, b: float, c: float) -> tuple[float, float, float]:
    return m * (b * b + c * c) / 12, m * (a * a + c * c) / 12, m * (a * a + b * b) / 12


def tube(r: float, i: float, h: float) -> tuple[float, tuple[float, ...]]:
    m = PI * (r * r - i * i) * h
    side = m * (3 * (r * r + i * i) + h * h) / 12
    return m, (side, side, m * (r * r + i * i) / 2)


BALL, CONE, HALF = 4 / 3 * PI * 8**3, PI * 36 * 12 / 3, 2 / 3 * PI * 8**3
Make = Callable[[Builder], None]
# What is made, its volume, its moments about its centre along X, Y, Z, its centre.
SOLIDS: list[tuple[Make, float, tuple[float, ...], tuple[float, float, float]]] = [
    (lambda b: extruded(b, 10, "rectangle", (0, 0), (40, 25)), 10000, box(10000, 40, 25, 10), (20, 12.5, 5)),
    (lambda b: extruded(b, 7, "rectangle", (-3, -3), (3, 3)), 252, box(252, 6, 6, 7), (0, 0, 3.5)),
    (lambda b: extruded(b, 30, "circle", (60, 10), (65, 10)), PI * 25 * 30, round_(PI * 25 * 30, 5, 30), (60, 10, 15)),
    (lambda b: extruded(b, 2, "circle", (0, 0), (50, 0)), PI * 2500 * 2, round_(PI * 2500 * 2, 50, 2), (0, 0, 1)),
    (lambda b: turned(b, arc=((0, 5), (0, -3), (0, 13))), BALL, (0.4 * BALL * 64,) * 3, (0, 0, 5)),
    (lambda b: turned(b, (0, 0), (6, 0), (0, 12)), CONE, (CONE * (3 / 20 * 36 + 3 / 80 * 144),) * 2 + (0.3 * CONE * 36,), (0, 0, 3)),
    (lambda b: turned(b, (4, 0), (9, 0), (9, 6), (4, 6)), *tube(9, 4, 6), (0, 0, 3)),
    (lambda b: turned(b, (19, -3), (21, -3), (21, 3), (19, 3)), *tube(21, 19, 6), (0, 0, 0)),
    (lambda b: extruded(b, 4, "slot", (-10, 0), (10, 0), (0, 5)), 4 * (200 + 25 * PI), (), (0, 0, 2)),
    (lambda b: extruded(b, 100, "rectangle", (0, 0), (1, 1)), 100, box(100, 1, 1, 100), (0.5, 0.5, 50)),
]  # fmt: skip


def slot_moments() -> tuple[float, float, float]:
    """Of a slot of 20 between centres, R5, 4 high: a plate and two half discs."""
    h, plate, half = 4.0, 4 * 200.0, 4 * PI * 25 / 2
    off = 4 * 5 / (3 * PI)  # of a half disc's centre
    along = box(plate, 20, 10, h)
    about_x = along[0] + 2 * half * (25 / 4 + h * h / 12)
    about_y = along[1] + 2 * (half * (25 / 4 - off * off + h * h / 12) + half * (10 + off) ** 2)
    about_z = along[2] + 2 * (half * (25 / 2 - off * off) + half * (10 + off) ** 2)
    return about_x, about_y, about_z


@pytest.mark.parametrize("case", range(len(SOLIDS)))
def test_inertia_by_formula(case: int) -> None:
    make, volume, moments, centre = SOLIDS[case]
    b = Builder("Solid")
    make(b)
    (one,) = asked(b).bodies
    assert one.volume == pytest.approx(volume, rel=1e-9)
    assert one.centre == pytest.approx(centre, abs=1e-9)
    wanted = moments or slot_moments()
    assert [one.inertia[i][i] for i in range(3)] == pytest.approx(wanted, rel=1e-9)
    assert [one.inertia[i][j] for i in range(3) for j in range(3) if i != j] == pytest.approx([0] * 6, abs=1e-6 * max(wanted))
    assert list(one.moments) == pytest.approx(sorted(wanted), rel=1e-9)
    x, y, z = centre
    steiner = [volume * (y * y + z * z), volume * (x * x + z * z), volume * (x * x + y * y)]
    assert [one.about[i][i] for i in range(3)] == pytest.approx([w + s for w, s in zip(wanted, steiner, strict=True)], rel=1e-9)
    assert one.mass == 0


def two(b: Builder) -> None:
    extruded(b, 10, "rectangle", (0, 0), (20, 20))
    extruded(b, 10, "rectangle", (30, 0), (50, 20))


def test_two_bodies_together_are_as_one_and_materials_weigh() -> None:
    b = Builder("Two")
    two(b)
    found = asked(b)
    assert found.all is not None
    one, other = found.bodies
    whole = found.all
    assert whole.volume == pytest.approx(8000)
    assert whole.centre == pytest.approx((25, 10, 5))
    assert whole.inertia[2][2] == pytest.approx(2 * (4000 * 800 / 12 + 4000 * 15**2))
    assert sorted(whole.moments) == pytest.approx(sorted(whole.inertia[i][i] for i in range(3)))
    assert (whole.low, whole.high) == (pytest.approx((0, 0, 0), abs=1e-6), pytest.approx((50, 20, 10), abs=1e-6))
    b.do(do="set_body_look", body=one.id, look={"material": "steel"})
    found = asked(b)
    assert found.bodies[0].mass == pytest.approx(4000 * 7.85e-3)
    assert found.all is None  # one has no material
    b.do(do="set_body_look", body=other.id, look={"material": "aluminium"})
    whole = asked(b).all  # type: ignore[assignment]
    assert whole.mass == pytest.approx(4000 * (7.85 + 2.7) * 1e-3)
    assert whole.centre[0] == pytest.approx((7.85 * 10 + 2.7 * 40) / (7.85 + 2.7))


def test_boxes_and_inertia_follow_the_active_system() -> None:
    b = Builder("Turned")
    extruded(b, 10, "rectangle", (0, 0), (40, 25))
    point = b.step("point", "Corner", how="coordinates", x=f("40 mm"), y=f("0 mm"), z=f("0 mm"))
    system = b.step("system", "Turned", how="axes", first=datum(point), second=axis("Y"), third=Z)
    b.do(do="set_active_system", step=system)
    (one,) = asked(b).bodies
    assert (one.low, one.high) == (pytest.approx((0, 0, -40), abs=1e-6), pytest.approx((25, 10, 0), abs=1e-6))
    assert [one.inertia[i][i] for i in range(3)] == pytest.approx(box(10000, 25, 10, 40))
    assert one.at == pytest.approx((20, 12.5, 5))


def test_nothing_to_weigh_and_unknown_materials_are_refused() -> None:
    with pytest.raises(CommandRefused, match="no solid body"):
        asked(Builder("Empty"))
    b = Builder("Two")
    two(b)
    with pytest.raises(CommandRefused, match="no material"):
        b.do(do="set_body_look", body=evaluated(b).site.bodies and next(iter(evaluated(b).site.bodies)), look={"material": "unobtainium"})


