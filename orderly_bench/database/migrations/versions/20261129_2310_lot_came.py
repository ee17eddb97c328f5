"""how a lot came to the bench"""

import sqlalchemy as sa
from alembic import op

revision = "20261129_2310_lot_came"
down_revision = "20261129_2300_seen_to"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("lot", sa.Column("came", sa.JSON(), nullable=False, server_default="{}"))


def downgrade() -> None:
    op.drop_column("lot", "came")
