"""Texts: set along lines and circles, changed, copied, built from and found again; what is refused."""

from __future__ import annotations

import json
import math
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.samples import drawn, edit, evaluated
from wendal.core import kernel
from wendal.core.errors import CommandRefused, DocumentError, SketchError, WendalError
from wendal.core.inspect.sketch_view import rehearsed, sketch_view
from wendal.core.lettering import FONTS, lettered, unknown_signs
from wendal.core.route import figures_of, read_part, write_part
from wendal.core.sketch import Text, path_of, solve, text_outline, text_regions
from wendal.core.sketch.editing import SketchEdit, say_edit
from wendal.core.sketch.regions.texts import reads_turned
from wendal.demo.builder import Builder


def written(words: str = "HP-7", base: tuple[Any, ...] = ("line", (0, 0), (100, 0)), **more: Any) -> tuple[Builder, str]:
    """Return a sketch with a text along a curve, and the text's id."""
    b, _, curves = drawn(base)
    edit(b, op="write", words=words, along=curves[0], **{"height": "5 mm", **more})
    return b, next(iter(b.drawing("s1").texts))


def boxes(b: Builder, text: str, height: float = 5.0) -> list[list[tuple[float, float]]]:
    return text_outline(b.drawing("s1"), text, height).boxes


def area(b: Builder, text: str, height: float = 5.0) -> float:
    return sum(r.area for r in text_regions(b.drawing("s1"), text, height))


@pytest.mark.parametrize("font", FONTS)
def test_a_capital_is_as_high_as_is_said_and_stands_on_the_line(font: str) -> None:
    (letter,) = lettered("I", font).letters
    heights = [y for loops in letter.shapes for loop in loops for stroke in loop for _, y in stroke]
    assert (min(heights), max(heights)) == pytest.approx((0, 1), abs=0.02)  # ink traps of B612 reach a little beyond


def test_letters_are_kerned_and_signs_of_a_second_file_come_in_their_order() -> None:
    pair, alone = lettered("AV", "barlow"), lettered("A", "barlow").width + lettered("V", "barlow").width
    assert pair.width < alone - 0.02
    assert [x.sign for x in lettered("aőb", "barlow").letters] == [0, 1, 2]
    assert unknown_signs("aЖb→Ж", "barlow") == ["Ж", "→"]


@pytest.mark.parametrize("font", FONTS)
def test_letters_become_solids_of_just_their_area(font: str) -> None:
    b, text = written("8%Ø&i", font=font)
    b.step("extrude", "Letters", profile=[{"of": "region", "step": "s1", "sides": [text], "inside": (0, 0)}], depth={"formula": "2 mm"})
    made = evaluated(b).site.bodies["s2"].shape
    assert kernel.volume_of(made) == pytest.approx(2 * area(b, text), rel=1e-9)
    assert kernel.lumps(made) == len(text_regions(b.drawing("s1"), text, 5.0))


W = lettered("HP-7", "barlow").width * 5


@pytest.mark.parametrize(("place", "turned", "corner", "way"), [
    ("start", False, (0, 0), 1), ("middle", False, (50 - W / 2, 0), 1), ("end", False, (100 - W, 0), 1),
    ("start", True, (100, 0), -1), ("middle", True, (50 + W / 2, 0), -1), ("end", True, (W, 0), -1)])
def test_places_on_a_line(place: str, turned: bool, corner: tuple[float, float], way: int) -> None:
    b, text = written(place=place, turned=turned)
    foot, _, _, top = boxes(b, text)[0]
    assert foot == pytest.approx(corner, abs=1e-9)
    assert top == pytest.approx((corner[0], 5 * way), abs=1e-9)


@pytest.mark.parametrize(("turned", "top", "reach"), [(None, (0, 20), 25), (True, (0, 20), 25), (False, (0, -20), 15)])
def test_on_a_circle_words_stand_outside_at_the_top_or_inside_at_the_bottom(turned: bool | None, top: Any, reach: float) -> None:
    b, text = written("OOO", ("circle", (0, 0), (20, 0)), place="middle", turned=turned)
    for foot, other, _, _ in (found := boxes(b, text)):
        middle = ((foot[0] + other[0]) / 2, (foot[1] + other[1]) / 2)
        assert math.hypot(*middle) == pytest.approx(20, abs=1e-9)
    (ax, ay), (bx, by), (cx, cy), (dx, dy) = found[1]
    assert ((ax + bx) / 2, (ay + by) / 2) == pytest.approx(top, abs=1e-9)
    assert math.hypot((cx + dx) / 2, (cy + dy) / 2) == pytest.approx(reach, abs=1e-9)
    assert math.dist(found[0][0], (0, 0)) == pytest.approx(math.dist(found[2][1], (0, 0)), abs=1e-9)


