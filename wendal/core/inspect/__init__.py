"""Looking at an evaluated part: reports, the scene for the stage, small pictures, a sketch explained."""

from .foresight import foresee
from .picture import picture
from .report import broken, ledger_rows, report
from .scene import Blobs, preview_scene, scene
from .sketch_view import dragged, sketch_view

__all__ = [
    "Blobs",
    "broken",
    "dragged",
    "foresee",
    "ledger_rows",
    "picture",
    "preview_scene",
    "report",
    "scene",
    "sketch_view",
]
