"""The hunt with fillets, chamfers, shells and sweeps along edges: besides the references of the plain hunt, every blend and wall is held against where it belongs.

A blend's name tells between which faces it lies; the oracle works out from the drawings where those two should be, and so where the
blend's middle is. A shell's wall belongs a thickness inside of the face it is named by, a swept bead's axis on the edge it is named by.
"""

from __future__ import annotations

from collections import Counter
from typing import Any

from tools.hunts.references import Case, Wall
from wendal.core.errors import WendalError
from wendal.core.kernel.types import Face, dot, minus
from wendal.core.reference import edge_ref, face_ref
from wendal.core.route import Evaluation

__all__ = ["hunt_shapes"]

NEAR = 1e-5  # mm


class Shaped(Case):
    """A random part whose edges are rounded and bevelled, and that is hollowed or not."""

    def __init__(self, seed: int) -> None:
        self.blends: list[str] = []
        super().__init__(seed)

    def _build(self) -> None:
        super()._build()
        rng = self.rng
        if rng.random() < 0.4:
            self._hollow()
        for _ in range(rng.randint(1, 2)):
            self._blend(rng.choice(["fillet", "chamfer"]))
        if rng.random() < 0.4:
            self._bead()

    def _hollow(self) -> None:
        (body,) = self.evaluate().site.bodies.values()
        opened = {"of": "face", "body": body.id, "names": [f"{self.extrudes[0]}/start/r1"]}
        self._try("shell", "Hollow", body={"of": "body", "body": body.id}, openings=[opened], thickness={"formula": f"{self.rng.uniform(0.8, 1.6):.2f} mm"})

    def _blend(self, kind: str) -> None:
        (body,) = self.evaluate().site.bodies.values()
        plain = [i for i, e in enumerate(body.topology.edges) if len(e.faces) == 2 and e.form == "line"
                 and all(_plain(n) for f in e.faces for n in body.topology.faces[f].names)]
        if plain:
            picks = [edge_ref(body.id, body.topology, i).model_dump(mode="json") for i in self.rng.sample(plain, min(len(plain), self.rng.randint(1, 3)))]
            size = {"formula": f"{self.rng.uniform(0.4, 2.0):.2f} mm"}
            self._try(kind, f"Blend {len(self.blends)}", edges=picks, **{"radius" if kind == "fillet" else "leg": size})

    def _bead(self) -> None:
        """A round section swept along an edge, added to the body or cut from it."""
        (body,) = self.evaluate().site.bodies.values()
        plain = [i for i, e in enumerate(body.topology.edges) if len(e.faces) == 2 and e.form == "line"
                 and all(_plain(n) for f in e.faces for n in body.topology.faces[f].names)]
        if plain:
            edge = edge_ref(body.id, body.topology, self.rng.choice(plain)).model_dump(mode="json")
            self._try("sweep", "Bead", section="round", route="edges", edges=[edge], result=self.rng.choice(["add", "cut"]),
                      bodies=[{"of": "body", "body": body.id}], diameter={"formula": f"{self.rng.uniform(0.8, 2.4):.2f} mm"})

    def _try(self, kind: str, name: str, **fields: Any) -> None:
        """Add a step, and take it away again where it can not be built."""
        step = self.b.step(kind, name, **fields)
        if self.evaluate().report(step).state == "built":
            self.blends.append(step)
        else:
            self.b.do(do="remove_step", step=step)

    def _attach(self) -> None:
        (body,) = self.evaluate().site.bodies.values()
        faces = [i for i, f in enumerate(body.topology.faces) if all(_plain(n) for n in f.names) and f.form == "flat"]
        for n in range(3):
            ref = face_ref(body.id, body.topology, self.rng.choice(faces))
            step = self.b.step("plane", f"Datum {n}", first=ref.model_dump(mode="json"), distance={"formula": "0 mm"})
            self.targets.append((step, "face", [ref.names[0]]))

    def edit(self) -> str:
        if self.blends and self.rng.random() < 0.3:
            step: Any = self.b.part.step(self.rng.choice(self.blends))
            value = next(value for _, value, _ in step.values())
            try:
                self.b.do(do="set_formula", tag=value.tag, formula=f"{self.rng.uniform(0.3, 3.0):.2f} mm")
            except WendalError:
                return ""
            return "size"
        return super().edit()

    def judge(self) -> Counter[str]:
        found = super().judge()
        evaluation = self.evaluate()
        for body in evaluation.site.bodies.values():
            for face in body.topology.faces:
                for name in face.names:
                    step, role, source = (*name.split("/"), "")[:3]
                    if step in self.blends and (role in ("round", "bevel", "wall") or source.startswith("round.")) and evaluation.report(step).state == "built":
                        found[self._placed(face, role, source, step, evaluation)] += 1
        return found

    def _placed(self, face: Face, role: str, source: str, step: str, evaluation: Evaluation) -> str:
        """Judge where a blend, a wall or a bead along an edge is."""
        parts = [part.replace("~", "/") for part in source.removeprefix("round.").split("+")]
        walls = [self.wall(part, evaluation) for part in parts] if all(map(_plain, parts)) else [None]
        if not all(isinstance(w, Wall) for w in walls):
            return "blend of blends"  # its faces are no walls of the drawings
        size = self._value(next(v.tag for _, v, _ in self.b.part.step(step).values()))
        if role == "side":
            right = face.axis is not None and abs(face.radius - size / 2) < NEAR
            at, size, role = face.axis[0] if face.axis else face.centre, 0.0, "bead"
        elif role == "round":
            at = face.axis[0] if face.axis else face.centre
            right = face.axis is not None and abs(face.radius - size) < NEAR
        else:
            at, right = face.centre, True
        away = [abs(dot(minus(at, w.place), w.normal)) for w in walls if w]
        # A bevel of one leg lies where the distances to both faces come to the leg, wherever its middle is.
        right = right and (abs(sum(away) - size) < NEAR if role == "bevel" else all(abs(d - size) < NEAR for d in away))
        return f"{role}, right" if right else "wrong"


def _plain(name: str) -> bool:
    return name.split("/")[1] in ("side", "start", "end") and not name.endswith("/round")


def hunt_shapes(edits: int, seed: int = 1) -> Counter[str]:
    """Run a number of edits; return how many references, blends and walls came out how."""
    found: Counter[str] = Counter()
    number, done = seed * 100_000, 0
    while done < edits:
        number += 1
        try:
            case = Shaped(number)
        except (WendalError, ValueError, IndexError):
            continue
        if not case.blends:
            continue
        for _ in range(4):
            if case.edit():
                done += 1
                result = case.judge()
                if result["wrong"]:
                    found[f"  in case {number}"] += result["wrong"]
                found += result
    return found


if __name__ == "__main__":
    import sys

    print(hunt_shapes(int(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 1))
