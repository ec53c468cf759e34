"""What is remembered by identity or by key: it goes with its object, and one owner's share stays small."""

from __future__ import annotations

import gc
import weakref

from tests.samples import plate
from wendal.core.once import Latest, OnceWeakly
from wendal.core.route import Memory, evaluate, read_part, write_part
from wendal.core.steps import Body


class Thing:
    pass


def test_what_was_found_goes_with_its_object() -> None:
    asked: list[int] = []
    found = OnceWeakly(lambda thing: asked.append(1) or [len(asked)])
    one, other = Thing(), Thing()
    assert found(one) is found(one)
    assert found(other) is not found(one)
    assert len(asked) == 2
    told = weakref.ref(found(one)) if hasattr(found(one), "__weakref__") else None
    del one
    gc.collect()
    assert len(found._known) == 1
    assert told is None or told() is None
    for _ in range(50):  # another object may lie where one lay before
        assert found(Thing()) == [len(asked)]


def test_the_longest_unused_goes_first_of_its_owner_and_of_all() -> None:
    kept: Latest[str, int] = Latest(6, 100, 3)
    for i in range(5):
        kept.put(f"a{i}", i, 1, "a")
    assert [k for k in ("a0", "a1", "a2", "a3", "a4") if k in kept] == ["a2", "a3", "a4"]
    kept.used("a2")
    kept.put("a5", 5, 1, "a")
    assert "a2" in kept
    assert "a3" not in kept
    for i in range(5):
        kept.put(f"n{i}", i, 1, "")  # of nobody: only the whole is limited
    assert [k for k in ("a4", "a2", "a5", "n0", "n4") if k in kept] == ["a5", "n0", "n4"]
    kept.put("heavy", 1, 98, "h")
    assert [k for k in ("n2", "n3", "n4", "heavy") if k in kept] == ["n3", "n4", "heavy"]
    assert kept.get("a0") is None
    assert kept.get("n4") == 4


def test_a_small_part_that_is_edited_for_long_holds_little() -> None:
    def bodies() -> int:
        gc.collect()
        return sum(isinstance(o, Body) for o in gc.get_objects())

    b, memory, before = plate(), Memory(), bodies()
    for i in range(90):
        b.do(do="set_formula", tag="base_depth", formula=f"{10 + i / 10:.1f} mm")
        evaluate(read_part(write_part(b.part)), memory)
    assert 5 < bodies() - before <= 50
