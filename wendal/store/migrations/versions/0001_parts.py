"""Parts and revisions."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import LONGTEXT

revision = "0001"
down_revision = None


def upgrade() -> None:
    """Make the two tables."""
    op.create_table(
        "part",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("head", sa.Integer, nullable=False),
        sa.Column("tip", sa.Integer, nullable=False),
        sa.Column("edition", sa.Integer, nullable=False),
        sa.Column("picture", LONGTEXT, nullable=False),
        sa.Column("picture_of", sa.Integer, nullable=False),
        sa.Column("changed", sa.DateTime, nullable=False),
    )
    op.create_table(
        "revision",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "part_id",
            sa.Integer,
            sa.ForeignKey("part.id", name="fk_revision_part_id_part", ondelete="CASCADE"),
            nullable=False,
        ),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("parent", sa.Integer, nullable=False),
        sa.Column("summary", sa.String(200), nullable=False),
        sa.Column("command", LONGTEXT, nullable=False),
        sa.Column("document", LONGTEXT, nullable=False),
        sa.Column("made", sa.DateTime, nullable=False),
        sa.UniqueConstraint("part_id", "number", name="uq_revision_part_id"),
    )
    op.create_index("ix_revision_part_id", "revision", ["part_id"])
