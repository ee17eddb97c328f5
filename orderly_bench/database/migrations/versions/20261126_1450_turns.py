"""a trial's changes take turns"""

import sqlalchemy as sa
from alembic import op

revision = "20261126_1450_turns"
down_revision = "20261126_1440_seen_arms"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for table in ("trial", "lab"):
        op.add_column(table, sa.Column("turn", sa.BigInteger(), nullable=False, server_default="0"))


def downgrade() -> None:
    for table in ("lab", "trial"):
        op.drop_column(table, "turn")
