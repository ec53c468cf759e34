"""Durable references: how they are stored, made from a pick, and found again after a change."""

from .candidates import Candidate, candidates
from .model import (
    BaseRef,
    BodyRef,
    DatumRef,
    DrawnRef,
    EdgeRef,
    FaceRef,
    PlaceRef,
    PlaneRef,
    ProfileRef,
    RegionRef,
    SeedRef,
    SketchRef,
    SpotRef,
    StepRef,
    ThingRef,
    VertexRef,
    body_step,
)
from .names import FaceName, say_face, steps_of
from .resolve import Found, edge_ref, face_ref, find_edge, find_face, find_vertex, vertex_ref

__all__ = ["BaseRef", "BodyRef", "Candidate", "DatumRef", "DrawnRef", "EdgeRef", "FaceName", "FaceRef", "Found", "PlaceRef", "PlaneRef",
           "ProfileRef", "RegionRef", "SeedRef", "SketchRef", "SpotRef", "StepRef", "ThingRef", "VertexRef", "body_step", "candidates",
           "edge_ref", "face_ref", "find_edge", "find_face", "find_vertex", "say_face", "steps_of", "vertex_ref"]
