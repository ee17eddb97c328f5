"""how a lab writes its days"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_1140_days"
down_revision = "20261130_1120_intake"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("lab", sa.Column("day_order", sa.String(length=12), nullable=False, server_default="ask"))
    op.create_check_constraint(op.f("ck_lab_day_order_known"), "lab", "day_order in ('ask','day first','month first')")


def downgrade() -> None:
    op.drop_constraint(op.f("ck_lab_day_order_known"), "lab", type_="check")
    op.drop_column("lab", "day_order")
