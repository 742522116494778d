"""Revisions as differences from one that is kept whole"""

import sqlalchemy as sa
from alembic import op

from iron_gulp.storage.differences import told

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("revision", sa.Column("base_number", sa.Integer, nullable=True))
    op.add_column("revision", sa.Column("difference", sa.LargeBinary, nullable=True))
    connection = op.get_bind()
    builds = connection.execute(sa.text("SELECT DISTINCT build_id FROM revision")).scalars().all()
    for build in builds:
        last: tuple[int, str] | None = None
        rows = connection.execute(
            sa.text("SELECT id, number, body FROM revision WHERE build_id = :build ORDER BY number"), {"build": build}
        ).all()
        for row, number, body in rows:
            kept = None if last is None else told(body, *last)
            if kept is None or kept.base is None:
                last = (number, body)
                continue
            connection.execute(
                sa.text("UPDATE revision SET body = '', base_number = :base, difference = :difference WHERE id = :id"),
                {"base": kept.base, "difference": kept.difference, "id": row},
            )


def downgrade() -> None:
    raise NotImplementedError("differences are not made whole again; restore a copy of the database")
