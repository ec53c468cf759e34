"""Several steps at once: moved, deleted, suppressed, pasted, noted, put under headings; and what is told of two states of a part."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from tests.building import BODY, TOP, axis, drawn_on, f, volume
from tests.samples import evaluated, plate
from wendal.core import inspect
from wendal.core.drawing.page import drawn_page
from wendal.core.drawing.proposing import proposed_page
from wendal.core.errors import CommandRefused, WendalError
from wendal.core.inspect import MadeBy
from wendal.core.route import (
    Command,
    Memory,
    Part,
    apply,
    evaluate,
    read_part,
    say_command,
    standing_on,
    write_part,
)
from wendal.core.route.differing import differences
from wendal.core.route.page_commands import AddPage
from wendal.core.route.renaming import with_ids
from wendal.demo import DEMO_PARTS
from wendal.demo.builder import Builder

COMMANDS: TypeAdapter[Any] = TypeAdapter(Command)


def do(part: Part, **command: Any) -> Part:
    changed = apply(part, COMMANDS.validate_python(command))
    assert read_part(write_part(changed)) == changed  # whatever comes of it can be read again
    return changed


def volumes(part: Part) -> dict[str, float]:
    return {b.name: round(b.shape.anatomy.mass[0], 6) for b in evaluate(part, Memory()).site.bodies.values()}


def curve(b: Builder, n: int) -> str:
    return list(b.part.steps[0].drawing.curves)[n]  # type: ignore[attr-defined]


def side(b: Builder, n: int) -> str:
    """The face over the n-th line of the outline."""
    return f"s2/side/{curve(b, n)}/r1"


def bored() -> Builder:
    """A plate (s1, s2) with a bore whose sketch stands on its top (s3, s4), and a chamfer of the top's edges (s5)."""
    b = plate("40 mm", "25 mm", "10 mm")
    ring = drawn_on(b, TOP, "circle", (12, 12), (15, 12))
    b.step("extrude", "Bore", profile=b.profile(ring, 0), extent="into", depth=f("10 mm"), result="cut")
    b.step("fillet", "Round", edges=[{"of": "edge", "body": "s2", "faces": [[side(b, 0)], [side(b, 1)]]}], radius=f("base_depth / 5"))
    assert [r.state for r in evaluated(b).reports] == ["built"] * 5
    return b


def names(part: Part) -> list[str]:
    return [s.name for s in part.steps]


def test_what_is_moved_goes_as_one_and_stays_behind_what_it_stands_on() -> None:
    b = bored()
    part = do(b.part, do="move_steps", steps=["s5"], after="s2")
    assert names(part)[2] == "Round"
    assert volumes(part) == volumes(b.part)
    part = do(b.part, do="move_steps", steps=["s4", "s3"], after="s5")  # in the order of the route
    assert [s.id for s in part.steps] == ["s1", "s2", "s5", "s3", "s4"]
    assert volumes(part) == volumes(b.part)
    for steps, after, told in ((["s2"], "s5", "stands on"), (["s3"], "", "stands on"), (["s9"], "", "not in the route")):
        with pytest.raises(WendalError, match=told):
            do(b.part, do="move_steps", steps=steps, after=after)
    assert do(b.part, do="move_steps", steps=["s3", "s4"], after="s4") == b.part


def test_what_stands_on_a_step_is_foretold_and_goes_with_it() -> None:
    part = bored().part
    assert standing_on(part, ["s2"]) == ["s3", "s4", "s5"]
    assert standing_on(part, ["s3"]) == ["s4"]
    assert standing_on(part, ["s5"]) == []
    gone = do(part, do="remove_steps", steps=["s3", "s4"])
    assert volumes(gone) == volumes(do(part, do="set_suppressed", steps=["s3", "s4"], suppressed=True))
    assert names(do(do(part, do="set_suppressed", steps=["s4", "s3"], suppressed=True), do="set_suppressed", steps=["s3", "s4"], suppressed=False)) == names(part)


