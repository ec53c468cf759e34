"""Steps with other ids and tags: what is pasted, or brought together from two sides, must not mean others."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from ..errors import FormulaError
from ..quantity import parse
from ..quantity.formula import rename_tag

__all__ = ["with_ids", "with_tags"]

# A step's id within a reference or a face's name; "c5" and "t3.s1" are no steps.
_ID = re.compile(r"(?<![A-Za-z0-9_.])s[0-9]+(?![A-Za-z0-9_])")


def with_ids(data: Any, ids: Mapping[str, str], within: bool = False) -> Any:
    """Return a step's data (or any of its fields) in which references mean the steps of other ids.

    within : whether this is part of a reference.
    """
    if isinstance(data, dict):
        inside = within or "of" in data
        return {k: v if k == "key" else with_ids(v, ids, inside) for k, v in data.items()}
    if isinstance(data, list | tuple):
        return [with_ids(x, ids, within) for x in data]
    if within and isinstance(data, str):
        return _ID.sub(lambda m: ids.get(m[0], m[0]), data)
    return data


def with_tags(data: Any, tags: Mapping[str, str]) -> Any:
    """Return a step's data in which values are called by other tags, and formulas use them."""
    if isinstance(data, dict):
        found = {k: with_tags(v, tags) for k, v in data.items()}
        if isinstance(data.get("formula"), str):
            found["formula"] = _formula(data["formula"], tags)
            if "tag" in data:
                found["tag"] = tags.get(data["tag"], data["tag"])
        return found
    return [with_tags(x, tags) for x in data] if isinstance(data, list) else data


def _formula(text: str, tags: Mapping[str, str]) -> str:
    """Return a formula with all of its tags changed at once: one may be called what another was."""
    try:
        used = [t for t in parse(text).tags if t in tags]
    except FormulaError:
        return text
    for i, tag in enumerate(used):
        text = rename_tag(text, tag, f"changed_tag_{i}")
    for i, tag in enumerate(used):
        text = rename_tag(text, f"changed_tag_{i}", tags[tag])
    return text
