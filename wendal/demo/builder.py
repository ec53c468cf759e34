"""Making a part in Python by the same commands that the browser sends."""

from __future__ import annotations

from typing import Any

from pydantic import TypeAdapter

from wendal.core.route import Command, Part, apply, figures_of
from wendal.core.sketch import Drawing, Region, find_regions, region_ref, solve
from wendal.core.steps.sketch import Sketch

__all__ = ["Builder"]

_commands: TypeAdapter[Any] = TypeAdapter(Command)


class Builder:
    """A part that grows command by command."""

    def __init__(self, name: str) -> None:
        self.part = Part(name=name)

    def do(self, **command: Any) -> None:
        """Apply one command."""
        self.part = apply(self.part, _commands.validate_python(command))

    def step(self, kind: str, name: str, **fields: Any) -> str:
        """Add a step at the end; return its id."""
        self.do(do="add_step", step={"kind": kind, "name": name, **fields})
        return f"s{self.part.last}"

    def drawing(self, sketch: str) -> Drawing:
        """Return a sketch's drawing."""
        step = self.part.step(sketch)
        assert isinstance(step, Sketch)
        return step.drawing

    def draw(
        self, sketch: str, shape: str, *ends: tuple[float, float], on: str = "", **values: str
    ) -> list[str]:
        """Draw a shape, its first end caught on a thing; return the ids of its curves."""
        before = self.drawing(sketch).curves
        places = [{"at": end, "on": on if i == 0 else ""} for i, end in enumerate(ends)]
        self.do(
            do="edit_sketch",
            step=sketch,
            edit={"op": "draw", "shape": shape, "ends": places, "values": values},
        )
        return [c for c in self.drawing(sketch).curves if c not in before]

    def constrain(self, sketch: str, kind: str, *of: str, **more: str) -> None:
        """Add a constraint or dimension."""
        self.do(do="edit_sketch", step=sketch, edit={"op": "constrain", "kind": kind, "of": list(of), **more})

    def regions(self, sketch: str) -> list[Region]:
        """Return a sketch's regions, the largest first."""
        drawing = self.drawing(sketch)
        return find_regions(solve(drawing, figures_of(self.part).values(drawing)).drawing).found

    def profile(self, sketch: str, *which: int) -> list[dict[str, Any]]:
        """Return references to regions by their rank in size."""
        found = self.regions(sketch)
        return [region_ref(sketch, found[i], f"r{n}").model_dump(mode="json") for n, i in enumerate(which, 1)]
