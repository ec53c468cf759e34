"""A step's place in a chain: a digest of everything that it stands on, from the first step on, and of how
that came out.

It tells in another process what identity tells in this one: that a step meets the very same site, so that its
references need not be looked for.
"""

from __future__ import annotations

from typing import Any

from ..once import OnceWeakly
from ..steps import Step
from .tokens import digest

__all__ = ["Chain"]

_content: OnceWeakly[Step, str] = OnceWeakly(lambda step: digest(step.model_dump_json()))


class Chain:
    """The steps of one evaluation so far."""

    def __init__(self) -> None:
        self._so_far = ""
        self._sound = True

    def place(self, step: Step, given: Any) -> str:
        """Return the place of the next step.

        given : all that its result hangs on but the step and what stands before it. "" where that is not
        known.
        """
        self._so_far = digest(self._so_far, _content(step), given) if given and self._sound else ""
        self._sound = bool(self._so_far)
        return self._so_far

    def came_out(self, state: str, key: str) -> None:
        """Go on with how the step came out: it may have been ended from outside, which its content does not
        tell."""
        if self._sound:
            self._so_far = digest(self._so_far, state, key)
