"""Texts: writing along a base line, and changing what is written and how."""

from __future__ import annotations

from difflib import SequenceMatcher
from typing import Literal

from pydantic import Field

from ...errors import SketchError
from ...lettering import FONTS, unknown_signs
from ...stored import Stored, Value
from ..drawn import Drawing, Text
from ..regions import reads_turned
from .base import PartFigures, edits
from .draft import End
from .draw import Automatic, Draw, drawn

__all__ = ["SetText", "Write"]

Font = Literal["barlow", "barlow_semibold", "b612_mono"]
Stand = Literal["start", "middle", "end"]
LONGEST = 200


class Write(Stored):
    """Write along a curve, or along a new base line between two ends.

    turned : on the other side of the curve; None takes the side on which it reads from below, or outside a
    circle.
    """

    op: Literal["write"] = "write"
    words: str
    height: str
    along: str = ""
    ends: list[End] = Field(default_factory=list, max_length=2)
    automatic: list[Automatic] = Field(default_factory=list)
    font: Font = "barlow"
    place: Stand = "start"
    turned: bool | None = None


class SetText(Stored):
    """Change a text; what is None stays."""

    op: Literal["set_text"] = "set_text"
    text: str
    words: str | None = None
    height: str | None = None
    font: Font | None = None
    place: Stand | None = None
    turned: bool | None = None


@edits(Write, "Write “{words}”")
def _write(drawing: Drawing, edit: Write, figures: PartFigures) -> Drawing:
    _legible(edit.words, edit.font)
    if edit.along and edit.ends:
        raise SketchError("A text stands along a curve or along a new base line, not both.", field="along")
    base = edit.along
    if base:
        if base not in drawing.curves:
            raise SketchError(
                "A text stands along a curve of the sketch: a line, arc, circle, ellipse or spline.",
                field="along",
            )
    elif len(edit.ends) == 2:
        before = set(drawing.curves)
        drawing = drawn(
            drawing, Draw(shape="line", ends=edit.ends, automatic=edit.automatic, construction=True), figures
        )
        base = next(c for c in drawing.curves if c not in before)
    else:
        raise SketchError(
            "Pick a curve for the text to stand along, or give both ends of a new base line.", field="along"
        )
    turned = reads_turned(drawing, base) if edit.turned is None else edit.turned
    height = Value(formula=edit.height, tag=figures.new_tag("text_height"))
    own, last = drawing.last + 1, drawing.last + 1 + len(edit.words)
    text = Text(
        base=base,
        words=edit.words,
        font=edit.font,
        height=height,
        place=edit.place,
        turned=turned,
        marks=list(range(own + 1, last + 1)),
    )
    return drawing.model_copy(update={"texts": {**drawing.texts, f"t{own}": text}, "last": last})


@edits(SetText, "Change a text")
def _set_text(drawing: Drawing, edit: SetText, figures: PartFigures) -> Drawing:
    text = drawing.texts.get(edit.text)
    if text is None:
        raise SketchError("This text is not in the sketch any more.", field=edit.text)
    words, font = edit.words if edit.words is not None else text.words, edit.font or text.font
    _legible(words, font)
    marks = _marks(text, words, drawing.last + 1, keep=font == text.font)
    changed = {
        "words": words,
        "font": font,
        "marks": marks,
        "place": edit.place or text.place,
        "turned": text.turned if edit.turned is None else edit.turned,
    }
    if edit.height is not None:
        changed["height"] = text.height.model_copy(update={"formula": edit.height})
    return drawing.model_copy(
        update={
            "texts": {**drawing.texts, edit.text: text.model_copy(update=changed)},
            "last": max(drawing.last, *marks),
        }
    )


def _legible(words: str, font: str) -> None:
    """Raise SketchError for words that can not be set."""
    if not words.strip():
        raise SketchError("Type the words of the text first.", field="words")
    if len(words) > LONGEST:
        raise SketchError(f"A text has {LONGEST} signs at most; this has {len(words)}.", field="words")
    if any(not s.isprintable() for s in words):
        raise SketchError("A text is one line; write each line as a text of its own.", field="words")
    missing = unknown_signs(words, font)
    if missing:
        raise SketchError(
            f"{FONTS[font][0]} has no sign for “{'”, “'.join(missing[:5])}”. Leave it out, or take another "
            "font.",
            field="words",
        )


def _marks(text: Text, words: str, following: int, *, keep: bool) -> list[int]:
    """Return a number for every sign of new words: its old one where the sign was there before, else a fresh
    one from `following` on.

    Fresh ones were never given to anything in the sketch, so that a deleted sign's faces never come to mean
    another's. In another font no face is what it was, so none keeps its number.
    """
    marks: list[int] = []
    for how, a, b, c, d in SequenceMatcher(None, text.words, words, autojunk=False).get_opcodes():
        if how == "equal" and keep:
            marks += text.marks[a:b]
        else:
            marks += range(following, following + d - c)
            following += d - c
    return marks
