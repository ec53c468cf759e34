"""Faces, edges and corners found again by name, over a little made-up topology and over real solids."""

from __future__ import annotations

import math

import pytest

from tests.samples import XY, block, evaluated, plate
from wendal.core.errors import ReferenceLost
from wendal.core.kernel.types import Frame, upright
from wendal.core.reference import edge_ref, face_ref, find_edge, find_face, find_vertex, vertex_ref
from wendal.demo.builder import Builder


def topology(b: Builder):  # type: ignore[no-untyped-def]
    (body,) = evaluated(b).site.bodies.values()
    return body.topology


@pytest.mark.parametrize("make", [plate, block])
def test_every_face_edge_and_corner_finds_itself(make) -> None:  # type: ignore[no-untyped-def]
    found = topology(make())
    bodies = {"s2": found}
    for i in range(len(found.faces)):
        assert (find_face(face_ref("s2", found, i), bodies).index, find_face(face_ref("s2", found, i), bodies).doubt) == (i, "")
    for i, edge in enumerate(found.edges):
        if len(edge.faces) == 2:
            assert find_edge(edge_ref("s2", found, i), bodies).index == i
    for i, vertex in enumerate(found.vertices):
        if len(vertex.faces) == 3:
            assert find_vertex(vertex_ref("s2", found, i), bodies).index == i


def test_every_face_of_the_solids_carries_a_name() -> None:
    for make in (plate, block):
        assert all(f.names for f in topology(make()).faces)


@pytest.mark.parametrize(("tag", "formula"), [("outline_width", "400 mm"), ("outline_height", "3 mm"), ("base_depth", "1 mm")])
def test_edges_and_corners_follow_a_change_of_size(tag: str, formula: str) -> None:
    b = plate()
    before = topology(b)
    edges = [edge_ref("s2", before, i) for i in range(len(before.edges))]
    corners = [vertex_ref("s2", before, i) for i in range(len(before.vertices))]
    b.do(do="set_formula", tag=tag, formula=formula)
    after = topology(b)
    for ref, old in zip(edges, before.edges, strict=True):
        new = after.edges[find_edge(ref, {"s2": after}).index]
        assert [after.faces[f].names for f in new.faces] == [before.faces[f].names for f in old.faces]
    assert len({find_vertex(ref, {"s2": after}).index for ref in corners}) == len(corners)


def test_a_groove_splits_face_and_edges_and_the_pieces_are_told() -> None:
    b = plate()
    before = topology(b)
    front = next(i for i, f in enumerate(before.faces) if f.frame.normal[1] < -0.9)
    top = next(i for i, f in enumerate(before.faces) if f.frame.normal[2] > 0.9)
    rim = next(i for i, e in enumerate(before.edges) if set(e.faces) == {front, top})
    face, edge = face_ref("s2", before, top, (35.0, 10.0, 10.0)), edge_ref("s2", before, rim)
    slot = b.step("sketch", "Slot", on=XY)
    b.draw(slot, "rectangle", (10, -5), (14, 30))
    b.step("extrude", "Groove", profile=b.profile(slot, 0), result="cut", bodies=[{"of": "body", "body": "s2"}], depth={"formula": "20 mm"})
    after = topology(b)
    found = find_face(face, {"s2": after})
    assert "in 2 pieces" in found.doubt
    assert after.faces[found.index].centre[0] > 14
    again = find_edge(edge, {"s2": after})
    assert "in 2 pieces" in again.doubt


def test_what_is_gone_is_lost_and_nothing_else_is_taken() -> None:
    b = plate()
    before = topology(b)
    refs = [face_ref("s2", before, i) for i in range(6)]
    b.do(do="remove_step", step="s2")
    with pytest.raises(ReferenceLost, match="not there any more"):
        find_face(refs[0], {})
    edge = edge_ref("s2", before, 0)
    with pytest.raises(ReferenceLost):
        find_edge(edge, {})
    with pytest.raises(ReferenceLost):
        find_vertex(vertex_ref("s2", before, 0), {})


def test_merged_faces_keep_both_names() -> None:
    b = plate()
    beside = b.step("sketch", "Beside", on=XY)
    b.draw(beside, "rectangle", (40, 0), (60, 25))
    b.step("extrude", "More", profile=b.profile(beside, 0), result="add", bodies=[{"of": "body", "body": "s2"}], depth={"formula": "10 mm"})
    found = topology(b)
    assert len(found.faces) == 6
    top = next(f for f in found.faces if f.frame.normal[2] > 0.9)
    assert {n.split("/")[0] for n in top.names} == {"s2", "s4"}


@pytest.mark.parametrize(("normal", "x", "y"), [
    ((0, 0, 1), (1, 0, 0), (0, 1, 0)), ((1, 0, 0), (0, 1, 0), (0, 0, 1)), ((0, -1, 0), (1, 0, 0), (0, 0, 1)),
    ((0, math.sin(0.4), math.cos(0.4)), (-1, 0, 0), (0, -math.cos(0.4), math.sin(0.4))),
])
def test_a_plane_has_its_own_upright_axes(normal: tuple, x: tuple, y: tuple) -> None:
    frame: Frame = upright((3.0, 4.0, 5.0), normal)
    assert frame.x == pytest.approx(x)
    assert frame.y == pytest.approx(y)
    assert frame.normal == pytest.approx(normal)
