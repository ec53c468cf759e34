"""Constrained sketches: entities, constraints, solving, freedoms, regions and edits."""

from .constraints import all_rules, rule_for, sorts_of
from .drawn import (
    AXES,
    ORIGIN,
    Arc,
    Bent,
    Circle,
    Constraint,
    Drawing,
    Ellipse,
    EllipseArc,
    EllipsePath,
    Layout,
    Line,
    Spline,
    SplinePath,
    Taken,
    Text,
    path_of,
    traced_spline,
)
from .editing import Bench, Constrain, Draw, End, SketchEdit, TakeIn, apply_edit, beside, chain_from, constraints_for, gone_on, rehearse, say_edit, tools_for
from .explaining import (
    Counted,
    Freedom,
    Freedoms,
    Proposal,
    bare_name,
    count_freedoms,
    find_freedoms,
    grouped,
    motion_frames,
    name_of,
    propose,
    say_bound,
    say_constraint,
    ways_out,
)
from .regions import BezierPath, Piece, Region, Regions, find_region, find_regions, find_text, is_text, region_ref, text_outline, text_ref, text_regions
from .solving import Drag, Solution, Traced, carried, fits, measured, own_points, solve

__all__ = ["AXES", "ORIGIN", "Arc", "Bench", "Bent", "BezierPath", "Circle", "Constrain", "Constraint", "Counted", "Drag", "Draw", "Drawing",
           "Ellipse", "EllipseArc", "EllipsePath", "End", "Freedom", "Freedoms", "Layout", "Line", "Piece", "Proposal", "Region", "Regions",
           "SketchEdit", "Solution", "Spline", "SplinePath", "TakeIn", "Taken", "Text", "Traced", "all_rules", "apply_edit", "bare_name", "beside",
           "carried", "chain_from", "constraints_for", "count_freedoms", "find_freedoms", "find_region", "find_regions", "find_text", "fits",
           "gone_on", "grouped", "is_text", "measured", "motion_frames", "name_of", "own_points", "path_of", "propose", "region_ref", "rehearse",
           "rule_for", "say_bound", "say_constraint", "say_edit", "solve", "sorts_of", "text_outline", "text_ref", "text_regions", "tools_for",
           "traced_spline", "ways_out"]
