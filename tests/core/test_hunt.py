"""The hunt at its small, fixed size; `make bench` runs it at 2,000 edits."""

from __future__ import annotations

from tests.hunt import Case, hunt, share_kept


def test_no_reference_lands_on_wrong_geometry() -> None:
    found = hunt(60, seed=11)
    assert found["wrong"] == 0, found
    assert share_kept(found) >= 0.98, found
    assert found["sound, right"] > 100
    assert found["lost rightly"] > 10


def test_the_oracle_notices_a_wrong_reference() -> None:
    """Were references wrong, the hunt would say so: one is bent on purpose."""
    case = Case(1_100_001)
    _, sort, names = case.targets[0]
    assert case.judge()["wrong"] == 0
    case.targets[0] = (case.targets[0][0], sort, ["s2/start/r1" if "start" not in n else "s2/end/r1" for n in names])
    assert case.judge()["wrong"] >= 1
