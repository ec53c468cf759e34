"""The residuals that constraints are made of, and what equations can not tell: how curves go on into each other."""

from .joint_rows import OVAL, smooth_joint
from .joints import Joints
from .oval_rows import arc_oval_end, beside_along, beside_square, off_ellipse
from .rows import (
    Kernel,
    angle,
    arc_arc_end,
    arc_length,
    distance,
    equal_length,
    leaving_along,
    leaving_square,
    line_arc_end,
    line_oval_end,
    mean,
    mid_on_line,
    point_circle,
    point_ellipse,
    point_line,
    same,
    shifted_across,
    shifted_along,
    square_to_line,
    sum_of,
    tangent_circles,
    tangent_ellipse,
    tangent_line,
    turned_x,
    turned_y,
)
from .spline_rows import at_line, crossed_along, crossed_square, direction_at, off_spline, side_of, square_off, weights_at

__all__ = ["OVAL", "Joints", "Kernel", "angle", "arc_arc_end", "arc_length", "arc_oval_end", "at_line", "beside_along", "beside_square",
           "crossed_along", "crossed_square", "direction_at", "distance", "equal_length", "leaving_along", "leaving_square", "line_arc_end",
           "line_oval_end", "mean", "mid_on_line", "off_ellipse", "off_spline", "point_circle", "point_ellipse", "point_line", "same",
           "shifted_across", "shifted_along", "side_of", "smooth_joint", "square_off", "square_to_line", "sum_of", "tangent_circles",
           "tangent_ellipse", "tangent_line", "turned_x", "turned_y", "weights_at"]
