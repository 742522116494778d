"""Stored builds in version 2 of the build file: duties are called targets"""

import json

import sqlalchemy as sa
from alembic import op

from iron_gulp.core.model import upgraded

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    connection = op.get_bind()
    for number, body in connection.execute(sa.text("SELECT id, body FROM revision")).all():
        try:
            data = json.loads(body)
        except ValueError:
            continue  # not a build file: the application says so when it is opened
        if isinstance(data, dict) and data.get("schema_version") == 1:
            text = json.dumps(upgraded(data, 2), indent=2, ensure_ascii=False) + "\n"
            connection.execute(sa.text("UPDATE revision SET body = :body WHERE id = :id"), {"body": text, "id": number})
    for number, summary in connection.execute(sa.text("SELECT id, summary FROM build")).all():
        told = json.loads(summary)
        renamed = {{"duty": "target", "duties": "targets"}.get(key, key): value for key, value in told.items()}
        connection.execute(
            sa.text("UPDATE build SET summary = :summary WHERE id = :id"), {"summary": json.dumps(renamed), "id": number}
        )


def downgrade() -> None:
    raise NotImplementedError("builds of version 2 are not written back as version 1; restore a copy of the database")