def test_formulas_that_use_what_is_deleted_take_its_values_or_it_is_refused() -> None:
    b = bored()
    part = do(b.part, do="add_tag", tag="half", formula="base_depth / 2")
    with pytest.raises(WendalError, match=r"half.*base_depth"):
        do(part, do="remove_steps", steps=["s2"])
    gone = do(part, do="remove_steps", steps=["s2"], values={"base_depth": "10 mm"})
    assert [e.formula for e in gone.ledger] == ["(10 mm) / 2"]
    assert next(r.formula for r in gone.rows() if r.step == "s5") == "(10 mm) / 5"


def test_copies_in_the_same_part_stand_on_the_same_things_and_are_their_own() -> None:
    b = bored()
    copied = [s.model_dump(mode="json") for s in b.part.steps[2:4]]
    copied[0]["drawing"]["points"] = {k: [x + 16, y] for k, (x, y) in copied[0]["drawing"]["points"].items()}
    part = do(b.part, do="paste_steps", steps=copied, here=True)
    assert names(part)[-2:] == ["Sketch of circle 2 2", "Bore 2"]
    assert len({r.tag for r in part.rows()}) == len(part.rows())
    assert [r.state for r in evaluate(part, Memory()).reports] == ["built"] * 7
    deeper = next(r.tag for r in part.rows() if r.step == part.steps[-1].id)
    assert volumes(do(part, do="set_formula", tag=deeper, formula="5 mm"))["Base"] > volumes(part)["Base"]  # the copy's own number
    bore = 3.141592653589793 * 90
    assert volumes(b.part)["Base"] - volumes(part)["Base"] == pytest.approx(bore, abs=1e-4)


def test_copies_in_another_part_lose_what_they_stood_on_and_never_mean_another_step() -> None:
    b, other = bored(), plate("90 mm", "60 mm", "20 mm")
    copied = [s.model_dump(mode="json") for s in b.part.steps[2:5]]
    with pytest.raises(WendalError, match="base_depth"):
        do(other.part, do="paste_steps", steps=copied, here=False)
    part = do(other.part, do="paste_steps", steps=copied, here=False, values={"base_depth": "10 mm"})
    assert next(r.formula for r in part.rows() if r.step == part.steps[-1].id) == "(10 mm) / 5"
    states = [r.state for r in evaluate(part, Memory()).reports]
    assert states[:2] == ["built"] * 2
    assert "built" not in states[2:]
    assert volumes(part) == volumes(other.part)
    assert part.last > max(int(s.id[1:]) for s in part.steps)  # the ids of what is lost are never given again
    alone = do(other.part, do="paste_steps", steps=[plate().part.steps[0].model_dump(mode="json")], here=False)
    assert [r.state for r in evaluate(alone, Memory()).reports] == ["built"] * 3


@pytest.mark.parametrize(("data", "ids", "told"), [
    ({"of": "face", "body": "s2.1", "names": ["s2/side/c5/r1@s9.3@s12.1", "s22/end/r1"], "key": "s2"}, {"s2": "s7", "s9": "s8"},
     {"of": "face", "body": "s7.1", "names": ["s7/side/c5/r1@s8.3@s12.1", "s22/end/r1"], "key": "s2"}),
    ({"name": "s2", "body": {"of": "body", "body": "s2"}}, {"s2": "s7"}, {"name": "s2", "body": {"of": "body", "body": "s7"}}),
    ({"of": "face", "body": "s1", "names": ["s1/part/s2~side~c1%s3.1/x"]}, {"s2": "s4", "s3": "s5", "s1": "s2"},
     {"of": "face", "body": "s2", "names": ["s2/part/s4~side~c1%s5.1/x"]}),
])
def test_ids_change_in_references_alone(data: Any, ids: dict[str, str], told: Any) -> None:
    assert with_ids(data, ids) == told


