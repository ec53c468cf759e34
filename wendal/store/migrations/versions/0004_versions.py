"""Names and second parents of versions; where a part came from, the bin, and what parts are called by."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    """Add the columns."""
    op.add_column("revision", sa.Column("name", sa.String(80), nullable=False, server_default=""))
    op.add_column("revision", sa.Column("other", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("part", sa.Column("origin", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("part", sa.Column("gone", sa.DateTime(), nullable=True))
    op.add_column("part", sa.Column("labels", sa.String(200), nullable=False, server_default=""))
    op.add_column("part", sa.Column("number", sa.String(80), nullable=False, server_default=""))
