"""The hunt for what the kernel writes into: random parts, with steps that take faces and edges of the body for their own work.

What is remembered must stay as it is, whatever is built of it or refused. The oracle is the kernel's own text of every shape, before and
after every step.
"""

from __future__ import annotations

import hashlib
import io
import random
import re
from collections import Counter
from collections.abc import Iterable
from contextlib import suppress
from typing import Any

from OCP.BRepTools import BRepTools
from OCP.TopTools import TopTools_FormatVersion

from tools.hunts.copies import Case as CopiesCase
from tools.hunts.shapes import Shaped
from wendal.core import exchange, inspect
from wendal.core.errors import CommandRefused, WendalError
from wendal.core.reference import edge_ref, face_ref
from wendal.core.route import Memory, Part, evaluate
from wendal.demo.builder import Builder

__all__ = ["altered", "hunt_unaltered"]


def digest(shape: object) -> str:
    """A digest of a shape as the kernel writes it: geometry, tolerances and curve representations.

    Meshes are left out, which belong to the picture, and flags of who holds a shape.
    """
    written = io.BytesIO()
    BRepTools.Write_s(shape, written, False, False, TopTools_FormatVersion.TopTools_FormatVersion_VERSION_3)
    lines = [line for line in written.getvalue().decode().splitlines() if not MESH.match(line)]
    return hashlib.blake2b("\n".join(lines).encode(), digest_size=12).hexdigest()


# Polygons on triangulations (6, 7) and polygons (5) of edges, triangulations (2) of faces; seven flags of a shape.
MESH = re.compile(r"[67] +\d+ +\d+|5 +\d+ +\d+$|[01]{7}$")


def altered(part: Part, written: Iterable[str] = ()) -> list[str]:
    """Evaluate a part step by step; return the steps during which a shape remembered from before was changed.

    written : formats in which the part is written as well, at its end."""
    memory, known, found = Memory(), dict[int, tuple[Any, str]](), list[str]()

    def look(what: str) -> None:
        changed = {k: (shape, digest(shape.shape)) for k, (shape, before) in known.items() if digest(shape.shape) != before}
        if changed:
            found.append(what)
            known.update(changed)

    for step in part.steps:
        evaluation = evaluate(part, memory, until=step.id)
        look(f"{step.kind} {step.name}")
        inspect.scene(part, evaluation, inspect.Blobs(set(), {}))  # meshed and looked at, as a window does
        for body in evaluation.site.bodies.values():
            known.setdefault(id(body.shape), (body.shape, digest(body.shape.shape)))
    for name in written:
        with suppress(CommandRefused):  # a body that is broken as a whole is not written, and that is told
            exchange.export(part, evaluation, name)
        look(name)
    return found


def _harming(b: Builder, rng: random.Random) -> str:
    """Add a step that works on a face or an edge of the body; return its kind."""
    (body,) = evaluate(b.part, Memory()).site.bodies.values()
    topology, of_body = body.topology, {"of": "body", "body": body.id}
    flat = [i for i, face in enumerate(topology.faces) if face.form == "flat"]
    face = rng.choice(flat)
    picked, other = (face_ref(body.id, topology, i).model_dump(mode="json") for i in (face, rng.choice(flat)))
    round_it = [i for i, e in enumerate(topology.edges) if e.form == "line" and face in e.faces and len(e.faces) == 2]
    if not round_it:
        return ""
    edge = edge_ref(body.id, topology, rng.choice(round_it)).model_dump(mode="json")

    def length() -> dict[str, str]:
        return {"formula": f"{rng.uniform(0.4, 4.0):.2f} mm"}

    def angle(most: float) -> dict[str, str]:
        return {"formula": f"{rng.uniform(2.0, most):.2f} deg"}

    plane = {"of": "base", "name": rng.choice(["XY", "YZ", "ZX"])}
    steps: dict[str, dict[str, Any]] = {
        "revolve": {"profile": [{**picked, "key": ""}], "axis": edge, "extent": rng.choice(["ahead", "back"]), "angle": angle(120), "result": "add", "bodies": [of_body]},
        "extrude": {"profile": [{**picked, "key": ""}], "depth": length(), "result": rng.choice(["add", "new"]), **({"bodies": [of_body]} if rng.random() < 0.5 else {})},
        "chamfer": {"edges": [edge], "manner": "two", "leg": length(), "leg_two": length(), "side": rng.choice(["first", "other"])},
        "fillet": {"edges": [edge], "radius": length()},
        "draft": {"faces": [picked], "plane": plane, "angle": angle(8)},
        "offset_faces": {"faces": [picked], "side": rng.choice(["out", "in"]), "distance": length()},
        "remove_faces": {"faces": [picked]},
        "split_faces": {"faces": [picked], "by": plane},
        "copy_faces": {"faces": [picked, other]},
        "shell": {"body": of_body, "openings": [picked], "thickness": length()},
    }
    kind = rng.choice(list(steps))
    fields = steps[kind]
    if kind == "extrude" and fields["result"] == "new":
        fields.pop("bodies", None)
    if kind == "extrude" and rng.random() < 0.4:
        fields |= {"until": [other], "short": length()}
    try:
        step = b.step(kind, f"Harming {b.part.last}", **fields)
        if kind == "copy_faces":
            b.step("thicken", f"Walls of {step}", sheet={"of": "body", "body": step}, side=rng.choice(["front", "back"]), thickness=length())
    except WendalError:
        return ""
    return kind


def hunt_unaltered(cases: int, seed: int) -> Counter[str]:
    """Build so many random parts; count steps by kind and state, and "wrong" wherever one altered what was there before."""
    found: Counter[str] = Counter()
    for n in range(cases):
        rng = random.Random(f"{seed} {n}")
        b = (Shaped if rng.random() < 0.7 else CopiesCase)(seed * 1_000_003 + n).b
        for _ in range(rng.randint(1, 3)):
            if len(evaluate(b.part, Memory()).site.bodies) != 1:
                break
            if kind := _harming(b, rng):
                found[f"  {kind}, {evaluate(b.part, Memory()).reports[-1].state}"] += 1
        if inspect.broken(evaluate(b.part, Memory())):
            found[f"told as broken, after {b.part.steps[-1].kind}"] += 1
        wrong = altered(b.part, ["step", "stl"])
        found["unaltered"] += not wrong
        for what in wrong:
            found[f"wrong: {what.split()[0]}"] += 1
    return found
