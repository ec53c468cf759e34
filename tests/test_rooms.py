"""The browser side: no module imports, by whatever way round, what imports it. (The core's rooms are checked by import-linter.)"""

from __future__ import annotations

import re
from graphlib import CycleError, TopologicalSorter
from pathlib import Path

import pytest

SOURCES = Path(__file__).parents[1] / "web" / "src"
IMPORT = re.compile(r"""(?:import|export)\b[^;'"]*?from\s*['"](\.[^'"]+)['"]""")


def _order(sources: Path) -> list[Path]:
    """Return modules, each after all that it imports; raises CycleError."""
    found: dict[Path, set[Path]] = {}
    for file in (f for ending in ("ts", "svelte") for f in sources.rglob(f"*.{ending}")):
        near = [(file.parent / name).resolve() for name in IMPORT.findall(file.read_text())]
        found[file.resolve()] = {p for n in near for p in (n, n.with_name(n.name + ".ts")) if p.is_file()}
    return list(TopologicalSorter(found).static_order())


def test_no_module_imports_itself_round_about() -> None:
    order = _order(SOURCES)
    assert order.index(SOURCES / "sketch" / "desk.ts") < order.index(SOURCES / "sketch" / "board.svelte.ts") < order.index(SOURCES / "main.ts")


def test_a_circle_is_found(tmp_path: Path) -> None:
    (tmp_path / "a.ts").write_text("import type { B } from './b.svelte';")
    (tmp_path / "b.svelte.ts").write_text("import {\n  A,\n} from './a';")
    with pytest.raises(CycleError):
        _order(tmp_path)
