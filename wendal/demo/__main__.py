"""`python -m wendal.demo FOLDER` writes the demo parts as readable files; those in `examples/` are kept the
same by a test."""

from __future__ import annotations

import sys
from pathlib import Path

from wendal.core.route import write_part

from . import cable_hook, float_wheel, instrument_bracket, mast_clamp, sensor_housing, well_head_flange

for _make in (instrument_bracket, float_wheel, well_head_flange, mast_clamp, sensor_housing, cable_hook):
    (Path(sys.argv[1]) / f"{_make.__name__}.json").write_text(write_part(_make()), encoding="utf-8")
