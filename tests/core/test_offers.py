"""The offers: what can be made of the selections that designers make, likeliest first, and why not."""

from __future__ import annotations

import pytest

from wendal.core.datum import FACETS, KINDS, constructions, offers, why_not
from wendal.core.inspect.things import EDGE_FACETS, FACE_FACETS

PLANE, FLAT, ROUND = {"plane"}, set(FACE_FACETS["flat"]), set(FACE_FACETS["round"])
EDGE, RING, POINT = set(EDGE_FACETS["line"]), set(EDGE_FACETS["circle"]), {"point"}
AXIS, SYSTEM, CURVED = {"line", "axis"}, {"system", "point", "plane"}, {"face", "curved"}


@pytest.mark.parametrize(("picks", "first"), [
    ([PLANE], [("plane", "offset")]), ([FLAT], [("plane", "offset"), ("system", "on_plane"), ("point", "centroid")]),
    ([ROUND], [("axis", "of_round")]), ([RING], [("axis", "of_round"), ("point", "centre")]), ([EDGE], [("axis", "along")]),
    ([POINT], [("point", "at_point")]), ([CURVED], [("point", "centroid")]),
    ([PLANE, PLANE], [("plane", "midway"), ("axis", "planes")]), ([EDGE, FLAT], [("plane", "angle")]), ([FLAT, EDGE], [("plane", "angle")]),
    ([AXIS, PLANE], [("plane", "angle"), ("point", "line_plane")]), ([POINT, POINT], [("axis", "points")]),
    ([POINT, PLANE], [("axis", "square")]), ([POINT, EDGE], [("plane", "square")]), ([EDGE, EDGE], [("point", "lines_cross"), ("plane", "lines")]),
    ([ROUND, PLANE], [("plane", "angle")]), ([POINT, POINT, POINT], [("system", "points"), ("plane", "points")]),
    ([PLANE, PLANE, PLANE], [("point", "planes")]), ([FLAT, EDGE, POINT], [("system", "on_face")]), ([POINT, ROUND], [("axis", "square_curved"), ("plane", "square")]),
    ([POINT, AXIS, AXIS], [("system", "axes")]),
])
def test_likeliest_offers(picks: list[set[str]], first: list[tuple[str, str]]) -> None:
    found = [(o.kind, o.how) for o in offers(picks)]
    assert found[: len(first)] == first


def test_touching_planes_are_offered_for_a_round_face_with_anything_they_take() -> None:
    for other in (POINT, EDGE, PLANE):
        assert any(o.how.startswith("touch") and not o.needs for o in offers([ROUND, other]))


@pytest.mark.parametrize("picks", [[PLANE], [EDGE], [POINT, PLANE], [ROUND, PLANE], [FLAT, EDGE, POINT]])
def test_every_offer_places_every_pick_where_it_fits(picks: list[set[str]]) -> None:
    for offer in offers(picks):
        c = constructions(offer.kind)[offer.how]
        assert sorted(offer.fills.values()) == list(range(len(picks)))
        assert all(set(c.picks[name].accepts) & picks[i] for name, i in offer.fills.items())
        assert len(offer.needs) == len([b for n, b in c.picks.items() if n not in offer.fills and not b.optional])


def test_complete_offers_come_before_those_that_need_more_and_the_order_of_picking_does_not_matter() -> None:
    found = offers([EDGE, PLANE])
    needs = [len(o.needs) for o in found]
    assert needs == sorted(needs)
    assert [(o.kind, o.how) for o in found] == [(o.kind, o.how) for o in offers([PLANE, EDGE])]


@pytest.mark.parametrize(("kind", "picks", "told"), [
    ("axis", [{"region"}], "An axis can not stand on this"), ("plane", [{"body"}], "A plane can not stand on this"),
    ("axis", [POINT], "This alone gives no axis; pick a straight edge"), ("plane", [PLANE] * 4, "more than 3"),
    ("axis", [EDGE, EDGE], "Take one away"),
])
def test_what_does_not_fit_says_why(kind: str, picks: list[set[str]], told: str) -> None:
    assert told in why_not(kind, picks)


def test_ranks_tell_every_construction_of_a_kind_apart() -> None:
    for kind in KINDS:
        ranks = [c.rank for c in constructions(kind).values()]
        assert len(set(ranks)) == len(ranks)
    assert all(FACETS[f] for f in FACETS)
