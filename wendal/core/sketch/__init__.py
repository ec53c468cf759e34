"""Constrained sketches: entities, constraints, solving, freedoms, regions and edits."""

from .constraints import all_rules, rule_for, sorts_of
from .crossings import Bent, EllipsePath, SplinePath, path_of
from .diagnosis import ways_out
from .draft import End
from .drag import Drag
from .edit import Bench, Constrain, Draw, SketchEdit, TakeIn, apply_edit, rehearse, say_edit
from .edit.offset import beside, chain_from, gone_on
from .freedom import Freedom, Freedoms, find_freedoms
from .grouping import grouped
from .layout import Layout
from .model import AXES, ORIGIN, Arc, Circle, Constraint, Drawing, Ellipse, EllipseArc, Line, Spline, Taken, Text
from .motion import motion_frames
from .region_names import find_region, find_text, is_text, region_ref, text_ref
from .regions import Piece, Region, Regions, find_regions
from .rest import Proposal, propose
from .solver import Solution, measured, solve
from .splines import traced_spline
from .taken import Traced, carried, fits, own_points
from .texts import BezierPath, text_outline, text_regions
from .words import bare_name, name_of, say_bound, say_constraint

__all__ = ["AXES", "ORIGIN", "Arc", "Bench", "Bent", "BezierPath", "Circle", "Constrain", "Constraint", "Drag", "Draw", "Drawing",
           "Ellipse", "EllipseArc", "EllipsePath", "End", "Freedom", "Freedoms", "Layout", "Line", "Piece", "Proposal", "Region",
           "Regions", "SketchEdit", "Solution", "Spline", "SplinePath", "TakeIn", "Taken", "Text", "Traced", "all_rules", "apply_edit", "bare_name", "beside",
           "carried", "chain_from", "find_freedoms", "find_region", "find_regions", "find_text", "fits", "gone_on", "grouped", "is_text", "measured",
           "motion_frames",
           "name_of", "own_points", "path_of", "propose", "region_ref", "rehearse", "rule_for", "say_bound", "say_constraint", "say_edit", "solve",
           "sorts_of", "text_outline", "text_ref", "text_regions", "traced_spline", "ways_out"]
