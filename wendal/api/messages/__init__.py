"""Every message between browser and server. The browser's TypeScript types are generated from these."""

from __future__ import annotations

from typing import Any

from pydantic import TypeAdapter

from .asked import FromBrowser, browser_message
from .base import Message
from .scene import BodyThings, SketchDrawn
from .told import ToBrowser

__all__ = ["FromBrowser", "Messages", "ToBrowser", "browser_message", "to_browser"]

to_browser: TypeAdapter[Any] = TypeAdapter(ToBrowser)


class Messages(Message):
    """Both directions and binary content, so that types are made for all of them."""

    from_browser: FromBrowser
    to_browser: ToBrowser
    things: BodyThings
    drawn: SketchDrawn
