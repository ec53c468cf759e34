"""The demo parts of the fictional tide-gauge station Harrow Point."""

from .bracket import instrument_bracket
from .load import add_demo

__all__ = ["add_demo", "instrument_bracket"]
