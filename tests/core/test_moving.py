"""What moves what against derivatives by formula; tolerances against chains by hand; aims against wishes with known answers."""

from __future__ import annotations

import math
import random
from typing import Any

import pytest

from tests.building import BOTTOM, TOP, axis, datum, f
from tests.samples import evaluated, plate
from wendal.core.errors import CommandRefused
from wendal.core.reference import FaceRef, edge_ref
from wendal.core.trust import Aimed, Moved, Sampled, Setup, Watched, aimed, moved, sampled, stacked
from wendal.demo.builder import Builder
from wendal.workers.trials import Here


def moves(b: Builder, *tags: str) -> Moved:
    return list(moved(b.part, tags, Here()))[-1]


def aim(b: Builder, figure: str, wish: float, *tags: str, **more: Any) -> Aimed:
    return list(aimed(b.part, figure, wish, tags, Here(), **more))[-1]


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


def test_a_tolerance_of_an_angle_is_in_degrees() -> None:
    b = plate()
    tilted = b.step("plane", "Tilted", how="angle", first=axis("X"), second=axis("XY"), angle=f("30 deg"))
    keep(b, "lean", datum(tilted), axis("XY"), key="angle", unit="angle", worth=0.5)
    b.do(do="set_remark", tag="tilted_angle", tolerance="+0.5/-0.25")
    stack = stacked(b.part, moves(b, "tilted_angle"), "lean")
    assert (stack.least, stack.most) == (pytest.approx(math.radians(29.75)), pytest.approx(math.radians(30.5)))
    assert stack.shares[0].of == "+0.5/-0.25"


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


@pytest.mark.parametrize(("letter", "wide"), [("f", 250 * 0.15 + 400 * 0.1 + 1000 * 0.1), ("c", 250 * 0.8 + 400 * 0.5 + 1000 * 0.5), ("v", 250 * 1.5 + 400 * 1 + 1000 * 1)])
def test_the_class_of_general_tolerances_is_the_part_s(letter: str, wide: float) -> None:
    b = plate()
    b.do(do="set_about", about={"general": letter})
    stack = stacked(b.part, moves(b), "Base: volume")
    assert stack.most - stack.nominal == pytest.approx(wide, rel=1e-6)
    assert {s.of for s in stack.shares} == {f"ISO 2768-{letter}"}


def test_a_size_that_the_standard_has_no_tolerance_for_is_told() -> None:
    b = plate()
    b.do(do="set_about", about={"general": "v"})
    b.do(do="set_formula", tag="base_depth", formula="2 mm")
    share = next(s for s in stacked(b.part, moves(b), "Base: volume").shares if s.tag == "base_depth")
    assert (share.low, share.high, share.of) == (0, 0, "")


def test_pages_go_with_the_class_of_general_tolerances() -> None:
    b = plate()
    b.do(do="add_page", page={"id": "p1", "name": "One"})
    b.do(do="add_page", page={"id": "p2", "name": "Own", "tolerance": "as on the sketch"})
    b.do(do="set_about", about={"general": "f"})
    b.do(do="add_page", page={"id": "p3", "name": "Late"})
    assert [p.tolerance for p in b.part.pages] == ["ISO 2768-f", "as on the sketch", "ISO 2768-f"]


def test_a_formula_with_a_tolerance_is_made_to_it_and_follows_nothing() -> None:
    """The height is half the width. Without a tolerance it follows: V = w w/2 d. With one, w moves V by h d alone,
    and the height brings a share of its own."""
    b = plate()
    b.do(do="set_formula", tag="outline_height", formula="outline_width / 2")
    b.do(do="set_remark", tag="outline_width", tolerance="±0.1")
    b.do(do="set_remark", tag="base_depth", tolerance="±0.01")
    follows = stacked(b.part, moves(b), "Base: volume")
    assert {s.tag: pytest.approx(s.adds, rel=1e-6) for s in follows.shares} == {"outline_width": 40 * 10 * 0.1, "base_depth": 800 * 0.01}
    b.do(do="set_remark", tag="outline_height", tolerance="+0.2/-0.1")
    found = moves(b)
    assert of(found, "outline_width")["Base: volume"] == pytest.approx(400, rel=1e-6)  # what moves what is as it was
    made = stacked(b.part, found, "Base: volume")
    assert {s.tag: (pytest.approx(s.adds, rel=1e-6), s.made) for s in made.shares} == {
        "outline_width": (20 * 10 * 0.1, False), "outline_height": (40 * 10 * 0.15, True), "base_depth": (800 * 0.01, False)}
    assert (made.least, made.most) == (pytest.approx(8000 - 20 - 40 - 8), pytest.approx(8000 + 20 + 80 + 8))
    # By chance through the built part: the sum of independent shares, each three deviations wide.
    pool = Here()
    drawn = list(sampled(b.part, "Base: volume", pool, count=100))[-1]
    assert drawn.deviation == pytest.approx(math.sqrt(20**2 + 60**2 + 8**2) / 3, rel=0.15)
    assert drawn.mean == pytest.approx(8020, abs=6)


