"""The web service: REST for lists and files, one WebSocket per open part."""

from .app import create_app

__all__ = ["create_app"]
