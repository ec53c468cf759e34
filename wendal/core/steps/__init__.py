"""The step kinds. A new kind is one new file here; this package finds it by itself."""

from importlib import import_module
from pkgutil import iter_modules

from .applying import shown
from .base import (
    Body,
    Effect,
    Made,
    Seed,
    Site,
    SketchMade,
    Step,
    blanks_of,
    kind_of,
    kinds,
    numbers_of,
    published,
)
from .offering import Way, ways_for, ways_in_sketch
from .profiles import ChainFound, FaceFound, ProfileFound, RegionFound

for _module in iter_modules(__path__):
    import_module(f"{__name__}.{_module.name}")

__all__ = [
    "Body",
    "ChainFound",
    "Effect",
    "FaceFound",
    "Made",
    "ProfileFound",
    "RegionFound",
    "Seed",
    "Site",
    "SketchMade",
    "Step",
    "Way",
    "blanks_of",
    "kind_of",
    "kinds",
    "numbers_of",
    "published",
    "shown",
    "ways_for",
    "ways_in_sketch",
]
