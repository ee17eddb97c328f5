"""care by steps, and until something is seen"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_0300_care_steps"
down_revision = "20261130_0150_forecast"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("job", sa.Column("step", sa.String(60), nullable=False, server_default=""))
    op.add_column("job", sa.Column("until", sa.String(40), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("job", "until")
    op.drop_column("job", "step")
