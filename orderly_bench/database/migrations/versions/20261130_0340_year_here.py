"""a place's frosts and hot weeks"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_0340_year_here"
down_revision = "20261130_0320_by_hand"
branch_labels = None
depends_on = None
DAYS = ("last_frost", "first_frost", "hot_from", "hot_to")


def upgrade() -> None:
    for name in DAYS:
        op.add_column("lab", sa.Column(name, sa.String(5), nullable=False, server_default=""))


def downgrade() -> None:
    for name in reversed(DAYS):
        op.drop_column("lab", name)
