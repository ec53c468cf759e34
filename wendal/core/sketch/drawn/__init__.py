"""What is drawn: points, curves and constraints as they are stored, where their variables lie, and the paths that curves run along."""

from .crossings import CLOSE, FINE, STRETCH, XY, Bent, EllipsePath, Path, SplinePath, crossings, meetings, path_of
from .layout import Layout
from .model import (
    AXES,
    BUILT_IN_POINTS,
    ORIGIN,
    X_AXIS,
    Y_AXIS,
    Arc,
    Circle,
    Constraint,
    Curve,
    Drawing,
    Ellipse,
    EllipseArc,
    Free,
    Line,
    Oval,
    Place,
    Spline,
    Taken,
    Text,
)
from .spline_images import images_of, with_pair, with_so_many, without_points
from .splines import basis_of, chord_knots, end_weights, traced_spline

__all__ = ["AXES", "BUILT_IN_POINTS", "CLOSE", "FINE", "ORIGIN", "STRETCH", "XY", "X_AXIS", "Y_AXIS", "Arc", "Bent", "Circle", "Constraint", "Curve",
           "Drawing", "Ellipse", "EllipseArc", "EllipsePath", "Free", "Layout", "Line", "Oval", "Path", "Place", "Spline", "SplinePath", "Taken",
           "Text", "basis_of", "chord_knots", "crossings", "end_weights", "images_of", "meetings", "path_of", "traced_spline", "with_pair",
           "with_so_many", "without_points"]
