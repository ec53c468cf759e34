"""Reading the tables. Every length is in mm."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

__all__ = ["Thread", "clearance", "head_room", "heads", "materials", "source_of", "thread", "threads"]


@dataclass(frozen=True, slots=True)
class Thread:
    """A thread. drill : the hole it is tapped in."""

    name: str
    series: str
    diameter: float
    pitch: float
    drill: float

    @property
    def minor(self) -> float:
        """Its minor diameter by ISO 724: D - 2 (5/8) (sqrt(3)/2) P."""
        return self.diameter - 1.0825318 * self.pitch

    @property
    def middle(self) -> float:
        """Its pitch diameter by ISO 724: D - 2 (3/8) (sqrt(3)/2) P."""
        return self.diameter - 0.6495191 * self.pitch


@cache
def _table(name: str) -> dict[str, Any]:
    found: dict[str, Any] = json.loads((Path(__file__).parent / f"{name}.json").read_text(encoding="utf-8"))
    return found


def source_of(name: str) -> str:
    """Return what a table is taken from."""
    return str(_table(name)["source"])


@cache
def threads() -> dict[str, Thread]:
    """Return all threads by name."""
    return {row["name"]: Thread(**row) for row in _table("threads")["rows"]}


def thread(name: str) -> Thread:
    """Return a thread; raises KeyError for an unknown one."""
    return threads()[name]


@cache
def clearance() -> dict[str, dict[str, float]]:
    """Return the diameters of clearance holes by screw and series: "fine", "medium", "coarse"."""
    return {
        row["screw"]: {k: v for k, v in row.items() if k != "screw"} for row in _table("clearance")["rows"]
    }


@cache
def heads(kind: str) -> dict[str, dict[str, float]]:
    """Return the heads of a kind ("socket", "countersunk", "hexagon") by screw, with their measures."""
    return {
        row["screw"]: {k: v for k, v in row.items() if k != "screw"}
        for row in _table(f"{kind}_heads")["rows"]
    }


@cache
def materials() -> dict[str, float]:
    """Return the densities of materials by name, g/cm³."""
    return {row["name"]: row["density"] for row in _table("materials")["rows"]}


def head_room(diameter: float) -> float:
    """Return by how much a counterbore is deeper than the head that sinks into it, by the screw's
    diameter."""
    return float(next(room for most, room in _table("socket_heads")["room"] if diameter <= most))
