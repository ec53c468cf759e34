"""Names and colours of single faces: they go with the face through changes, and are left out where it is gone."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest

from tests.building import TOP, axis, datum, drawn_on, f, of_step
from tests.core.test_unaltered import elbow
from tests.samples import evaluated, plate
from wendal.core import exchange, kernel
from wendal.core.errors import CommandRefused
from wendal.core.inspect import Blobs, scene
from wendal.core.inspect.painted import painted
from wendal.core.reference import edge_ref, face_ref
from wendal.demo.builder import Builder


def top(b: Builder) -> dict[str, object]:
    topology = evaluated(b).site.bodies["s2"].topology
    i = next(i for i, x in enumerate(topology.faces) if x.form == "flat" and x.frame.normal[2] > 0.9)
    return face_ref("s2", topology, i).model_dump(mode="json")


def looks(b: Builder) -> list[tuple[str, str, float]]:
    bodies = evaluated(b).site.bodies
    found = painted(b.part, bodies)
    return [(x.name, x.colour, bodies[body].topology.faces[i].centre[2]) for body, held in found.items() for i, x in held.items()]


def test_a_face_keeps_its_look_while_it_moves_and_loses_it_with_itself() -> None:
    b = plate()
    b.do(do="set_face_look", face=top(b), name="Seat", colour="moss")
    assert looks(b) == [("Seat", "moss", 10.0)]
    b.do(do="set_formula", tag="base_depth", formula="14 mm")
    assert looks(b) == [("Seat", "moss", 14.0)]
    told = scene(b.part, evaluated(b), Blobs(set(), {}))["bodies"][0]["painted"]
    assert list(told.values()) == [{"name": "Seat", "colour": "moss", "look": 0}]
    b.do(do="set_face_look", face=top(b), name="Seat", colour="clay")  # the same face again
    assert [x.colour for x in b.part.faces] == ["clay"]
    side = {"of": "face", "body": "s2", "names": ["s2/side/c3/r1"]}
    with pytest.raises(CommandRefused, match="already"):
        b.do(do="set_face_look", face=side, name="Seat")
    whole = drawn_on(b, TOP, "rectangle", (-5, -5), (50, 40))
    b.step("extrude", "Planed", profile=b.profile(whole, 0), extent="into", depth=f("2 mm"), result="cut")
    assert looks(b) == []  # the cut's floor is another face
    b.do(do="set_face_look", face=b.part.faces[0].face.model_dump(mode="json"))
    assert b.part.faces == []


def test_names_and_colours_of_faces_go_into_a_step_file() -> None:
    b = plate()
    b.do(do="set_face_look", face=top(b), name="Seat", colour="moss")
    text = exchange.export(b.part, evaluated(b), "step").decode()
    assert "Seat" in re.findall(r"ADVANCED_FACE\('([^']*)'", text)
    assert text.count("COLOUR_RGB") == 1


def lugs() -> Builder:
    """A plate with a rounded lug and its mirror image: of such faces the kernel's writer makes new ones."""
    b = plate()
    ring = drawn_on(b, TOP, "rectangle", (3, 3), (9, 8))
    lug = b.step("extrude", "Lug", profile=b.profile(ring, 0), depth=f("4 mm"), result="add", bodies=[{"of": "body", "body": "s2"}])
    topology = evaluated(b).site.bodies["s2"].topology
    upright = [edge_ref("s2", topology, i).model_dump(mode="json") for i, e in enumerate(topology.edges) if abs(e.tangent[2]) > 0.9 and 2 < e.middle[0] < 10 and 2 < e.middle[1] < 9]
    soft = b.step("fillet", "Soft", edges=upright, radius=f("1 mm"))
    middle = b.step("plane", "Middle", how="offset", first=axis("YZ"), distance=f("20 mm"))
    b.step("mirror", "Other", seeds=[of_step(lug), of_step(soft)], about=datum(middle))
    return b


@pytest.mark.parametrize("make", [plate, lugs])
def test_every_face_comes_back_from_a_step_file_under_its_name_and_in_its_colour(make: Callable[[], Builder]) -> None:
    """After another part has joined on to the same remembered body, too: the elbow of `test_unaltered`."""
    (body,) = evaluated(make()).site.bodies.values()
    evaluated(elbow())
    own = {i: (f"Face_{i}", (40 + 3 * i, 255 - 3 * i, 7)) for i in range(len(body.shape.names))}
    content = kernel.write_step([("Body", body.shape, None)], faces=[own])
    assert {n for n, _ in own.values()} == set(re.findall(r"ADVANCED_FACE\('([^']*)'", content.decode()))
    found = kernel.read_step(content, len(own))
    rows = kernel.faces_of_received(found.shape)
    back = {colour[:3]: row.middle for row, colour in zip(rows, found.painted[0], strict=True) if colour}
    for i, (_, colour) in own.items():
        assert back[colour] == pytest.approx(body.shape.anatomy.faces[i].described.centre, abs=1e-6)
