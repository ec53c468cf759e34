"""Measures in formulas mean one step, follow its name, and cost nothing where nothing uses them."""

from __future__ import annotations

from typing import Any

import pytest

from tests.building import f
from tests.samples import XY, evaluated
from wendal.core import kernel
from wendal.core.errors import CommandRefused
from wendal.core.route import Memory, evaluate
from wendal.core.route.giving import Giver
from wendal.demo.builder import Builder


def two_blocks() -> Builder:
    """Base, 4000 mm³, and Foot, as deep as a 400th of that."""
    b = Builder("Blocks")
    for name, x, size, depth in (("Base", 0, 20, "10 mm"), ("Foot", 50, 10, "base.volume / 400 mm^2")):
        sketch = b.step("sketch", f"{name} outline", on=XY)
        b.draw(sketch, "rectangle", (x, 0), (x + size, size))
        b.step("extrude", name, profile=b.profile(sketch, 0), depth=f(depth))
    return b


def foot(b: Builder) -> float:
    evaluation = evaluated(b)
    assert evaluation.report("s4").state == "built", evaluation.report("s4").message
    return kernel.volume_of(evaluation.site.bodies["s4"].shape)


def test_a_measure_is_renamed_with_its_step() -> None:
    b = two_blocks()
    b.do(do="add_tag", tag="weight", formula="base.volume * 2")
    b.do(do="edit_step", step="s2", fields={"name": "Ground plate"})
    assert foot(b) == pytest.approx(1000)
    formulas = {row.tag: row.formula for row in b.part.rows()}
    assert formulas["foot_depth"] == "ground_plate.volume / 400 mm^2"
    assert formulas["weight"] == "ground_plate.volume * 2"


@pytest.mark.parametrize("name", ["base", "BASE", "Base!"])
def test_a_name_with_which_a_measure_could_be_that_of_two_steps_is_refused(name: str) -> None:
    b = two_blocks()
    sketch = b.step("sketch", "Third outline", on=XY)
    b.draw(sketch, "rectangle", (100, 0), (105, 5))
    with pytest.raises(CommandRefused, match=r"Formulas use base\.volume") as refused:
        b.step("extrude", name, profile=b.profile(sketch, 0), depth=f("2 mm"))
    assert refused.value.field == "name"
    third = b.step("extrude", "Third", profile=b.profile(sketch, 0), depth=f("2 mm"))
    with pytest.raises(CommandRefused, match="could be"):
        b.do(do="edit_step", step=third, fields={"name": name})
    assert foot(b) == pytest.approx(1000)


def test_names_that_no_formula_uses_may_be_alike() -> None:
    b = two_blocks()
    b.do(do="set_formula", tag="foot_depth", formula="10 mm")
    b.step("sketch", "base", on=XY)
    assert foot(b) == pytest.approx(1000)


def test_a_step_that_no_measure_reaches_is_not_looked_at_again(monkeypatch: pytest.MonkeyPatch) -> None:
    b, memory, given = two_blocks(), Memory(), list[str]()
    b.step("plane", "Shelf", how="offset", first=XY, distance=f("30 mm"))
    real = Giver.give

    def noted(self: Giver, step: Any, *more: Any) -> Any:
        given.append(step.name)
        return real(self, step, *more)

    monkeypatch.setattr(Giver, "give", noted)
    evaluate(b.part, memory)
    given.clear()
    b.do(do="set_formula", tag="shelf_distance", formula="31 mm")
    evaluate(b.part, memory)
    assert given == ["Shelf"]
    given.clear()
    b.do(do="set_formula", tag="base_depth", formula="12 mm")  # reaches Foot by its volume
    assert kernel.volume_of(evaluate(b.part, memory).site.bodies["s4"].shape) == pytest.approx(1200)
    assert "Foot" in given
