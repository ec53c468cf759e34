"""Trust: how far the dimensions of a part may go, and what breaks first."""

from .moving import Aimed, Moved, MovedBy, Stack, aimed, moved, stacked
from .report import DimensionFound, EndFound, SetFound, ShakedownReport, as_csv, as_html, compared
from .shaking import Plan, Pool, shaken
from .trial import Trial, Verdict, driving, tried

__all__ = [
    "Aimed",
    "DimensionFound",
    "EndFound",
    "Moved",
    "MovedBy",
    "Plan",
    "Pool",
    "SetFound",
    "ShakedownReport",
    "Stack",
    "Trial",
    "Verdict",
    "aimed",
    "as_csv",
    "as_html",
    "compared",
    "driving",
    "moved",
    "shaken",
    "stacked",
    "tried",
]
