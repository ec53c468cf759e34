"""Two branches brought together: what does not touch is joined, what both changed is asked, ids and tags stay apart."""

from __future__ import annotations

from typing import Any

import pytest

from tests.building import axis, drawn_on, f
from tests.core.test_route_commands import bored, curve, do
from tests.samples import plate
from tools.hunts.together import hunt_together
from wendal.core.errors import WendalError
from wendal.core.route import Memory, Part, evaluate
from wendal.core.route.together import Together, bring_together
from wendal.demo import DEMO_PARTS

SKETCH = {"kind": "sketch", "name": "New", "on": axis("YZ")}


def test_chains_by_chance_are_joined_as_if_they_were_made_in_a_row() -> None:
    found = hunt_together(2, 31, {n: DEMO_PARTS[n] for n in list(DEMO_PARTS)[:3]})
    assert not [k for k in found if k.startswith("wrong")], found
    assert found["joined"]
    assert found["asked and taken"]


def edited(part: Part, *commands: dict[str, Any]) -> Part:
    for command in commands:
        part = do(part, **command)
    return part


def states(part: Part) -> list[str]:
    return [r.state for r in evaluate(part, Memory()).reports]


def said(made: Together) -> list[tuple[str, str, str, str]]:
    return [(c.where, c.field, c.ours, c.theirs) for c in made.conflicts]


def test_what_both_built_keeps_standing_on_its_own_even_under_one_id_and_one_tag() -> None:
    base = plate("40 mm", "25 mm", "10 mm")
    sides = []
    for x, depth in ((8, "3 mm"), (30, "4 mm")):
        b = plate("40 mm", "25 mm", "10 mm")
        b.part = base.part
        ring = drawn_on(b, {"of": "face", "body": "s2", "names": ["s2/end/r1"]}, "circle", (x, 12), (x + 4, 12))
        b.step("extrude", "Well", profile=b.profile(ring, 0), extent="into", depth=f(depth), result="cut")
        sides.append(b.part)
    made = bring_together(base.part, *sides)
    assert not made.conflicts
    assert sorted(s.name for s in made.part.steps)[-2:] == ["Well", "Well 2"]
    assert states(made.part) == ["built"] * 6
    (body,) = evaluate(made.part, Memory()).site.bodies.values()
    assert body.shape.anatomy.mass[0] == pytest.approx(10_000 - 3.141592653589793 * 16 * 7, abs=1e-4)
    assert len({r.tag for r in made.part.rows()}) == len(made.part.rows())


def test_one_side_deletes_what_the_other_changes_and_it_is_asked() -> None:
    base = bored().part
    gone = do(base, do="remove_steps", steps=["s5"])
    made = bring_together(base, gone, do(base, do="edit_step", step="s5", fields={"radius": {"formula": "1 mm", "tag": "round_radius"}}))
    assert said(made) == [("Round", "the step", "deleted", "changed")]
    assert "s5" not in [s.id for s in made.part.steps]
    (key,) = [c.key for c in made.conflicts]
    other = do(base, do="edit_step", step="s5", fields={"radius": {"formula": "1 mm", "tag": "round_radius"}})
    assert "s5" in [s.id for s in bring_together(base, gone, other, {key: "theirs"}).part.steps]
    assert not bring_together(base, gone, do(base, do="set_note", step="s2", note="x")).conflicts


def test_order_is_that_of_the_side_that_moved_and_asked_where_both_did() -> None:
    base = edited(bored().part, {"do": "add_step", "step": SKETCH})
    up, other = do(base, do="move_steps", steps=["s5"], after="s2"), do(base, do="move_steps", steps=["s6"], after="")
    ids = lambda part: [s.id for s in part.steps]  # noqa: E731
    assert ids(bring_together(base, up, do(base, do="set_note", step="s2", note="x")).part) == ids(up)
    assert ids(bring_together(base, do(base, do="set_note", step="s2", note="x"), up).part) == ids(up)
    made = bring_together(base, up, other)
    assert [c.key for c in made.conflicts] == ["order"]
    assert ids(made.part) == ids(up)
    assert ids(bring_together(base, up, other, {"order": "theirs"}).part) == ids(other)


