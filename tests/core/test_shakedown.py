"""Shakedowns against ends known by hand, islands, planted weaknesses, and the same trials in other processes."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any

import pytest

from tests.building import TOP, axis, datum, drawn_on, f
from tests.samples import evaluated, plate
from wendal.core.errors import CommandRefused, WendalError
from wendal.core.reference import edge_ref, face_ref
from wendal.core.route import Memory
from wendal.core.trust import (
    PLAIN,
    DimensionFound,
    Plan,
    Setup,
    ShakedownReport,
    Trial,
    Verdict,
    as_csv,
    as_html,
    compared,
    driving,
    shaken,
    tried,
)
from wendal.core.trust.shaking import chance_sets
from wendal.core.trust.trial import Base, shape_of
from wendal.demo.builder import Builder
from wendal.workers.trials import Here, Processes


def shake(b: Builder, *tags: str, sets: int = 0, seed: int = 1, pool: Any = None, **ranges: tuple[float, float]) -> ShakedownReport:
    """Shake a part; coarsely, for the ends are found as closely from any places."""
    return list(shaken(b.part, Plan(tags=tags, seed=seed, sets=sets, places=9, ranges=ranges), pool or Here()))[-1]


def of(report: ShakedownReport, tag: str) -> DimensionFound:
    return next(d for d in report.dimensions if d.tag == tag)


def bored(places: list[tuple[float, float]], diameter: str = "6 mm") -> Builder:
    b = plate()
    sketch = b.step("sketch", "Bores", on=axis("XY"))
    for n, (x, y) in enumerate(places):
        b.step("point", f"At {n}", how="coordinates", x=f(f"{x} mm"), y=f(f"{y} mm"), z=f("10 mm"))
    points = [{"of": "datum", "step": s.id} for s in b.part.steps if s.kind == "point"]
    b.do(do="remove_step", step=sketch)
    b.step("hole", "Bore", at=points, start="from", start_at=TOP, end="through", diameter=f(diameter))
    return b


def rounded() -> Builder:
    b = plate()
    topology = evaluated(b).site.bodies["s2"].topology
    upright = [edge_ref("s2", topology, i).model_dump(mode="json") for i, e in enumerate(topology.edges) if abs(e.tangent[2]) > 0.9]
    b.step("fillet", "Soft", edges=upright, radius=f("5 mm"))
    return b


def pocket() -> Builder:
    b = plate()
    outline = drawn_on(b, TOP, "rectangle", (10, 8), (30, 18))
    b.step("extrude", "Pocket", profile=b.profile(outline, 0), extent="into", depth=f("4 mm"), result="cut")
    return b


# Part, tag, the range looked at, its end by hand, and whether that is the upper one.
ENDS: list[tuple[str, Any, str, tuple[float, float], float, bool]] = [
    ("a bore by the side", lambda: bored([(12, 12)]), "at_0_x", (1, 39), 3.0, False), ("a bore by the far side", lambda: bored([(12, 12)]), "at_0_x", (1, 39), 37.0, True),
    ("as wide as its place", lambda: bored([(12, 12)]), "bore_diameter", (1, 30), 24.0, True), ("corners as round as the plate is wide", rounded, "soft_radius", (1, 20), 12.5, True),
    ("a plate as wide as its corners", rounded, "outline_width", (5, 60), 10.0, False), ("a pocket as deep as the plate", pocket, "pocket_depth", (1, 15), 10.0, True),
    ("a plate as thick as its pocket", pocket, "base_depth", (1, 20), 4.0, False),
]  # fmt: skip


@pytest.mark.parametrize(("make", "tag", "looked", "end", "upper"), [c[1:] for c in ENDS], ids=[c[0] for c in ENDS])
def test_the_ends_of_ranges_are_as_known(make: Any, tag: str, looked: tuple[float, float], end: float, upper: bool) -> None:
    found = of(shake(make(), tag, **{tag: looked}), tag)
    a, b = found.fits
    assert (b if upper else a) == pytest.approx(end, abs=2e-3)
    told = found.high_end if upper else found.low_end
    assert told is not None
    assert told.why
    assert told.step
    assert abs(told.beyond - told.at) <= 1.01e-3


def test_a_range_with_an_island_and_what_was_not_looked_at_is_said() -> None:
    b = bored([(12, 12), (25, 12)])
    found = of(shake(b, "at_0_x", at_0_x=(1, 39)), "at_0_x")
    assert [tuple(round(v, 1) for v in r) for r in found.ranges] == [(3.0, 19.0), (31.0, 37.0)]
    assert found.fits == found.ranges[0]
    whole = of(shake(plate(), "base_depth", base_depth=(1, 50)), "base_depth")
    assert whole.holds
    assert whole.ranges == [(1.0, 50.0)]
    assert "not looked beyond 50 mm" in as_csv(ShakedownReport(part="", seed=1, dimensions=[whole]))


def test_limits_of_the_ledger_are_the_range_and_counts_go_by_ones() -> None:
    b = plate()
    b.do(do="set_remark", tag="base_depth", least="5 mm", most="12 mm")
    found = of(shake(b, "base_depth"), "base_depth")
    assert (found.low, found.high) == (5.0, 12.0)
    ring = drawn_on(b, TOP, "circle", (4, 4), (5.5, 4))
    cut = b.step("extrude", "Bore", profile=b.profile(ring, 0), extent="through_into", result="cut")
    b.step("pattern", "Row", seeds=[{"of": "step", "step": cut}], along=axis("X"), count=f("3"), spacing=f("8 mm"))
    count = of(shake(b, "row_count", row_count=(1, 12)), "row_count")
    # Ø3 at 4, then every 8: the fifth is at 36, whole within 40; the sixth is past the side.
    assert count.fits[1] == 5
    assert count.kind == "count"


def test_a_planted_weakness_of_two_together_is_found_and_named() -> None:
    # Alone either bore may go to the middle; together they meet.
    b = bored([(12, 12), (28, 12)])
    report = shake(b, "at_0_x", "at_1_x", sets=6, at_0_x=(5, 18), at_1_x=(22, 35))
    assert all(d.holds for d in report.dimensions)
    assert report.sets == 6
    wide = shake(b, "at_0_x", "base_depth", "at_1_x", sets=12, at_0_x=(5, 21), at_1_x=(19, 35), base_depth=(8, 14))
    assert wide.failed
    first = [s for s in wide.failed if len(s.tags) <= 3]
    assert first
    for found in first:
        assert set(found.tags) == {"at_0_x", "at_1_x"}
        x0, x1 = (float(found.tags[t].split()[0]) for t in ("at_0_x", "at_1_x"))
        assert x1 - x0 < 6.0  # both are of Ø6


def test_a_part_that_is_not_sound_is_not_shaken_and_unknown_tags_are_refused() -> None:
    b = plate()
    topology = evaluated(b).site.bodies["s2"].topology
    b.step("fillet", "Too much", edges=[edge_ref("s2", topology, 0).model_dump(mode="json")], radius=f("90 mm"))
    report = shake(b)
    assert report.state == "refused"
    assert "Too much" in report.trouble
    with pytest.raises(CommandRefused, match="no dimension with a value of its own"):
        shake(plate(), "nothing")
    with pytest.raises(CommandRefused, match="no dimension to move"):
        shake(Builder("Empty"))


def test_a_kept_measure_out_of_its_range_is_a_failure() -> None:
    b = plate()
    b.do(do="keep_measure", measure={"tag": "high", "things": [TOP, axis("XY")], "key": "plane", "unit": "length", "after": "s2", "worth": 10})
    b.do(do="set_remark", tag="high", most="14 mm")
    found = of(shake(b, "base_depth", base_depth=(5, 20)), "base_depth")
    assert found.fits[1] == pytest.approx(14.0, abs=2e-3)
    assert found.high_end is not None
    assert "no more than 14 mm" in found.high_end.why


def test_formulas_are_not_moved_and_trials_do_not_hang_on_their_order() -> None:
    b = plate()
    b.do(do="add_tag", tag="twice", formula="2 * base_depth")
    assert [d.tag for d in driving(b.part)] == ["outline_width", "outline_height", "base_depth"]
    base = Base(shape_of(evaluated(b)))
    changes = [{"base_depth": f"{v} mm"} for v in (5, -1, 20, 0, 7)]
    forwards, backwards = Memory(), Memory()
    one = [tried(b.part, c, forwards, base) for c in changes]
    other = [tried(b.part, c, backwards, base) for c in reversed(changes)]
    assert one == other[::-1]
    assert [v.judgement for v in one] == ["good", "refused", "good", "refused", "good"]


def test_sets_hang_on_their_seed_and_number_alone() -> None:
    ranges = [(0.0, 1.0), (5.0, 9.0), (1.0, 6.0)]
    whole = [False, False, True]
    few, many = chance_sets(ranges, whole, 7, 10), chance_sets(ranges, whole, 7, 16)
    assert few == many[:10]
    assert chance_sets(ranges, whole, 8, 10) != few
    for values in many:
        assert all(a <= v <= b for v, (a, b) in zip(values, ranges, strict=True))
        assert float(values[2]).is_integer()


def test_a_grown_range_is_told_as_sturdier() -> None:
    before = shake(pocket(), "pocket_depth", pocket_depth=(1, 15))
    b = pocket()
    b.do(do="set_formula", tag="base_depth", formula="14 mm")
    after = shake(b, "pocket_depth", pocket_depth=(1, 15))
    assert compared(before, after) == (["pocket_depth"], [])
    assert compared(after, before) == ([], ["pocket_depth"])
    page = as_html(after)
    assert "<code>pocket_depth</code>" in page
    assert "<script" not in page


class Dying:
    """Trials of which some take their process down."""

    def __init__(self) -> None:
        self.pool = Processes(2)

    def begin(self, document: str, setup: Setup = PLAIN) -> Verdict:
        return self.pool.begin(document, setup)

    def run(self, trials: list[Trial]) -> Iterator[tuple[int, Verdict]]:
        killed = False
        for found in self.pool.run(trials):
            worker = next((w for w in self.pool._workers if w is not None), None)
            if not killed and worker is not None and len(trials) > 4:
                worker.kill()
                killed = True
            yield found


def test_processes_find_the_same_and_outlive_a_death() -> None:
    b = pocket()
    here = shake(b, "pocket_depth", pocket_depth=(1, 15))
    pool = Processes(2)
    try:
        there = shake(b, "pocket_depth", pool=pool, pocket_depth=(1, 15))
    finally:
        pool.end()
    assert [d.ranges for d in there.dimensions] == [d.ranges for d in here.dimensions]
    assert [(d.low_end, d.high_end) for d in there.dimensions] == [(d.low_end, d.high_end) for d in here.dimensions]
    dying = Dying()
    try:
        report = shake(b, "pocket_depth", pool=dying, pocket_depth=(1, 15))
    finally:
        dying.pool.end()
    assert report.state == "done"
    assert math.isfinite(report.seconds)


def stepped() -> Builder:
    """A plate with a step cut across it; a window stands on what is left of its top."""
    b = plate()
    floor = b.step("plane", "Step floor", how="offset", first=axis("XY"), distance=f("7 mm"))
    outline = drawn_on(b, datum(floor), "rectangle", (0, 0), (14, 25), width="14 mm")
    b.step("extrude", "Step", profile=b.profile(outline, 0), depth=f("30 mm"), result="cut")
    window = drawn_on(b, TOP, "rectangle", (26, 5), (36, 20))
    b.step("extrude", "Window", profile=b.profile(window, 0), extent="through_into", result="cut")
    return b


def test_advice_is_offered_with_its_score_and_holds_on_a_fresh_seed() -> None:
    b, tag = stepped(), "sketch_of_rectangle_3_width"
    report = shake(b, tag, **{tag: (14.0, 90.0)})
    (advice,) = report.advice
    assert advice.survived == advice.tried > 5
    assert "base_depth from XY" in advice.words
    assert volume_of(b) == pytest.approx(7450)
    b.do(**advice.command)
    assert volume_of(b) == pytest.approx(7450)
    assert [s.name for s in b.part.steps][-3:] == ["Under Sketch of rectangle 5", "Sketch of rectangle 5", "Window"]
    # The plane follows the dimension that the face had followed.
    b.do(do="set_formula", tag="base_depth", formula="12 mm")
    assert {r.state for r in evaluated(b).reports} == {"built"}
    again = shake(b, tag, "base_depth", sets=3, seed=5, base_depth=(8.0, 20.0), **{tag: (14.0, 90.0)})
    bad = [d.high_end for d in again.dimensions if d.high_end] + again.failed
    assert not any(e.judgement in ("stopped", "held") for e in bad)


def volume_of(b: Builder) -> float:
    from wendal.core import kernel

    return sum(kernel.volume_of(x.shape) for x in evaluated(b).site.bodies.values())


SLOT = "slot_sketch_width"


def floored(chance: bool = False) -> Builder:
    """A plate with a step down to a plane; a window is drawn on the floor that the step leaves, and is lost where a
    slot takes all of the floor. chance : another plane lies in the floor, and does not go with it."""
    b = plate()
    if chance:
        b.step("plane", "By chance", how="offset", first=axis("XY"), distance=f("6 mm"))
    floor = b.step("plane", "Floor plane", how="offset", first=axis("XY"), distance=f("base_depth - 4 mm"))
    outline = drawn_on(b, datum(floor), "rectangle", (0, 0), (14, 25))
    b.step("extrude", "Step", profile=b.profile(outline, 0), depth=f("30 mm"), result="cut")
    slot = b.step("sketch", "Slot sketch", on=axis("XY"))
    b.draw(slot, "rectangle", (0, 0), (6, 25), on="origin", width="6 mm")
    b.do(do="rename_tag", tag=next(r.tag for r in b.part.rows() if r.step == slot), to=SLOT)
    b.step("extrude", "Slot", profile=b.profile(slot, 0), depth=f("30 mm"), result="cut")
    topology = evaluated(b).site.bodies["s2"].topology
    low = next(i for i, face in enumerate(topology.faces) if face.form == "flat" and face.frame.normal[2] > 0.9 and abs(face.centre[2] - 6) < 1e-6)
    there = face_ref("s2", topology, low).model_dump(mode="json")
    window = drawn_on(b, there, "rectangle", (20, 5), (30, 20))
    b.step("extrude", "Window", profile=b.profile(window, 0), extent="into", depth=f("4 mm"), result="cut")
    return b


def test_another_pick_in_the_same_plane_is_offered_where_it_survives() -> None:
    b = floored()
    before = volume_of(b)
    report = shake(b, SLOT, **{SLOT: (2.0, 28.0)})
    (advice,) = report.advice
    assert advice.survived == advice.tried > 3
    assert advice.words == "another pick: Floor plane"
    b.do(**advice.command)
    assert volume_of(b) == pytest.approx(before)
    again = shake(b, SLOT, "base_depth", sets=3, seed=9, base_depth=(8.0, 14.0), **{SLOT: (2.0, 28.0)})
    bad = [e for d in again.dimensions for e in (d.low_end, d.high_end) if e] + again.failed
    assert not any(e.judgement in ("stopped", "held") for e in bad)


def test_what_only_happens_to_lie_there_is_not_offered() -> None:
    (advice,) = shake(floored(chance=True), SLOT, **{SLOT: (2.0, 28.0)}).advice
    assert advice.words == "another pick: Floor plane"


def test_a_limit_that_two_dimensions_set_each_other_is_found() -> None:
    b = pocket()
    ranges = {"pocket_depth": (1.0, 9.0), "base_depth": (4.5, 20.0)}
    report = shake(b, *ranges, sets=24, **ranges)
    limit = next(a for a in report.advice if not a.step)
    assert limit.survived == limit.tried == len(report.failed)
    assert "no less than pocket_depth" in limit.words or "no more than base_depth" in limit.words
    b.do(**limit.command)
    with pytest.raises(WendalError, match="may be no"):
        b.do(do="set_formulas", values={"pocket_depth": "8 mm", "base_depth": "7.5 mm"})
    b.do(do="set_formulas", values={"pocket_depth": "8 mm", "base_depth": "8.5 mm"})


def test_walls_and_mass_are_judged_too() -> None:
    b = pocket()
    thin = Setup(wall=2.0)
    found = of(list(shaken(b.part, Plan(("pocket_depth",), sets=0, places=5, ranges={"pocket_depth": (1, 9.5)}, setup=thin), Here()))[-1], "pocket_depth")
    assert found.fits[1] == pytest.approx(8.0, abs=2e-3)
    assert found.high_end is not None
    assert "least wall of Base is 1.83 mm, less than 2 mm" in found.high_end.why
    with pytest.raises(CommandRefused, match="Base has no material"):
        list(shaken(b.part, Plan(setup=Setup(mass=50.0)), Here()))
    b.do(do="set_body_look", body="s2", look={"material": "steel"})
    density = 7.85
    limit = density * 1e-3 * 12000
    report = list(shaken(b.part, Plan(("base_depth",), sets=0, places=5, ranges={"base_depth": (6, 20)}, setup=Setup(mass=limit)), Here()))[-1]
    assert of(report, "base_depth").fits[1] == pytest.approx((12000 + 800) / 1000, rel=0.01)


def test_allowed_values_are_tried_one_by_one_and_sets_keep_to_them() -> None:
    b = pocket()
    b.do(do="set_remark", tag="pocket_depth", values=["2 mm", "4 mm", "6 mm", "9 mm", "11 mm"])
    report = shake(b, "pocket_depth", "base_depth", sets=12, base_depth=(12.0, 14.0))
    found = of(report, "pocket_depth")
    assert (found.trials, found.ranges) == (5, [(2.0, 9.0)])
    assert found.high_end is not None
    assert (found.high_end.at, found.high_end.beyond) == (9.0, 11.0)
    # Within 2 to 9 all allowed values hold in a plate of 12 to 14: no set is refused for a value in between.
    assert report.sets == 12
    assert report.failed == []
