"""the lab that a trial was taken in from"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_0940_brought"
down_revision = "20261130_0920_tender"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("trial", sa.Column("brought_from", sa.String(160), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("trial", "brought_from")
