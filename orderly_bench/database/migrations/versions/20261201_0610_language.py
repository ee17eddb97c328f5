"""the language in which a person reads"""

import sqlalchemy as sa
from alembic import op

revision = "20261201_0610_language"
down_revision = "20261130_2100_costs"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("person", sa.Column("language", sa.String(16), server_default="", nullable=False))


def downgrade() -> None:
    op.drop_column("person", "language")
