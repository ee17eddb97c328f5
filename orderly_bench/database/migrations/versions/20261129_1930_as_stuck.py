"""what is measured of a cutting as it goes in"""

import sqlalchemy as sa
from alembic import op

revision = "20261129_1930_as_stuck"
down_revision = "20261129_1830_held_most"
branch_labels = None
depends_on = None

COLUMNS = (("lot", "usual"), ("cutting", "own_measures"), ("cutting", "usual_measures"))


def upgrade() -> None:
    for table, column in COLUMNS:
        op.add_column(table, sa.Column(column, sa.JSON(), nullable=False, server_default="{}"))


def downgrade() -> None:
    for table, column in reversed(COLUMNS):
        op.drop_column(table, column)
