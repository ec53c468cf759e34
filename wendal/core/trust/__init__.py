"""Trust: how far the dimensions of a part may go, and what breaks first."""

from .aiming import Aimed, aimed
from .families import FamilyFound, checked, family_csv, manifest
from .figures import PLAIN, Setup, Watched
from .moving import Moved, MovedBy, moved
from .pictures import pictured
from .pool import Pool
from .report import DimensionFound, EndFound, SetFound, ShakedownReport, as_csv, as_html, compared
from .shaking import Plan, shaken
from .stacking import Sampled, Stack, sampled, stacked
from .trial import Trial, Verdict, driving, tried

__all__ = [
    "PLAIN",
    "Aimed",
    "DimensionFound",
    "EndFound",
    "FamilyFound",
    "Moved",
    "MovedBy",
    "Plan",
    "Pool",
    "Sampled",
    "SetFound",
    "Setup",
    "ShakedownReport",
    "Stack",
    "Trial",
    "Verdict",
    "Watched",
    "aimed",
    "as_csv",
    "as_html",
    "checked",
    "compared",
    "driving",
    "family_csv",
    "manifest",
    "moved",
    "pictured",
    "sampled",
    "shaken",
    "stacked",
    "tried",
]
