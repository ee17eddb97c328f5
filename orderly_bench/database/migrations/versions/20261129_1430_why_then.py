"""an endpoint looked at outside its window says why"""

import sqlalchemy as sa
from alembic import op

revision = "20261129_1430_why_then"
down_revision = "20261127_0100_whole_tray"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("check_visit", sa.Column("why_then", sa.String(300), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("check_visit", "why_then")