@pytest.mark.parametrize("tip", [(30, 0), (0, 30), (-30, 0), (18, 24)])
@pytest.mark.parametrize("outside", [True, False])
def test_on_an_ellipse_too_the_middle_of_the_words_comes_to_its_top_or_bottom(tip: Any, outside: bool) -> None:
    b, text = written("OOO", ("ellipse", (0, 0), tip, (-tip[1] / 2, tip[0] / 2)), place="middle", turned=outside)
    (ax, ay), (bx, by), _, _ = boxes(b, text)[1]
    (ellipse,) = b.drawing("s1").curves
    heights = [y for _, y in path_of(b.drawing("s1"), ellipse).places()]  # type: ignore[attr-defined]
    assert (ay + by) / 2 == pytest.approx(max(heights) if outside else min(heights), abs=0.05)
    assert (by - ay) / (bx - ax) == pytest.approx(0, abs=0.02)


@pytest.mark.parametrize(("base", "turned"), [
    (("line", (0, 0), (10, 1)), False), (("line", (10, 1), (0, 0)), True), (("line", (0, 0), (0, 9)), False),
    (("line", (0, 9), (0, 0)), True), (("circle", (0, 0), (9, 0)), True), (("arc", (9, 0), (-9, 0), (0, 9)), True),
    (("spline", (30, 0), (20, 5), (10, 0)), True)])
def test_the_side_from_which_it_reads(base: tuple[Any, ...], turned: bool) -> None:
    b, text = written("AB", base)
    assert b.drawing("s1").texts[text].turned == turned == reads_turned(b.drawing("s1"), b.drawing("s1").texts[text].base)


def test_along_a_spline_the_feet_stay_on_it_and_go_straight_on_beyond_its_end() -> None:
    b, text = written("TIDE GAUGE", ("spline", (0, 0), (10, 4), (20, 0)))
    found = boxes(b, text)
    last, before = found[-1][0], found[-2][0]
    assert last[0] > 22
    assert math.atan2(last[1] - before[1], last[0] - before[0]) == pytest.approx(math.atan2(found[-1][1][1] - last[1],
                                                                                           found[-1][1][0] - last[0]), abs=1e-6)


def test_a_new_base_line_is_construction_and_level_when_it_was_drawn_so() -> None:
    b, _, _ = drawn(("circle", (0, 0), (5, 0)))
    edit(b, op="write", words="N", height="3 mm", ends=[{"at": (10, 0)}, {"at": (30, 0)}], automatic=[{"kind": "horizontal"}])
    drawing = b.drawing("s1")
    (text,) = drawing.texts.values()
    assert drawing.curves[text.base].construction
    assert [c.kind for c in drawing.constraints.values()] == ["horizontal"]
    view = sketch_view(b.part, "s1")
    assert view["texts"][0]["shown"] == "3 mm"
    assert view["names"][text.base] == "base line of “N”"
    assert "the base line of “N” slides along Y" in [f["words"] for f in view["freedoms"]]


REFUSED = [
    ({"words": "  "}, "Type the words"), ({"words": "a\nb"}, "one line"), ({"words": "Ж"}, "no sign for “Ж”"),
    ({"words": "x" * 201}, "200 signs at most; this has 201"), ({"height": "0 mm"}, "height greater than zero"),
    ({"height": "-2 mm"}, "height greater than zero"), ({"height": "nothing"}, "nothing"), ({"height": "4 deg"}, "this is an angle"),
    ({"along": "c99"}, "stands along a curve"), ({"along": "x_axis"}, "stands along a curve"), ({"along": ""}, "Pick a curve"),
    ({"ends": [{"at": (0, 0)}, {"at": (1, 0)}]}, "not both"),
]


@pytest.mark.parametrize(("more", "words"), REFUSED, ids=[r[1] for r in REFUSED])
def test_what_is_refused_changes_nothing(more: dict[str, Any], words: str) -> None:
    b, _, (line,) = drawn(("line", (0, 0), (40, 0)))
    before = b.part
    with pytest.raises(WendalError, match=words):
        edit(b, op="write", **{"words": "A", "height": "5 mm", "along": line, **more})
    assert b.part is before


