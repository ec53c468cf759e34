"""Keys are content: the same in every process, changed by whatever is built from, and by nothing else."""

from __future__ import annotations

import os
import subprocess
import sys
from dataclasses import dataclass
from types import SimpleNamespace
from typing import Annotated, Any, Literal

import numpy as np
import pytest

from tests.samples import XY, block, evaluated, plate
from wendal.core.blanks import Name
from wendal.core.datum import Picked
from wendal.core.datum.picked import EndlessLine
from wendal.core.datum.taken import circle_curve, line_curve
from wendal.core.errors import DocumentError, WendalError
from wendal.core.kernel.types import Frame
from wendal.core.quantity import Kind
from wendal.core.route import Memory, evaluate, read_part, write_part
from wendal.core.route.evaluate import _unused
from wendal.core.route.tokens import digest, words_in
from wendal.core.steps import Step
from wendal.core.stored import Value
from wendal.demo.builder import Builder


def one_of_everything() -> list[Any]:
    """Return content of every type that keys are made of; regions with lines, arcs, ellipses, splines and letters in them."""
    b = Builder("Everything")
    sketch = b.step("sketch", "Outline", on=XY)
    b.draw(sketch, "rectangle", (0, 0), (40, 25))
    b.draw(sketch, "circle", (80, 0), (90, 0))
    b.draw(sketch, "ellipse", (120, 0), (140, 0), (120, 8))
    b.draw(sketch, "spline", (0, 60), (20, 80), (40, 50), (60, 70))
    b.draw(sketch, "line", (60, 70), (60, 40))
    b.draw(sketch, "line", (60, 40), (0, 60))
    made = evaluated(b).site.sketches[sketch]
    return [None, True, 3, -0.0, 2.5, "words", (1, "a"), [1.0], {"b": 1, "a": {3, 1, 2}}, frozenset({"y", "x"}), np.arange(4.0), Kind.ANGLE,
            Value(formula="3 mm"), Frame(), b.drawing(sketch), made.regions, Picked("an edge", curve=line_curve(EndlessLine((0, 0, 0), (1, 0, 0), 4)), key="k")]


def test_keys_are_the_same_in_every_process() -> None:
    code = "from tests.core.test_keys import one_of_everything as e, digest\nprint(*(digest(x) for x in e()))"
    told = [subprocess.run([sys.executable, "-c", code], env={**os.environ, "PYTHONHASHSEED": seed}, capture_output=True, text=True, check=True).stdout.split()
            for seed in ("1", "2")]
    assert told[0] == told[1] == [digest(x) for x in one_of_everything()]
    assert len(set(told[0])) == len(told[0])


@pytest.mark.parametrize("strange", [object(), len, {"a": object()}, [Picked("an edge", curve=circle_curve(Frame(), 2, 0, 1))], SimpleNamespace(a=1)])
def test_what_is_not_known_to_be_content_makes_no_key(strange: object) -> None:
    with pytest.raises(TypeError, match="content"):
        digest(strange)


def test_pieces_are_not_confused() -> None:
    assert len({digest("ab", "c"), digest("a", "bc"), digest(["a"], "bc"), digest(("a", "bc")), digest(1), digest("1"), digest(1.0), digest(True)}) == 8


@dataclass(frozen=True)
class _Named:
    size: float


def test_words_are_no_content_but_can_be_asked_for() -> None:
    one, other = Picked("Plane A", plane=Frame()), Picked("Plane B", plane=Frame())
    assert digest(one) == digest(other) != digest(Picked("Plane A", plane=Frame((0, 0, 1))))
    assert words_in({"on": [one]}) != words_in({"on": [other]})
    assert digest(_Named(1.0)) != digest(_Named(2.0))


def test_a_field_that_another_kind_has_as_a_blank_counts() -> None:
    class Odd(Step):
        title = group = key = explains = sentence = makes = "odd"
        kind: Literal["odd"] = "odd"
        name: Annotated[str, Name(label="name")]
        distance: float = 1.0  # a blank of the datum plane, and none here

    assert "distance" not in _unused(Odd(id="s1", name="Odd"))


def test_renaming_builds_nothing_and_renames_what_was_made() -> None:
    memory, b = Memory(), block()
    plane = b.step("plane", "Shelf", how="offset", first=XY, distance={"formula": "30 mm"})
    on_it = b.step("sketch", "Upper", on={"of": "datum", "step": plane})
    b.draw(on_it, "circle", (0, 0), (5, 0))
    evaluate(b.part, memory)
    for step, name in ((plane, "Ledge"), ("s2", "Slab"), ("s1", "Contour")):
        b.do(do="edit_step", step=step, fields={"name": name})
    again = evaluate(b.part, memory)
    assert all(r.remembered for r in again.reports)
    assert again.site.bodies["s2"].name == "Slab"
    assert again.report(on_it).state == "built"


def test_a_refusal_says_todays_names() -> None:
    memory, b = Memory(), plate()
    far = b.step("sketch", "Far", on=XY)
    b.draw(far, "circle", (200, 0), (205, 0))
    b.step("extrude", "Stray", profile=b.profile(far, 0), depth={"formula": "4 mm"}, result="add", bodies=[{"of": "body", "body": "s2"}])
    assert "Base" in evaluate(b.part, memory).reports[-1].message
    b.do(do="edit_step", step="s2", fields={"name": "Slab"})
    assert "Slab" in evaluate(b.part, memory).reports[-1].message


def _twice_the_region(data: dict[str, Any]) -> None:
    profile = data["steps"][1]["profile"]
    profile.append(dict(profile[0]))


def _twice_the_id(data: dict[str, Any]) -> None:
    drawing = data["steps"][0]["drawing"]
    drawing["points"][next(iter(drawing["curves"]))] = (1.0, 2.0)


@pytest.mark.parametrize(("spoil", "told"), [(_twice_the_region, "key “r1”"), (_twice_the_id, "used twice in this sketch")])
def test_durable_names_are_unique_where_a_document_is_accepted(spoil: Any, told: str) -> None:
    import json

    data = json.loads(write_part(plate().part))
    spoil(data)
    with pytest.raises(DocumentError, match=told):
        read_part(json.dumps(data))


def test_a_command_with_two_regions_of_one_key_is_refused() -> None:
    b = plate()
    with pytest.raises(WendalError, match="key “r1”"):
        b.do(do="edit_step", step="s2", fields={"profile": b.profile("s1", 0) * 2})


def test_results_are_forgotten_by_their_size_the_longest_unused_first() -> None:
    b, memory = plate(), Memory(faces=20)
    first = evaluate(b.part, memory).reports[-1].key
    for depth in range(11, 15):
        b.do(do="set_formula", tag="base_depth", formula=f"{depth} mm")
        last = evaluate(b.part, memory).reports[-1].key
    assert memory.get(first) is None
    assert memory.get(last) is not None
