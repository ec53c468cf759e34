"""Further parts of Harrow Point: the Float wheel, the Well-head flange and the Mast clamp."""

from __future__ import annotations

from typing import Any

from wendal.core.route import Part

from .builder import Builder

__all__ = ["float_wheel", "mast_clamp", "well_head_flange"]


def _base(name: str) -> dict[str, Any]:
    return {"of": "base", "name": name}


def _datum(step: str) -> dict[str, Any]:
    return {"of": "datum", "step": step}


def _body(step: str) -> dict[str, Any]:
    return {"of": "body", "body": step}


def _step(step: str) -> dict[str, Any]:
    return {"of": "step", "step": step}


def _face(body: str, *names: str) -> dict[str, Any]:
    return {"of": "face", "body": body, "names": list(names)}


def float_wheel() -> Part:
    """A grooved wheel over which the float's line runs: revolved, its openings patterned round the axis, a
    bore with a tolerance."""
    b = Builder("Float wheel")
    for tag, formula, note in (
        ("rim", "120 mm", "outer diameter"),
        ("hub", "32 mm", "diameter of the hub"),
        ("bore", "12 mm", "for the spindle"),
        ("openings", "6", "between the spokes"),
        ("line", "6 mm", "width of the groove for the line"),
    ):
        b.do(do="add_tag", tag=tag, formula=formula, note=note)
    section = b.step("sketch", "Section", on=_base("ZX"))
    corners = [
        (0, 0),
        (60, 0),
        (60, 4),
        (56, 7),
        (60, 10),
        (60, 14),
        (48, 14),
        (48, 10),
        (16, 10),
        (16, 18),
        (0, 18),
    ]
    lines = [
        b.draw(section, "line", p, q)[0] for p, q in zip(corners, corners[1:] + corners[:1], strict=True)
    ]
    curves = b.drawing(section).curves
    ends = [curves[line].points for line in lines]
    for i in range(len(lines)):
        b.constrain(section, "coincident", ends[i][1], ends[(i + 1) % len(lines)][0])
    b.constrain(section, "coincident", ends[0][0], "origin")
    for i, kind in enumerate(
        (
            "horizontal",
            "vertical",
            "",
            "",
            "vertical",
            "horizontal",
            "vertical",
            "horizontal",
            "vertical",
            "horizontal",
            "vertical",
        )
    ):
        if kind:
            b.constrain(section, kind, lines[i])
    b.constrain(section, "equal", lines[2], lines[3])
    b.constrain(section, "collinear", lines[1], lines[4])
    for of, formula, tag in (
        ((lines[0],), "rim / 2", "half_rim"),
        ((ends[2][0], ends[3][1]), "line", "groove"),
        ((lines[1],), "4 mm", "edge"),
        ((lines[4],), "4 mm", "far_edge"),
        ((lines[5],), "12 mm", "rim_depth"),
        ((lines[7], lines[0]), "10 mm", "web"),
        ((lines[9],), "hub / 2", "half_hub"),
        ((lines[9], lines[0]), "18 mm", "hub_height"),
        ((ends[2][1], lines[1]), "4 mm", "groove_depth"),
    ):
        b.constrain(section, "distance", *of, formula=formula, tag=tag)
    wheel = b.step("revolve", "Wheel", profile=b.profile(section, 0), axis=_base("Z"))
    web = _face(wheel, f"{wheel}/side/{lines[7]}/r1")
    window = b.step("sketch", "Opening outline", on=web)
    (hole,) = b.draw(window, "circle", (32, 0), (39, 0), diameter="18 mm")
    centre = b.drawing(window).curves[hole].points[0]
    b.constrain(window, "on_curve", centre, "x_axis")
    b.constrain(window, "distance", centre, "y_axis", formula="(hub + rim - 24 mm) / 4", tag="opening_place")
    opening = b.step(
        "extrude",
        "Opening",
        profile=b.profile(window, 0),
        extent="through_into",
        result="cut",
        bodies=[_body(wheel)],
    )
    b.step(
        "pattern",
        "Openings",
        seeds=[_step(opening)],
        manner="ring",
        axis=_base("Z"),
        count={"formula": "openings"},
    )
    top = b.step("sketch", "Spindle place", on=_face(wheel, f"{wheel}/side/{lines[9]}/r1"))
    b.draw(top, "point", (0, 0), on="origin")
    b.step(
        "hole",
        "Spindle bore",
        at=[{"of": "sketch", "step": top}],
        diameter={"formula": "bore"},
        toleranced="on",
        tolerance="H7",
    )
    rim = [
        {
            "of": "edge",
            "body": wheel,
            "faces": [[f"{wheel}/side/{lines[i]}/r1"], [f"{wheel}/side/{lines[j]}/r1"]],
            "alone": True,
        }
        for i, j in ((0, 1), (4, 5))
    ]
    b.step("chamfer", "Rim edges", edges=rim, leg={"formula": "1 mm"})
    foot = {
        "of": "edge",
        "body": wheel,
        "faces": [[f"{wheel}/side/{lines[7]}/r1"], [f"{wheel}/side/{lines[8]}/r1"]],
        "alone": True,
    }
    b.step("fillet", "Hub foot", edges=[foot], radius={"formula": "2 mm"})
    return b.part


