"""how pieces are got out of the medium at a check"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_1800_lifting"
down_revision = "20261130_1730_sample"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("check_visit", sa.Column("lifting", sa.String(20), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("check_visit", "lifting")
