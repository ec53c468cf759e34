"""Parts and their revisions: every accepted command one transaction; undo and redo are moves of the head."""

from __future__ import annotations

import json

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from wendal.core.errors import DocumentError
from wendal.core.route import read_part

from .models import PartTable, RevisionTable, now
from .packing import packed, unpacked
from .rows import PartRow, PartState
from .transactions import StoreDown, StoreError
from .versions import Versions

__all__ = ["PartRow", "PartState", "PartStore", "StoreDown", "StoreError", "unpacked"]


class PartStore(Versions):
    """All parts."""

    def step_of(self, part: int, key: str) -> str | None:
        """Return the step of an edit that was kept under a key of its own, None where there is none."""
        with self._transaction() as session:
            record = session.scalar(
                select(RevisionTable.command).where(RevisionTable.part_id == part, RevisionTable.edit == key)
            )
            return None if record is None else str(json.loads(record)["step"])

    def list(self, *, binned: bool = False) -> list[PartRow]:
        """Return all parts, the latest changed first. binned : those in the bin instead."""
        with self._transaction() as session:
            found = session.execute(
                select(PartTable, RevisionTable.number)
                .join(RevisionTable, RevisionTable.id == PartTable.head)
                .where(PartTable.gone.is_not(None) if binned else PartTable.gone.is_(None))
                .order_by(PartTable.changed.desc(), PartTable.id.desc())
            )
            return [_row(part, number) for part, number in found]

    def create(self, name: str, document: str, summary: str, origin: tuple[int, int] = (0, 0)) -> PartState:
        """Keep a new part with its first revision; raises DocumentError for what is no part. origin : the
        part and version it is branched from."""
        _check(name, document)
        with self._transaction() as session:
            from_ = self._revision(session, *origin).id if origin != (0, 0) else 0
            part = PartTable(name=name, head=0, tip=0, edition=1, picture="", picture_of=0, origin=from_)
            part.number = _number_in(document)
            session.add(part)
            session.flush()
            first = RevisionTable(
                part_id=part.id, number=1, parent=0, summary=summary, command="", document=packed(document)
            )
            session.add(first)
            session.flush()
            part.head = part.tip = first.id
            return self._state(session, part)

    def state(self, part: int) -> PartState:
        """Return a part as it stands, the files that it uses at hand; raises NoSuchPart."""
        with self._transaction() as session:
            found = self._state(session, self._part(session, part))
        self._fetch_content(found.document)
        return found

    def commit(
        self,
        part: int,
        edition: int,
        name: str,
        document: str,
        summary: str,
        command: str,
        other: tuple[int, int] = (0, 0),
    ) -> PartState:
        """Keep a new revision on top of the head; raises Stale when the part is at another edition,
        DocumentError for what is no part. other : a part and its version that is brought together with it.

        One whose key (in the record, `command`) was kept before is there already, and nothing is done.
        """
        _check(name, document)
        key = _key_in(command)
        with self._transaction() as session:
            if key and self._is_kept(session, part, key):
                return self._state(session, self._part(session, part))
            row = self._part(session, part, edition)
            head = session.get_one(RevisionTable, row.head)
            number = 1 + (
                session.scalar(select(func.max(RevisionTable.number)).where(RevisionTable.part_id == part))
                or 0
            )
            new = RevisionTable(
                part_id=part,
                number=number,
                parent=head.id,
                summary=summary[:200],
                command=command,
                document=packed(document),
                edit=key or None,
                other=self._revision(session, *other).id if other != (0, 0) else 0,
            )
            session.add(new)
            session.flush()
            row.head = row.tip = head.following = new.id
            self._touch(row, document)
            return self._state(session, row)

    @staticmethod
    def _is_kept(session: Session, part: int, key: str) -> bool:
        found = select(RevisionTable.id).where(RevisionTable.part_id == part, RevisionTable.edit == key)
        return session.scalar(found) is not None

    def undo(self, part: int, edition: int) -> PartState:
        """Move the head to its parent; raises StoreError at the beginning."""
        with self._transaction() as session:
            row = self._part(session, part, edition)
            head = session.get_one(RevisionTable, row.head)
            if not head.parent:
                raise StoreError("There is nothing before this to go back to.")
            session.get_one(RevisionTable, head.parent).following = head.id
            return self._move(session, row, head.parent)

    def redo(self, part: int, edition: int) -> PartState:
        """Move the head one revision towards the tip; raises StoreError at the tip."""
        with self._transaction() as session:
            row = self._part(session, part, edition)
            following = self._following(session, row)
            if following is None:
                raise StoreError("There is nothing after this to go forward to.")
            return self._move(session, row, following.id)

    def _move(self, session: Session, row: PartTable, head: int) -> PartState:
        row.head = head
        state = self._state(session, row)
        self._touch(row, state.document)
        return self._state(session, row)

    def set_picture(self, part: int, version: int, picture: str) -> None:
        """Keep the small picture of a version."""
        with self._transaction() as session:
            row = self._part(session, part)
            of = session.scalar(
                select(RevisionTable.id).where(RevisionTable.part_id == part, RevisionTable.number == version)
            )
            row.picture, row.picture_of = picture, of or 0

    def picture(self, part: int) -> str:
        """Return the latest small picture, "" for none yet."""
        with self._transaction() as session:
            return self._part(session, part).picture

    def delete(self, part: int, *, for_good: bool = False) -> None:
        """Put a part into the bin. for_good : take it from there with all its revisions; raises StoreError
        for one that is not in the bin."""
        with self._transaction() as session:
            row = self._part(session, part, binned=for_good)
            if not for_good:
                row.gone = now()
            elif row.gone is None:
                raise StoreError("This part is not in the bin; it was taken out of it meanwhile.")
            else:
                session.delete(row)

    def bring_back(self, part: int) -> None:
        """Take a part out of the bin."""
        with self._transaction() as session:
            self._part(session, part, binned=True).gone = None

    def set_labels(self, part: int, labels: str) -> None:
        """File a part under labels, by commas."""
        with self._transaction() as session:
            words = (" ".join(x.split()) for x in labels.split(","))
            self._part(session, part).labels = ", ".join(dict.fromkeys(w for w in words if w))[:200]

    @staticmethod
    def _touch(row: PartTable, document: str) -> None:
        row.name, row.number = _name_in(document), _number_in(document)
        row.edition, row.changed = row.edition + 1, now()

    @staticmethod
    def _following(session: Session, row: PartTable) -> RevisionTable | None:
        """Return the revision after the head on the way to the tip."""
        after = session.get_one(RevisionTable, row.head).following if row.head != row.tip else 0
        return session.get(RevisionTable, after) if after else None

    def _state(self, session: Session, row: PartTable) -> PartState:
        session.flush()
        head = session.get_one(RevisionTable, row.head)
        following = self._following(session, row)
        return PartState(
            row.id,
            unpacked(head.document),
            head.number,
            row.edition,
            head.summary if head.parent else "",
            following.summary if following else "",
            f"{head.made:%Y-%m-%d}",
        )


def _check(name: str, document: str) -> None:
    """Nothing but a part that can be read again is ever kept; raises DocumentError."""
    if read_part(document).name != name:
        raise DocumentError("This part is kept under another name than its own.", field="name")


def _key_in(record: str) -> str:
    """Return the key of the edit in its record, "" for none."""
    return str(json.loads(record).get("key", ""))[:64] if record.startswith("{") else ""


def _name_in(document: str) -> str:
    return str(json.loads(document)["name"])


def _number_in(document: str) -> str:
    """Return the part number that a document tells."""
    return str(json.loads(document).get("about", {}).get("number", ""))[:80]


def _row(part: PartTable, version: int) -> PartRow:
    fresh = part.picture_of == part.head
    return PartRow(part.id, part.name, version, part.changed, fresh, part.labels, part.number, part.gone)
