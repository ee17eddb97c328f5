"""the power curve of a design, kept with its digest"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261126_2340_curve_kept"
down_revision = "20261126_2330_side_count"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "curve_kept",
        sa.Column("trial_id", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("digest", sa.String(64), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("found", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_curve_kept_trial_id_trial")),
        sa.PrimaryKeyConstraint("trial_id", name=op.f("pk_curve_kept")),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("curve_kept")
