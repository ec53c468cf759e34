"""The tables: parts, and their revisions."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import DateTime, ForeignKey, MetaData, String, Text, UniqueConstraint
from sqlalchemy.dialects.mysql import LONGBLOB, LONGTEXT
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

__all__ = ["Base", "ContentTable", "PartTable", "RevisionTable", "now"]


def now() -> datetime:
    """Return the time as it is stored: UTC without a zone."""
    return datetime.now(UTC).replace(tzinfo=None)


class Base(DeclarativeBase):
    """All tables of Wendal."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(column_0_label)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
            "pk": "pk_%(table_name)s",
        }
    )


class PartTable(Base):
    """A part. head : the revision shown. tip : the end of the line that redo follows. edition : counts every
    change of head, so that an edit made against an older state is recognised.

    origin : the revision (of any part) that it was branched from, 0 for none. gone : when it was put into the
    bin, None while it is not. labels : what it is filed under, by commas. number : its part number, as in its
    document, so that it is found by it.
    """

    __tablename__ = "part"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    head: Mapped[int]
    tip: Mapped[int]
    edition: Mapped[int] = mapped_column(default=1)
    picture: Mapped[str] = mapped_column(LONGTEXT, default="")
    picture_of: Mapped[int] = mapped_column(default=0)
    changed: Mapped[datetime] = mapped_column(DateTime, default=now)
    origin: Mapped[int] = mapped_column(default=0)
    gone: Mapped[datetime | None] = mapped_column(DateTime, default=None)
    labels: Mapped[str] = mapped_column(String(200), default="")
    number: Mapped[str] = mapped_column(String(80), default="")


class RevisionTable(Base):
    """One state of a part, never changed afterwards. following : what redo goes to from it, 0 for nothing.
    edit : the key of the edit that made it, by which one that is sent again is known; None without one.
    name : what it was called, "" for nothing. other : the revision that was brought together with its parent,
    0 for none. shaken : what the last shakedown of it came to, packed; None where there was none."""

    __tablename__ = "revision"
    __table_args__ = (
        UniqueConstraint("part_id", "number"),
        UniqueConstraint("part_id", "edit", name="uq_revision_edit"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    part_id: Mapped[int] = mapped_column(ForeignKey("part.id", ondelete="CASCADE"), index=True)
    number: Mapped[int]
    parent: Mapped[int]
    following: Mapped[int] = mapped_column(default=0)
    summary: Mapped[str] = mapped_column(String(200))
    command: Mapped[str] = mapped_column(Text().with_variant(LONGTEXT, "mysql", "mariadb"))
    document: Mapped[str] = mapped_column(LONGTEXT)
    edit: Mapped[str | None] = mapped_column(String(64), default=None)
    made: Mapped[datetime] = mapped_column(DateTime, default=now)
    name: Mapped[str] = mapped_column(String(80), default="")
    other: Mapped[int] = mapped_column(default=0)
    shaken: Mapped[str | None] = mapped_column(LONGTEXT, default=None, deferred=True)


class ContentTable(Base):
    """A file that parts were made with, by the digest of its content; shared by versions and copies."""

    __tablename__ = "content"

    digest: Mapped[str] = mapped_column(String(64), primary_key=True)
    bytes: Mapped[bytes] = mapped_column(LONGBLOB)
    made: Mapped[datetime] = mapped_column(DateTime, default=now)
