"""All that was ever kept of a part: its versions, what they are called, and where the part came from."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from wendal.core import files

from .models import ContentTable, PartTable, RevisionTable
from .packing import packed, unpacked
from .rows import PartState, VersionRow
from .transactions import NoSuchPart, Stale, StoreError, Transactions

__all__ = ["Versions"]


class Versions(Transactions):
    """Versions of parts."""

    def versions(self, part: int) -> list[VersionRow]:
        """Return all versions of a part, the latest first."""
        with self._transaction() as session:
            row = self._part(session, part)
            kept = RevisionTable
            columns = (kept.id, kept.number, kept.parent, kept.summary, kept.name, kept.made, kept.other)
            found = session.execute(
                select(*columns).where(kept.part_id == part).order_by(kept.number.desc())
            ).all()
            numbers = {r.id: r.number for r in found}
            others = {r.other for r in found if r.other}
            beside = session.execute(select(kept.id, kept.part_id, kept.number).where(kept.id.in_(others)))
            places = {id_: (of, number) for id_, of, number in beside} if others else {}
            return [
                VersionRow(
                    r.number,
                    numbers.get(r.parent, 0),
                    r.summary,
                    r.name,
                    r.made,
                    places.get(r.other, (0, 0)),
                    r.id == row.head,
                )
                for r in found
            ]

    def version(self, part: int, number: int) -> PartState:
        """Return a part as it was at a version; nothing is undone from there."""
        with self._transaction() as session:
            row, kept = self._part(session, part), self._revision(session, part, number)
            found = PartState(
                part, unpacked(kept.document), kept.number, row.edition, "", "", f"{kept.made:%Y-%m-%d}"
            )
        self._fetch_content(found.document)
        return found

    def name_version(self, part: int, number: int, name: str) -> None:
        """Call a version by a name, "" for none; raises StoreError for one that another version has."""
        name = name.strip()[:80]
        with self._transaction() as session:
            kept = self._revision(session, part, number)
            same = select(RevisionTable.number).where(
                RevisionTable.part_id == part, RevisionTable.name == name, RevisionTable.number != number
            )
            taken = session.scalar(same) if name else None
            if taken is not None:
                raise StoreError(f"v{taken} is called “{name}” already; choose another name.")
            kept.name = name

    def keep_shaken(self, part: int, number: int, report: str) -> None:
        """Keep what a shakedown of a version came to."""
        with self._transaction() as session:
            self._revision(session, part, number).shaken = packed(report)

    def last_shaken(self, part: int, most: int = 0) -> tuple[int, str] | None:
        """Return the newest version that was shaken down (of those up to `most`, 0 for all), and what that
        came to; None where none was."""
        kept = RevisionTable
        wanted = select(kept.number, kept.shaken).where(kept.part_id == part, kept.shaken.is_not(None))
        if most:
            wanted = wanted.where(kept.number <= most)
        with self._transaction() as session:
            found = session.execute(wanted.order_by(kept.number.desc()).limit(1)).first()
        return (found[0], unpacked(found[1] or "")) if found else None

    def origin(self, part: int) -> tuple[int, int]:
        """Return the part and the version that a part was branched from, (0, 0) for none."""
        with self._transaction() as session:
            kept = session.get(RevisionTable, self._part(session, part).origin)
            return (kept.part_id, kept.number) if kept else (0, 0)

    def branches(self, part: int) -> list[tuple[int, int]]:
        """Return the parts that were branched from one, with the version each began at."""
        with self._transaction() as session:
            found = session.execute(
                select(PartTable.id, RevisionTable.number)
                .join(RevisionTable, RevisionTable.id == PartTable.origin)
                .where(RevisionTable.part_id == part, PartTable.gone.is_(None))
            )
            return [(id_, number) for id_, number in found]

    def lineage(self, part: int, number: int) -> list[tuple[int, int]]:
        """Return what a version came from, itself first: parents, what was brought together with it, and on
        into the part that it was branched from."""
        with self._transaction() as session:
            found: dict[int, tuple[int, int]] = {}
            waiting = [self._revision(session, part, number).id]
            while waiting:
                kept = session.get(RevisionTable, waiting.pop(0))
                if kept is None or kept.id in found:
                    continue
                found[kept.id] = (kept.part_id, kept.number)
                origin = 0 if kept.parent else session.get_one(PartTable, kept.part_id).origin
                waiting += [id_ for id_ in (kept.parent, kept.other, origin) if id_]
            return list(found.values())

    def put_content(self, content: bytes) -> str:
        """Keep a file that parts are made with; return its digest."""
        digest = files.put(content)
        with self._transaction() as session:
            if session.get(ContentTable, digest) is None:
                session.add(ContentTable(digest=digest, bytes=content))
        return digest

    def _fetch_content(self, document: str) -> None:
        """Have the files that a document uses at hand for the workers."""
        missing = [d for d in files.used_in(document) if not files.has(d)]
        if missing:
            with self._transaction() as session:
                for digest in missing:
                    held = session.get(ContentTable, digest)
                    if held is not None:
                        files.put(held.bytes)

    @staticmethod
    def _part(session: Session, part: int, edition: int | None = None, *, binned: bool = False) -> PartTable:
        """Return a part's row; binned : one in the bin too."""
        row = session.get(PartTable, part, with_for_update=edition is not None)
        if row is None or (row.gone is not None and not binned):
            where = "; it lies in the bin" if row else "; it may have been deleted"
            raise NoSuchPart(f"There is no such part{where}.")
        if edition is not None and row.edition != edition:
            raise Stale()
        return row

    @staticmethod
    def _revision(session: Session, part: int, number: int) -> RevisionTable:
        found = session.scalar(
            select(RevisionTable).where(RevisionTable.part_id == part, RevisionTable.number == number)
        )
        if found is None:
            raise StoreError(f"There is no version {number} of this part.")
        return found
