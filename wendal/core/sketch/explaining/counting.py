"""How many freedoms there are, and which geometry has them: told before any of them is put into words, which
takes far longer."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...tolerance import MOVES
from ..solving import Moves, Solution, all_moves
from .words import say_constraint

__all__ = ["MOVES", "Counted", "count_freedoms"]


@dataclass(frozen=True, slots=True)
class Counted:
    """The number of freedoms, the ids of the points and curves that have any, and what is singular about the
    drawing, in words.

    parts : what moves in each independent part that has freedoms.
    """

    number: int
    pencilled: list[str]
    notes: list[str]
    parts: list[Moves]


def count_freedoms(solution: Solution) -> Counted:
    """Count what still moves in a solved drawing."""
    system, drawing = solution.system, solution.drawing
    parts = all_moves(system, solution.z)
    free = np.zeros(system.n + 1, dtype=bool)
    for moves in parts:
        if moves.basis.shape[1]:
            free[moves.columns] = (
                np.linalg.norm(moves.basis, axis=1) > MOVES
                if moves.basis.shape[1] < len(moves.columns)
                else True
            )
    of_variable = free[system.column].tolist()
    pencilled = [
        e
        for e in (*drawing.points, *drawing.curves)
        if any(of_variable[v] for v in system.layout.variables(e))
    ]
    return Counted(
        sum(m.basis.shape[1] for m in parts),
        pencilled,
        [n for m in parts if (n := _note(solution, m))],
        [m for m in parts if m.basis.shape[1]],
    )


def _note(solution: Solution, moves: Moves) -> str:
    """Say what is singular about a part at these sizes; "" where nothing is."""
    if moves.reason == "regular":
        return ""
    known = solution.drawing.constraints
    owners = list(dict.fromkeys(o for i in moves.spare if (o := solution.system.owner[i]) in known))
    said = [f"“{say_constraint(solution.drawing, known[o])}”" for o in owners[:2]]
    named = " and ".join(said) + (f" and {len(owners) - 2} more" if len(owners) > 2 else "")
    if moves.reason == "by value":
        return (
            f"At these sizes {named or 'one of the constraints'} says nothing that the others do not say; "
            "it binds once their values differ."
        )
    if moves.reason == "stiff":
        return (
            "Nothing moves here, but it is drawn at an extreme, straight or just touching"
            + (f" ({named})" if named else "")
            + ": a small change of a value moves it far, or can not be met."
        )
    return (
        "Two ways to move meet here"
        + (f" ({named})" if named else "")
        + ": a small move decides which of them it takes."
    )
