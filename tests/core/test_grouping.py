"""Many freedoms in few lines, no two alike."""

from __future__ import annotations

from tests.samples import XY
from tools.bench.explaining import free_sketch
from wendal.core.inspect.sketch_view import sketch_view
from wendal.core.sketch import count_freedoms, find_freedoms, grouped, solve
from wendal.demo.builder import Builder


def test_many_are_told_in_groups() -> None:
    drawing = free_sketch(60, bent=True)
    motions = find_freedoms(solve(drawing, {})).motions
    groups = grouped(drawing, motions)
    assert sorted(i for g in groups for i in g.of) == list(range(len(motions)))
    words = [g.words for g in groups]
    assert "10 circles can grow or shrink" in words
    assert any(w.endswith("centres can slide along X") for w in words)
    assert len(set(words)) == len(words) <= 16
    assert sum(map(len, words)) < sum(len(m.words) for m in motions) / 5


def test_few_are_told_one_by_one() -> None:
    drawing = free_sketch(3, bent=False)
    assert grouped(drawing, find_freedoms(solve(drawing, {})).motions) == []


def test_no_two_read_alike() -> None:
    for bent in (False, True):
        words = [m.words for m in find_freedoms(solve(free_sketch(100, bent), {})).motions]
        assert len(set(words)) == len(words) > 150


def test_they_are_counted_before_they_have_words() -> None:
    for bent in (False, True):
        solution = solve(free_sketch(60, bent), {})
        counted, found = count_freedoms(solution), find_freedoms(solution)
        assert counted.number == found.number
        moved = {p for m in found.motions for p in m.moves} | {c for m in found.motions for c in m.grows}
        assert {e for e in counted.pencilled if e in solution.drawing.points} == moved & solution.drawing.points.keys()
    b = Builder("Free")
    step = b.step("sketch", "Free", on=XY, drawing=free_sketch(60, False).model_dump(mode="json"))
    told: list[dict[str, object]] = []
    view = sketch_view(b.part, step, told.append)
    assert told == [{**view, "freedoms": None, "groups": []}]
    assert (view["free"], len(view["groups"]) > 5) == (len(view["freedoms"]), True)
