"""Datum geometry: planes, axes, points, coordinate systems; one function a construction, and the offers."""

from . import axes, planes, points, systems, touching
from .offers import Offer, offers, why_not
from .picked import FACETS, Curve, Datum, EndlessLine, Picked, Round, Surface
from .planes import BASE_AXES, BASE_PLANES
from .stance import Stance, carried_from, stance_of
from .table import KINDS, Construction, constructions

del axes, planes, points, systems, touching  # imported so that the table is filled

__all__ = [
    "BASE_AXES",
    "BASE_PLANES",
    "FACETS",
    "KINDS",
    "Construction",
    "Curve",
    "Datum",
    "EndlessLine",
    "Offer",
    "Picked",
    "Round",
    "Stance",
    "Surface",
    "carried_from",
    "constructions",
    "offers",
    "stance_of",
    "why_not",
]
