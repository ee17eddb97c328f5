"""the day a care job was done on, and why one was left out"""

import sqlalchemy as sa
from alembic import op

revision = "20261129_2010_care"
down_revision = "20261129_2000_conditions"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("job", sa.Column("done_on", sa.Date(), nullable=True))
    op.add_column("job", sa.Column("skipped", sa.String(200), nullable=False, server_default=""))
    op.execute("UPDATE job SET done_on = DATE(done_at) WHERE done_at IS NOT NULL")


def downgrade() -> None:
    op.drop_column("job", "skipped")
    op.drop_column("job", "done_on")
