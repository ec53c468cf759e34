"""Keeping parts: MariaDB, every accepted command one revision in one transaction."""

from .database import Database
from .parts import PartRow, PartStore, StoreDown, StoreError
from .server import MariaServer

__all__ = ["Database", "MariaServer", "PartRow", "PartStore", "StoreDown", "StoreError"]
