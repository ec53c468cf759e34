"""3MF: one object a body, with its name and colour, in mm; the core specification 1.3 and basic materials."""

from __future__ import annotations

import io
import math
import zipfile
from xml.sax.saxutils import quoteattr

from .. import kernel
from .base import Format, Meshing, Order, register, solid_bodies
from .colours import colour_of

TYPES = (
    '<?xml version="1.0" encoding="UTF-8"?>'
    '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/>'
    "</Types>"
)
LINKS = (
    '<?xml version="1.0" encoding="UTF-8"?>'
    '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    '<Relationship Id="model" Target="/3D/3dmodel.model" '
    'Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'
)
WRAPPING = {"[Content_Types].xml": TYPES, "_rels/.rels": LINKS}
NOW = (1980, 1, 1, 0, 0, 0)  # the same part gives the same bytes


def _write(order: Order) -> bytes:
    part = order.part
    materials, objects, items = [], [], []
    for n, (id_, name, shape) in enumerate(solid_bodies(order, sheets=False)):
        mass = kernel.mass_of(shape)
        places, triangles = kernel.welded(shape, math.dist(mass.low, mass.high), order.options.share)
        red, green, blue = colour_of(part, id_)
        materials.append(f'<base name={quoteattr(name)} displaycolor="#{red:02X}{green:02X}{blue:02X}FF"/>')
        corners = "".join(f'<vertex x="{x:.7g}" y="{y:.7g}" z="{z:.7g}"/>' for x, y, z in places.tolist())
        faces = "".join(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in triangles.tolist())
        objects.append(
            f'<object id="{n + 2}" name={quoteattr(name)} type="model" pid="1" pindex="{n}"><mesh>'
            f"<vertices>{corners}</vertices><triangles>{faces}</triangles></mesh></object>"
        )
        items.append(f'<item objectid="{n + 2}"/>')
    model = (
        '<?xml version="1.0" encoding="UTF-8"?><model unit="millimeter" xml:lang="en" '
        'xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">'
        f'<metadata name="Title">{_text(part.name)}</metadata><metadata name="Application">Wendal</metadata>'
        f'<resources><basematerials id="1">{"".join(materials)}</basematerials>{"".join(objects)}</resources>'
        f"<build>{''.join(items)}</build></model>"
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for path, text in (
            ("[Content_Types].xml", TYPES),
            ("_rels/.rels", LINKS),
            ("3D/3dmodel.model", model),
        ):
            info = zipfile.ZipInfo(path, NOW)
            info.compress_type = zipfile.ZIP_DEFLATED
            archive.writestr(info, text)
    return out.getvalue()


def _text(words: str) -> str:
    return words.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


register(
    Format("3mf", "model/3mf", "3MF, triangles with names and colours", _write, ("part", "bodies"), Meshing)
)
