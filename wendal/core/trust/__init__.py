"""Trust: how far the dimensions of a part may go, and what breaks first."""

from .report import DimensionFound, EndFound, SetFound, ShakedownReport, as_csv, as_html, compared
from .shaking import Plan, Pool, shaken
from .trial import Trial, Verdict, driving, tried

__all__ = [
    "DimensionFound",
    "EndFound",
    "Plan",
    "Pool",
    "SetFound",
    "ShakedownReport",
    "Trial",
    "Verdict",
    "as_csv",
    "as_html",
    "compared",
    "driving",
    "shaken",
    "tried",
]
