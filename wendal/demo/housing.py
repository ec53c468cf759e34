"""Two small parts of Harrow Point: the Sensor housing, hollowed and ribbed, and the Cable hook, swept along a
bent line."""

from __future__ import annotations

from typing import Any

from wendal.core.route import Part

from .builder import Builder
from .harrow import _base, _body, _datum, _face, _step

__all__ = ["cable_hook", "sensor_housing"]


def _edge(body: str, *faces: str) -> dict[str, Any]:
    return {"of": "edge", "body": body, "faces": [[f] for f in faces], "alone": True}


def sensor_housing() -> Part:
    """A rounded box hollowed to a thickness, with a rib, lugs in a row on either side, and two walls that a
    lid snaps onto."""
    b = Builder("Sensor housing")
    for tag, formula, note in (
        ("length", "64 mm", "outside"),
        ("width", "44 mm", "outside"),
        ("height", "28 mm", ""),
        ("wall", "2.4 mm", "thickness"),
        ("corner", "7 mm", "outside, upright edges"),
        ("lugs", "2", "on either side"),
        ("lug_thickness", "4 mm", ""),
        ("screw", "4.5 mm", "diameter of a lug's hole"),
    ):
        b.do(do="add_tag", tag=tag, formula=formula, note=note)
    outline = b.step("sketch", "Outline", on=_base("XY"))
    sides = b.draw(outline, "rectangle_centre", (0, 0), (32, 22), on="origin", width="length", height="width")
    block = b.step("extrude", "Block", profile=b.profile(outline, 0), depth={"formula": "height"})
    walls = [f"{block}/side/{c}/r1" for c in sides[:4]]
    b.step(
        "fillet",
        "Corners",
        edges=[_edge(block, walls[i], walls[(i + 1) % 4]) for i in range(4)],
        radius={"formula": "max(corner, 2 * wall + 1.2 mm)"},
    )
    b.step(
        "fillet",
        "Under edge",
        edges=[_edge(block, f"{block}/start/r1", walls[0])],
        radius={"formula": "wall + 0.8 mm"},
    )
    b.step(
        "shell",
        "Hollow",
        body=_body(block),
        thickness={"formula": "wall"},
        openings=[_face(block, f"{block}/end/r1")],
    )

    level = b.step(
        "plane",
        "Rib height",
        how="offset",
        first=_base("XY"),
        distance={"formula": "0.45 * height"},
        visible=False,
    )
    line = b.step("sketch", "Rib line", on=_datum(level))
    (middle,) = b.draw(line, "line", (0, -6), (0, 6))
    low, high = b.drawing(line).curves[middle].points
    for point in (low, high):
        b.constrain(line, "on_curve", point, "y_axis")
        b.constrain(
            line, "distance", point, "x_axis", formula="6 mm", tag=f"{'low' if point == low else 'high'}_end"
        )
    b.step(
        "rib",
        "Rib",
        lines=[{"of": "drawn", "step": line, "entity": middle}],
        manner="into",
        thickness={"formula": "0.7 * wall"},
        bodies=[_body(block)],
    )
    _lugs(b, block)
    _snap(b, block)
    return b.part


def _lugs(b: Builder, block: str) -> None:
    """A row of rounded lugs with a hole each, and the same on the other side."""
    sketch = b.step("sketch", "Lug outline", on=_base("XY"))
    sides = b.draw(sketch, "rectangle", (-25, -31), (-15, -21), width="10 mm")
    at = {c: [b.drawing(sketch).place(p) for p in b.drawing(sketch).curves[c].points] for c in sides[:4]}
    top = max(at, key=lambda c: sum(y for _, y in at[c]))
    foot = min(at, key=lambda c: sum(y for _, y in at[c]))
    left, right = (
        min(at, key=lambda c: sum(x for x, _ in at[c])),
        max(at, key=lambda c: sum(x for x, _ in at[c])),
    )
    b.constrain(sketch, "distance", top, "x_axis", formula="width / 2 - wall / 2", tag="lug_root")
    b.constrain(sketch, "distance", foot, "x_axis", formula="width / 2 + 9 mm", tag="lug_reach")
    b.constrain(sketch, "distance", left, "y_axis", formula="length / 2 - corner - wall", tag="lug_place")
    lug = b.step(
        "extrude",
        "Lug",
        profile=b.profile(sketch, 0),
        depth={"formula": "lug_thickness"},
        result="add",
        bodies=[_body(block)],
    )
    name = f"{lug}/side/{{}}/r1"
    soft = b.step(
        "fillet",
        "Lug corners",
        edges=[_edge(block, name.format(foot), name.format(side)) for side in (left, right)],
        radius={"formula": "4 mm"},
    )
    place = b.step("sketch", "Lug hole place", on=_face(block, f"{lug}/end/r1"))
    b.draw(place, "point", (-20, -26))
    (point,) = b.drawing(place).points
    b.constrain(place, "distance", point, "x_axis", formula="width / 2 + 4.5 mm", tag="hole_out")
    b.constrain(
        place, "distance", point, "y_axis", formula="length / 2 - corner - wall - 5 mm", tag="hole_along"
    )
    hole = b.step(
        "hole",
        "Lug hole",
        at=[{"of": "sketch", "step": place}],
        diameter={"formula": "screw"},
        bodies=[_body(block)],
    )
    group = [_step(s) for s in (lug, soft, hole)]
    row = b.step(
        "pattern",
        "Lug row",
        seeds=group,
        along=_base("X"),
        count={"formula": "lugs"},
        step_by="whole",
        span={"formula": "length - 2 * corner - 2 * wall - 10 mm"},
    )
    b.step("mirror", "Far lugs", seeds=[*group, _step(row)], about=_base("ZX"))


