"""What looking costs on a part of 1,000 faces: measures of hovered things, the outline of a cut, mass and size."""

from __future__ import annotations

import random
import time
from typing import Any

import numpy as np

from tools.bench.parts import pocket_plate
from wendal.core.inspect import CutOutline, MassAndSize, Measure, ask
from wendal.core.reference import edge_ref, face_ref
from wendal.core.route import Memory, evaluate

__all__ = ["looking"]

HOVERS, CUTS = 60, 20


def looking() -> tuple[int, list[tuple[str, float, float, float]]]:
    """Return how many faces the part has, and what was done: median and 95th percentile in ms, and the bar."""
    part = pocket_plate()
    evaluation = evaluate(part, Memory())
    (body,) = evaluation.site.bodies.values()
    rng = random.Random(1)
    topology = body.topology

    def thing() -> dict[str, Any]:
        if rng.random() < 0.5:
            return face_ref(body.id, topology, rng.randrange(len(topology.faces))).model_dump(mode="json")
        return edge_ref(body.id, topology, rng.randrange(len(topology.edges))).model_dump(mode="json")

    def timed(request: Any) -> float:
        began = time.perf_counter()
        ask(part, evaluation, request)
        return 1000 * (time.perf_counter() - began)

    first = thing()
    measures = [timed(Measure.model_validate({"things": [first, thing()]})) for _ in range(HOVERS)]
    planes = [{"origin": (0, 0, 20 - 9.5 * k / CUTS), "normal": (0, 0, 1), "x": (1, 0, 0)} for k in range(CUTS)]
    planes += [{"origin": (20 * k + 3, 0, 0), "normal": (1, 0, 0), "x": (0, 1, 0)} for k in range(CUTS)]
    cuts = [timed(CutOutline.model_validate({"planes": [p]})) for p in planes]
    ask(part, evaluation, MassAndSize())
    masses = [timed(MassAndSize()) for _ in range(10)]
    rows = [("a measure while something is hovered", measures, 60.0), ("the outline of a cut", cuts, 100.0), ("mass and size, warm", masses, 50.0)]
    return len(topology.faces), [(name, float(np.median(t)), float(np.percentile(t, 95)), bar) for name, t, bar in rows]