def test_headings_keep_together_what_stands_between_their_ends() -> None:
    part = do(bored().part, do="group_steps", steps=["s3", "s4"], name=" Bores ")
    assert [(g.name, g.steps) for g in part.groups] == [("Bores", ["s3", "s4"])]
    assert do(part, do="move_steps", steps=["s5"], after="s3").groups[0].steps == ["s3", "s5", "s4"]  # put between others of it
    assert do(part, do="move_steps", steps=["s4"], after="s5").groups[0].steps == ["s3"]  # moved away
    assert do(part, do="move_steps", steps=["s3", "s4"], after="s5").groups[0].steps == ["s3", "s4"]
    assert do(part, do="remove_steps", steps=["s3", "s4"]).groups == []
    added = do(part, do="add_step", step={"kind": "sketch", "name": "New", "on": axis("XY")}, after="s3")
    assert added.groups[0].steps == ["s3", "s6", "s4"]
    folded = do(part, do="edit_group", name="Bores", folded=True)
    assert folded.groups[0].folded
    assert do(folded, do="edit_group", name="Bores", to="Holes").groups[0].name != "Bores"
    assert do(part, do="edit_group", name="Bores", gone=True).groups == []
    for command, told in (({"do": "group_steps", "steps": ["s1", "s5"], "name": "x"}, "stands between"), ({"do": "group_steps", "steps": ["s4", "s5"], "name": "x"}, "already"),
                          ({"do": "group_steps", "steps": ["s5"], "name": "Bores"}, "already"), ({"do": "edit_group", "name": "None"}, "no heading")):
        with pytest.raises(WendalError, match=told):
            do(part, **command)


def test_notes_and_what_is_said_of_a_part_are_kept() -> None:
    part = do(bored().part, do="set_note", step="s2", note=" Cast, then milled. ")
    assert part.notes == {"s2": "Cast, then milled."}
    assert do(part, do="set_note", step="s2", note=" ").notes == {}
    assert do(part, do="remove_steps", steps=["s2"], values={"base_depth": "1 mm"}).notes == {}
    assert do(part, do="set_about", about={"number": "HP-7", "note": "two off"}).about.number == "HP-7"


@pytest.mark.parametrize(("command", "said"), [
    ({"do": "move_steps", "steps": ["s5"], "after": "s2"}, "Move Round"), ({"do": "set_suppressed", "steps": ["s4"], "suppressed": False}, "Build again Bore"),
    ({"do": "remove_steps", "steps": ["s1", "s2", "s3", "s4", "s5"]}, "Delete Outline, Base, Sketch of circle 2 and 2 more"),
    ({"do": "edit_step", "step": "s2", "fields": {"depth": {"formula": "14 mm", "tag": "base_depth"}}}, "Edit Base: depth 14 mm"),
    ({"do": "edit_step", "step": "s2", "fields": {"visible": False}}, "Hide Base"), ({"do": "edit_step", "step": "s2", "fields": {"name": "Foot"}}, "Rename Base to Foot"),
    ({"do": "group_steps", "steps": ["s4"], "name": "Bores"}, "Put Bore under Bores"),
])
def test_every_version_is_told_in_words(command: dict[str, Any], said: str) -> None:
    assert say_command(bored().part, COMMANDS.validate_python(command)) == said


def test_differences_of_two_states_are_told_step_by_step_and_field_by_field() -> None:
    part = bored().part
    assert differences(part, part).none
    after = do(do(do(part, do="set_formula", tag="base_depth", formula="12 mm"), do="move_steps", steps=["s5"], after="s2"), do="add_tag", tag="wall", formula="3 mm")
    after = do(after, do="remove_steps", steps=["s4"])
    after = do(after, do="add_step", step={"kind": "sketch", "name": "New", "on": axis("YZ")})
    found = differences(part, after)
    assert {(s.name, s.was) for s in found.steps} == {("Bore", "removed"), ("New", "added"), ("Round", "moved"), ("Base", "changed")}
    (change,) = next(s.fields for s in found.steps if s.name == "Base")
    assert (change.field, change.before, change.after, change.tag) == ("depth", "10 mm", "12 mm", "base_depth")
    assert [(c.tag, c.before, c.after) for c in found.ledger] == [("wall", "nothing", "3 mm")]
    drawing = differences(part, do(part, do="edit_sketch", step="s1", edit={"op": "remove", "entities": [curve(bored(), 0)]})).steps[0].fields
    assert ("sketch: curves", "1 that are gone") in {(c.field, c.before) for c in drawing}


