"""steps at the tray: of a method card, and those ticked of a lot"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "20261130_0840_steps"
down_revision = "20261130_0820_waiting"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("method_card", sa.Column("steps", sa.String(500), nullable=False, server_default=""))
    op.add_column("lot", sa.Column("steps", mysql.JSON(), nullable=False, server_default="{}"))


def downgrade() -> None:
    op.drop_column("lot", "steps")
    op.drop_column("method_card", "steps")
