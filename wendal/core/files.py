"""Files that parts were made with, by the digest of their content: a folder that all processes read."""

from __future__ import annotations

import hashlib
import os
import re
from pathlib import Path
from tempfile import gettempdir

from .errors import DocumentError

__all__ = ["digest_of", "folder", "has", "load", "put", "use_folder", "used_in"]

VARIABLE = "WENDAL_FILES"  # by it the processes of one service share the folder
_USED = re.compile(r'"file": ?"([0-9a-f]{64})"')


def folder() -> Path:
    """Return the folder in which content lies."""
    held = os.environ.get(VARIABLE)
    return Path(held) if held else Path(gettempdir()) / f"wendal-files-{os.getuid()}"


def use_folder(path: Path) -> None:
    """Keep content in a folder from now on, in this process and those that it starts."""
    os.environ[VARIABLE] = str(path)


def digest_of(content: bytes) -> str:
    """Return the name of some content."""
    return hashlib.sha256(content).hexdigest()


def put(content: bytes) -> str:
    """Keep content; return its digest."""
    digest = digest_of(content)
    place = folder()
    place.mkdir(parents=True, exist_ok=True, mode=0o700)
    if not (place / digest).exists():
        new = place / f"{digest}.{os.getpid()}.new"
        new.write_bytes(content)
        new.replace(place / digest)
    return digest


def has(digest: str) -> bool:
    """Tell whether some content is there."""
    return (folder() / digest).is_file()


def load(digest: str) -> bytes:
    """Return content by its digest; raises DocumentError where it is not there, or is not what it was."""
    if not re.fullmatch(r"[0-9a-f]{64}", digest):
        raise DocumentError("This is no digest of a file.", field="file")
    try:
        content = (folder() / digest).read_bytes()
    except OSError as error:
        raise DocumentError(
            "The file that this was made from is not here. Read it again.", field="file"
        ) from error
    if digest_of(content) != digest:
        raise DocumentError("The file that this was made from is damaged. Read it again.", field="file")
    return content


def used_in(document: str) -> list[str]:
    """Return the digests of the content that a part's document uses."""
    return sorted(set(_USED.findall(document)))
