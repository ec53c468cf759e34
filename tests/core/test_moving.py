"""What moves what against derivatives by formula; tolerances against chains by hand; aims against wishes with known answers."""

from __future__ import annotations

import math
import random
from typing import Any

import pytest

from tests.building import BOTTOM, TOP, axis, datum, f
from tests.samples import plate
from wendal.core.errors import CommandRefused
from wendal.core.trust import Aimed, Moved, aimed, moved, stacked
from wendal.demo.builder import Builder
from wendal.workers.trials import Here


def moves(b: Builder, *tags: str) -> Moved:
    return list(moved(b.part, tags, Here()))[-1]


def aim(b: Builder, figure: str, wish: float, tag: str, **more: Any) -> Aimed:
    return list(aimed(b.part, figure, wish, tag, Here(), **more))[-1]


def keep(b: Builder, tag: str, *things: Any, key: str, unit: str = "length", worth: float = 10.0) -> None:
    after = b.part.steps[-1].id
    b.do(do="keep_measure", measure={"tag": tag, "things": list(things), "key": key, "unit": unit, "after": after, "worth": worth})


def of(found: Moved, tag: str) -> dict[str, float]:
    return next(d for d in found.dimensions if d.tag == tag).per


def disc() -> Builder:
    b = Builder("Disc")
    ring = b.step("sketch", "Ring", on=axis("XY"))
    b.draw(ring, "circle", (0, 0), (10, 0), on="origin", diameter="20 mm")
    b.step("extrude", "Disc", profile=b.profile(ring, 0), depth=f("6 mm"))
    return b


def test_what_moves_what_is_as_by_formula() -> None:
    found = moves(plate())
    assert found.state == "done"
    assert found.units["Base: volume"] == "mm³"
    for tag, volume, area, x in (("outline_width", 250, 2 * (25 + 10), 0.5), ("outline_height", 400, 2 * (40 + 10), 0.0), ("base_depth", 1000, 2 * (40 + 25), 0.0)):
        per = of(found, tag)
        assert per["Base: volume"] == pytest.approx(volume, rel=1e-6)
        assert per["Base: area"] == pytest.approx(area, rel=1e-6)
        assert per["Base: centre X"] == pytest.approx(x, abs=1e-6)
    assert [d.tag for d in found.ranked("Base: volume")] == ["base_depth", "outline_height", "outline_width"]
    b = disc()
    b.do(do="set_body_look", body="s2", look={"material": "steel"})
    found = moves(b, "ring_diameter")
    assert of(found, "ring_diameter")["Disc: volume"] == pytest.approx(math.pi * 10 * 6, rel=1e-6)
    density = found.figures["Disc: mass"] / found.figures["Disc: volume"]
    assert of(found, "ring_diameter")["Disc: mass"] == pytest.approx(math.pi * 60 * density, rel=1e-6)


def test_an_angle_is_told_per_degree_and_a_side_that_fails_is_said() -> None:
    b = plate()
    tilted = b.step("plane", "Tilted", how="angle", first=axis("X"), second=axis("XY"), angle=f("30 deg"))
    keep(b, "lean", datum(tilted), axis("XY"), key="angle", unit="angle", worth=0.5)
    found = moves(b, "tilted_angle")
    assert of(found, "tilted_angle")["lean"] == pytest.approx(math.radians(1), rel=1e-6)
    b = plate()
    b.do(do="set_remark", tag="base_depth", most="10 mm")
    one = next(d for d in moves(b, "base_depth").dimensions)
    assert one.sides == "down"
    assert "no more than 10 mm" in one.why
    assert one.per["Base: volume"] == pytest.approx(1000, rel=1e-6)
    with pytest.raises(CommandRefused, match="no dimension"):
        moves(plate(), "nothing")


