"""a root that was seen between checks"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_0420_sightings"
down_revision = "20261130_0400_details"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("note", sa.Column("sighting", sa.Boolean(), nullable=False, server_default="0"))


def downgrade() -> None:
    op.drop_column("note", "sighting")
