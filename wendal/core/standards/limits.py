"""Limits of size: a class by ISO 286 (H7, g6), limits (+0.1/0) or one figure (±0.05), in mm."""

from __future__ import annotations

import re
from bisect import bisect_left
from dataclasses import dataclass

from ..errors import StepError
from .tables import _table

__all__ = ["Limits", "limits_of"]

CLASS = re.compile(r"([A-Za-z]{1,2})(\d{1,2})")
ONE = re.compile(r"±\s*(\d*\.?\d+)")
TWO = re.compile(r"([+−-]?\d*\.?\d+)\s*/\s*([+−-]?\d*\.?\d+)")
AS_SHAFT = "KMNPRS"  # holes whose deviation is that of the shaft of this letter, turned over
HOLES_TO_SHAFTS = {"K": 8, "M": 8, "N": 8}  # the coarsest grade that is corrected; 7 for all others
MICROMETRES = 1000.0


@dataclass(frozen=True, slots=True)
class Limits:
    """By how much a size may be above and below its nominal one, mm; below is mostly negative."""

    above: float
    below: float

    def __str__(self) -> str:
        """Return them as drawings have them: `+0.021/0`, `±0.05`."""
        return self.said()

    def said(self, inches: bool = False) -> str:
        """Return them as drawings have them, in mm, or in inches to five decimals."""
        above, below = (v / 25.4 if inches else v for v in (self.above, self.below))
        digits = 5 if inches else 4
        if self.above == -self.below and self.above:
            return f"±{_figure(above, digits)}"
        return f"{_signed(above, digits)}/{_signed(below, digits)}"


def limits_of(text: str, size: float | None) -> Limits | None:
    """Return the limits that a text asks for at a nominal size, mm; None for an empty text.

    size : None where only the writing is looked at. Raises StepError where it is not understood, or the
    tables have nothing for it.
    """
    text = text.strip()
    if not text:
        return None
    if found := ONE.fullmatch(text):
        return Limits(float(found[1]), -float(found[1]))
    if found := TWO.fullmatch(text):
        one, other = (float(found[i].replace("−", "-")) for i in (1, 2))
        return Limits(max(one, other), min(one, other))
    if found := CLASS.fullmatch(text):
        return _by_class(found[1], int(found[2]), size)
    raise StepError(
        "Write a tolerance as a class by ISO 286, such as H7 or g6, or as limits, such as +0.1/0 or ±0.05."
    )


def _by_class(letters: str, grade: int, size: float | None) -> Limits:
    table = _table("limits")
    hole, letter = letters.isupper(), letters.lower()
    if str(grade) not in table["grades"]:
        raise StepError(f"There is no grade {grade} in the table of ISO 286: it has 1 to 14.")
    if letter != "js" and letter not in table["deviations"]:
        known = ", ".join([*table["deviations"], "js"])
        raise StepError(f"{letters} is not in the table of ISO 286 that is here: it has {known}.")
    if letters not in (letters.upper(), letters.lower()):
        raise StepError(f"A class has capitals for holes and small letters for shafts, not {letters}.")
    if size is None:
        return Limits(0.0, 0.0)
    if not 0 < size <= table["sizes"][-1]:
        raise StepError(f"ISO 286 has classes up to {table['sizes'][-1]} mm. Give the limits themselves.")
    step = bisect_left(table["sizes"], size)
    width = table["grades"][str(grade)][step]
    if letter == "js":
        return Limits(width / 2 / MICROMETRES, -width / 2 / MICROMETRES)
    shaft = table["deviations"][letter][bisect_left(table["steps"], size)]
    if not hole:
        if letter == "k" and not 4 <= grade <= 7:
            shaft = 0
        low, high = (shaft - width, shaft) if shaft < 0 or letter == "h" else (shaft, shaft + width)
    elif letters in AS_SHAFT:
        high = _above_of_hole(letters, grade, size, shaft)
        low = high - width
    else:
        low, high = -shaft, -shaft + width
    return Limits(high / MICROMETRES, low / MICROMETRES)


def _above_of_hole(letters: str, grade: int, size: float, shaft: float) -> float:
    """Return the upper deviation of a hole K to S, micrometres: the shaft's turned over, for fine grades
    with the difference of two grades added (ISO 286-1, 4.3.2.5)."""
    table = _table("limits")
    step = bisect_left(table["sizes"], size)
    if size <= table["sizes"][0]:
        return -shaft
    if grade > HOLES_TO_SHAFTS.get(letters, 7):
        if letters == "K":
            raise StepError("K is defined up to grade 8 above 3 mm. Choose a finer grade, or another letter.")
        return 0.0 if letters == "N" else -shaft
    if grade < 3:
        raise StepError(f"{letters}{grade} is not in the table of ISO 286. Choose grade 3 or coarser.")
    grades = table["grades"]
    more = grades[str(grade)][step] - grades[str(grade - 1)][step]
    if (letters, grade, table["sizes"][step]) == ("M", 6, 315):
        more += 2  # an exception that the standard makes
    return float(-shaft + more)


def _figure(value: float, digits: int) -> str:
    return f"{value:.{digits}f}".rstrip("0").rstrip(".")


def _signed(value: float, digits: int) -> str:
    return "0" if not round(value, digits) else f"{'+' if value > 0 else '−'}{_figure(abs(value), digits)}"