def test_a_chain_of_tolerances_by_hand() -> None:
    b = plate()
    keep(b, "high", TOP, BOTTOM, key="plane")
    keep(b, "round", TOP, key="perimeter", worth=130)
    b.do(do="set_remark", tag="outline_width", tolerance="±0.05")
    b.do(do="set_remark", tag="outline_height", tolerance="+0.1/-0.02")
    b.do(do="set_remark", tag="base_depth", tolerance="h6")
    found = moves(b)
    # The perimeter is 2 w + 2 h.
    stack = stacked(b.part, found, "round")
    assert (stack.nominal, stack.least, stack.most) == (pytest.approx(130), pytest.approx(130 - 0.1 - 0.04), pytest.approx(130 + 0.1 + 0.2))
    assert stack.rss == pytest.approx(math.hypot(0.1, 0.12))
    assert [(s.tag, round(s.share, 4)) for s in stack.shares] == [("outline_height", round(0.12**2 / (0.1**2 + 0.12**2), 4)), ("outline_width", round(0.1**2 / (0.1**2 + 0.12**2), 4))]
    assert not stack.bent
    # h6 at 10 mm: 0/-0.009.
    high = stacked(b.part, found, "high")
    assert (high.least, high.most) == (pytest.approx(9.991), pytest.approx(10.0))
    with pytest.raises(CommandRefused, match="no figure “wide”"):
        stacked(b.part, found, "wide")


def test_default_tolerances_are_those_of_the_standard_and_a_bent_share_is_said() -> None:
    b = plate()
    stack = stacked(b.part, moves(b), "Base: volume")
    # 40 ± 0.3, 25 ± 0.2, 10 ± 0.2 (ISO 2768-m).
    assert stack.most - stack.nominal == pytest.approx(250 * 0.3 + 400 * 0.2 + 1000 * 0.2, rel=1e-6)
    assert {s.of for s in stack.shares} == {"ISO 2768-m"}
    # The area of a small disc is the square of its diameter: ±0.5 of 2 is far from linear.
    b = disc()
    b.do(do="set_formula", tag="ring_diameter", formula="2 mm")
    b.do(do="set_remark", tag="ring_diameter", tolerance="±0.5")
    found = stacked(b.part, moves(b), "Disc: volume")
    assert found.bent
    assert next(s for s in found.shares if s.tag == "ring_diameter").bent


def test_wishes_with_known_answers() -> None:
    rng = random.Random(3)
    b, d = plate(), disc()
    for _ in range(8):
        depth = rng.uniform(3, 24)
        found = aim(b, "Base: volume", 1000 * depth, "base_depth")
        assert found.value == pytest.approx(depth, rel=1e-7)
        assert found.reached == pytest.approx(1000 * depth, rel=1e-8)
        diameter = rng.uniform(6, 45)
        found = aim(d, "Disc: volume", math.pi * diameter**2 / 4 * 6, "ring_diameter")
        assert found.value == pytest.approx(diameter, rel=1e-7)


def test_a_wish_that_nothing_reaches_has_no_answer_and_two_answers_are_both_told() -> None:
    found = aim(plate(), "Base: volume", 1e6, "base_depth")
    assert found.value is None
    assert found.most == pytest.approx(25 * 1000)
    assert aim(plate(), "Base: centre X", 30.0, "base_depth").value is None
    # How far a pin's middle is from a place: reached on both sides of it.
    b = Builder("Pin")
    spot = b.step("point", "Here", how="coordinates", x=f("20 mm"), y=f("0 mm"), z=f("0 mm"))
    other = b.step("point", "There", how="coordinates", x=f("32 mm"), y=f("0 mm"), z=f("0 mm"))
    keep(b, "apart", datum(spot), datum(other), key="least", worth=12)
    found = aim(b, "apart", 5.0, "there_x", looked=(0.0, 60.0))
    assert found.value == pytest.approx(25.0, abs=1e-6)
    assert found.others == [pytest.approx(15.0, abs=1e-6)]
    with pytest.raises(CommandRefused, match="no figure"):
        aim(b, "nothing", 5.0, "there_x")