def test_wishes_with_known_answers() -> None:
    rng = random.Random(3)
    b, d = plate(), disc()
    for _ in range(4):
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
    assert found.values == {}
    assert found.most == pytest.approx(25 * 1000)
    assert aim(plate(), "Base: centre X", 30.0, "base_depth").value is None
    # How far a pin's middle is from a place: reached on both sides of it.
    b = Builder("Pin")
    spot = b.step("point", "Here", how="coordinates", x=f("20 mm"), y=f("0 mm"), z=f("0 mm"))
    other = b.step("point", "There", how="coordinates", x=f("32 mm"), y=f("0 mm"), z=f("0 mm"))
    keep(b, "apart", datum(spot), datum(other), key="least", worth=12)
    found = aim(b, "apart", 5.0, "there_x", looked={"there_x": (0.0, 60.0)})
    assert found.value == pytest.approx(25.0, abs=1e-6)
    assert found.others == [pytest.approx(15.0, abs=1e-6)]
    with pytest.raises(CommandRefused, match="no figure"):
        aim(b, "nothing", 5.0, "there_x")


PLATE = {"outline_width": 40.0, "outline_height": 25.0, "base_depth": 10.0}


@pytest.mark.parametrize("share", [0.6, 0.9, 1.0, 1.02, 1.5, 2.4, 4.0])
def test_several_change_as_little_as_they_can(share: float) -> None:
    """A volume by all three sides: the least change of each as a share of itself is the same share of all."""
    found = aim(plate(), "Base: volume", 10000 * share, *PLATE)
    assert found.reached == pytest.approx(10000 * share, rel=1e-8)
    for tag, size in PLATE.items():
        assert float(found.values[tag].split()[0]) == pytest.approx(size * share ** (1 / 3), rel=1e-4)


def test_several_keep_to_their_ranges_and_say_when_nothing_does_it() -> None:
    b = plate()
    b.do(do="set_remark", tag="base_depth", least="9 mm", most="10.5 mm")
    found = aim(b, "Base: volume", 15000, *PLATE)
    assert found.reached == pytest.approx(15000, rel=1e-8)
    sizes = {t: float(v.split()[0]) for t, v in found.values.items()}
    assert sizes["base_depth"] == pytest.approx(10.5, rel=1e-6)
    rest = math.sqrt(15000 / (10000 * 1.05))
    assert sizes["outline_width"] == pytest.approx(40 * rest, rel=1e-4)
    assert sizes["outline_height"] == pytest.approx(25 * rest, rel=1e-4)
    # 100 x 62.5 x 10.5 is the most that the ranges have.
    none = aim(b, "Base: volume", 70000, *PLATE)
    assert none.values == {}
    assert none.most == pytest.approx(100 * 62.5 * 10.5)
    with pytest.raises(CommandRefused, match="each once"):
        aim(b, "Base: volume", 9000, "base_depth", "base_depth")


def test_several_find_a_wish_that_lies_behind_a_hill() -> None:
    """How far apart two pins are does not change at first with either height: the slope there is nought."""
    b = Builder("Pins")
    pins = [b.step("point", n, how="coordinates", x=f("0 mm"), y=f("0 mm"), z=f(z)) for n, z in (("Low", "0 mm"), ("High", "0 mm"))]
    far = b.step("point", "Far", how="coordinates", x=f("12 mm"), y=f("0 mm"), z=f("0 mm"))
    keep(b, "apart", datum(pins[1]), datum(far), key="least", worth=12)
    found = aim(b, "apart", 13.0, "high_y", "high_z", looked={"high_y": (-9.0, 9.0), "high_z": (-9.0, 9.0)})
    assert found.reached == pytest.approx(13.0, abs=1e-7)
    y, z = (float(found.values[t].split()[0]) for t in ("high_y", "high_z"))
    assert math.hypot(y, z) == pytest.approx(5.0, abs=1e-6)


