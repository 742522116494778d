"""Own shelf parts"""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "part",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("kind", sa.String(24), nullable=False),
        sa.Column("created_at", sa.DateTime, nullable=False),
        sa.Column("removed", sa.Boolean, nullable=False),
        sa.Column("body", sa.Text, nullable=False),
    )
    op.create_index("ix_part_kind", "part", ["kind"])


def downgrade() -> None:
    op.drop_table("part")
