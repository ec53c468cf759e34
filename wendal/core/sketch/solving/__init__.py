"""The reduced system of equations: made, taken apart into blocks, solved, and followed while something is
dragged or taken in."""

from .drag import Drag
from .singular import Moves, all_moves, moves_of, null_space
from .solver import Solution, measured, newton, solve
from .system import EquationSystem
from .taken import Traced, carried, draw_traced, fits, own_points
from .witness import witness

__all__ = [
    "Drag",
    "EquationSystem",
    "Moves",
    "Solution",
    "Traced",
    "all_moves",
    "carried",
    "draw_traced",
    "fits",
    "measured",
    "moves_of",
    "newton",
    "null_space",
    "own_points",
    "solve",
    "witness",
]
