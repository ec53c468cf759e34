"""What all messages share."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

__all__ = ["Flat", "Message", "Spot"]


Spot = tuple[float, float, float]
Flat = tuple[float, float]


class Message(BaseModel):
    """Base of all messages: unknown fields are refused."""

    model_config = ConfigDict(extra="forbid")
