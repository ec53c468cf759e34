"""The demo parts of the fictional tide-gauge station Harrow Point."""

from .bracket import instrument_bracket
from .harrow import float_wheel, mast_clamp, well_head_flange
from .housing import cable_hook, sensor_housing
from .load import DEMO_PARTS, add_demo

__all__ = [
    "DEMO_PARTS",
    "add_demo",
    "cable_hook",
    "float_wheel",
    "instrument_bracket",
    "mast_clamp",
    "sensor_housing",
    "well_head_flange",
]
