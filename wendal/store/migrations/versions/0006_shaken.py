"""What a shakedown of a version came to, kept with the version."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import LONGTEXT

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    """Add the column."""
    op.add_column("revision", sa.Column("shaken", LONGTEXT(), nullable=True))
