"""what a plant of a trial costs, as it was typed and kept"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_2100_costs"
down_revision = "20261130_2030_price"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("trial", sa.Column("costs", sa.JSON(none_as_null=True), nullable=True))


def downgrade() -> None:
    op.drop_column("trial", "costs")
