"""notes of a tray or an arm"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_1200_note_of"
down_revision = "20261130_1140_days"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("note", sa.Column("tray", sa.Integer(), nullable=True))
    op.add_column("note", sa.Column("arm", sa.String(length=4), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("note", "arm")
    op.drop_column("note", "tray")