def well_head_flange() -> Part:
    """A flange over the stilling well: a hole circle whose count and pitch circle are formulas, a
    counterbored bore."""
    b = Builder("Well-head flange")
    for tag, formula, note in (
        ("outside", "160 mm", "outer diameter"),
        ("pipe", "76 mm", "outer diameter of the pipe"),
        ("thickness", "16 mm", ""),
        ("pitch_circle", "(outside + pipe) / 2 + 6 mm", "between pipe and rim"),
        ("bolts", "2 * round(pitch_circle * pi / 2 / 50 mm)", "about 50 mm apart, an even number"),
    ):
        b.do(do="add_tag", tag=tag, formula=formula, note=note)
    outline = b.step("sketch", "Outline", on=_base("XY"))
    b.draw(outline, "circle", (0, 0), (80, 0), on="origin", diameter="outside")
    flange = b.step("extrude", "Flange", profile=b.profile(outline, 0), depth={"formula": "thickness"})
    (circle,) = b.drawing(outline).curves
    wall = f"{flange}/side/{circle}/r1"
    b.step(
        "chamfer",
        "Outer edges",
        leg={"formula": "1.5 mm"},
        edges=[
            {"of": "edge", "body": flange, "faces": [[wall], [f"{flange}/{end}/r1"]], "alone": True}
            for end in ("start", "end")
        ],
    )
    top = _face(flange, f"{flange}/end/r1")
    seat = b.step("sketch", "Pipe seat", on=top)
    b.draw(seat, "point", (0, 0), on="origin")
    b.step(
        "hole",
        "Seat for the pipe",
        at=[{"of": "sketch", "step": seat}],
        diameter={"formula": "pipe - 12 mm"},
        shape="counterbore",
        head="typed",
        head_diameter={"formula": "pipe + 0.5 mm"},
        head_depth={"formula": "thickness / 2"},
    )
    place = b.step("sketch", "First bolt", on=top)
    b.draw(place, "point", (60, 0))
    (point,) = b.drawing(place).points
    b.constrain(place, "on_curve", point, "x_axis")
    b.constrain(place, "distance", point, "y_axis", formula="pitch_circle / 2", tag="bolt_place")
    bolt = b.step(
        "hole",
        "Bolt hole",
        at=[{"of": "sketch", "step": place}],
        sizing="clearance",
        screw="M12",
        shape="spotface",
    )
    b.step(
        "pattern",
        "Bolt circle",
        seeds=[_step(bolt)],
        manner="ring",
        axis=_base("Z"),
        count={"formula": "bolts"},
    )
    for pipe, outside, thickness in ((60, 140, 14), (89, 185, 18), (114, 220, 20), (168, 285, 24)):
        values = {"pipe": f"{pipe} mm", "outside": f"{outside} mm", "thickness": f"{thickness} mm"}
        b.do(do="add_family_row", name=f"Pipe {pipe}", values=values)
    return b.part


