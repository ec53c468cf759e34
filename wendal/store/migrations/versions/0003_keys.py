"""The key of the edit that made a revision, once a part: by it an edit that is sent again is known."""

import json

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    """Add the column, and fill it from the records of the edits; of a key that was kept twice, the first."""
    op.add_column("revision", sa.Column("edit", sa.String(64), nullable=True))
    connection = op.get_bind()
    seen: set[tuple[int, str]] = set()
    rows = connection.execute(sa.text("SELECT id, part_id, command FROM revision ORDER BY id")).all()
    for row, part, command in rows:
        try:
            key = str(json.loads(command).get("key", ""))[:64] if command else ""
        except (ValueError, AttributeError):
            key = ""
        if key and (part, key) not in seen:
            seen.add((part, key))
            connection.execute(sa.text("UPDATE revision SET edit = :k WHERE id = :i"), {"k": key, "i": row})
    op.create_unique_constraint("uq_revision_edit", "revision", ["part_id", "edit"])
