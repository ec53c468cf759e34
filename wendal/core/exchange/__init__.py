"""Formats in and out.

A new format is one new file here that registers how it is written and, where it can be, read.
"""

from importlib import import_module
from pkgutil import iter_modules

from .base import Format, export, export_bare, formats, read

for _module in iter_modules(__path__):
    import_module(f"{__name__}.{_module.name}")

__all__ = ["Format", "export", "export_bare", "formats", "read"]