def test_once_round_a_circle_is_the_most() -> None:
    b, text = written("HARROW POINT", ("circle", (0, 0), (20, 0)))
    with pytest.raises(SketchError, match=r"more than once round its circle of 125\.7 mm"):
        edit(b, op="set_text", text=text, height="15 mm")
    # A change elsewhere that leaves no room stops there, and says so.
    with pytest.raises(SketchError, match="more than once round"):
        b.constrain("s1", "diameter", b.drawing("s1").texts[text].base, formula="10 mm")


def test_the_height_is_a_dimension_of_the_part_and_follows_its_formula() -> None:
    b, text = written(height="5 mm")
    tag = b.drawing("s1").texts[text].height.tag
    assert tag == "outline_text_height"
    b.do(do="set_formula", tag=tag, formula="2 * 4 mm")
    made = evaluated(b).site.sketches["s1"]
    assert sum(r.area for r in made.texts[text]) == pytest.approx(area(b, text, 8.0), rel=1e-12)
    with pytest.raises(WendalError, match="height greater than zero"):
        b.do(do="set_formula", tag=tag, formula="0 mm")


@settings(max_examples=40, deadline=None)
@given(height=st.floats(0.1, 200), turn=st.floats(0, 6.28), words=st.text("ABgjp 0%-", min_size=1, max_size=8).filter(str.strip))
def test_area_grows_with_the_square_of_the_height_however_it_lies(height: float, turn: float, words: str) -> None:
    b, text = written(words, ("line", (3, 4), (3 + 50 * math.cos(turn), 4 + 50 * math.sin(turn))))
    assert area(b, text, height) == pytest.approx(area(b, text, 1.0) * height**2, rel=1e-9)


@pytest.mark.parametrize(("words", "marks"), [
    ("HP-7", [1, 2, 3, 4]), ("XHP-7", [5, 1, 2, 3, 4]), ("HP-8", [1, 2, 3, 5]), ("P-7", [2, 3, 4]), ("HP--7", [1, 2, 3, 5, 4])])
def test_signs_keep_their_numbers_when_the_words_change(words: str, marks: list[int]) -> None:
    b, text = written()
    first = b.drawing("s1").texts[text].marks[0] - 1
    edit(b, op="set_text", text=text, words=words)
    found = [m - first for m in b.drawing("s1").texts[text].marks]
    assert found == marks or sorted(found) == sorted(marks)  # of two equal signs either may be the old one
    edit(b, op="set_text", text=text, font="b612_mono")
    assert not {m - first for m in b.drawing("s1").texts[text].marks} & set(found)  # in another font no face is what it was


def test_a_deleted_signs_number_is_never_given_again() -> None:
    b, text = written("HP-7")
    gone = b.drawing("s1").texts[text].marks[3]
    edit(b, op="set_text", text=text, words="HP-")
    edit(b, op="set_text", text=text, words="HP-8")
    assert b.drawing("s1").texts[text].marks[3] > gone
    b.draw("s1", "line", (0, 50), (10, 50))
    numbers = [int(e[1:]) for held in (b.drawing("s1").points, b.drawing("s1").curves) for e in held]
    assert not set(numbers) & set(b.drawing("s1").texts[text].marks)


def faces(b: Builder) -> set[str]:
    return {n for f in evaluated(b).site.bodies["s2"].topology.faces for n in f.names}


def test_a_letters_faces_keep_their_names_when_another_is_put_before_it() -> None:
    b, text = written("T7")
    b.step("extrude", "Letters", profile=[{"of": "region", "step": "s1", "sides": [text], "inside": (0, 0)}])
    before = {n for n in faces(b) if "/side/" in n}
    edit(b, op="set_text", text=text, words="XT7")
    after = {n for n in faces(b) if "/side/" in n}
    assert {n.split("/")[2] for n in before} < {n.split("/")[2] for n in after}


def test_a_text_that_is_built_from_is_lost_with_its_base_line() -> None:
    b, text = written()
    b.step("extrude", "Letters", profile=[{"of": "region", "step": "s1", "sides": [text], "inside": (0, 0)}])
    edit(b, op="remove", entities=[b.drawing("s1").texts[text].base])
    assert not b.drawing("s1").texts
    report = evaluated(b).reports[-1]
    assert report.state == "stopped"
    assert "text is not there any more" in report.message


def test_what_an_edit_would_take_of_a_text_is_told_before() -> None:
    b, text = written("KEEP CLEAR")
    base = b.drawing("s1").texts[text].base
    told = rehearsed(b.part, "s1", _edit({"op": "trim", "curves": [base], "path": [(50, 0)]}))
    assert told["lost"] == ["the text “KEEP CLEAR”"]
    assert told["texts"] == {}