def test_parts_of_two_origins_are_matched_by_what_their_steps_are_called() -> None:
    part = plate("40 mm", "25 mm", "10 mm").part
    other = Builder("Other")
    other.step("sketch", "Aside", on=axis("YZ"))
    outline = other.step("sketch", "Outline", on=axis("XY"))
    other.draw(outline, "rectangle", (0, 0), (40, 25))
    found = differences(part, other.part, related=False)
    assert {(s.name, s.was) for s in found.steps if s.was != "changed"} == {("Base", "removed"), ("Aside", "added")}


def test_what_made_a_face_its_line_its_dimensions_and_what_stands_on_it_are_told() -> None:
    b = bored()

    def asked(thing: dict[str, Any]) -> MadeBy:
        found = inspect.ask(b.part, evaluated(b), inspect.asked({"of": "made", "thing": thing}))
        assert isinstance(found, MadeBy)
        return found

    flank = asked({"of": "face", "body": "s2", "names": [side(b, 0)]})
    assert [(m.name, m.entity) for m in flank.makers] == [("Base", curve(b, 0))]
    assert "line" in flank.makers[0].line
    assert {n.tag for n in flank.numbers if n.of == "step"} == {"base_depth"}
    assert [(s.name, s.straight) for s in flank.standing] == [("Round", True)]
    top = asked(TOP)
    assert [(s.name, s.straight) for s in top.standing] == [("Sketch of circle 2", True), ("Bore", False)]
    wall = asked({"of": "edge", "body": "s2", "faces": [["s2/end/r1"], [f"s4/side/{next(iter(b.part.steps[2].drawing.curves))}/r1"]]})
    assert {m.name for m in wall.makers} == {"Base", "Bore"}
    with pytest.raises(WendalError, match="Pick a face"):
        asked(axis("XY"))
    with pytest.raises(WendalError, match="not in the route"):
        asked({"of": "face", "body": "s2", "names": ["s99/end/r1"]})


@pytest.mark.parametrize("name", DEMO_PARTS)
def test_what_is_foretold_of_deleting_or_suppressing_a_step_happens(name: str) -> None:
    part = DEMO_PARTS[name]()
    memory = Memory()
    stands = evaluate(part, memory)
    for step in part.steps[1::3]:
        for command in ({"do": "set_suppressed", "steps": [step.id], "suppressed": True},
                        {"do": "remove_steps", "steps": [step.id], "values": dict.fromkeys(part.tags(), "1 mm")}):
            try:
                after = do(part, **command)
            except WendalError:
                continue
            told = inspect.foresee(part, stands, after, evaluate(after, memory))
            fresh = evaluate(after, Memory())
            changed = {s["id"]: s["state"] for s in told["steps"]}
            assert all(r.state == changed.get(s.id, stands.report(s.id).state) for s, r in zip(after.steps, fresh.reports, strict=True))
            # What is not among those that stand on it is built as before.
            free = {s.id for s in after.steps} - set(standing_on(part, [step.id])) - {step.id}
            assert all(fresh.report(s).state != "stopped" or s in changed for s in free)


def test_what_pages_and_measures_would_lose_is_foretold() -> None:
    b = bored()
    b.do(do="keep_measure", measure={"tag": "high", "things": [BODY], "key": "volume", "unit": "volume", "after": "", "worth": 1.0})
    memory = Memory()
    part = apply(b.part, AddPage(page=proposed_page(b.part, evaluate(b.part, memory), size="A3")))
    stands = evaluate(part, memory)

    def lost(part: Part) -> int:
        try:
            found = drawn_page(part, evaluate(part, Memory()), part.pages[0]).measured
        except CommandRefused:  # no body is left: all that holds something is lost
            return sum(bool(d.things) for d in part.pages[0].dimensions)
        return sum(m.state == "lost" for m in found)

    assert lost(part) == 0
    some = 0
    for step in part.steps:
        after = do(part, do="remove_steps", steps=[step.id], values=dict.fromkeys(part.tags(), "1 mm"))
        told = inspect.foresee(part, stands, after, evaluate(after, memory))
        assert sum(p["lost"] for p in told["pages"]) == lost(after), step.name
        assert told["measures"] == ["high"] * (evaluate(after, Memory()).gauged["high"].state == "lost")
        some += lost(after)
    assert some
    changed = do(part, do="set_formula", tag="base_depth", formula="12 mm")
    told = inspect.foresee(part, stands, changed, evaluate(changed, memory))
    assert told["steps"]
    assert not told["pages"] + told["measures"]


