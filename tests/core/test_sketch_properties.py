"""What holds of every sketch: it solves, it counts its freedoms the same in any order, drags break nothing, undo restores it bit for bit."""

from __future__ import annotations

import math
import random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.samples import free_sketch
from tools.bench.changes import judged
from tools.hunts.sketches import FAMILIES, generated
from wendal.core.errors import SketchError
from wendal.core.route import read_part, write_part
from wendal.core.sketch import (
    Constraint,
    Drag,
    Drawing,
    Layout,
    find_freedoms,
    measured,
    motion_frames,
    propose,
    rule_for,
    solve,
)
from wendal.core.sketch.solving.system import EquationSystem
from wendal.core.stored import Value
from wendal.store import PartStore

SEEDS = st.integers(0, 10_000)
SCALES = st.sampled_from([0.003, 1.0, 150.0])  # sketches of 0.1 mm to 10 m


def count(drawing: Drawing) -> int:
    return find_freedoms(solve(drawing, measured(drawing))).number


def without(drawing: Drawing, *gone: str) -> Drawing:
    return drawing.model_copy(update={"constraints": {k: c for k, c in drawing.constraints.items() if k not in gone}})


def worst(drawing: Drawing, values: dict[str, float]) -> float:
    """The largest miss of any constraint, of the sketch's size."""
    system = EquationSystem(drawing, values, reduced=False)
    return float(np.abs(system.residuals(system.z0)).max(initial=0)) / system.size


def shaken(drawing: Drawing, rng: np.random.Generator, share: float) -> Drawing:
    """The drawing as by a shaky hand, every point off by about a share of its size."""
    size = EquationSystem(drawing, measured(drawing)).size
    return drawing.model_copy(update={"points": {p: (x + share * size * float(rng.normal()), y + share * size * float(rng.normal()))
                                                 for p, (x, y) in drawing.points.items()}})


@given(SEEDS, SCALES)
@settings(max_examples=30, deadline=None)
def test_a_sketch_drawn_by_a_shaky_hand_solves(seed: int, scale: float) -> None:
    drawing = generated(seed, scale)
    values = measured(drawing)
    made = solve(shaken(drawing, np.random.default_rng(seed), 0.004), values)
    assert worst(made.drawing, values) < 1e-9
    assert find_freedoms(made).number == 0


@given(SEEDS, st.randoms(use_true_random=False))
@settings(max_examples=30, deadline=None)
def test_the_order_of_constraints_changes_no_count(seed: int, chance: random.Random) -> None:
    drawing = generated(seed)
    loose = without(drawing, *chance.sample(sorted(measured(drawing)), min(3, len(measured(drawing)))))
    names = list(loose.constraints)
    chance.shuffle(names)
    turned = loose.model_copy(update={"constraints": {k: loose.constraints[k] for k in names}})
    assert count(turned) == count(loose) == len(drawing.constraints) - len(loose.constraints)


@given(SEEDS, SCALES, st.data())
@settings(max_examples=25, deadline=None)
def test_a_drag_keeps_every_constraint(seed: int, scale: float, data: st.DataObject) -> None:
    drawing = generated(seed, scale)
    gone = data.draw(st.lists(st.sampled_from(sorted(measured(drawing))), min_size=1, max_size=3, unique=True))
    loose = without(drawing, *gone)
    values = measured(loose)
    held = data.draw(st.sampled_from(sorted(loose.points)))
    size = EquationSystem(loose, values).size
    drag = Drag(loose, values, held, loose.points[held])
    for _ in range(4):
        x, y = loose.points[held]
        drag.move((x + size * data.draw(st.floats(-0.4, 0.4)), y + size * data.draw(st.floats(-0.4, 0.4))))
    assert worst(drag.finish(), values) < 1e-8


