"""The hunt among copies: references to faces of single holes, copies of patterns, mirrored and revolved faces, under random edits.

The oracle knows the construction: from the part's dimensions alone it says where the axis of every referred face must stand, whether the
thing is there at all, and on which body. A reference that is said to be sound and stands elsewhere is wrong.

    python -m tools.hunts.copies 2000
"""

from __future__ import annotations

import math
import random
import sys
from collections import Counter

from tests.samples import XY
from wendal.core.errors import WendalError
from wendal.core.route import Memory, evaluate
from wendal.demo.builder import Builder

__all__ = ["hunt"]

BODY = {"of": "body", "body": "s2"}
TOP = {"of": "face", "body": "s2", "names": ["s2/end/r1"]}
Place = tuple[float, float]


class Case:
    """A plate with a row of pins, a ring of revolved studs, drilled holes, all mirrored, split in two; and axes on single faces of them."""

    def __init__(self, seed: int) -> None:
        self.rng, self.memory = random.Random(seed), Memory()
        b = self.b = Builder("Hunt")
        for tag, formula in (("long", "160 mm"), ("deep", "80 mm"), ("px", "8 mm"), ("py", "30 mm"), ("step", "14 mm"), ("pins", "4"), ("ring", "5"),
                             ("radius", "16 mm"), ("h1", "20 mm"), ("h2", "36 mm"), ("tall", "6 mm"), ("cut_at", "40 mm")):
            b.do(do="add_tag", tag=tag, formula=formula)
        base = b.step("sketch", "Outline", on=XY)
        b.draw(base, "rectangle", (-80, -40), (80, 40))
        lines = list(b.drawing(base).curves)
        for line, axis, formula in ((lines[3], "y_axis", "long / 2"), (lines[1], "y_axis", "long / 2"), (lines[0], "x_axis", "deep / 2"),
                                    (lines[2], "x_axis", "deep / 2")):
            b.constrain(base, "distance", line, axis, formula=formula)
        b.step("extrude", "Base", profile=b.profile(base, 0), depth={"formula": "10 mm"})
        pin = self._sketch("Pin place", "circle", (8, 30), (10, 30), "px", "py")
        self.circle = next(iter(b.drawing(pin).curves))
        self.pin = b.step("extrude", "Pin", profile=b.profile(pin, 0), depth={"formula": "tall"}, result="add", bodies=[BODY])
        self.row = b.step("pattern", "Row", seeds=[{"of": "step", "step": self.pin}], along={"of": "base", "name": "X"}, count={"formula": "pins"},
                          spacing={"formula": "step"}, copying=self.rng.choice(["exact", "anew"]))
        hole = b.step("sketch", "Hole places", on=TOP)
        for x in ("h1", "h2"):
            b.draw(hole, "point", (20, -28))
            point = next(reversed(b.drawing(hole).points))
            b.constrain(hole, "distance", point, "y_axis", formula=x)
            b.constrain(hole, "distance", point, "x_axis", formula="28 mm")
        self.points = list(b.drawing(hole).points)
        self.hole = b.step("hole", "Drill", at=[{"of": "sketch", "step": hole}], diameter={"formula": "4 mm"})
        stud = b.step("sketch", "Stud section", on={"of": "base", "name": "ZX"})
        b.draw(stud, "rectangle", (0, 10), (2, 16))
        side = list(b.drawing(stud).curves)
        moved = b.step("sketch", "Stud place", on=TOP)
        b.draw(moved, "circle", (16, 0), (17.5, 0))
        (point, *_) = b.drawing(moved).points
        b.constrain(moved, "on_curve", point, "x_axis")
        b.constrain(moved, "distance", point, "y_axis", formula="radius")
        self.stud_circle = next(iter(b.drawing(moved).curves))
        self.post = b.step("revolve", "Post", profile=b.profile(stud, 0), axis={"of": "base", "name": "Z"}, result="add", bodies=[BODY])
        self.post_side = side[1]
        self.stud = b.step("extrude", "Stud", profile=b.profile(moved, 0), depth={"formula": "3 mm"}, result="add", bodies=[BODY])
        self.circle_of = b.step("pattern", "Studs", seeds=[{"of": "step", "step": self.stud}], manner="ring", axis={"of": "base", "name": "Z"},
                                count={"formula": "ring"})
        self.twin = b.step("mirror", "Twin", seeds=[{"of": "step", "step": s} for s in (self.pin, self.row, self.hole)],
                           about={"of": "base", "name": "YZ"})
        cut = b.step("plane", "Cut", how="offset", first={"of": "base", "name": "YZ"}, distance={"formula": "cut_at"})
        self.halves = b.step("split", "Halves", body=BODY, by={"of": "datum", "step": cut})
        self.wanted: dict[str, str] = {}  # axis step, by the name of the face it stands on
        for name in self._names():
            try:
                self.wanted[b.step("axis", f"On {len(self.wanted)}", how="of_round", first={"of": "face", "body": "s2", "names": [name]})] = name
            except WendalError:
                continue

    def _sketch(self, name: str, shape: str, at: Place, on: Place, x: str, y: str) -> str:
        b = self.b
        sketch = b.step("sketch", name, on=TOP)
        b.draw(sketch, shape, at, on, diameter="4 mm")
        centre = next(p for p in b.drawing(sketch).points)
        b.constrain(sketch, "distance", centre, "y_axis", formula=x)
        b.constrain(sketch, "distance", centre, "x_axis", formula=y)
        return sketch

    def _names(self) -> list[str]:
        pin = f"{self.pin}/side/{self.circle}/r1"
        hole_sketch = next(r["step"] for r in self.b.part.step(self.hole).model_dump()["at"])
        holes = [f"{self.hole}/side/drilled wall/{hole_sketch}.{p}" for p in self.points]
        stud = f"{self.stud}/side/{self.stud_circle}/r1"
        found = [pin, *(f"{pin}@{self.row}.{n}" for n in range(2, 7)), *holes, stud, *(f"{stud}@{self.circle_of}.{n}" for n in range(2, 8))]
        found += [f"{n}@{self.twin}.2" for n in (pin, f"{pin}@{self.row}.2", f"{pin}@{self.row}.3", *holes)]
        return [*found, f"{self.post}/side/{self.post_side}/r1"]

    def value(self, tag: str) -> float:
        value = self.b.part.evaluated()[tag].value
        return float(value.to("mm").magnitude if not value.dimensionless else value.magnitude)  # type: ignore[union-attr]

    def place(self, name: str) -> Place | None:
        """Where the axis of a face must stand by the dimensions alone; None when the thing is not there."""
        bare, *copies = name.split("@")
        step, _, _, profile = bare.split("/")
        if step == self.pin:
            x, y = self.value("px"), self.value("py")
        elif step == self.hole:
            x, y = self.value("h1" if profile.endswith(self.points[0]) else "h2"), -28.0
        elif step == self.stud:
            x, y = self.value("radius"), 0.0
        else:
            x, y = 0.0, 0.0
        for copy in copies:
            of, number = copy.split(".")
            n = int(number) - 1
            if of == self.row:
                if n >= self.value("pins"):
                    return None
                x += n * self.value("step")
            elif of == self.circle_of:
                if n >= self.value("ring"):
                    return None
                t = 2 * math.pi * n / self.value("ring")
                x, y = x * math.cos(t) - y * math.sin(t), x * math.sin(t) + y * math.cos(t)
            else:
                x = -x
        return x, y

    def edit(self) -> None:
        """Change something at random; what is refused changes nothing."""
        rng, b = self.rng, self.b
        tag, formula = rng.choice([
            ("pins", str(rng.randint(2, 6))), ("ring", str(rng.randint(2, 7))), ("step", f"{rng.uniform(8, 13):.2f} mm"), ("px", f"{rng.uniform(5, 12):.2f} mm"),
            ("py", f"{rng.uniform(26, 34):.2f} mm"), ("radius", f"{rng.uniform(12, 20):.2f} mm"), ("h1", f"{rng.uniform(6, 24):.2f} mm"),
            ("h2", f"{rng.uniform(28, 60):.2f} mm"), ("tall", f"{rng.uniform(3, 9):.2f} mm"), ("cut_at", f"{rng.uniform(-60, 70):.2f} mm"),
            ("long", f"{rng.uniform(150, 180):.2f} mm"), ("deep", f"{rng.uniform(76, 90):.2f} mm"),
        ])
        try:
            if rng.random() < 0.12:
                step = rng.choice([self.row, self.circle_of])
                b.do(do="edit_step", step=step, fields={"copying": rng.choice(["exact", "anew"])})
            elif rng.random() < 0.1:
                b.do(do="edit_step", step=self.row, fields={"skipped": rng.choice([[], ["2"], ["3", "4"]])})
            elif rng.random() < 0.08:
                b.do(do="edit_step", step=self.halves, fields={"suppressed": rng.random() < 0.5})
            else:
                b.do(do="set_formula", tag=tag, formula=formula)
        except WendalError:
            pass

    def judge(self) -> Counter[str]:
        """Compare every axis with the oracle."""
        evaluation = evaluate(self.b.part, self.memory)
        found: Counter[str] = Counter()
        if any(r.state == "stopped" for r in evaluation.reports if r.id not in self.wanted):
            found["part stopped"] += 1
            return found
        skipped = self.b.part.step(self.row).model_dump()["skipped"]
        for step, name in self.wanted.items():
            there = self.place(name)
            if any(f"@{self.row}.{n}" in name for n in skipped):
                there = None
            report = evaluation.report(step)
            if report.state == "stopped":
                found["missed" if there else "rightly lost"] += 1
                continue
            at = evaluation.site.datums[step][0].frame.origin
            if there is None or math.dist(at[:2], there) > 1e-6:
                found["wrong"] += 1
            else:
                found["sound" if report.references[0].state == "sound" else "re-found"] += 1
        return found


def hunt(edits: int, seed: int = 1, a_case: int = 40) -> Counter[str]:
    """Make so many edits in all, a new part every so many; return how the references stood."""
    found: Counter[str] = Counter()
    done = 0
    while done < edits:
        case = Case(seed + done)
        for _ in range(min(a_case, edits - done)):
            case.edit()
            found += case.judge()
            done += 1
    return found


if __name__ == "__main__":
    print(dict(hunt(int(sys.argv[1]) if len(sys.argv) > 1 else 200)))
