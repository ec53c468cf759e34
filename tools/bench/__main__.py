"""`make bench`: tables beside the bars of the design. Nothing here passes or fails."""

from __future__ import annotations

import os
import sys
import time
from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np
from scipy.optimize import least_squares

from tests.samples import XY
from tools.bench.browser import document, frames, pointer_to_picture
from tools.bench.changes import tally
from tools.bench.drawing import drawing_costs
from tools.bench.explaining import explaining as explained
from tools.bench.leaks import remembered, soaked
from tools.bench.looking import looking as looked
from tools.bench.outlines import plate_outline
from tools.bench.parts import mixed_plate, pocket_plate, proportion
from tools.bench.shaping import comb, many_edges
from tools.bench.waiting import TITLE, cancelled, frozen, killed, stopped, unrelated
from tools.hunts.booleans import tally as tally_booleans
from tools.hunts.copies import hunt as hunt_copies
from tools.hunts.references import hunt, share_kept
from tools.hunts.settings import tried
from tools.hunts.shapes import hunt_shapes
from wendal.core import kernel
from wendal.core.route import Memory, evaluate, read_part, write_part
from wendal.core.sketch import Drag, find_freedoms, measured, solve
from wendal.core.sketch.solving.system import EquationSystem
from wendal.demo import DEMO_PARTS, float_wheel, instrument_bracket, sensor_housing, well_head_flange
from wendal.demo.builder import Builder
from wendal.workers.pen import Pen


def figures(times: list[float]) -> tuple[float, float]:
    """Return median and 95th percentile in ms."""
    return 1000 * float(np.median(times)), 1000 * float(np.percentile(times, 95))


def timed(work: Callable[[], Any]) -> tuple[float, Any]:
    """Return seconds and result."""
    began = time.perf_counter()
    found = work()
    return time.perf_counter() - began, found


def table(title: str, head: list[str], rows: list[list[Any]]) -> None:
    """Print a table."""
    cells = [head, *([f"{c:.1f}" if isinstance(c, float) else str(c) for c in row] for row in rows)]
    widths = [max(len(r[i]) for r in cells) for i in range(len(head))]
    print(f"\n{title}")
    for row in cells:
        print("  " + "  ".join(c.rjust(w) for c, w in zip(row, widths, strict=True)))


def solving() -> None:
    """A dimension change in a sketch that has been explained, and scipy on the same equations from the same start: as drawn, and reduced."""
    bars = {20: 20, 100: 50, 300: 100, 1000: 250}
    rows: list[list[Any]] = []
    for curves in bars:
        for turned in (0.0, 0.3):
            drawing = plate_outline(curves, turned)
            drawing = solve(drawing, measured(drawing)).drawing
            base = measured(drawing)
            free = find_freedoms(solve(drawing, base)).number
            rng = np.random.default_rng(1)
            ours: list[float] = []
            theirs: dict[bool, list[float]] = {False: [], True: []}
            sizes = [k for k in base if drawing.constraints[k].kind == "distance" and len(drawing.constraints[k].of) == 1]
            for i in range(24 if curves < 300 else 10):
                k = sizes[int(rng.integers(len(sizes)))]
                values = {**base, k: base[k] * float(rng.uniform(0.6, 1.6))}
                seconds, _ = timed(partial(solve, drawing, values))
                ours.append(seconds)
                for reduced, runs in theirs.items() if i < (8 if curves < 300 else 2 if curves == 300 else 0) else ():
                    system = EquationSystem(drawing, values, reduced=reduced)
                    seconds, _ = timed(lambda s=system: least_squares(s.residuals, s.z0, lambda z: s.evaluate(z)[1], xtol=1e-12,
                                                                      ftol=1e-12, gtol=1e-12))
                    runs.append(seconds)
            median, high = figures(ours)
            beside = [v for runs in theirs.values() for v in ([figures(runs)[0], figures(runs)[0] / median] if runs else ["not run", "-"])]
            rows.append([curves, turned, free, median, high, bars[curves], *beside])
    table("Solving after one dimension changed by up to 60 % (ms)",
          ["curves", "turned", "free", "median", "p95", "bar p95", "scipy as drawn", "times", "scipy reduced", "times"], rows)


