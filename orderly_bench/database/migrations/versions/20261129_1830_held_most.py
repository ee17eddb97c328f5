"""hours that pieces may be held before sticking"""

import sqlalchemy as sa
from alembic import op

revision = "20261129_1830_held_most"
down_revision = "20261129_1800_prepared_anyway"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("lab", sa.Column("held_most_hours", sa.Double(), nullable=False, server_default="12"))


def downgrade() -> None:
    op.drop_column("lab", "held_most_hours")
