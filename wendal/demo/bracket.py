"""The Instrument bracket: a foot plate with four holes, two webs, and a seat with a pilot bore."""

from __future__ import annotations

from wendal.core.route import Part

from .builder import Builder

__all__ = ["instrument_bracket"]


def instrument_bracket() -> Part:
    """Make the part."""
    b = Builder("Instrument bracket")
    foot = b.step("sketch", "Foot outline", on={"of": "base", "name": "XY"})
    low, right, high, left = b.draw(foot, "rectangle", (0, 0), (110, 70), on="origin", width="120 mm", height="80 mm")
    _holes(b, foot, low, right, high, left)
    base = b.step("extrude", "Base", profile=b.profile(foot, 0), depth={"formula": "12 mm", "tag": "base_depth"})
    top = {"of": "face", "body": base, "names": [f"{base}/end/r1"]}
    seat_plane = b.step("plane", "Seat plane", first={"of": "base", "name": "XY"},
                        distance={"formula": "70 mm", "tag": "seat_height"})

    b.do(do="add_tag", tag="seat_width", formula="86 mm", note="across both webs")
    b.do(do="add_tag", tag="seat_depth", formula="12 mm", note="thickness of the seat")
    webs = b.step("sketch", "Webs", on=top)
    first = b.draw(webs, "rectangle", (17, 15), (27, 65), width="10 mm", height="50 mm")
    second = b.draw(webs, "rectangle", (93, 15), (103, 65), width="webs_width")
    b.constrain(webs, "equal", first[1], second[1])
    place = "(foot_outline_width - seat_width) / 2"
    for line, axis, formula, tag in ((first[3], "y_axis", place, "web_place"), (first[0], "x_axis", "15 mm", "web_inset")):
        b.constrain(webs, "distance", line, axis, formula=formula, tag=tag)
    b.constrain(webs, "distance", second[1], "y_axis", formula="foot_outline_width - webs_web_place", tag="far_side")
    b.constrain(webs, "distance", second[0], "x_axis", formula="webs_web_inset", tag="far_inset")
    b.step("extrude", "Uprights", profile=b.profile(webs, 0, 1), result="add", target={"of": "body", "body": base},
           depth={"formula": "seat_height - base_depth - seat_depth", "tag": "upright_height"})

    seat = b.step("sketch", "Seat outline", on={"of": "datum", "step": seat_plane})
    outline = b.draw(seat, "rectangle", (17, 10), (103, 70), width="seat_width", height="60 mm")
    b.constrain(seat, "distance", outline[3], "y_axis", formula="(foot_outline_width - seat_outline_width) / 2", tag="left")
    b.constrain(seat, "distance", outline[0], "x_axis", formula="(foot_outline_height - seat_outline_height) / 2", tag="front")
    (pilot,) = b.draw(seat, "circle", (60, 40), (74, 40), diameter="30 mm")
    centre = b.drawing(seat).curves[pilot].points[0]
    b.constrain(seat, "distance", centre, outline[3], formula="seat_outline_width / 2", tag="pilot_x")
    b.constrain(seat, "distance", centre, outline[0], formula="seat_outline_height / 2", tag="pilot_y")
    b.step("extrude", "Seat", profile=b.profile(seat, 0), direction="down", result="add",
           target={"of": "body", "body": base}, depth={"formula": "seat_depth", "tag": "seat_thickness"})
    return b.part


def _holes(b: Builder, foot: str, low: str, right: str, high: str, left: str) -> None:
    """Four equal holes at one distance from the edges."""
    holes = [b.draw(foot, "circle", (x, y), (x + 4, y)) for x, y in ((12, 12), (108, 12), (108, 68), (12, 68))]
    b.constrain(foot, "diameter", holes[0][0], formula="9 mm", tag="hole")
    for n, ((hole,), side, end) in enumerate(zip(holes, (left, right, right, left), (low, low, high, high), strict=True)):
        if n:
            b.constrain(foot, "equal", holes[0][0], hole)
        centre = b.drawing(foot).curves[hole].points[0]
        inset = "12 mm" if n == 0 else "foot_outline_hole_inset"
        word = ("hole_inset", "second_hole", "third_hole", "fourth_hole")[n]
        b.constrain(foot, "distance", centre, side, formula=inset, tag=word)
        b.constrain(foot, "distance", centre, end, formula="foot_outline_hole_inset", tag=f"{word}_along")
