"""by how much a filling settles and how much is wasted, by container"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_0800_filling"
down_revision = "20261130_0620_table"
branch_labels = None
depends_on = None
COLUMNS = ("settling_percent", "waste_percent")


def upgrade() -> None:
    for name in COLUMNS:
        op.add_column("stock_container", sa.Column(name, sa.Double(), nullable=False, server_default="10"))


def downgrade() -> None:
    for name in COLUMNS:
        op.drop_column("stock_container", name)