@given(SEEDS, st.data())
@settings(max_examples=25, deadline=None)
def test_a_freedom_played_keeps_every_constraint_and_moves_something(seed: int, data: st.DataObject) -> None:
    drawing = generated(seed)
    loose = without(drawing, data.draw(st.sampled_from(sorted(measured(drawing)))))
    values = measured(loose)
    freedoms = find_freedoms(solve(loose, values))
    assert freedoms.number == 1
    frames = motion_frames(solve(loose, values), 0)
    assert frames
    moved = 0.0
    for frame in frames:
        assert worst(frame, values) < 5e-6  # frames of a picture are solved to 1e-6
        moved = max(moved, *(math.dist(frame.points[p], loose.points[p]) for p in loose.points))
    assert moved > 1e-3 or freedoms.motions[0].grows


@pytest.mark.parametrize("seed", range(2 * len(FAMILIES)))
def test_one_dimension_changed_ends_where_small_steps_end(seed: int) -> None:
    assert judged(seed, 1, steps=80) in ("right", "refused rightly")


@given(SEEDS, st.floats(0.05, 20))
@settings(max_examples=25, deadline=None)
def test_a_refused_change_names_a_dimension_and_leaves_the_drawing(seed: int, factor: float) -> None:
    drawing = generated(seed)
    values = measured(drawing)
    lengths = [k for k in sorted(values) if rule_for(drawing.constraints[k].kind).quantity == "length"]
    changed = lengths[seed % len(lengths)]
    before = drawing.model_dump_json()
    told, made = None, None
    try:
        made = solve(drawing, {**values, changed: values[changed] * factor})
    except SketchError as error:
        told = error
    if made is None:
        assert told
        assert told.field in drawing.constraints
    else:
        assert measured(made.drawing)[changed] == pytest.approx(values[changed] * factor, rel=1e-7)
    assert drawing.model_dump_json() == before


@given(SEEDS)
@settings(max_examples=12, deadline=None)
def test_what_is_proposed_constrains_a_sketch_wholly(seed: int) -> None:
    drawing = generated(seed)
    made = drawing.model_copy(update={"constraints": {k: c for k, c in drawing.constraints.items() if c.value is None}})
    offered = propose(solve(made, {}), [])
    assert len(offered) == count(made)
    for i, proposal in enumerate(offered):
        rule = rule_for(proposal.kind)
        c = Constraint(kind=proposal.kind, of=proposal.of, manner=proposal.manner)
        c = c.model_copy(update={"sense": rule.choose(c, Layout(made)), "value": Value(formula="1", tag="t") if rule.quantity else None})
        made = made.model_copy(update={"constraints": {**made.constraints, f"k{9000 + i}": c}})
    assert count(made) == 0


@pytest.mark.parametrize("seed", range(4))
def test_undo_and_redo_restore_a_sketch_bit_for_bit(seed: int, store: PartStore) -> None:
    chance = random.Random(seed)
    b, sketch = free_sketch()
    state = store.create("Sample", write_part(b.part), "Begin")
    kept = [state.document]
    for _ in range(14):
        curves = list(b.drawing(sketch).curves)
        x, y, kind = chance.uniform(-40, 40), chance.uniform(-40, 40), chance.choice(["line", "rectangle", "circle", "remove", "tie", "tie"])
        try:
            if kind == "remove" and curves:
                b.do(do="edit_sketch", step=sketch, edit={"op": "remove", "entities": [chance.choice(curves)]})
            elif kind == "tie" and curves:
                b.constrain(sketch, *chance.choice([("horizontal", chance.choice(curves)), ("equal", *chance.sample(curves, min(2, len(curves)))),
                                                    ("distance", chance.choice(curves))]))
            else:
                b.draw(sketch, kind if kind in ("rectangle", "circle") else "line", (x, y), (x + 17.3, y + 5.1))
        except SketchError:
            assert write_part(b.part) == kept[-1]
            continue
        assert write_part(read_part(write_part(b.part))) == write_part(b.part)
        state = store.commit(state.id, state.edition, b.part.name, write_part(b.part), "Edit", "{}")
        kept.append(state.document)
    assert len(kept) > 5
    for expected in kept[-2::-1]:
        state = store.undo(state.id, state.edition)
        assert state.document == expected
    for expected in kept[1:]:
        state = store.redo(state.id, state.edition)
        assert state.document == expected
