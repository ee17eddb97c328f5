"""a day of looking that is not sure"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_1020_about"
down_revision = "20261130_1000_after"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("check_visit", sa.Column("about", sa.Boolean(), nullable=False, server_default="0"))


def downgrade() -> None:
    op.drop_column("check_visit", "about")
