"""The base of everything that is written into a part."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

__all__ = ["Figure", "Stored", "Value"]

Figure = Annotated[float, Field(allow_inf_nan=False)]


class Stored(BaseModel):
    """Unknown fields are refused, values never change; a change is a new object."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class Value(Stored):
    """A number of the part: a formula, and the tag under which the ledger lists it ("" for none)."""

    formula: str
    tag: str = ""
