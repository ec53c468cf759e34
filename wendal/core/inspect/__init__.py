"""Looking at an evaluated part: reports, the scene for the stage, small pictures, a sketch explained."""

from .compare import compare, compare_bodies, tried_bodies
from .foresight import foresee
from .made import MadeBy, WhatMade
from .mass import MassAndSize, MassesAndSizes
from .measure import Measure, Measured
from .outline import CutOutline, OutlineFound
from .picture import picture
from .questions import Answer, Request, ask, asked, questions
from .report import broken, ledger_rows, report
from .scene import Blobs, preview_scene, scene
from .schedule import HoleSchedule, HolesListed
from .sketch_view import dragged, sketch_view
from .wall import LeastWall, WallsFound

__all__ = [
    "Answer",
    "Blobs",
    "CutOutline",
    "HoleSchedule",
    "HolesListed",
    "LeastWall",
    "MadeBy",
    "MassAndSize",
    "MassesAndSizes",
    "Measure",
    "Measured",
    "OutlineFound",
    "Request",
    "WallsFound",
    "WhatMade",
    "ask",
    "asked",
    "broken",
    "compare",
    "compare_bodies",
    "dragged",
    "foresee",
    "ledger_rows",
    "picture",
    "preview_scene",
    "questions",
    "report",
    "scene",
    "sketch_view",
    "tried_bodies",
]
