"""the band of the air of a method card"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_1220_band"
down_revision = "20261130_1200_note_of"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for name in ("low_c", "high_c"):
        op.add_column("method_card", sa.Column(name, sa.Double(), nullable=True))


def downgrade() -> None:
    for name in ("high_c", "low_c"):
        op.drop_column("method_card", name)
