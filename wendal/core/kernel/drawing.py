"""Line drawings with hidden lines left out."""

from __future__ import annotations

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepLib import BRepLib
from OCP.GCPnts import GCPnts_TangentialDeflection
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.HLRAlgo import HLRAlgo_Projector
from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_HLRToShape

from .named import NamedShape
from .shapes import edges_of

__all__ = ["ink_drawing"]

VIEW = (1.0, -1.6, 1.1)  # towards the eye
ACROSS = (1.6, 1.0, 0.0)


def ink_drawing(bodies: list[NamedShape]) -> list[list[tuple[float, float]]]:
    """Return the visible lines of bodies seen from the front right above, as polylines in mm of the view, y
    up."""
    algorithm = HLRBRep_Algo()
    for body in bodies:
        algorithm.Add(body.shape, 0)
    algorithm.Projector(HLRAlgo_Projector(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(*VIEW), gp_Dir(*ACROSS))))
    algorithm.Update()
    algorithm.Hide()
    result = HLRBRep_HLRToShape(algorithm)
    lines = []
    for shape in (result.VCompound(), result.OutLineVCompound()):
        if shape is None or shape.IsNull():
            continue
        BRepLib.BuildCurves3d_s(shape)
        for edge in edges_of(shape):
            points = GCPnts_TangentialDeflection(BRepAdaptor_Curve(edge), 0.2, 0.2)
            places = (points.Value(i + 1) for i in range(points.NbPoints()))
            lines.append([(p.X(), p.Y()) for p in places])
    return lines
