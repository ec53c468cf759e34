"""The order in which unknowns determine each other: known structures, and properties over random ones."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tools.bench.outlines import plate_outline
from wendal.core.sketch import Drag, find_freedoms, measured, solve
from wendal.core.sketch.solving.blocks import Blocks
from wendal.core.sketch.solving.solver import newton
from wendal.core.sketch.solving.system import EquationSystem


def blocks(rows: list[list[int]], n: int) -> Blocks:
    pairs = [(i, c) for i, row in enumerate(rows) for c in row]
    return Blocks(np.array(pairs, dtype=np.int64).reshape(-1, 2).T, len(rows), n)


def touched(found: Blocks, *bad: int) -> list[int]:
    mask = np.zeros(found.m, dtype=bool)
    mask[list(bad)] = True
    return np.flatnonzero(found.affected(mask)[1]).tolist()


CHAIN = [[0], [0, 1], [1, 2], [2, 3]]
RING = [[0, 1], [1, 2], [2, 0], [2, 3]]


@pytest.mark.parametrize(("rows", "n", "bad", "expected"), [
    (CHAIN, 4, [0], [0, 1, 2, 3]), (CHAIN, 4, [2], [2, 3]), (CHAIN, 4, [3], [3]), (RING, 4, [1], [0, 1, 2, 3]), (RING, 4, [3], [3]),
    ([[0], [1], [0, 1, 2]], 3, [1], [1, 2]), ([[0, 1]], 2, [0], [0, 1]), ([[0], [0, 1, 2]], 3, [0], [0, 1, 2]),
    ([[0], [0, 1, 2]], 3, [1], [1, 2]), ([[0], [0], [0, 1]], 2, [2], [1]), ([], 3, [], []),
])
def test_only_what_hangs_on_a_change_is_touched(rows: list[list[int]], n: int, bad: list[int], expected: list[int]) -> None:
    assert touched(blocks(rows, n), *bad) == expected


def test_loose_and_tied_parts() -> None:
    found = blocks([[0], [0], [1], [1, 2, 3]], 4)
    assert found.tied.tolist() == [True, False, False, False]
    assert found.loose.tolist() == [False, False, True, True]
    assert found.is_square(int(found.column[1]))
    assert not found.is_square(int(found.column[3]))


@given(st.lists(st.lists(st.integers(0, 7), min_size=1, max_size=4, unique=True), max_size=10))
@settings(max_examples=200, deadline=None)
def test_every_row_and_unknown_has_a_block_and_what_is_touched_is_closed(rows: list[list[int]]) -> None:
    found = blocks(rows, 8)
    assert (found.column >= 0).all()
    assert (found.row >= 0).all()
    for i in range(len(rows)):
        mask = np.zeros(len(rows), dtype=bool)
        mask[i] = True
        hit_rows, hit = found.affected(mask)
        assert hit_rows[i]
        # Whatever reads a touched unknown is touched itself.
        assert all(hit_rows[k] for k, row in enumerate(rows) if any(hit[c] for c in row))
    for block in range(found.count):
        r, c = (found.row == block).sum(), (found.column == block).sum()
        if found.is_square(block):
            assert r == c


@pytest.mark.parametrize("turned", [0.0, 0.3])
def test_a_large_outline_solves_to_the_same_place_as_its_small_steps(turned: float) -> None:
    drawing = plate_outline(60, turned)
    drawing = solve(drawing, measured(drawing)).drawing
    values = measured(drawing)
    assert find_freedoms(solve(drawing, values)).number == 0
    key = next(k for k, c in drawing.constraints.items() if c.of == ["l4"] and c.kind == "distance")
    direct = solve(drawing, {**values, key: 2.5 * values[key]}).drawing
    stepped = drawing
    for i in range(1, 17):
        stepped = solve(stepped, {**values, key: values[key] * (1 + 1.5 * i / 16)}).drawing
    for p, (x, y) in direct.points.items():
        assert stepped.points[p] == pytest.approx((x, y), abs=1e-6)


def test_other_values_on_the_same_system_are_those_of_a_new_one() -> None:
    drawing = plate_outline(20)
    values = measured(drawing)
    changed = {k: v * 1.01 for k, v in values.items()}
    first = EquationSystem(drawing, values)
    reused, fresh = first.with_values(changed, first.z0), EquationSystem(drawing, changed)
    assert reused.residuals(first.z0) == pytest.approx(fresh.residuals(first.z0))
    assert newton(reused, first.z0)[1]
    assert first.residuals(first.z0) == pytest.approx(np.zeros(first.m), abs=1e-9)


def test_sparse_and_dense_factors_give_one_answer(monkeypatch: pytest.MonkeyPatch) -> None:
    drawing = plate_outline(80, 0.3)
    values = measured(drawing)
    first = next(k for k, c in drawing.constraints.items() if c.kind == "distance" and c.of == ["l1"])
    loose = drawing.model_copy(update={"constraints": {k: c for k, c in drawing.constraints.items() if k != first}})
    places = []
    for large in (1, 10_000):
        monkeypatch.setattr("wendal.core.sketch.solving.solver.LARGE", large)
        monkeypatch.setattr("wendal.core.sketch.solving.drag.LARGE", large)
        changed = solve(drawing, {**values, first: 1.4 * values[first]})
        drag = Drag(loose, measured(loose), "p1b", loose.points["p1b"])
        drag.move((loose.points["p1b"][0] + 3, loose.points["p1b"][1] + 4))
        places.append([*changed.drawing.points.values(), *drag.finish().points.values()])
    assert np.array(places[0]) == pytest.approx(np.array(places[1]), abs=1e-6)
