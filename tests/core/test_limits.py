"""Limits of size against figures that are printed in the standard's tables, and what is refused."""

from __future__ import annotations

import pytest

from wendal.core.errors import StepError
from wendal.core.standards import limits_of

KNOWN = [
    ("H7", 25, 21, 0), ("H7", 6, 12, 0), ("H8", 18, 27, 0), ("H11", 6, 75, 0), ("H6", 500, 40, 0), ("F7", 20, 41, 20), ("G7", 25, 28, 7),
    ("JS7", 25, 10.5, -10.5), ("K7", 25, 6, -15), ("K7", 5, 3, -9), ("K6", 5, 2, -6), ("M7", 25, 0, -21), ("M6", 300, -9, -41), ("N7", 25, -7, -28),
    ("N9", 20, 0, -52), ("P7", 25, -14, -35), ("P9", 10, -15, -51), ("R7", 60, -30, -60), ("S7", 50, -34, -59), ("D10", 40, 180, 80), ("E8", 25, 73, 40),
    ("g6", 25, -7, -20), ("h6", 25, 0, -13), ("h9", 10, 0, -36), ("f7", 40, -25, -50), ("e8", 25, -40, -73), ("d9", 25, -65, -117), ("c11", 100, -170, -390),
    ("js6", 25, 6.5, -6.5), ("k6", 20, 15, 2), ("m6", 25, 21, 8), ("n6", 25, 28, 15), ("p6", 30, 35, 22), ("r6", 60, 60, 41), ("s6", 50, 59, 43), ("k11", 20, 130, 0),
]  # fmt: skip


@pytest.mark.parametrize(("text", "size", "above", "below"), KNOWN)
def test_a_class_has_the_limits_of_the_table(text: str, size: float, above: float, below: float) -> None:
    limits = limits_of(text, size)
    assert limits is not None
    assert (limits.above * 1000, limits.below * 1000) == pytest.approx((above, below))


@pytest.mark.parametrize(("text", "said"), [("+0.1/0", "+0.1/0"), ("0/+0.1", "+0.1/0"), ("−0.02/-0.05", "−0.02/−0.05"), ("± 0.05", "±0.05"), (" H7 ", "+0.021/0")])
def test_limits_are_read_and_said(text: str, said: str) -> None:
    assert str(limits_of(text, 25.0)) == said


@pytest.mark.parametrize(("text", "size", "told"), [
    ("tight", 5, "a class by ISO 286"), ("H", 5, "a class by ISO 286"), ("H19", 5, "no grade 19"), ("Z7", 5, "not in the table"), ("H7", 501, "up to 500 mm"),
    ("Js7", 5, "capitals for holes"), ("K9", 25, "up to grade 8"), ("P1", 25, "grade 3 or coarser"),
])
def test_what_has_no_limits_is_refused(text: str, size: float, told: str) -> None:
    with pytest.raises(StepError, match=told):
        limits_of(text, size)
