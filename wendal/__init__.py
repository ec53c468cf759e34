"""Wendal: datum geometry, constrained sketches and parts that follow when dimensions change.

From Python: `wendal.open("bracket.json")`, `wendal.new("Foot")`, `wendal.receive("sent.step")`; see
`wendal.part`.
"""

import os
from typing import Any

# Small dense systems are solved many times a second; a second BLAS thread only makes them wait.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.1.0"
__all__ = ["Part", "WendalError", "new", "open", "receive"]


def __getattr__(name: str) -> Any:
    """Load what scripts use when it is first asked for: the server has no need of it."""
    if name == "open":
        from .part import open_part

        return open_part
    if name in ("Part", "new"):
        from . import part

        return getattr(part, name)
    if name == "receive":
        from .received import part_from

        return part_from
    if name == "WendalError":
        from .core.errors import WendalError

        return WendalError
    raise AttributeError(name)
