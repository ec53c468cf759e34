"""Where each point and radius of a drawing stands among the solver's variables."""

from __future__ import annotations

from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ...errors import SketchError
from .model import BUILT_IN_POINTS, Arc, Circle, Drawing, Free, Oval, Spline

__all__ = ["Layout"]


class Layout:
    """The variables of a drawing: two a point, one a radius, one for how far a curve runs beside another;
    origin and axes come first and are fixed.

    x : (n,) float, mm, the drawn values; figures : the same as plain numbers. fixed : the number of leading
    variables that never move. round, beside : the curves with a radius, and those that run beside others.
    """

    def __init__(self, drawing: Drawing) -> None:
        self.drawing = drawing
        places = {**BUILT_IN_POINTS, **drawing.points}
        self._point = {p: 2 * i for i, p in enumerate(places)}
        self.fixed = 2 * len(BUILT_IN_POINTS)
        self.round = [c for c, curve in drawing.curves.items() if isinstance(curve, Circle | Arc | Oval)]
        self._radius = {c: 2 * len(places) + i for i, c in enumerate(self.round)}
        radii = [drawing.curves[c].radius for c in self.round]  # type: ignore[union-attr]
        self.beside = [c for c, curve in drawing.curves.items() if isinstance(curve, Free) and curve.side]
        self._away = {c: 2 * len(places) + len(radii) + i for i, c in enumerate(self.beside)}
        aways = [drawing.curves[c].away for c in self.beside]  # type: ignore[union-attr]
        self.figures: list[float] = [float(v) for p in places.values() for v in p] + radii + aways
        self.x: NDArray[np.float64] = np.array(self.figures, dtype=float)

    def xy(self, point: str) -> tuple[int, int]:
        """Return the two variables of a point."""
        if point not in self._point:
            raise SketchError(f"There is no point “{point}” in this sketch.", field=point)
        return self._point[point], self._point[point] + 1

    def line(self, line: str) -> tuple[int, int, int, int]:
        """Return the four variables of a line's or axis' two points."""
        a, b = self.drawing.line_points(line)
        return (*self.xy(a), *self.xy(b))

    def ends(self, line: str) -> tuple[float, float, float, float]:
        """Return the drawn places of a line's or axis' two points, mm."""
        x = self.figures
        return tuple(x[v] for v in self.line(line))  # type: ignore[return-value]

    def centre(self, curve: str) -> tuple[int, int]:
        """Return the two variables of a circle's or arc's centre."""
        found = self.drawing.curves.get(curve)
        if not isinstance(found, Circle | Arc | Oval):
            raise SketchError(f"“{curve}” has no centre.", field=curve)
        return self.xy(found.centre)

    def over(self, spline: str) -> tuple[int, ...]:
        """Return the variables of the points a spline runs over, in its order."""
        found = self.drawing.curves[spline]
        assert isinstance(found, Spline)
        return tuple(v for p in found.over for v in self.xy(p))

    def radius(self, curve: str) -> int:
        """Return the variable of a circle's or arc's radius."""
        return self._radius[curve]

    def away(self, curve: str) -> tuple[int, float]:
        """Return the variable of how far a curve runs beside the one that its points shape, and its side; (0,
        0.0) for that one itself."""
        found = self.drawing.curves[curve]
        return (self._away[curve], float(found.side)) if isinstance(found, Free) and found.side else (0, 0.0)

    @cached_property
    def lengths(self) -> list[int]:
        """The variables of all radii and distances beside: none of them may come to nothing."""
        return [*self._radius.values(), *self._away.values()]

    @cached_property
    def _size(self) -> float:
        own = self.x[self.fixed : 2 * len(self._point)].reshape(-1, 2)
        box = float(np.ptp(own, axis=0).max()) if len(own) else 0.0
        radii = self.x[2 * len(self._point) :][: len(self.round)]
        return max(box, 2 * float(radii.max()) if len(radii) else 0.0) or 1.0

    @cached_property
    def joined(self) -> dict[str, str]:
        """Which points are one by coincidence: every such point with the one that stands for all of them."""
        parent: dict[str, str] = {}

        def root(p: str) -> str:
            while parent.get(p, p) != p:
                p = parent[p]
            return p

        for c in self.drawing.constraints.values():
            if c.kind == "coincident" and not c.reference:
                a, b = root(c.of[0]), root(c.of[1])
                parent[b] = a
        return {p: root(p) for p in (*BUILT_IN_POINTS, *self.drawing.points)}

    def size(self) -> float:
        """Return the sketch's size in mm: the larger side of its box, or its largest diameter."""
        return self._size

    def drawn(self, x: NDArray[np.float64]) -> Drawing:
        """Return the drawing with its points and radii taken from x : (n,) mm."""
        figures = x.tolist()
        points = {p: (figures[i], figures[i + 1]) for p, i in self._point.items() if i >= self.fixed}
        curves = dict(self.drawing.curves)
        for name, variables in (("radius", self._radius), ("away", self._away)):
            for c, v in variables.items():
                if getattr(curves[c], name) != figures[v]:
                    curves[c] = curves[c].model_copy(update={name: figures[v]})
        return self.drawing.model_copy(update={"points": points, "curves": curves})

    def variables(self, entity: str) -> list[int]:
        """Return all variables that shape a point or curve, its own points included."""
        if entity in self._point:
            return list(self.xy(entity))
        curve = self.drawing.curves[entity]
        found = [v for p in curve.points for v in self.xy(p)]
        return [*found, *(own[entity] for own in (self._radius, self._away) if entity in own)]
