"""Copies of all parts with all their revisions, in one file: made while Wendal runs or not, proved before it
is trusted.

A copy is lines of JSON, compressed. The first line says what it is, of which form the tables were and what it
counts; then every part and every revision; the last line seals all lines before it with a checksum. It is
read in one snapshot of the database, so that whatever is edited meanwhile is in it wholly or not at all.
"""

from __future__ import annotations

import gzip
import hashlib
import json
import logging
import os
import time
import zlib
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, func, insert, select, text

from wendal.core.errors import WendalError
from wendal.core.route import read_part

from .database import Database
from .models import Base, PartTable, RevisionTable
from .parts import unpacked

__all__ = ["BackupError", "Content", "back_up", "back_up_often", "latest", "restore", "verify"]

log = logging.getLogger(__name__)
FORMAT, VERSION = "wendal-backup", 1
ENDING = ".wendal-backup"


class BackupError(WendalError):
    """A copy can not be made, read or taken back; nothing was changed."""

    code = "backup"


@dataclass(frozen=True, slots=True)
class Content:
    """What a copy holds. made : when, UTC."""

    parts: int
    revisions: int
    made: str


def back_up(database: Database, file: Path) -> Content:
    """Write all parts with all their revisions into a file; raises BackupError. What is there already is
    replaced only once the new one is whole and was read back."""
    new = file.with_name(f"{file.name}.{os.getpid()}.new")
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
        with database.engine.connect() as connection:
            connection.execute(text("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ"))
            connection.execute(text("START TRANSACTION WITH CONSISTENT SNAPSHOT"))
            _write(connection, new)
            connection.rollback()
        found = verify(new, thorough=False)
        new.replace(file)
    except OSError as error:
        raise BackupError(f"The copy was not made: {error.strerror or error} ({file}).") from error
    finally:
        with suppress(OSError):
            new.unlink()
    return found


def _write(connection: Connection, file: Path) -> None:
    seal = hashlib.sha256()
    counts = {
        "parts": connection.scalar(select(func.count()).select_from(PartTable)),
        "revisions": connection.scalar(select(func.count()).select_from(RevisionTable)),
    }
    form = connection.scalar(text("SELECT version_num FROM alembic_version"))
    made = datetime.now(UTC).isoformat(timespec="seconds")
    file.touch(mode=0o600)
    with file.open("wb") as raw, gzip.GzipFile(fileobj=raw, mode="wb", compresslevel=5, mtime=0) as stream:

        def line(data: dict[str, Any]) -> None:
            content = json.dumps(data, ensure_ascii=False, separators=(",", ":")).encode() + b"\n"
            seal.update(content)
            stream.write(content)

        line({"format": FORMAT, "version": VERSION, "tables": form, "made": made, **counts})
        for table in (PartTable, RevisionTable):
            for row in connection.execute(
                select(table.__table__).order_by(table.id).execution_options(yield_per=200)
            ).mappings():
                line({"of": table.__tablename__, **{k: _plain(v) for k, v in row.items()}})
        stream.write(json.dumps({"seal": seal.hexdigest()}).encode() + b"\n")
        stream.flush()
        os.fsync(raw.fileno())


def _plain(value: Any) -> Any:
    return value.isoformat() if isinstance(value, datetime) else value


def _lines(file: Path) -> Iterator[dict[str, Any]]:
    """Yield the lines of a copy, its seal proved at the end; raises BackupError."""
    seal = hashlib.sha256()
    try:
        with gzip.open(file, "rb") as stream:
            for content in stream:
                data = json.loads(content)
                if "seal" in data:
                    if data["seal"] != seal.hexdigest() or stream.read(1):
                        raise BackupError(f"{file} is damaged: its content does not fit its seal.")
                    return
                seal.update(content)
                yield data
    except (OSError, EOFError, ValueError, zlib.error) as error:
        raise BackupError(f"{file} is no whole copy of Wendal's: {error}.") from error
    raise BackupError(f"{file} ends too early: its seal is missing.")


