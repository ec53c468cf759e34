"""Which revision follows another on the line that redo goes along."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    """Add the column, and fill it from every part's tip backwards."""
    op.add_column("revision", sa.Column("following", sa.Integer, nullable=False, server_default="0"))
    connection = op.get_bind()
    for part, tip in connection.execute(sa.text("SELECT id, tip FROM part")).all():
        parents: dict[int, int] = dict(
            connection.execute(sa.text("SELECT id, parent FROM revision WHERE part_id = :p"), {"p": part})
            .tuples()
            .all()
        )
        at = tip
        while parents.get(at):
            connection.execute(
                sa.text("UPDATE revision SET following = :f WHERE id = :i"), {"f": at, "i": parents[at]}
            )
            at = parents[at]
