"""Wendal's own readable JSON."""

from __future__ import annotations

import base64
import json

from .. import files
from ..errors import DocumentError
from ..route import Part, read_part, write_part
from .base import Format, Order, register


def _write(order: Order) -> bytes:
    """Write a part; files that it was made with lie in it, so that it is whole."""
    text = write_part(order.part)
    used = files.used_in(text)
    if not used:
        return text.encode()
    held = {d: base64.b64encode(files.load(d)).decode() for d in used}
    return (json.dumps({**json.loads(text), "files": held}, indent=1, ensure_ascii=False) + "\n").encode()


def _read(content: bytes) -> Part:
    """Read a part, and put its files where steps find them."""
    if b'"files"' not in content:
        return read_part(content)
    try:
        data = json.loads(content)
    except ValueError:
        return read_part(content)  # which says what is wrong
    held = data.pop("files", {}) if isinstance(data, dict) else {}
    for digest, text in held.items() if isinstance(held, dict) else ():
        try:
            found = base64.b64decode(str(text), validate=True)
        except ValueError as error:
            raise DocumentError("At files: this is no content of a file.", field="files") from error
        if files.put(found) != digest:
            raise DocumentError("At files: a file is not what its digest says.", field="files")
    return read_part(json.dumps(data))


register(
    Format(
        "json",
        "application/json",
        "Wendal part, with its whole route",
        _write,
        read=_read,
        bare=lambda part: True,
    )
)
