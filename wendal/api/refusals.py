"""Refusals as messages."""

from __future__ import annotations

from typing import Any

from wendal.core.errors import WendalError

__all__ = ["refusal"]


def refusal(number: int, error: WendalError) -> dict[str, Any]:
    """Return a refusal as a message."""
    return {
        "type": "refused",
        "id": number,
        "code": error.code,
        "message": error.message,
        "field": error.field,
        "step": error.step,
        "at": error.at,
        "fights": getattr(error, "fights", []),
        "spare": getattr(error, "spare", False),
    }
