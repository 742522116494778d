"""What the shop told once: its rates"""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "setting",
        sa.Column("name", sa.String(40), primary_key=True),
        sa.Column("body", sa.Text, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("setting")
