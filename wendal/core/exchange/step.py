"""STEP (ISO 10303, AP242)."""

from __future__ import annotations

from .. import kernel
from ..inspect.painted import painted
from ..route import Part
from .base import Format, Order, register, solid_bodies
from .colours import colour_of, rgb


def _write(order: Order) -> bytes:
    part = order.part
    bodies = [
        (name, shape, colour_of(part, id_) if _coloured(part, id_) else None)
        for id_, name, shape in solid_bodies(order)
    ]
    looks = painted(part, order.evaluation.site.bodies)
    faces = [
        {i: (x.name, rgb(x.colour) if x.colour else None) for i, x in looks.get(id_, {}).items()}
        for id_, _, _ in solid_bodies(order)
    ]
    inches = part.units.length == "in"
    return kernel.write_step(
        bodies,
        inches=inches,
        faces=faces,
        part=part.name,
        number=part.about.number,
        author=part.about.drawn_by,
    )


def _coloured(part: Part, body: str) -> bool:
    look = part.looks.get(body)
    return bool(look and look.colour)


register(Format("step", "model/step", "STEP, exact solids and sheets", _write, ("part", "bodies")))