def mast_clamp() -> Part:
    """A clamp for the mast: symmetric, split in two, a counterbored and a tapped pair that belong
    together."""
    b = Builder("Mast clamp")
    for tag, formula, note in (
        ("mast", "48 mm", "diameter of the mast"),
        ("wall", "10 mm", "round the mast"),
        ("height", "30 mm", ""),
        ("lug", "26 mm", "how far a lug stands out"),
        ("gap", "2 mm", "between the halves"),
        ("screw_place", "13 mm", "from the wall"),
    ):
        b.do(do="add_tag", tag=tag, formula=formula, note=note)
    outline = b.step("sketch", "Outline", on=_base("XY"))
    b.draw(outline, "circle", (0, 0), (34, 0), on="origin", diameter="mast + 2 * wall")
    ring = b.step(
        "extrude", "Ring", profile=b.profile(outline, 0), extent="both", depth={"formula": "height"}
    )
    lug_outline = b.step("sketch", "Lug outline", on=_base("XY"))
    sides = b.draw(lug_outline, "rectangle_centre", (40, 0), (60, 14))
    middle = next(p for p in b.drawing(lug_outline).points if b.drawing(lug_outline).owner(p) is None)
    b.constrain(lug_outline, "on_curve", middle, "x_axis")
    b.constrain(lug_outline, "distance", sides[1], "y_axis", formula="mast / 2 + wall + lug", tag="lug_reach")
    b.constrain(lug_outline, "distance", sides[3], "y_axis", formula="mast / 2 + wall / 2", tag="lug_root")
    b.constrain(lug_outline, "distance", sides[1], formula="28 mm", tag="lug_width")
    lug = b.step(
        "extrude",
        "Lug",
        profile=b.profile(lug_outline, 0),
        extent="both",
        depth={"formula": "height"},
        result="add",
        bodies=[_body(ring)],
    )
    far = b.step("mirror", "Far lug", seeds=[_step(lug)], about=_base("YZ"))
    bore = b.step("sketch", "Mast place", on=_base("XY"))
    b.draw(bore, "circle", (0, 0), (24, 0), on="origin", diameter="mast")
    b.step(
        "extrude",
        "Mast bore",
        profile=b.profile(bore, 0),
        extent="through_both",
        result="cut",
        bodies=[_body(ring)],
    )
    slit = b.step("sketch", "Slit outline", on=_base("XY"))
    b.draw(
        slit,
        "rectangle_centre",
        (0, 0),
        (90, 1),
        on="origin",
        width="mast + 2 * wall + 2 * lug + 20 mm",
        height="gap",
    )
    b.step(
        "extrude",
        "Slit",
        profile=b.profile(slit, 0),
        extent="through_both",
        result="cut",
        bodies=[_body(ring)],
    )
    halves = b.step("split", "Halves", body=_body(ring), by=_base("ZX"))
    front = b.step("sketch", "Screw places", on=_face(ring, f"{lug}/side/{sides[0]}/r1"))
    b.draw(front, "point", (40, 0))
    (point,) = b.drawing(front).points
    b.constrain(front, "on_curve", point, "x_axis")
    b.constrain(
        front, "distance", point, "y_axis", formula="mast / 2 + wall + screw_place", tag="screw_reach"
    )
    at = [{"of": "sketch", "step": front}]
    through = b.step(
        "hole", "Screw hole", at=at, sizing="clearance", screw="M8", shape="counterbore", bodies=[_body(ring)]
    )
    tapped = b.step(
        "hole", "Tapped hole", at=at, sizing="tapped", thread="M8", start="body", bodies=[_body(halves)]
    )
    b.step("mirror", "Far screws", seeds=[_step(through), _step(tapped)], about=_base("YZ"))
    for body, name, long in ((ring, "Front corners", sides[0]), (halves, "Back corners", sides[2])):
        faces = [[f"{lug}/side/{c}/r1{copy}" for c in (long, sides[1])] for copy in ("", f"@{far}.2")]
        picks = [
            {"of": "edge", "body": body, "faces": [[one], [other]], "alone": True} for one, other in faces
        ]
        b.step("fillet", name, edges=picks, radius={"formula": "4 mm"})
    for body, name, colour in ((ring, "Front half", ""), (halves, "Back half", "slate")):
        b.do(do="set_body_look", body=body, look={"name": name, "colour": colour})
    return b.part
