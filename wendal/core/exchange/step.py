"""STEP (ISO 10303, AP242)."""

from __future__ import annotations

from .. import kernel
from ..route import Evaluation, Part
from .base import Format, register, solid_bodies


def _write(part: Part, evaluation: Evaluation) -> bytes:
    return kernel.write_step(solid_bodies(part, evaluation), inches=part.units.length == "in")


register(Format("step", "model/step", "STEP, exact solids and sheets", _write))
