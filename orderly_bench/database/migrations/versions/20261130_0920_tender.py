"""who took on a trial's care"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_0920_tender"
down_revision = "20261130_0900_logger"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("trial", sa.Column("tended_by", sa.JSON(), nullable=False, server_default="[]"))


def downgrade() -> None:
    op.drop_column("trial", "tended_by")
