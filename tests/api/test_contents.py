"""What the server holds of all parts together: one limit; what is looked at stays; the part that was used longest ago gives first."""

from __future__ import annotations

import pytest

from wendal.api.contents import Contents
from wendal.api.window import Window


def test_all_parts_share_one_limit_and_what_is_looked_at_stays(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("wendal.api.contents.KEPT_BYTES", 100)
    window = Window()
    looked_at, left = Contents(lambda: [window]), Contents(list)
    looked_at.keep({"a": b"a" * 30, "b": b"b" * 30}, ["a"])
    looked_at.hand(window, ["a"], "scene")
    left.keep({"c": b"c" * 30, "d": b"d" * 30})
    assert set(looked_at.has) == {"a"}  # "b" was of the part used longest ago, and nobody's picture names it
    assert set(left.has) == {"c", "d"}
    looked_at.keep({"e": b"e" * 60}, ["a", "e"])
    assert set(looked_at.has) == {"a", "e"}
    assert left.lacks(["c", "d"])
    looked_at.keep({"f": b"f" * 60}, ["a", "e", "f"])  # beyond the limit, but wanted now
    assert set(looked_at.has) == {"a", "e", "f"}
    looked_at.keep({}, ["a"])
    assert set(looked_at.has) == {"a", "f"}


def test_a_part_that_is_gone_counts_no_more(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("wendal.api.contents.KEPT_BYTES", 100)
    gone = Contents(list)
    gone.keep({"a": b"a" * 90})
    del gone
    here = Contents(list)
    here.keep({"b": b"b" * 50, "c": b"c" * 50})
    assert set(here.has) == {"b", "c"}
