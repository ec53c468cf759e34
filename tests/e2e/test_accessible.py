"""Every main screen under an automated accessibility check (axe-core): names, roles, contrast AA, order."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from tests.e2e.designer import Designer
from tests.e2e.test_extrude_and_change import plate

AXE = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
RULES = {"runOnly": ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]}


def ledger(d: Designer) -> None:
    plate(d)
    d.page.get_by_role("button", name="Ledger").click()


def sentence(d: Designer) -> None:
    plate(d)
    d.edit("Extrude 1")
    d.says("Complete")


def board(d: Designer) -> None:
    plate(d)
    d.menu("Sketch 1", "Open on the drawing board")
    d.board_ready()
    d.keys("k", "c")


def drawer(d: Designer) -> None:
    plate(d)
    d.keys("b")


def finding(d: Designer) -> None:
    plate(d)
    d.keys("Control+k")


def keys(d: Designer) -> None:
    plate(d)
    d.keys("?")


def picked(d: Designer) -> None:
    plate(d)
    d.pick(33, 5, 10)
    d.page.get_by_test_id("offers").wait_for()


@pytest.mark.parametrize("screen", [Designer.parts, plate, ledger, sentence, board, drawer, finding, keys, picked], ids=lambda s: s.__name__)
def test_axe_finds_nothing(designer: Designer, screen: Callable[[Designer], None]) -> None:
    screen(designer)
    designer.quiet()
    designer.page.evaluate(AXE.read_text())
    found = designer.page.evaluate("(rules) => axe.run(document, rules)", RULES)
    told = [f"{v['id']} ({v['impact']}): {v['help']}\n    " + "\n    ".join(n["html"][:160] + " | " + (n["failureSummary"] or "")[:200].replace("\n", " ")
                                                                       for n in v["nodes"][:4]) for v in found["violations"]]
    assert not told, "\n".join(told)