def test_one_sketch_drawn_by_one_side_and_dimensioned_by_the_other_is_joined() -> None:
    base = plate("40 mm", "25 mm", "10 mm").part
    width = next(r.tag for r in base.rows() if r.step == "s1")
    drawn = do(base, do="edit_sketch", step="s1", edit={"op": "draw", "shape": "circle", "ends": [{"at": [10, 10]}, {"at": [13, 10]}]})
    wider = do(base, do="set_formula", tag=width, formula="44 mm")
    for sides in ((drawn, wider), (wider, drawn)):
        made = bring_together(base, *sides)
        assert not made.conflicts
        assert states(made.part) == states(drawn)
        assert made.part.steps[0].drawing.curves.keys() == drawn.steps[0].drawing.curves.keys()  # type: ignore[attr-defined]
        assert next(r.formula for r in made.part.rows() if r.tag == width) == "44 mm"
    both = do(base, do="edit_sketch", step="s1", edit={"op": "draw", "shape": "line", "ends": [{"at": [1, 1]}, {"at": [9, 3]}]})
    # Both drew: what each has drawn stands beside the other's, whichever is called ours.
    for sides in ((drawn, both), (both, drawn)):
        made = bring_together(base, *sides)
        assert not made.conflicts
        drawing = made.part.steps[0].drawing  # type: ignore[attr-defined]
        assert sorted(c.kind for c in drawing.curves.values()) == ["circle", "line", "line", "line", "line", "line"]
        assert states(made.part) == states(drawn)
    # Where theirs is built on, its ids must stay: it is asked.
    line = next(c for c in both.steps[0].drawing.curves if c not in base.steps[0].drawing.curves)  # type: ignore[attr-defined]
    built_on = do(both, do="add_step", step={"kind": "axis", "name": "Along", "how": "along", "first": {"of": "drawn", "step": "s1", "entity": line}})
    made = bring_together(base, drawn, built_on)
    assert [(w, x) for w, x, _, _ in said(made)] == [("Outline", "what is drawn")]


def test_a_sketch_in_which_one_side_erased_what_the_other_drew_on_is_asked() -> None:
    b = plate("40 mm", "25 mm", "10 mm")
    first = curve(b, 0)
    erased = do(b.part, do="edit_sketch", step="s1", edit={"op": "remove", "entities": [first]})
    apart = do(b.part, do="edit_sketch", step="s1", edit={"op": "draw", "shape": "point", "ends": [{"at": [5, 5]}]})
    made = bring_together(b.part, erased, apart)
    assert not made.conflicts
    drawing = made.part.steps[0].drawing  # type: ignore[attr-defined]
    assert len(drawing.curves) == 3
    assert drawing.points.keys() >= apart.steps[0].drawing.points.keys() - b.part.steps[0].drawing.points.keys()  # type: ignore[attr-defined]
    drawn = do(b.part, do="edit_sketch", step="s1", edit={"op": "draw", "shape": "point", "ends": [{"at": [5, 0], "on": first}]})
    made = bring_together(b.part, erased, drawn)
    assert [x for _, x, _, _ in said(made)] == ["what is drawn"]


def test_what_would_be_no_part_is_refused_in_words() -> None:
    base = bored().part
    ours = do(base, do="add_tag", tag="wall", formula="3 mm")
    theirs = do(base, do="add_tag", tag="wall", formula="4 mm")
    assert [x for _, x, _, _ in said(bring_together(base, ours, theirs))] == ["wall"]
    using = do(do(base, do="add_tag", tag="deep", formula="base_depth"), do="set_note", step="s1", note="x")
    gone = do(base, do="remove_steps", steps=["s2"], values={"base_depth": "1 mm"})
    with pytest.raises(WendalError, match="base_depth"):
        bring_together(base, gone, using)
