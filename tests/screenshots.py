"""`make screenshots`: one current picture of each main view, from the demo data, into docs/screenshots."""

from __future__ import annotations

import tempfile
from pathlib import Path

from playwright.sync_api import sync_playwright

from tests.conftest import CHROMIUM, FLAGS, Served
from tests.e2e.designer import Designer

OUT = Path(__file__).parents[1] / "docs" / "screenshots"


def main() -> None:
    """Take all pictures."""
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        served = Served(Path(folder))
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
        d = Designer(page, served.url)

        def shot(name: str) -> None:
            page.wait_for_timeout(700)
            page.screenshot(path=OUT / f"{name}.png")

        try:
            d.parts()
            page.wait_for_load_state("networkidle")
            shot("parts")
            d.open_part("Instrument bracket")
            shot("part")
            d.edit("Seat")
            d.says("Complete")
            shot("step")
            page.get_by_role("button", name="Put back").click()
            page.get_by_role("button", name="Seat outline", exact=True).click()
            d.board_ready()
            page.mouse.move(400, 650)
            shot("sketch")
        finally:
            browser.close()
            served.stop()


if __name__ == "__main__":
    main()