def dragging() -> None:
    """A drag step of a free corner."""
    rows: list[list[Any]] = []
    for curves in (20, 100, 300, 1000):
        drawing = plate_outline(curves)
        values = measured(drawing)
        removed = next(k for k, c in drawing.constraints.items() if c.kind == "distance" and c.of == ["l2"])
        drawing = drawing.model_copy(update={"constraints": {k: c for k, c in drawing.constraints.items() if k != removed}})
        drawing = solve(drawing, values).drawing
        drag = Drag(drawing, values, "p2b", drawing.points["p2b"])
        x, y = drawing.points["p2b"]
        times = [timed(partial(drag.move, (x + 0.2 * i, y + 0.1 * i)))[0] for i in range(60)]
        rows.append([curves, "a wide part of the outline", len(drag._free.columns), *figures(times), "-"])
        hole = next(c for c in drawing.curves if c.startswith("o"))
        centre = drawing.curves[hole].points[0]
        loose = drawing.model_copy(update={"constraints": {k: c for k, c in drawing.constraints.items() if c.of[0] != centre}})
        drag = Drag(loose, measured(loose), centre, drawing.points[centre])
        x, y = drawing.points[centre]
        times = [timed(partial(drag.move, (x + 0.02 * i, y + 0.01 * i)))[0] for i in range(60)]
        rows.append([curves, "a hole", len(drag._free.columns), *figures(times), 8])
    table("One drag step, solver only (ms)", ["curves", "what", "unknowns", "median", "p95", "bar p95"], rows)


def pointing() -> None:
    """From a pointer move to the redrawn sketch in the real browser."""
    rows: list[list[Any]] = []
    for curves in (20, 100):
        waits = pointer_to_picture(curves)
        rows.append([curves, len(waits), *figures(waits), 40])
    table("Pointer move to redrawn sketch, through the browser (ms)", ["curves", "moves", "median", "p95", "bar p95"], rows)


def changing() -> None:
    """Changes of one dimension, of three and of all by up to a factor of 3, judged against 400 very small steps."""
    verdicts = ("right", "refused rightly", "flipped", "accepted, no path", "refused, though reachable")
    rows: list[list[Any]] = []
    for how_many in (1, 3, 0):
        found = tally(144, how_many)
        reachable = found["right"] + found["flipped"] + found["refused, though reachable"]
        rows.append([how_many or "all", *(found[v] for v in verdicts), 100 * found["right"] / reachable])
    table("432 changed sketches, 0.1 mm to 10 m (the bar: all reachable ones right, the others refused)",
          ["dimensions", *verdicts, "right % of reachable"], rows)


