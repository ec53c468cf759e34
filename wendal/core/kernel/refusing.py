"""The border to the geometry kernel: its own exceptions become a refusal here, and nothing else does.

The binding's exceptions derive from `Exception` alone and have no common base (`except Standard_Failure`
catches almost nothing). They are told by where their class lives. A `KeyError` or `TypeError` is a fault of
ours; it goes on upwards, is logged with its trace, and is never called the kernel's.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager

__all__ = ["is_refusal", "refused_as"]

BINDING = "OCP"


def is_refusal(error: BaseException) -> bool:
    """Tell whether an exception is the kernel's own."""
    return type(error).__module__.partition(".")[0] == BINDING


@contextmanager
def refused_as(refusal: Callable[[], Exception]) -> Iterator[None]:
    """Run calls of the kernel; raise `refusal()` in place of the kernel's own exceptions. All others pass."""
    try:
        yield
    except Exception as error:  # the binding's have no common base; all but its own go on
        if not is_refusal(error):
            raise
        raise refusal() from error
