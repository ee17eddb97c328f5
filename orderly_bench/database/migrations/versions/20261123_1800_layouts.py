"""layouts beside complete blocks"""

import sqlalchemy as sa
from alembic import op

revision = "20261123_1800_layouts"
down_revision = "20261123_1410_first_tables"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("trial", sa.Column("cuttings_per_unit", sa.Integer(), nullable=False, server_default="1"))
    op.add_column("trial", sa.Column("block_size", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("trial", sa.Column("whole_factor", sa.String(length=60), nullable=False, server_default=""))
    op.add_column("trial", sa.Column("assumed_icc", sa.Double(), nullable=True))


def downgrade() -> None:
    for column in ("assumed_icc", "whole_factor", "block_size", "cuttings_per_unit"):
        op.drop_column("trial", column)