def _snap(b: Builder, block: str) -> None:
    """Two low walls on the rim that a lid snaps onto, with their upper edges rounded."""
    rim = b.step(
        "plane", "Rim", how="offset", first=_base("XY"), distance={"formula": "height"}, visible=False
    )
    sketch = b.step("sketch", "Snap wall outline", on=_datum(rim))
    sides = b.draw(sketch, "rectangle", (-9, -20.8), (9, -19.6), width="18 mm", height="wall / 2")
    at = {c: [b.drawing(sketch).place(p) for p in b.drawing(sketch).curves[c].points] for c in sides[:4]}
    top, left = (
        max(at, key=lambda c: sum(y for _, y in at[c])),
        min(at, key=lambda c: sum(x for x, _ in at[c])),
    )
    b.constrain(sketch, "distance", top, "x_axis", formula="width / 2 - wall", tag="snap_inside")
    b.constrain(sketch, "distance", left, "y_axis", formula="9 mm", tag="snap_half")
    snap = b.step(
        "extrude",
        "Snap wall",
        profile=b.profile(sketch, 0),
        depth={"formula": "3 mm"},
        result="add",
        bodies=[_body(block)],
    )
    soft = b.step(
        "chamfer",
        "Snap edge",
        edges=[_edge(block, f"{snap}/end/r1", f"{snap}/side/{top}/r1")],
        leg={"formula": "wall / 8"},
    )
    b.step("mirror", "Far snap wall", seeds=[_step(snap), _step(soft)], about=_base("ZX"))


def cable_hook() -> Part:
    """A rod bent to a hook on a foot with two holes; its foot is filleted, its tip rounded."""
    b = Builder("Cable hook")
    for tag, formula, note in (
        ("rod", "8 mm", "diameter"),
        ("shank", "38 mm", "straight part"),
        ("bend", "14 mm", "radius of the hook's middle line"),
        ("tip", "10 mm", "straight end"),
        ("foot", "6 mm", "thickness"),
    ):
        b.do(do="add_tag", tag=tag, formula=formula, note=note)
    outline = b.step("sketch", "Foot outline", on=_base("XY"))
    b.draw(outline, "rectangle_centre", (0, 0), (22, 12), on="origin", width="44 mm", height="24 mm")
    foot = b.step("extrude", "Foot", profile=b.profile(outline, 0), extent="into", depth={"formula": "foot"})
    line = b.step("sketch", "Middle line", on=_base("ZX"))
    shank = b.draw(line, "line", (0, 0), (0, 38), on="origin")[0]
    arc = b.draw(line, "arc_centre", (14, 38), (28, 38), (0, 38))[0]
    tip = b.draw(line, "line", (28, 38), (28, 28))[0]
    curves = b.drawing(line).curves
    (_, top), (_, begin, end), (high, _) = curves[shank].points, curves[arc].points, curves[tip].points
    for one, other in ((top, end), (begin, high)):
        b.constrain(line, "coincident", one, other)
    for kind, of in (
        ("vertical", (shank,)),
        ("vertical", (tip,)),
        ("tangent", (shank, arc)),
        ("tangent", (arc, tip)),
    ):
        b.constrain(line, kind, *of)
    for kind, of, formula, tag in (
        ("distance", (shank,), "shank", "straight"),
        ("radius", (arc,), "bend", "bent"),
        ("distance", (tip,), "tip", "end"),
    ):
        b.constrain(line, kind, *of, formula=formula, tag=tag)
    rod = b.step(
        "sweep",
        "Rod",
        section="round",
        diameter={"formula": "rod"},
        path={"of": "drawn", "step": line, "entity": shank},
        result="add",
        bodies=[_body(foot)],
    )
    b.step(
        "fillet",
        "Foot fillet",
        edges=[_edge(foot, f"{foot}/start/r1", f"{rod}/side/round.{shank}/round")],
        radius={"formula": "0.375 * rod"},
    )
    b.step("fillet", "Tip", edges=[_face(foot, f"{rod}/end/round")], radius={"formula": "rod / 4"})
    places = b.step("sketch", "Screw place", on=_face(foot, f"{foot}/start/r1"))
    b.draw(places, "point", (15, 0))
    (point,) = b.drawing(places).points
    b.constrain(places, "on_curve", point, "x_axis")
    b.constrain(places, "distance", point, "y_axis", formula="15 mm", tag="screw_place")
    hole = b.step(
        "hole",
        "Screw hole",
        at=[{"of": "sketch", "step": places}],
        sizing="clearance",
        screw="M5",
        shape="countersink",
        bodies=[_body(foot)],
    )
    b.step("mirror", "Far screw hole", seeds=[_step(hole)], about=_base("YZ"))
    b.step(
        "fillet",
        "Foot corners",
        edges=[_edge(foot, *(f"{foot}/side/{c}/r1" for c in pair)) for pair in _pairs(b, outline)],
        radius={"formula": "5 mm"},
    )
    return b.part


def _pairs(b: Builder, sketch: str) -> list[tuple[str, str]]:
    """Return which lines of a rectangle meet."""
    lines = [c for c, curve in b.drawing(sketch).curves.items() if not curve.construction]
    return [(lines[i], lines[(i + 1) % 4]) for i in range(4)]
