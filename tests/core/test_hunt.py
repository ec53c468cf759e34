"""The hunt at its small, fixed size; `make bench` runs it at 2,000 edits."""

from __future__ import annotations

from tools.hunts.copies import Case as CopiesCase
from tools.hunts.copies import hunt as hunt_copies
from tools.hunts.exchange import hunt_exchange
from tools.hunts.history import hunt_history
from tools.hunts.references import Case, hunt, share_kept
from tools.hunts.shapes import hunt_shapes
from tools.hunts.turns import hunt_turns


def test_no_reference_lands_on_wrong_geometry() -> None:
    found = hunt(12, seed=11)
    assert found["wrong"] == 0, found
    assert share_kept(found) >= 0.98, found
    assert found["sound, right"] > 20
    assert found["lost rightly"] > 1


def test_the_oracle_notices_a_wrong_reference() -> None:
    """Were references wrong, the hunt would say so: one is bent on purpose."""
    case = Case(1_100_001)
    _, kind, names = case.targets[0]
    assert case.judge()["wrong"] == 0
    case.targets[0] = (case.targets[0][0], kind, ["s2/start/r1" if "start" not in n else "s2/end/r1" for n in names])
    assert case.judge()["wrong"] >= 1


def test_no_reference_to_a_single_copy_lands_elsewhere() -> None:
    found = hunt_copies(8, seed=3)
    assert found["wrong"] == 0
    assert found["sound"] + found["re-found"] >= 0.98 * (found["sound"] + found["re-found"] + found["missed"])
    assert found["sound"] > 60


def test_the_oracle_of_copies_notices_a_wrong_reference() -> None:
    case = CopiesCase(5)
    one, other = list(case.wanted)[:2]
    case.wanted[one], case.wanted[other] = case.wanted[other], case.wanted[one]
    assert case.judge()["wrong"] == 2


def test_no_blend_or_wall_lands_anywhere_else() -> None:
    found = hunt_shapes(16, seed=4)
    assert found["wrong"] == 0, found
    assert min(found["round, right"], found["bevel, right"], found["wall, right"], found["sound, right"]) >= 3


def test_planes_that_tilt_faces_that_slope_and_bars_that_move_past() -> None:
    found = hunt_turns(2, seed=3)
    assert not [name for name in found if "wrong" in name]
    assert sum(found.values()) > 100


def test_parts_that_are_edited_twenty_times_and_set_back_are_what_they_were() -> None:
    found = hunt_history(2, 3, ("slope", "cut_line_flips"))
    assert found["same"] == 4
    assert found["  edits"] > 40


def test_what_is_written_is_read_back_by_others() -> None:
    found = hunt_exchange(2)
    assert not [what for what in found if "wrong" in what], found
    assert sum(found.values()) > 8
