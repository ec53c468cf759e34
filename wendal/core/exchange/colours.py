"""The colours of bodies in files, as on the stage (sRGB)."""

from __future__ import annotations

from ..route import Part

__all__ = ["colour_of", "nearest", "rgb"]

COLOURS = {"": "d8cdb8", "slate": "b9c0c4", "moss": "bfc7ab", "clay": "d9b9a3", "sand": "e3d29c"}


def colour_of(part: Part, body: str) -> tuple[int, int, int]:
    """Return a body's colour, 0 to 255 each."""
    look = part.looks.get(body)
    return rgb(look.colour if look else "")


def rgb(colour: str) -> tuple[int, int, int]:
    """Return one of the stage's colours, 0 to 255 each."""
    code = COLOURS.get(colour, COLOURS[""])
    return int(code[0:2], 16), int(code[2:4], 16), int(code[4:6], 16)


def nearest(given: tuple[int, int, int]) -> str:
    """Return the name of the stage's colour that is nearest to one; "" for stone."""
    return min(COLOURS, key=lambda name: sum((a - b) ** 2 for a, b in zip(rgb(name), given, strict=True)))
