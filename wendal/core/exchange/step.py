"""STEP (ISO 10303, AP242)."""

from __future__ import annotations

from .. import kernel
from ..inspect.painted import painted
from ..route import Part
from .base import Format, Order, register, solid_bodies
from .colours import colour_of, rgb


def _write(order: Order) -> bytes:
    part = order.part
    held = solid_bodies(order)
    through = [_through(part, id_) for id_, _, _ in held]
    bodies = [
        (name, shape, colour_of(part, id_) if glassy or _coloured(part, id_) else None)
        for (id_, name, shape), glassy in zip(held, through, strict=True)
    ]
    looks = painted(part, order.evaluation.site.bodies)
    faces = [
        {i: (x.name, rgb(x.colour) if x.colour else None) for i, x in looks.get(id_, {}).items()}
        for id_, _, _ in held
    ]
    inches = part.units.length == "in"
    return kernel.write_step(
        bodies,
        inches=inches,
        faces=faces,
        through=through,
        part=part.name,
        number=part.about.number,
        author=part.about.drawn_by,
    )


def _coloured(part: Part, body: str) -> bool:
    look = part.looks.get(body)
    return bool(look and look.colour)


def _through(part: Part, body: str) -> bool:
    look = part.looks.get(body)
    return bool(look and look.through)


register(Format("step", "model/step", "STEP, exact solids and sheets", _write, ("part", "bodies")))
