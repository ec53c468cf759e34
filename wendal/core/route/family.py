"""The family of a part, as it is stored: sets of values under names."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated

from pydantic import Field

from ..quantity import rename_tag
from ..stored import Stored

__all__ = ["LONGEST", "NAMED", "TAGS", "FamilyRow", "with_tag_renamed", "without_tag"]


NAMED, LONGEST, TAGS = 80, 1000, 200  # signs of a name and of a formula; dimensions of a member


class FamilyRow(Stored):
    """A member of the family: formulas by tag. A tag that is left out is as in the part."""

    name: str = Field(min_length=1, max_length=NAMED)
    values: dict[str, Annotated[str, Field(min_length=1, max_length=LONGEST)]] = Field({}, max_length=TAGS)


def without_tag(family: Sequence[FamilyRow], tag: str) -> list[FamilyRow]:
    """Return a family that says nothing of a tag."""
    return [r.model_copy(update={"values": {t: f for t, f in r.values.items() if t != tag}}) for r in family]


def with_tag_renamed(family: Sequence[FamilyRow], tag: str, to: str) -> list[FamilyRow]:
    """Return a family in which a tag has another name."""
    found = []
    for row in family:
        values = {to if t == tag else t: rename_tag(f, tag, to) for t, f in row.values.items()}
        found.append(row.model_copy(update={"values": values}))
    return found
