"""Files that parts were made with, by the digest of their content."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import LONGBLOB

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    """Add the table."""
    op.create_table(
        "content",
        sa.Column("digest", sa.String(64), nullable=False),
        sa.Column("bytes", LONGBLOB, nullable=False),
        sa.Column("made", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("digest", name="pk_content"),
    )
