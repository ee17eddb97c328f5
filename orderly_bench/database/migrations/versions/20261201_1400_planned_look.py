"""an interim look that the plan named is of the day it was planned for"""

import sqlalchemy as sa
from alembic import op

revision = "20261201_1400_planned_look"
down_revision = "20261201_1030_labels"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("interim_look", sa.Column("of_day", sa.Integer, nullable=True))


def downgrade() -> None:
    op.drop_column("interim_look", "of_day")
