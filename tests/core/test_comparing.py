"""Comparing bodies against known answers: moved, mirrored, changed a little, made otherwise, other seams, symmetric ones."""

from __future__ import annotations

import math
import random
from typing import Any

import pytest

from tests.building import axis, drawn_on, f
from tests.samples import evaluated, plate
from tools.hunts.comparing import hunt_comparing
from wendal.core import kernel
from wendal.core.kernel import comparing
from wendal.core.kernel.types import Frame, Placement, unit
from wendal.demo.builder import Builder


def body_of(b: Builder) -> Any:
    (body,) = evaluated(b).site.bodies.values()
    return body.shape


def bored(b: Builder, *rings: tuple[float, float, float], depth: str = "") -> Builder:
    for n, (x, y, r) in enumerate(rings):
        ring = drawn_on(b, axis("XY"), "circle", (x, y), (x + r, y))
        more = {"depth": f(depth)} if depth else {"extent": "through"}
        b.step("extrude", f"Bore {n}", profile=b.profile(ring, 0), result="cut", **more)
    return b


def chiral() -> Any:
    return body_of(bored(plate("40 mm", "25 mm", "10 mm"), (8, 6, 3), (30, 9, 2), depth="4 mm"))


def ring_of_six() -> Any:
    b = Builder("Ring")
    disc = drawn_on(b, axis("XY"), "circle", (0, 0), (30, 0))
    b.step("extrude", "Disc", profile=b.profile(disc, 0), depth=f("8 mm"))
    turns = [math.radians(60 * i) for i in range(6)]
    return body_of(bored(b, *((20 * math.cos(t), 20 * math.sin(t), 4) for t in turns)))


def shaft() -> Any:
    b = Builder("Shaft")
    for n, (r, at) in enumerate(((10, 0), (6, 30))):
        ring = drawn_on(b, axis("XY"), "circle", (0, 0), (r, 0))
        b.step("extrude", f"Rod {n}", profile=b.profile(ring, 0), depth=f(f"{at + 20} mm"), result="add" if n else "new")
    return body_of(b)


def block(*sides: str) -> Any:
    return body_of(plate(*sides))


BODIES = {"chiral": chiral, "ring of six": ring_of_six, "shaft": shaft, "cube": lambda: block("10 mm", "10 mm", "10 mm"),
          "block": lambda: block("10 mm", "20 mm", "30 mm")}


def motions(seed: int) -> Placement:
    rng = random.Random(seed)
    axis = unit((rng.uniform(-1, 1), rng.uniform(-1, 1), rng.uniform(0.1, 1)))
    turn = Placement.turned((rng.uniform(-9, 9), 0, 5), axis, rng.uniform(-3, 3))
    return turn.then(Placement.shifted((rng.uniform(-80, 80), rng.uniform(-80, 80), rng.uniform(-80, 80))))


@pytest.mark.parametrize("name", BODIES)
@pytest.mark.parametrize("seed", range(3))
def test_a_body_that_is_moved_is_found_with_its_motion(name: str, seed: int) -> None:
    body, motion = BODIES[name](), motions(seed)
    there = kernel.placed(body, motion)
    assert kernel.same_within(body, there) == math.inf
    found = kernel.motion_between(body, there)
    assert found is not None
    assert not found.mirrors
    if name != "shaft":  # how far a turned body is turned does not matter, but its seams tell
        assert kernel.same_within(kernel.placed(body, found), there) <= 1e-5
    left = kernel.apart_from(kernel.placed(body, found), there)
    assert left.here is None
    assert left.there is None


@pytest.mark.parametrize("name", BODIES)
def test_a_mirror_image_is_told_as_such_only_where_no_motion_makes_it(name: str) -> None:
    body = BODIES[name]()
    mirrored = kernel.placed(body, Placement.mirrored(Frame((3.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))).then(motions(7)))
    found = kernel.motion_between(body, mirrored)
    assert found is not None
    assert found.mirrors == (name == "chiral")


