"""what else is said of a cutting's roots and shoot"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_0400_details"
down_revision = "20261130_0340_year_here"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("score", sa.Column("details", sa.JSON(), nullable=False, server_default="{}"))


def downgrade() -> None:
    op.drop_column("score", "details")
