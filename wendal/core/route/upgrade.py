"""Documents of earlier versions made into today's.

Each version has one function that takes it one further.
"""

from __future__ import annotations

from typing import Any

from ..errors import DocumentError

__all__ = ["VERSION", "upgraded"]

VERSION = 3


def upgraded(data: Any) -> Any:
    """Return a part's data in today's version; what is no part, or of a version that is not known, comes back
    as it is."""
    if not isinstance(data, dict):
        return data
    version = data.get("version", VERSION)
    if isinstance(version, int) and not isinstance(version, bool) and version > VERSION:
        raise DocumentError(
            f"This was made by a newer Wendal: its version is {version}, and this one reads up to {VERSION}. "
            "Read it with the Wendal that wrote it, or a newer one.",
            field="version",
        )
    while (version := data.get("version", VERSION)) in _STEPS and not isinstance(version, bool):
        data = {**_STEPS[version](data), "version": version + 1}
    return data


def _to_2(data: dict[str, Any]) -> dict[str, Any]:
    """An extrude said "up", "down" and one body; it says out of or into its plane, and any number of
    bodies."""
    words = {"up": "out", "down": "into"}

    def step(held: Any) -> Any:
        if not isinstance(held, dict) or held.get("kind") != "extrude":
            return held
        new = {k: v for k, v in held.items() if k not in ("direction", "target")}
        if "direction" in held:
            new["extent"] = words.get(held["direction"], held["direction"])
        if held.get("target"):
            new["bodies"] = [held["target"]] if held.get("result") in ("add", "cut") else []
        return new

    steps = data.get("steps")
    return {**data, "steps": [step(s) for s in steps]} if isinstance(steps, list) else data


def _to_3(data: dict[str, Any]) -> dict[str, Any]:
    """Dimensions and marks of a page told their "sort"; they tell their kind, as everything else does."""

    def told(held: Any) -> Any:
        if not isinstance(held, dict) or "sort" not in held:
            return held
        return {"kind" if k == "sort" else k: v for k, v in held.items()}

    def page(held: Any) -> Any:
        if not isinstance(held, dict):
            return held
        lists = {k: held[k] for k in ("dimensions", "marks") if isinstance(held.get(k), list)}
        return {**held, **{k: [told(t) for t in things] for k, things in lists.items()}}

    pages = data.get("pages")
    return {**data, "pages": [page(p) for p in pages]} if isinstance(pages, list) else data


_STEPS = {1: _to_2, 2: _to_3}
