"""a count on the table that differs from the scores"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_0620_table"
down_revision = "20261130_0600_along"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("check_visit", sa.Column("on_table", sa.String(300), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("check_visit", "on_table")
