"""Durable references: how they are stored, made from a pick, and found again after a change."""

from .model import BaseRef, BodyRef, DatumRef, EdgeRef, FaceRef, PlaneRef, RegionRef, SketchRef, VertexRef
from .resolve import Found, edge_ref, face_ref, find_edge, find_face, find_vertex, vertex_ref

__all__ = ["BaseRef", "BodyRef", "DatumRef", "EdgeRef", "FaceRef", "Found", "PlaneRef", "RegionRef",
           "SketchRef", "VertexRef", "edge_ref", "face_ref", "find_edge", "find_face", "find_vertex", "vertex_ref"]
