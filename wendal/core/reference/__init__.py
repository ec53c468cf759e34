"""Durable references: how they are stored, made from a pick, and found again after a change."""

from .candidates import Candidate, candidates
from .model import (
    BaseRef,
    BodyRef,
    DatumRef,
    DrawnRef,
    EdgeRef,
    FaceRef,
    PlaneRef,
    RegionRef,
    SketchRef,
    SpotRef,
    ThingRef,
    VertexRef,
)
from .resolve import Found, edge_ref, face_ref, find_edge, find_face, find_vertex, vertex_ref

__all__ = ["BaseRef", "BodyRef", "Candidate", "DatumRef", "DrawnRef", "EdgeRef", "FaceRef", "Found", "PlaneRef", "RegionRef",
           "SketchRef", "SpotRef", "ThingRef", "VertexRef", "candidates", "edge_ref", "face_ref",
           "find_edge", "find_face", "find_vertex", "vertex_ref"]