def verify(file: Path, *, thorough: bool = True) -> Content:
    """Prove that a copy is whole: sealed, all counted, every head, tip and parent there; thorough : and every
    document a part that can be read. Raises BackupError."""
    for _ in _lines(file):
        pass  # nothing in it is read before its seal is proved
    lines = _lines(file)
    first = next(lines, {})
    if first.get("format") != FORMAT:
        raise BackupError(f"{file} is no copy of Wendal's.")
    if first.get("version") != VERSION:
        raise BackupError(f"{file} was made by a newer Wendal (version {first.get('version')}).")
    parts: dict[int, dict[str, Any]] = {}
    owners: dict[int, tuple[int, int]] = {}
    for row in lines:
        if row["of"] == "part":
            parts[row["id"]] = row
            continue
        owners[row["id"]] = (row["part_id"], row["parent"])
        if thorough:
            try:
                read_part(unpacked(row["document"]))
            except (WendalError, ValueError) as error:
                raise BackupError(
                    f"In {file}, version {row['number']} of part {row['part_id']} can not be read: {error}"
                ) from error
    if (len(parts), len(owners)) != (first["parts"], first["revisions"]):
        raise BackupError(f"{file} says that it holds more or less than it does.")
    for part in parts.values():
        if any(owners.get(part[at], (0, 0))[0] != part["id"] for at in ("head", "tip")):
            raise BackupError(f"In {file}, the version shown of part {part['id']} is missing.")
    if any(part not in parts or (up and up not in owners) for part, up in owners.values()):
        raise BackupError(f"In {file}, a version has no part, or none before it.")
    return Content(len(parts), len(owners), first["made"])


def restore(database: Database, file: Path, *, replace: bool = False) -> Content:
    """Take all parts back from a copy, in one transaction. Raises BackupError where the copy is not whole, or
    where parts are there already and are not to be replaced."""
    found = verify(file)
    with database.engine.begin() as connection:
        if connection.scalar(select(func.count()).select_from(PartTable)):
            if not replace:
                raise BackupError(
                    "There are parts here already, and nothing was changed. Restore into an empty folder "
                    "(--data), or say --replace to have them replaced."
                )
            connection.execute(text("DELETE FROM revision"))
            connection.execute(text("DELETE FROM part"))
        tables: dict[str, type[Base]] = {t.__tablename__: t for t in (PartTable, RevisionTable)}
        columns = {name: {c.name for c in t.__table__.columns} for name, t in tables.items()}
        lines = _lines(file)
        next(lines)
        for row in lines:
            of = row.pop("of")
            values = {k: _dated(k, v) for k, v in row.items() if k in columns[of]}
            connection.execute(insert(tables[of]).values(**values))
    return found


def _dated(column: str, value: Any) -> Any:
    return datetime.fromisoformat(value) if column in ("changed", "made") else value


def back_up_often(database: Database, folder: Path, seconds: float, keep: int) -> None:
    """Make a copy again and again, for good; of those in the folder the latest `keep` stay. What goes wrong
    is logged, and it is tried again at the next time."""
    while True:
        stamp = datetime.now(UTC).strftime("%Y%m%d-%H%M%S")
        try:
            back_up(database, folder / f"{stamp}{ENDING}")
            for old in sorted(folder.glob(f"*{ENDING}"))[:-keep]:
                old.unlink()
        except Exception:  # whatever it is, the next one may be made
            log.exception("a copy of all parts could not be made")
        time.sleep(seconds)


def latest(folder: Path) -> str:
    """Return when the latest copy in a folder was made (ISO 8601, UTC), "" for none."""
    files = sorted(folder.glob(f"*{ENDING}")) if folder.is_dir() else []
    return (
        datetime.fromtimestamp(files[-1].stat().st_mtime, UTC).isoformat(timespec="seconds") if files else ""
    )
