"""`python -m tools.ways [WORDS]`: every way into every step of `tests/e2e/ways.py`, by mouse and keys in a browser.

Each must come to the step that is meant, and to the same one whichever way it was come by. WORDS : only rows
with these in their names.
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Error, sync_playwright

from tests.conftest import CHROMIUM, FLAGS, Served
from tests.e2e import ways
from tests.e2e.designer import Designer

__all__ = ["main"]


def main(words: str = "") -> int:
    """Try them all; return how many went wrong."""
    tried = bad = 0
    shown = ""
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        served = Served(Path(folder) / "data")
        try:
            page = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS).new_page(viewport={"width": 1280, "height": 800})
            d = Designer(page, served.url)
            for row in (r for r in ways.ROWS if words.lower() in r.name.lower()):
                first = ""
                for way in row.ways:
                    if shown != row.part:
                        d.begin(ways.PARTS[row.part]())
                        shown = row.part
                    tried += 1
                    try:
                        made = ways.go(d, row, way)
                    except (AssertionError, Error) as error:
                        made = str(error)
                    why = ways.wrong(row, made)
                    if not why and not isinstance(made, str):
                        first = first or ways.alike(made)
                        why = "another step comes of it" if ways.alike(made) != first else ""
                    if why:
                        bad, shown = bad + 1, ""
                        print(f"{row.name}, {way}: {why}", flush=True)
        finally:
            served.stop()
    print(f"{tried} ways tried, {bad} went wrong")
    return bad


if __name__ == "__main__":
    sys.exit(bool(main(" ".join(sys.argv[1:]))))
