"""The demo parts of the fictional tide-gauge station Harrow Point."""

from .bracket import instrument_bracket
from .harrow import float_wheel, mast_clamp, well_head_flange
from .load import add_demo

__all__ = ["add_demo", "float_wheel", "instrument_bracket", "mast_clamp", "well_head_flange"]
