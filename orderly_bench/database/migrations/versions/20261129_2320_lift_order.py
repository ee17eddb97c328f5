"""the order in which units are lifted"""

import sqlalchemy as sa
from alembic import op

revision = "20261129_2320_lift_order"
down_revision = "20261129_2310_lot_came"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("check_visit", sa.Column("lift_order", sa.JSON(), nullable=True))


def downgrade() -> None:
    op.drop_column("check_visit", "lift_order")
