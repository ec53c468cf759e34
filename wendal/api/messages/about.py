"""What the service publishes about itself: step kinds, constraint kinds, formats, fonts."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel

__all__ = [
    "About",
    "BlankData",
    "ConstraintKindData",
    "FormatData",
    "FormulaData",
    "FunctionData",
    "Health",
    "KindData",
    "VariantData",
]


class BlankData(BaseModel):
    """One blank of a step's sentence; `core/blanks.py` says what each field means.

    Fields of other kinds are empty.
    """

    kind: Literal["name", "number", "pick", "choice", "answer", "facing", "words", "dots"]
    label: str
    when: dict[str, list[str]]
    before: str
    after: str
    default: Any
    # Numbers.
    quantity: str = ""
    above: float | None = None
    most: float | None = None
    start: str = ""
    quiet: bool = False
    # Picks.
    accepts: list[str] = []
    accepts_with: dict[str, dict[str, list[str]]] = {}
    needs: str = ""
    many: bool = False
    optional: bool = False
    unless: str = ""
    unsaid: bool = False
    fixed: bool = False
    pieces: bool = False
    plain: bool = False
    # Choices.
    words: dict[str, str] = {}
    clause: str = ""
    turns: list[str] = []
    # Words.
    hint: str = ""


class VariantData(BaseModel):
    """One way to make a step: what it is called, how it is said, what may be filled in."""

    title: str
    explains: str
    sentence: str
    blanks: dict[str, BlankData]


class KindData(BaseModel):
    """A step kind.

    shelf : where it lies in the kit. rare : offered after what is wanted more often. wants_file : it
    begins with a file in place of blanks. variants : by key, "" where there is just one.
    """

    kind: str
    title: str
    group: str
    key: str
    explains: str
    makes: str
    shelf: str
    rare: bool
    wants_file: bool
    variants: dict[str, VariantData]


class ConstraintKindData(BaseModel):
    """A constraint kind.

    takes : patterns of what it may be picked on, each a list of the kinds for every place.
    """

    kind: str
    title: str
    symbol: str
    key: str
    quantity: str
    wants: str
    takes: list[list[list[str]]]


class OptionData(BaseModel):
    """One option of a format: yes or no, or one of some words. of : the subjects of which it says something,
    all where none is named."""

    name: str
    of: list[str]
    title: str
    choices: list[str]
    usual: str | bool


class FormatData(BaseModel):
    """A file format. reads : whether parts can be read from it. subjects : what it writes, the usual one
    first; options : how."""

    ending: str
    title: str
    reads: bool
    subjects: list[str]
    options: list[OptionData]


class FunctionData(BaseModel):
    """A function of formulas, and what it takes and gives in a few words."""

    name: str
    words: str


class FormulaData(BaseModel):
    """What formulas are made of besides tags."""

    functions: list[FunctionData]
    units: list[str]


class About(BaseModel):
    """All that the browser builds its editing from. fonts : titles by name."""

    version: str
    kinds: list[KindData]
    constraints: list[ConstraintKindData]
    fonts: dict[str, str]
    formats: list[FormatData]
    materials: dict[str, float]
    formula: FormulaData


class Health(BaseModel):
    """Which workers run (process numbers), and how the database stands: "well", or what is wrong in words.

    tallies : by worker process, what fell back to a slower way (`core/tally.py`); asked for with
    `?tallies=true`. copied : when the latest copy of all parts was made (ISO 8601, UTC), "" for none.
    """

    geometry: list[int]
    pen: list[int]
    database: str
    tallies: list[dict[str, dict[str, int]]] = []
    copied: str = ""
