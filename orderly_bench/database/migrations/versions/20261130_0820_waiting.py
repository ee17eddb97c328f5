"""pieces that wait half-way through sticking"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_0820_waiting"
down_revision = "20261130_0800_filling"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("wave", sa.Column("waiting_since", sa.DateTime(), nullable=True))
    op.add_column("wave", sa.Column("waiting_for", sa.String(20), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("wave", "waiting_for")
    op.drop_column("wave", "waiting_since")
