"""care of some arms"""

import sqlalchemy as sa
from alembic import op

revision = "20261129_2110_care_by_arm"
down_revision = "20261129_2050_notes"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("job", sa.Column("arms", sa.String(60), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("job", "arms")
