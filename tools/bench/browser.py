"""What the pointer feels: from a pointer move to the redrawn sketch, through the real browser, the socket and the pen."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

from playwright.sync_api import sync_playwright

from tests.conftest import CHROMIUM, FLAGS, Served
from tests.e2e.designer import Designer
from tests.samples import free_sketch
from tools.bench.outlines import plate_outline
from wendal.core.route import write_part
from wendal.core.sketch import measured

__all__ = ["document", "frames", "pointer_to_picture"]

WATCH = """() => {
  const board = document.querySelector('[data-testid=board]');
  window.waits = [];
  let moved = 0;
  board.addEventListener('pointermove', () => (moved = performance.now()), true);
  new MutationObserver((list) => {
    if (!moved || !list.some((m) => m.attributeName === 'd')) return;
    const began = moved;
    moved = 0;
    requestAnimationFrame(() => window.waits.push(performance.now() - began));
  }).observe(board, { subtree: true, attributes: true });
}"""


def document(curves: int) -> str:
    """A part with one sketch: a toothed plate with one height left free."""
    b, sketch = free_sketch()
    drawing = plate_outline(curves)
    values = measured(drawing)
    kept = {k: c if c.value is None else c.model_copy(update={"value": c.value.model_copy(update={"formula": f"{values[k]:.9f} mm"})})
            for k, c in drawing.constraints.items() if not (c.kind == "distance" and c.of == ["l2"])}
    names = {e: f"{e[0]}{100000 + i}" for i, e in enumerate([*drawing.points, *drawing.curves])}
    rename = lambda e: ("c" if e in drawing.curves else "p") + names[e][1:] if e in names else e  # noqa: E731
    curves_ = {rename(c): curve.model_copy(update={f: rename(getattr(curve, f)) for f in ("start", "end", "centre") if hasattr(curve, f)})
               for c, curve in drawing.curves.items()}
    made = drawing.model_copy(update={
        "points": {rename(p): at for p, at in drawing.points.items()}, "curves": curves_,
        "constraints": {k: c.model_copy(update={"of": [rename(e) for e in c.of]}) for k, c in kept.items()}, "last": 200_000})
    step = b.part.step(sketch).model_copy(update={"drawing": made})
    return write_part(b.part.model_copy(update={"steps": [step]}))


def pointer_to_picture(curves: int) -> list[float]:
    """Drag a free corner of a sketch in the browser; return seconds from pointer moves to redrawn pictures."""
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        served = Served(Path(folder), "start")
        # Without a graphics card pictures are put together in software either way; by the emulated card it takes many times as long.
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=[*FLAGS, "--disable-gpu-compositing"])
        try:
            page = browser.new_context(viewport={"width": 1280, "height": 800}, reduced_motion="reduce").new_page()
            d = Designer(page, served.url)
            d.parts()
            file = Path(folder) / "plate.json"
            file.write_text(document(curves))
            page.locator("input[type=file]").set_input_files(str(file))
            page.wait_for_timeout(1500)
            d.open_part("Sample")
            d.step("Outline").get_by_role("button", name="Outline", exact=True).click()
            d.board_ready()
            page.get_by_test_id("curve").first.wait_for(state="attached")
            page.evaluate(WATCH)
            loose = max(d.lines(), key=lambda m: m[0])
            x, y = d.on_board(loose)
            page.mouse.move(x, y)
            page.keyboard.down("q")  # no snapping to round places: every move counts
            page.mouse.down()
            for k in range(80):
                page.mouse.move(x, y + 2 * (k if k < 40 else 80 - k))
                page.wait_for_timeout(60)
            page.mouse.up()
            return [w / 1000 for w in page.evaluate("window.waits")]
        finally:
            browser.close()
            served.stop()


def frames(part: str, turns: int = 120) -> tuple[int, float, float]:
    """Turn a part in the browser; return the most draw calls of a frame, kB of script memory that a frame takes, and milliseconds a frame, drawn by software."""
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        served = Served(Path(folder), "start")
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        try:
            page = browser.new_context(viewport={"width": 1280, "height": 800}, reduced_motion="reduce").new_page()
            d = Designer(page, served.url)
            d._open(d._post("/api/parts/read", {"text": part}))
            d.quiet()
            stage = page.get_by_test_id("stage")
            box = stage.bounding_box()
            assert box
            x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
            page.mouse.move(x, y)
            page.mouse.down(button="right")
            session = page.context.new_cdp_session(page)
            for i in range(20):
                page.mouse.move(x + 2 * i, y)
                d.frame()
            session.send("HeapProfiler.collectGarbage")
            before = session.send("Runtime.getHeapUsage")["usedSize"]
            began, most = time.perf_counter(), 0
            for i in range(turns):
                page.mouse.move(x + 40 + 2 * i, y + i % 7)
                d.frame()
                most = max(most, int(stage.get_attribute("data-draws") or 0))
            took = time.perf_counter() - began
            after = session.send("Runtime.getHeapUsage")["usedSize"]
            return most, max(after - before, 0) / turns / 1024, 1000 * took / turns
        finally:
            browser.close()
            served.stop()
