"""Cutting and joining at the cost of what is touched: the same comes out as from the kernel's own operation, or nothing."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

from tools.hunts.booleans import _named, a_body, tally
from wendal.core import kernel
from wendal.core.kernel import known
from wendal.core.kernel.boolean import by_kernel
from wendal.core.kernel.joining import local_boolean
from wendal.core.kernel.merging import merge_flush

Spot = tuple[float, float, float]


def test_random_tools() -> None:
    found = tally(range(60, 66))  # 2,000 in the hunt
    assert not found.keys() - {"same", "left to the kernel", "the kernel's own is broken"}, found
    assert found["same"] >= 3, found


def box(at: Spot, size: Spot) -> kernel.NamedShape:
    return _named(BRepPrimAPI_MakeBox(gp_Pnt(*at), *size).Shape(), "t1")


# A block of 12 with a slot: what it is made of, each as its lowest and highest corner.
SLOTTED = [((0, 0, 0), (4, 12, 12)), ((8, 0, 0), (12, 12, 12)), ((4, 0, 0), (8, 12, 4))]
RANGES = st.tuples(*[st.tuples(st.integers(-4, 15), st.integers(1, 14))] * 3)


@settings(max_examples=80, deadline=None)
@given(RANGES)
def test_what_touches_is_as_by_intervals(ranges: tuple[tuple[int, int], ...]) -> None:
    """A tool may lie in the slot, bridge it, go through, or meet in a face, an edge or a corner only."""
    body = by_kernel("cut", [box((0, 0, 0), (12, 12, 12))], [box((4, -1, 4), (4, 14, 9))])
    low, size = [a for a, _ in ranges], [n for _, n in ranges]
    meets = any(all(low[i] <= b[i] and a[i] <= low[i] + size[i] for i in range(3)) for a, b in SLOTTED)
    assert kernel.touching(body, [box((low[0], low[1], low[2]), (size[0], size[1], size[2]))]) is meets


@pytest.mark.parametrize(("way", "at", "size", "more"), [
    ("cut", (3, 3, 10), (4, 4, 5), -32.0),  # a pocket
    ("fuse", (3, 3, 12), (4, 4, 5), 80.0),  # a boss on the face
    ("fuse", (3, 3, 8), (4, 4, 4), 0.0),  # flush with the face, all inside
    ("cut", (-5, 3, 10), (10, 4, 5), -40.0),  # a notch over the rim
    ("cut", (3, 3, -1), (4, 4, 20), -192.0),  # through
    ("cut", (3, 3, 4), (4, 4, 4), -64.0),  # a hollow that touches nothing
    ("fuse", (100, 3, 2), (6, 4, 4), 96.0),  # against a side
])
def test_boxes(way: str, at: Spot, size: Spot, more: float) -> None:
    """The corner of this body, from 0 to 8 mm, is a plain block 12 mm high."""
    body = by_kernel("cut", [box((0, 0, 0), (100, 100, 12))], [box((10 + 10 * i, 10 + 10 * j, 10), (5, 5, 9)) for i in range(8) for j in range(8)])
    tool = box(at, size)
    made = kernel.cut(body, [tool]) if way == "cut" else kernel.fuse([body, tool])
    assert kernel.volume_of(made) - kernel.volume_of(body) == pytest.approx(more, abs=1e-6)
    kernel.check_solid(made)
    assert kernel.check_whole(made)


def test_what_is_untouched_stays_the_same() -> None:
    body = a_body(2, 49)
    tool = _named(BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(50, 50, 5), gp_Dir(0, 0, 1)), 2.0, 30.0).Shape(), "t1")
    made = local_boolean("cut", body, [tool])
    assert made is not None
    kept = {id(f) for f in body.anatomy.faces}
    assert sum(id(f) not in kept for f in made.anatomy.faces) <= 8  # a few are new, some fifty are the very same


def test_edges_that_go_on_are_one() -> None:
    """Two blocks side by side: no line stays where they met, and far faces are the same ones."""
    body = by_kernel("cut", [box((0, 0, 0), (100, 100, 12))], [box((10 + 10 * i, 10 + 10 * j, 10), (5, 5, 9)) for i in range(8) for j in range(8)])
    joined = local_boolean("fuse", body, [box((100, 0, 0), (10, 100, 12))])
    assert joined is not None
    made = merge_flush(joined)
    assert len(made.names) == len(body.names)
    assert len(joined.names) == len(body.names) + 4
    assert kernel.box_of([made])[1] == pytest.approx((110, 100, 12), abs=1e-6)
    assert len({id(f) for f in body.anatomy.faces} & {id(f) for f in made.anatomy.faces}) >= 5 * 64  # walls and floors of the pockets


def test_a_tool_of_several_pieces_is_left_to_the_kernel() -> None:
    tool = kernel.together([box((3, 3, 10), (2, 2, 5)), box((30, 30, 10), (2, 2, 5))])
    assert local_boolean("cut", a_body(2, 49), [tool]) is None


def test_a_body_is_worked_on_though_the_tables_have_begun_anew(monkeypatch: pytest.MonkeyPatch) -> None:
    body = a_body(2, 49)
    before, weighed = body.anatomy, kernel.volume_of(body)
    monkeypatch.setattr(known, "KEPT", 0)
    tool = box((30, 3, -1), (4, 4, 40))
    assert tool.anatomy  # too much is known by now, so all begins anew
    monkeypatch.setattr(known, "KEPT", 10**9)
    assert body.anatomy is not before
    assert body.anatomy.unclosed is None
    assert kernel.volume_of(body) == weighed
    made = local_boolean("cut", body, [tool])
    assert made is not None
    assert kernel.volume_of(made) == pytest.approx(kernel.volume_of(by_kernel("cut", [body], [tool])), rel=1e-9)
