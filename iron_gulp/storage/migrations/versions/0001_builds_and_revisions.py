"""Builds and their revisions"""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "build",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("archived", sa.Boolean, nullable=False),
        sa.Column("created_at", sa.DateTime, nullable=False),
        sa.Column("touched_at", sa.DateTime, nullable=False),
        sa.Column("head_number", sa.Integer, nullable=False),
        sa.Column("summary", sa.JSON, nullable=False),
        sa.Column("load", sa.Float, nullable=True),
    )
    for column in ("name", "archived", "touched_at", "load"):
        op.create_index(f"ix_build_{column}", "build", [column])
    op.create_table(
        "revision",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("build_id", sa.Integer, sa.ForeignKey("build.id", ondelete="RESTRICT"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("parent_number", sa.Integer, nullable=True),
        sa.Column("created_at", sa.DateTime, nullable=False),
        sa.Column("note", sa.String(200), nullable=False),
        sa.Column("body", sa.Text, nullable=False),
        sa.UniqueConstraint("build_id", "number", name="uq_revision_build_number"),
    )
    op.create_index("ix_revision_build_parent", "revision", ["build_id", "parent_number"])


def downgrade() -> None:
    op.drop_table("revision")
    op.drop_table("build")