def test_a_body_that_is_measured_stays_with_what_is_left() -> None:
    b = bored()
    part = do(b.part, do="keep_measure", measure={"tag": "high", "things": [BODY], "key": "volume", "unit": "volume", "after": "s5", "worth": 1.0})
    assert do(part, do="remove_steps", steps=["s5", "s4"]).kept[0].after == "s3"


def numbers(b: Builder) -> list[int]:
    return [b.part.number(s.id) for s in b.part.steps]


def plane_at(b: Builder, name: str, after: str = "") -> str:
    b.do(do="add_step", step={"kind": "plane", "name": name, "how": "offset", "first": {"of": "base", "name": "XY"}, "distance": {"formula": "1 mm"}}, after=after)
    return next(s.id for s in b.part.steps if s.name == name)


def test_a_step_put_between_has_a_number_between() -> None:
    b = Builder("Numbers")
    a, c = plane_at(b, "A"), plane_at(b, "C")
    between = plane_at(b, "B", a)
    assert numbers(b) == [10, 15, 20]
    plane_at(b, "D")
    assert numbers(b) == [10, 15, 20, 30]
    b.do(do="move_step", step=between, after=c)
    assert numbers(b) == [10, 20, 25, 30]
    b.do(do="remove_step", step=c)
    assert numbers(b) == [10, 25, 30]
    for n in range(3):
        plane_at(b, f"E{n}", a)
    assert numbers(b) == [10, 11, 13, 17, 25, 30]  # halved each time
    b.do(do="number_steps")
    assert numbers(b) == [10, 20, 30, 40, 50, 60]
    with pytest.raises(CommandRefused, match="as they are"):
        b.do(do="number_steps")
    for n in range(4):  # until there is no room: then all are numbered anew
        plane_at(b, f"F{n}", a)
    assert numbers(b)[:2] == [10, 20]


@given(st.lists(st.tuples(st.sampled_from(["add", "move", "remove"]), st.integers(0, 9), st.integers(0, 9)), max_size=25))
def test_numbers_rise_and_what_stays_keeps_its_own(edits: list[tuple[str, int, int]]) -> None:
    b = Builder("Numbers")
    for n in range(4):
        plane_at(b, f"P{n}")
    for k, (what, i, j) in enumerate(edits):
        before = {s.id: b.part.number(s.id) for s in b.part.steps}
        ids = list(before)
        after = ids[j % len(ids)] if ids else ""
        if what == "add" or not ids:
            plane_at(b, f"Q{k}", after)
        elif what == "remove":
            b.do(do="remove_step", step=ids[i % len(ids)])
        elif ids[i % len(ids)] != after:
            b.do(do="move_step", step=ids[i % len(ids)], after=after)
        now = numbers(b)
        assert now == sorted(set(now))
        if b.part.numbers and what == "remove":
            assert all(b.part.number(s.id) == before[s.id] for s in b.part.steps)


def test_another_step_takes_the_place_of_one_that_is_deleted() -> None:
    b = plate()
    low, high = (b.step("plane", n, how="offset", first=axis("XY"), distance=f(f"{d} mm")) for n, d in (("Low", 3), ("High", 6)))
    ring = drawn_on(b, {"of": "datum", "step": high}, "rectangle", (5, 5), (15, 15))
    b.step("extrude", "Pocket", profile=b.profile(ring, 0), depth=f("30 mm"), result="cut")
    assert volume(b) == pytest.approx(10000 - 100 * 4)
    late = b.step("plane", "Late", how="offset", first=axis("XY"), distance=f("8 mm"))
    with pytest.raises(CommandRefused, match="comes behind it"):
        b.do(do="remove_steps", steps=[high], instead=late)
    with pytest.raises(CommandRefused, match="two kinds"):
        b.do(do="remove_steps", steps=[high], instead="s1")
    b.do(do="remove_steps", steps=[high], instead=low)
    assert [s.name for s in b.part.steps if s.kind == "plane"] == ["Low", "Late"]
    assert volume(b) == pytest.approx(10000 - 100 * 7)
