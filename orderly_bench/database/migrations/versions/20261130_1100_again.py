"""a day on which plants that were not fit are looked at again"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_1100_again"
down_revision = "20261130_1040_beside"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("trial", sa.Column("plants_again", sa.Date(), nullable=True))


def downgrade() -> None:
    op.drop_column("trial", "plants_again")
