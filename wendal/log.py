"""The log: what happened, in which part, at which step, for which edit, in how many milliseconds.

Every process of Wendal writes to its standard error, plain or as one JSON object a line (`WENDAL_LOG_FORM`).
Whoever knows what is going on says so once, with `about(part=3, edit="…")`; each record that is logged inside
it bears that. A record can bear more by `extra={"step": "s4", "milliseconds": 12.0}`.
"""

from __future__ import annotations

import json
import logging
import time
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

from .settings import settings

__all__ = ["FIELDS", "about", "known", "set_up", "since"]

FIELDS = ("part", "step", "edit", "milliseconds")
_about: ContextVar[dict[str, Any] | None] = ContextVar("about", default=None)


@contextmanager
def about(**fields: Any) -> Iterator[None]:
    """Let what is logged inside bear some of `FIELDS`."""
    token = _about.set({**(_about.get() or {}), **fields})
    try:
        yield
    finally:
        _about.reset(token)


def known() -> dict[str, Any]:
    """Return what is known of what is going on, to be handed to another process."""
    return dict(_about.get() or {})


def since(began: float) -> float:
    """Return the milliseconds since a reading of `time.perf_counter`."""
    return round(1000 * (time.perf_counter() - began), 1)


def _fields(record: logging.LogRecord) -> dict[str, Any]:
    found = {**known(), **{f: getattr(record, f) for f in FIELDS if hasattr(record, f)}}
    return {f: found[f] for f in FIELDS if found.get(f) not in (None, "")}


class Plain(logging.Formatter):
    """A line to read: time, level, logger, fields, message; then the trace, where there is one."""

    def __init__(self) -> None:
        super().__init__("%(asctime)s %(levelname)s %(name)s%(fields)s: %(message)s")

    def format(self, record: logging.LogRecord) -> str:
        """Return the line."""
        record.fields = "".join(f" {k}={v}" for k, v in _fields(record).items())
        return super().format(record)


class Json(logging.Formatter):
    """One JSON object a line."""

    def format(self, record: logging.LogRecord) -> str:
        """Return the line."""
        found = {
            "time": self.formatTime(record),
            "level": record.levelname.lower(),
            "logger": record.name,
            **_fields(record),
            "message": record.getMessage(),
        }
        if record.exc_info:
            found["trace"] = self.formatException(record.exc_info)
        return json.dumps(found, ensure_ascii=False)


def set_up() -> None:
    """Let this process log as the settings say."""
    handler = logging.StreamHandler()
    handler.setFormatter(Json() if settings().log_form == "json" else Plain())
    logging.basicConfig(level=settings().log_level.upper(), handlers=[handler], force=True)