def _edit(data: dict[str, Any]) -> Any:
    from pydantic import TypeAdapter

    return TypeAdapter(SketchEdit).validate_python(data)


MIRRORED = [  # base, place, which end the words begin at, afterwards: turned, place
    (("line", (10, 5), (60, 5)), "y_axis", "start", True, "end"), (("line", (10, 5), (60, 5)), "x_axis", "start", False, "start"),
    (("line", (60, 5), (10, 5)), "y_axis", "end", False, "start"), (("circle", (30, 5), (40, 5)), "y_axis", "middle", True, "middle")]


@pytest.mark.parametrize(("base", "axis", "place", "turned", "then"), MIRRORED)
def test_a_mirrored_text_still_reads_and_stands_at_the_mirrored_end(base: Any, axis: str, place: str, turned: bool, then: str) -> None:
    b, text = written("AB", base, place=place)
    edit(b, op="mirror", entities=[text], axis=axis)
    drawing = b.drawing("s1")
    image = next(t for name, t in drawing.texts.items() if name != text)
    assert (image.turned, image.place) == (turned, then)
    assert image.height.formula == drawing.texts[text].height.tag
    assert sketch_view(b.part, "s1")["trouble"] == ""


def test_copies_follow_the_height_and_scaling_scales_it() -> None:
    b, text = written("AB", ("line", (0, 0), (20, 0)))
    edit(b, op="repeat", entities=[text], by="y_axis", count=3, spacing="10 mm")
    edit(b, op="transform", entities=[text], move=("0 mm", "-20 mm"), scale=2, copied=True)
    values = figures_of(b.part).values(b.drawing("s1"))
    assert [values[t] for t in b.drawing("s1").texts] == pytest.approx([5, 5, 5, 10])
    edit(b, op="set_text", text=text, height="3 mm")
    values = figures_of(b.part).values(b.drawing("s1"))
    assert [values[t] for t in b.drawing("s1").texts] == pytest.approx([3, 3, 3, 6])
    edit(b, op="transform", entities=[text], move=("0 mm", "-40 mm"), turn="180 deg", copied=True)
    last = list(b.drawing("s1").texts.values())[-1]
    assert (last.turned, last.place) == (False, "start")  # a copy that is turned is turned as it is, upside down
    lone, other = written("CD", ("line", (0, 0), (20, 0)))
    edit(lone, op="transform", entities=[other], scale=1.5)
    assert figures_of(lone.part).values(lone.drawing("s1"))[other] == pytest.approx(7.5)


def test_pasting_brings_the_text_along_with_a_height_of_its_own() -> None:
    source, text = written("AB", height="2 * 3 mm")
    b, _, _ = drawn(("circle", (0, 0), (5, 0)))
    what = source.drawing("s1").model_dump(mode="json")
    what["texts"][text]["height"]["formula"] = "6 mm"
    edit(b, op="paste", what=what, move=(0, 30))
    (made,) = b.drawing("s1").texts.values()
    assert (made.words, made.height.formula, made.height.tag) == ("AB", "6 mm", "outline_text_height")
    what["curves"] = {}
    what["constraints"] = {}
    with pytest.raises(SketchError, match="lacks its base line"):
        edit(b, op="paste", what=what)


def test_words_are_no_geometry_for_constraints() -> None:
    b, text = written()
    with pytest.raises((SketchError, CommandRefused)):
        b.constrain("s1", "horizontal", text)
    assert solve(b.drawing("s1"), {}).drawing.texts == b.drawing("s1").texts


def test_a_part_with_texts_is_kept_as_it_is_and_a_bad_one_is_refused() -> None:
    b, text = written("Ø 8 ± 0.1")
    assert read_part(write_part(b.part)) == b.part
    data = json.loads(write_part(b.part))
    for change in ({"marks": [1, 2]}, {"marks": [1] * 9}, {"font": "other"}, {"words": ""}, {"words": "a\tb", "marks": [1, 2, 3]}):
        bad = json.loads(json.dumps(data))
        bad["steps"][0]["drawing"]["texts"][text] |= change
        with pytest.raises(DocumentError):
            read_part(json.dumps(bad))
    assert Text.model_validate(data["steps"][0]["drawing"]["texts"][text]).words == "Ø 8 ± 0.1"


def test_the_longest_words_are_said_shortly_in_the_list_of_versions() -> None:
    edit_ = _edit({"op": "write", "words": "x" * 200, "height": "5 mm", "along": "c1"})
    assert say_edit(edit_) == f"Write “{'x' * 40}…”"
    assert say_edit(_edit({"op": "write", "words": "{a}", "height": "5 mm"})) == "Write “{a}”"
