"""`make hunt`: random parts by families, each against an oracle of its own, and what fell back to a slower way.

    python -m tools.hunts [FAMILY ...] [--size SHARE]

Without a family all are run. A share of 0.1 runs a tenth of the full size.
"""

from __future__ import annotations

import argparse
import sys
from collections import Counter
from collections.abc import Callable
from functools import partial

from tools.hunts.booleans import tally as booleans
from tools.hunts.coaxial import hunt_coaxial
from tools.hunts.comparing import hunt_comparing
from tools.hunts.copies import hunt as copies
from tools.hunts.distances import hunt_distances
from tools.hunts.drawings import hunt_drawings
from tools.hunts.exchange import hunt_exchange
from tools.hunts.history import hunt_history
from tools.hunts.hostile import hunt_hostile
from tools.hunts.pieces import hunt_pieces
from tools.hunts.received import hunt_received
from tools.hunts.references import hunt as references
from tools.hunts.settings import tried
from tools.hunts.shapes import hunt_shapes
from tools.hunts.together import hunt_together
from tools.hunts.trust import hunt_trust
from tools.hunts.turns import hunt_turns
from tools.hunts.unaltered import hunt_unaltered
from wendal.core import tally
from wendal.demo import DEMO_PARTS


def settings(size: int) -> Counter[str]:
    """Set the demo parts at random, each `size` times."""
    found: Counter[str] = Counter()
    for make in DEMO_PARTS.values():
        found += tried(make(), size)[0]
    return found


# By family: what it runs, at which full size.
FAMILIES: dict[str, tuple[Callable[[int], Counter[str]], int]] = {
    "references": (partial(references, seed=2), 2000),
    "copies": (partial(copies, seed=4), 2000),
    "shapes": (partial(hunt_shapes, seed=6), 1000),
    "booleans": (lambda size: booleans(range(size)), 3000),
    "settings": (settings, 200),
    "pieces": (hunt_pieces, 200),
    "coaxial": (hunt_coaxial, 300),
    "distances": (partial(hunt_distances, seed=1), 1500),
    "history": (partial(hunt_history, seed=1), 30),
    "together": (partial(hunt_together, seed=1), 70),
    "drawings": (partial(hunt_drawings, seed=1), 100),
    "comparing": (partial(hunt_comparing, seed=1), 50),
    "exchange": (partial(hunt_exchange, seed=1), 200),
    "received": (partial(hunt_received, seed=1), 177),
    "hostile": (partial(hunt_hostile, seed=1), 100),
    "turns": (partial(hunt_turns, seed=1), 150),
    "unaltered": (partial(hunt_unaltered, seed=1), 150),
    "trust": (partial(hunt_trust, seed=1), 40),
}


def main(arguments: list[str]) -> None:
    """Run families and print what came of them."""
    parser = argparse.ArgumentParser(prog="python -m tools.hunts", description=__doc__)
    parser.add_argument("families", nargs="*", choices=[*FAMILIES, []], default=list(FAMILIES))
    parser.add_argument("--size", type=float, default=1.0, help="share of the full size")
    given = parser.parse_args(arguments)
    for name in given.families:
        run, full = FAMILIES[name]
        size = max(1, round(full * given.size))
        tally.clear()
        found = run(size)
        print(f"\n{name} ({size})")
        for outcome, count in sorted(found.items()):
            print(f"  {count:8d}  {outcome}")
        for what, why, count, share in tally.shares([tally.tallied()]):
            print(f"  {count:8d}  {share:6.2f} %  {what}: {why}")
        sys.stdout.flush()


if __name__ == "__main__":
    main(sys.argv[1:])