def stack(steps: int) -> Builder:
    """A tower of plates, each sketched on the one below."""
    b = Builder("Tower")
    on: dict[str, Any] = XY
    body = ""
    for i in range(steps // 2):
        s = b.step("sketch", f"Outline {i}", on=on)
        b.draw(s, "rectangle", (i, i), (100 - i, 80 - i))
        more = {"result": "add", "bodies": [{"of": "body", "body": body}]} if body else {}
        e = b.step("extrude", f"Tier {i}", profile=b.profile(s, 0), depth={"formula": "4 mm"}, **more)
        body = body or e
        on = {"of": "face", "body": body, "names": [f"{e}/end/r1"]}
    return b


def building() -> None:
    """A 40-step part from nothing, and after a change of a late and of an early dimension."""
    b = stack(40)
    memory = Memory()
    whole, evaluation = timed(lambda: evaluate(b.part, memory))
    assert all(r.state == "built" for r in evaluation.reports), [r.message for r in evaluation.reports if r.message]
    bare = sum(timed(lambda s=body.shape: kernel.mass_of(s))[0] for body in evaluation.site.bodies.values())
    again, _ = timed(lambda: evaluate(b.part, memory))
    b.do(do="set_formula", tag="tier_19_depth", formula="5 mm")
    late, _ = timed(lambda: evaluate(b.part, memory))
    b.do(do="set_formula", tag="tier_0_depth", formula="5 mm")
    early, _ = timed(lambda: evaluate(b.part, memory))
    table("A 40-step part (ms)", ["from nothing", "nothing changed", "last depth changed", "first depth changed", "mass alone"],
          [[1000 * whole, 1000 * again, 1000 * late, 1000 * early, 1000 * bare]])


def changes() -> None:
    """Parts of 100 and 300 steps beside the same bare booleans."""
    rows = [proportion(pocket_plate(), "pockets_48_depth", ["11 mm", "12 mm", "13 mm"]), proportion(mixed_plate(), "round_148_depth", ["5 mm", "4 mm", "3 mm"])]
    table("What a change costs (ms; the bars: from nothing 1.25 x bare, late change 1.5 x bare + 60, accepting 60, undo 100)",
          ["part", "steps", "faces", "from nothing", "bare", "times", "with picture", "late change", "bare", "times", "preview", "accepted", "undo",
           "ledger", "drawn"], rows)


def drilling() -> None:
    """500 holes in a plate: by one step at 500 points, and by a pattern of one; beside the same bare cut."""
    b = Builder("Sieve")
    outline = b.step("sketch", "Outline", on=XY)
    b.draw(outline, "rectangle", (0, 0), (520, 220))
    plate = b.step("extrude", "Plate", profile=b.profile(outline, 0), depth={"formula": "8 mm"})
    spot = b.step("sketch", "Spot", on={"of": "face", "body": plate, "names": [f"{plate}/end/r1"]})
    b.draw(spot, "point", (10, 10))
    hole = b.step("hole", "Hole", at=[{"of": "sketch", "step": spot}], diameter={"formula": "6 mm"})
    b.step("pattern", "Holes", seeds=[{"of": "step", "step": hole}], manner="grid", along={"of": "base", "name": "X"}, count={"formula": "50"},
           spacing={"formula": "10 mm"}, along_two={"of": "base", "name": "Y"}, count_two={"formula": "10"}, spacing_two={"formula": "20 mm"})
    memory = Memory()
    before = evaluate(b.part, memory, until=hole)
    whole, evaluation = timed(lambda: evaluate(b.part, memory))
    assert all(r.state == "built" for r in evaluation.reports), [r.message for r in evaluation.reports if r.message]
    tools = evaluation.site.seeds[b.part.steps[-1].id].effects[0].tools
    bare, _ = timed(lambda: kernel.cut(before.site.bodies[plate].shape, tools, merge=False))
    b.do(do="set_formula", tag="hole_diameter", formula="5 mm")
    changed, _ = timed(lambda: evaluate(b.part, memory))
    table("A plate with 500 holes (ms; the bar for the pattern: 2,000)", ["pattern", "diameter changed", "bare cut"], [[1000 * whole, 1000 * changed, 1000 * bare]])


def updating() -> None:
    """The demo parts under 200 random settings of their ledgers each."""
    rows: list[list[Any]] = []
    for make in DEMO_PARTS.values():
        found, strange = tried(make(), 200)
        rows.append([make().name, found["valid"], found["stopped"], found["refused"], len(strange)])
    table("Demo parts under 200 settings (the bar: valid, or stopped with words)", ["part", "valid", "stopped", "refused", "anything else"], rows)


def shaping() -> None:
    """A comb of 30 lofted and blended teeth, and a fillet of 40 edges, beside the bare kernel calls."""
    table("A comb of 30 lofted and blended teeth (ms; the bars: 3,000 in all, and twice the bare calls)", ["whole", "pattern", "bare fuse"], [comb()])
    table("A fillet of 40 edges (ms; the bar: 1.3 times the bare call)", ["edges", "step", "bare call"], [many_edges()])
    found = hunt_shapes(1000, seed=6)
    kinds = ("sound, right", "lost rightly", "round, right", "bevel, right", "wall, right", "wrong")
    table("Blends and walls over 1,000 random edits (the bar: none wrong)", list(kinds), [[found[k] for k in kinds]])


def joining() -> None:
    """Cutting and joining at the cost of what is touched, beside the kernel's own operations."""
    found = tally_booleans(range(3000))
    table("3,000 random cuts and joints, both ways (the bar: nothing but the first two)", list(found), [list(found.values())])


def copies() -> None:
    """The hunt among copies of patterns and mirrors, single holes and split bodies at its full size."""
    found = hunt_copies(2000, seed=4)
    kinds = ("sound", "re-found", "rightly lost", "missed", "wrong", "part stopped")
    table("References to single copies over 2,000 random edits (the bar: none wrong)", list(kinds), [[found[k] for k in kinds]])


def references() -> None:
    """The hunt at its full size: references through random edits, against a geometric oracle."""
    found = hunt(2000, seed=2)
    kinds = ("sound, right", "re-found, right", "lost rightly", "lost, though there", "wrong")
    table("References over 2,000 random edits (the bar: none wrong, 98 % kept)", [*kinds, "kept %"],
          [[*(found[k] for k in kinds), 100 * share_kept(found)]])


def editing() -> None:
    """What follows a changed dimension in the pen: the command, and the sketch explained anew."""
    rows: list[list[Any]] = []
    for curves in (20, 100, 300, 1000):
        pen, part = Pen(), document(curves)
        first = next(k for k, _ in read_part(part).step("s1").drawing.dimensions())  # type: ignore[attr-defined]
        commands, views = [], []
        for i in range(6 if curves < 1000 else 3):
            edit = {"op": "set_value", "constraint": first, "formula": f"{26 + 0.1 * i} mm"}
            seconds, made = timed(partial(pen.command, {"document": part, "command": {"do": "edit_sketch", "step": "s1", "edit": edit}}, print))
            commands.append(seconds)
            views.append(timed(partial(pen.sketch, {"document": made["document"], "step": "s1"}, print))[0])
        rows.append([curves, figures(commands[1:])[0], figures(views[1:])[0]])
    table("A dimension changed in the pen (median ms)", ["curves", "command", "explained"], rows)


def explaining() -> None:
    """Sketches that explain themselves."""
    table("Sketches explained (ms of processor time)", ["what", "ms", "bar"], list(explained()))


def pages() -> None:
    """Three main views of a page."""
    table("A page of three views (s; bars at 300 faces: draft 1, exact 5, again 0.5)", ["part", "faces", "draft", "exact", "again"],
          [[*row[:2], *(f"{t:.2f}" for t in row[2:])] for row in drawing_costs()])


def looking() -> None:
    """Looking at a part of 1,000 faces."""
    faces, rows = looked()
    table(f"Looking at a part of {faces} faces (ms)", ["what", "median", "p95", "bar"], [list(r) for r in rows])
    rows = [[name, *frames(write_part(part))] for name, part in (("bracket", instrument_bracket()), (f"{faces} faces", pocket_plate()))]
    table("A frame while it is turned (draw calls: bar 40; kB of script memory: bar 0; ms by software)", ["part", "draws", "kB", "ms"], rows)


def leaks() -> None:
    """Memory over 1,000 edits and 200 parts opened and closed."""
    table("Memory in MB (the bar: flat)", ["after", "server", "geometry worker", "pen"], remembered(1000, 200))


def waiting() -> None:
    """Nobody waits for another's trouble (WENDAL_WAITING: a share of the full size)."""
    share = float(os.environ.get("WENDAL_WAITING", "1"))
    table("From an edit of an unrelated part to its picture, ms (the bar: p99 2,000)", ["beside it", *TITLE], unrelated(120 * share))
    table("From cancel to cancelled, ms (the bar: most 1,000)", ["where", *TITLE], cancelled(int(100 * share)))
    table("Edits while the database stands still (the bar: none wrong)", ["told", "times", "longest s", "wrong in all"], frozen(max(3, int(12 * share)), 60 * share))
    table("Eight windows, three parts, everything under them killed and frozen (the bar: none lost, none mixed)", ["acknowledged", "harms", "lost", "mixed"],
          killed(int(60 * share)))
    table("Memory in MB with a stopped step (the bar: flat within 10 %)", ["after", "server", "geometry worker", "pen"], stopped(int(1500 * share), int(300 * share)))


def soak() -> None:
    """An hour of everything (WENDAL_SOAK_MINUTES: fewer), in the demo parts and two large ones."""
    minutes = float(os.environ.get("WENDAL_SOAK_MINUTES", "60"))
    parts = [instrument_bracket(), sensor_housing(), well_head_flange(), float_wheel(), pocket_plate(20), mixed_plate(40)]
    rows, fallbacks = soaked(minutes, parts)
    table("Memory in MB over a soak (the bar: flat)", ["after", "server", "geometry worker", "pen", "kept on disk"], rows)
    table("What was done the quick way, and what fell back to a slower one", ["what", "how it went", "times", "%"], fallbacks)


TABLES = {"solving": solving, "dragging": dragging, "editing": editing, "pointing": pointing, "changing": changing, "building": building, "changes": changes, "joining": joining, "references": references, "looking": looking,
          "drilling": drilling, "updating": updating, "copies": copies, "explaining": explaining, "pages": pages, "leaks": leaks}

if __name__ == "__main__":
    for name in sys.argv[1:] or TABLES:
        {**TABLES, "soak": soak, "waiting": waiting}[name]()
