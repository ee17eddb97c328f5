"""ready although something is short: what, and why"""

import sqlalchemy as sa
from alembic import op

revision = "20261129_1800_prepared_anyway"
down_revision = "20261129_1750_sealed_secret"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("trial", sa.Column("prepared_anyway", sa.String(600), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("trial", "prepared_anyway")
