"""how alike cuttings of one unit were, beside a trial's results: the guess for the next one"""

import sqlalchemy as sa
from alembic import op

revision = "20261126_2040_icc_kept"
down_revision = "20261126_1510_genera"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("worked_out", sa.Column("icc", sa.Double(), nullable=True))
    op.add_column("worked_out", sa.Column("icc_df", sa.Integer(), nullable=True))


def downgrade() -> None:
    op.drop_column("worked_out", "icc_df")
    op.drop_column("worked_out", "icc")