@pytest.mark.parametrize("shift", [1e-2, 1e-3, 1e-4])
def test_a_bore_that_is_moved_differs_by_its_width_times_the_shift(shift: float) -> None:
    a, b = (body_of(bored(plate("40 mm", "25 mm", "10 mm"), (12 + s, 12, 3))) for s in (0.0, shift))
    assert kernel.same_within(a, b) == math.inf
    assert kernel.motion_between(a, b) is None
    apart = kernel.apart_from(a, b)
    # What a circle sweeps over: its width times the shift, times the thickness.
    assert apart.volumes[1:] == pytest.approx((6 * shift * 10,) * 2, rel=2e-3)
    assert apart.volumes[0] + apart.volumes[1] == pytest.approx(40 * 25 * 10 - math.pi * 90, abs=1e-5)


def test_below_what_the_kernel_tells_apart_two_bodies_are_the_same_to_so_much() -> None:
    a, b = (body_of(bored(plate("40 mm", "25 mm", "10 mm"), (12 + s, 12, 3))) for s in (0.0, 3e-6))
    assert 1e-6 < kernel.same_within(a, b) <= 1e-5


def test_the_same_body_made_in_another_order_is_the_same() -> None:
    a, b = (body_of(bored(plate("40 mm", "25 mm", "10 mm"), *rings)) for rings in (((8, 6, 3), (30, 9, 2)), ((30, 9, 2), (8, 6, 3))))
    assert kernel.same_within(a, b) <= 1e-8
    apart = kernel.apart_from(a, b)
    assert (apart.here, apart.there) == (None, None)


def test_one_more_bore_is_found_with_its_volume_and_its_faces() -> None:
    a = body_of(bored(plate("40 mm", "25 mm", "10 mm"), (8, 6, 3)))
    b = body_of(bored(plate("40 mm", "25 mm", "10 mm"), (8, 6, 3), (30, 9, 2)))
    apart = kernel.apart_from(a, b)
    assert apart.volumes[1:] == pytest.approx((math.pi * 40, 0.0), abs=1e-6)
    lonely, there = kernel.unmatched(a, b)
    assert len(lonely) == 2
    assert len(there) == 3


def test_holes_on_the_other_diagonal_are_the_same_turned() -> None:
    a = body_of(bored(plate("30 mm", "30 mm", "8 mm"), (6, 6, 3), (24, 24, 3)))
    b = body_of(bored(plate("30 mm", "30 mm", "8 mm"), (24, 6, 3), (6, 24, 3)))
    found = kernel.motion_between(a, b)
    assert found is not None
    assert not found.mirrors


def test_random_pairs_are_told_as_known() -> None:
    found = hunt_comparing(1, seed=2, large=False)
    assert not [k for k in found if k.endswith("wrong")], found


@pytest.mark.parametrize("seed", range(6))
def test_where_two_differ_in_a_part_only_the_same_comes_out_as_by_the_whole(seed: int) -> None:
    rng = random.Random(seed)
    rings = [(8, 6, 3), (30, 9, 2), (20, 18, 2.5)]
    k = rng.randrange(3)
    (x, y, r), more = rings[k], rng.uniform(0.05, 0.8)
    rings[k] = rng.choice([(x + more, y, r), (x, y - more, r), (x, y, r - more), (x, y, r + more)])
    a = body_of(bored(plate("40 mm", "25 mm", "10 mm"), (8, 6, 3), (30, 9, 2), (20, 18, 2.5), depth="4 mm"))
    b = body_of(bored(plate("40 mm", "25 mm", "10 mm"), *rings, depth="4 mm"))
    near, whole = comparing._apart_within(a, b), comparing.apart_by_whole(a, b)
    assert near is not None
    assert near.volumes == pytest.approx(whole.volumes, abs=1e-6)
    assert (near.here is None, near.there is None) == (whole.here is None, whole.there is None)
