"""The Instrument bracket: a foot plate with four holes, two webs, and a seat on a plane that tilts about an
axis."""

from __future__ import annotations

from typing import Any

from wendal.core.route import Part

from .builder import Builder

__all__ = ["instrument_bracket"]


def instrument_bracket() -> Part:
    """Make the part."""
    b = Builder("Instrument bracket")
    for tag, formula, note in (
        ("seat_tilt", "22 deg", "against the foot"),
        ("seat_rise", "22 mm", "front of the seat over the foot"),
        ("seat_width", "86 mm", "across both webs"),
        ("seat_length", "76 mm", "up the slope"),
        ("seat_depth", "12 mm", "thickness of the seat"),
        ("web", "10 mm", "thickness of a web"),
    ):
        b.do(do="add_tag", tag=tag, formula=formula, note=note)
    foot = b.step("sketch", "Foot outline", on={"of": "base", "name": "XY"})
    low, *others = b.draw(foot, "rectangle", (0, 0), (110, 70), on="origin", width="120 mm", height="80 mm")
    base = b.step(
        "extrude", "Base", profile=b.profile(foot, 0), depth={"formula": "12 mm", "tag": "base_depth"}
    )
    body = {"of": "body", "body": base}

    front = {"of": "edge", "body": base, "faces": [[f"{base}/end/r1"], [f"{base}/side/{low}/r1"]]}
    tilt_line = b.step(
        "axis", "Tilt line", how="along", first=front, more="moved", shift_z={"formula": "seat_rise"}
    )
    seat_plane = b.step(
        "plane",
        "Seat plane",
        how="angle",
        first=_datum(tilt_line),
        angle={"formula": "seat_tilt"},
        second={"of": "base", "name": "XY"},
    )
    corner = b.step(
        "point",
        "Seat corner",
        how="line_plane",
        first=_datum(tilt_line),
        second={"of": "base", "name": "YZ"},
        visible=False,
    )
    seat = b.step(
        "system",
        "Seat",
        how="on_face",
        first=_datum(seat_plane),
        second=_datum(tilt_line),
        third=_datum(corner),
    )

    b.do(
        do="add_tag",
        tag="web_place",
        formula="(foot_outline_width - seat_width) / 2",
        note="outside of a web from the foot's edge",
    )
    web = _web(b, "Web", "web_place", body)
    middle = b.step(
        "plane",
        "Middle",
        how="offset",
        first={"of": "base", "name": "YZ"},
        distance={"formula": "foot_outline_width / 2"},
        visible=False,
    )
    b.step("mirror", "Far web", seeds=[{"of": "step", "step": web}], about=_datum(middle))

    outline = b.step("sketch", "Seat outline", on=_datum(seat))
    sides = b.draw(outline, "rectangle", (17, 2), (103, 78), width="seat_width", height="seat_length")
    b.constrain(outline, "distance", sides[3], "y_axis", formula="web_place", tag="left")
    b.constrain(outline, "distance", sides[0], "x_axis", formula="2 mm", tag="front")
    (pilot,) = b.draw(outline, "circle", (60, 40), (74, 40), diameter="30 mm")
    centre = b.drawing(outline).curves[pilot].points[0]
    b.constrain(outline, "distance", centre, sides[3], formula="seat_width / 2", tag="pilot_x")
    b.constrain(outline, "distance", centre, sides[0], formula="seat_length / 2", tag="pilot_y")
    b.step(
        "extrude",
        "Seat block",
        profile=b.profile(outline, 0),
        extent="into",
        result="add",
        bodies=[body],
        depth={"formula": "seat_depth"},
    )
    _feet(b, base, body)
    round_ = [low, *others][:4]
    corners = [
        {
            "of": "edge",
            "body": base,
            "faces": [[f"{base}/side/{round_[i]}/r1"], [f"{base}/side/{round_[(i + 1) % 4]}/r1"]],
            "alone": True,
        }
        for i in range(4)
    ]
    b.step("fillet", "Foot corners", edges=corners, radius={"formula": "foot_inset / 2"})
    return b.part


def _feet(b: Builder, base: str, body: dict[str, Any]) -> None:
    """Four clearance holes at one distance from the edges."""
    spots = b.step("sketch", "Feet", on={"of": "face", "body": base, "names": [f"{base}/end/r1"]})
    b.do(do="add_tag", tag="foot_inset", formula="12 mm", note="of a foot's hole from both edges")
    for i, (x, y) in enumerate(((12, 12), (108, 12), (108, 68), (12, 68))):
        b.draw(spots, "point", (x, y))
        point = next(reversed(b.drawing(spots).points))
        across = "foot_inset" if x < 60 else "foot_outline_width - foot_inset"
        along = "foot_inset" if y < 40 else "foot_outline_height - foot_inset"
        word = ("first", "second", "third", "fourth")[i]
        b.constrain(spots, "distance", point, "y_axis", formula=across, tag=f"{word}_across")
        b.constrain(spots, "distance", point, "x_axis", formula=along, tag=f"{word}_along")
    b.step(
        "hole",
        "Feet holes",
        at=[{"of": "sketch", "step": spots}],
        sizing="clearance",
        screw="M8",
        bodies=[body],
    )


def _datum(step: str) -> dict[str, Any]:
    return {"of": "datum", "step": step}


def _web(b: Builder, name: str, place: str, body: dict[str, Any]) -> str:
    """An upright web whose top runs in the middle of the seat's thickness."""
    plane = b.step(
        "plane",
        f"{name} plane",
        first={"of": "base", "name": "YZ"},
        distance={"formula": place},
        visible=False,
    )
    sketch = b.step("sketch", f"{name} outline", on=_datum(plane))
    corners = [(15, 12), (65, 12), (65, 54), (15, 34)]
    lines = [b.draw(sketch, "line", p, q)[0] for p, q in zip(corners, corners[1:] + corners[:1], strict=True)]
    points = [b.drawing(sketch).curves[line].points for line in lines]
    for i in range(4):
        b.constrain(sketch, "coincident", points[i][1], points[(i + 1) % 4][0])
    for kind, line in (("horizontal", 0), ("vertical", 1), ("vertical", 3)):
        b.constrain(sketch, kind, lines[line])
    top = "base_depth + seat_rise + web_outline_inset * tan(seat_tilt) - seat_depth / (2 * cos(seat_tilt))"
    for kind, things, formula, tag in (
        ("distance", (lines[0], "x_axis"), "base_depth", "floor"),
        ("distance", (lines[3], "y_axis"), "15 mm", "inset"),
        ("distance", (lines[0],), "50 mm", "length"),
        ("distance", (points[3][0], "x_axis"), top, "front"),
        ("angle", ("x_axis", lines[2]), "180 deg - seat_tilt", "slope"),
    ):
        b.constrain(sketch, kind, *things, formula=formula, tag=tag)
    return b.step(
        "extrude", name, profile=b.profile(sketch, 0), depth={"formula": "web"}, result="add", bodies=[body]
    )