def test_wishes_by_one_or_two_of_which_some_have_no_answer() -> None:
    rng = random.Random(11)
    b, none = plate(), 0
    for n in range(10):
        tags = rng.sample(list(PLATE), rng.choice([1, 2]))
        share = 30.0 if n % 7 == 6 else rng.uniform(0.5, 2.4)
        found = aim(b, "Base: volume", 10000 * share, *tags)
        if n % 7 == 6:
            none += not found.values
            continue
        assert found.reached == pytest.approx(10000 * share, rel=1e-8)
        each = share ** (1 / len(tags))
        if 0.25 < each < 2.45:
            for tag in tags:
                assert float(found.values[tag].split()[0]) == pytest.approx(PLATE[tag] * each, rel=1e-4)
    assert none == 1


def test_the_least_wall_is_a_figure_and_a_wish() -> None:
    b = plate()
    found = list(moved(b.part, ("base_depth",), Here(), setup=Setup(walls=True)))[-1]
    assert found.figures["Base: least wall"] == pytest.approx(10.0, abs=1e-6)
    assert of(found, "base_depth")["Base: least wall"] == pytest.approx(1.0, abs=1e-4)
    assert aim(b, "Base: least wall", 7.0, "base_depth").value == pytest.approx(7.0, abs=1e-6)


def test_places_of_picked_faces_edges_and_corners_are_figures() -> None:
    b = plate()
    topology = evaluated(b).site.bodies["s2"].topology
    high = next(i for i, e in enumerate(topology.edges) if e.middle[2] > 9 and abs(e.tangent[0]) > 0.9 and e.middle[1] > 20)
    edge = edge_ref("s2", topology, high)
    things = (Watched(FaceRef.model_validate(TOP)), Watched(edge))
    found = list(moved(b.part, (), Here(), setup=Setup(things=things)))[-1]
    face = next(n for n in found.figures if n.endswith(": from XY"))
    assert found.figures[face] == pytest.approx(10.0)
    assert [d.tag for d in found.ranked(face)] == ["base_depth"]
    assert of(found, "base_depth")[face] == pytest.approx(1.0, rel=1e-6)
    edges = {n.rpartition(": ")[2]: n for n in found.figures if n.endswith((": length", ": X", ": Y", ": Z"))}
    assert of(found, "outline_width")[edges["length"]] == pytest.approx(1.0, rel=1e-6)
    assert of(found, "outline_width")[edges["X"]] == pytest.approx(0.5, rel=1e-6)
    assert of(found, "outline_height")[edges["Y"]] == pytest.approx(1.0, rel=1e-6)


def sample(b: Builder, figure: str, **more: Any) -> Sampled:
    return list(sampled(b.part, figure, Here(), **more))[-1]


def test_sets_by_chance_tell_what_a_bent_figure_comes_to() -> None:
    """The area of a disc whose diameter is normally distributed: mean and deviation by formula."""
    b = disc()
    b.do(do="set_formula", tag="ring_diameter", formula="2 mm")
    b.do(do="set_remark", tag="ring_diameter", tolerance="±0.6")
    b.do(do="set_formula", tag="disc_depth", formula="1 mm")
    b.do(do="set_remark", tag="disc_depth", tolerance="±0.000001")
    found = sample(b, "Disc: volume", count=100)
    assert (found.state, found.sets, found.failed) == ("done", 100, 0)
    s = 0.2 * 0.9933  # cut off at three deviations
    mean, var = math.pi / 4 * (4 + s * s), (math.pi / 4) ** 2 * (4 * 4 * s * s + 2 * s**4)
    assert found.mean == pytest.approx(mean, abs=4 * math.sqrt(var / 100))
    assert found.deviation == pytest.approx(math.sqrt(var), rel=0.25)
    assert found.least is not None
    assert found.least >= math.pi / 4 * 1.4**2 - 1e-4
    assert found.most is not None
    assert found.most <= math.pi / 4 * 2.6**2 + 1e-4
    assert sum(found.bars) == 100
    assert sample(b, "Disc: volume", count=20).mean == sample(b, "Disc: volume", count=20).mean
    assert sample(b, "Disc: volume", count=20, seed=2).mean != sample(b, "Disc: volume", count=20).mean


def test_an_aim_by_a_dimension_of_allowed_values_keeps_to_them() -> None:
    b = plate()
    b.do(do="set_remark", tag="base_depth", values=["8 mm", "10 mm", "16 mm"])
    found = aim(b, "Base: volume", 16000.0, "base_depth")
    assert found.values == {"base_depth": "16 mm"}
    assert aim(b, "Base: volume", 12000.0, "base_depth").values == {}
    with pytest.raises(CommandRefused, match="aim by it alone"):
        aim(b, "Base: volume", 12000.0, "base_depth", "outline_width")
