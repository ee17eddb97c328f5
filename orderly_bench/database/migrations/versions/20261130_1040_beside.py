"""groups beside a trial that are trials of their own"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261130_1040_beside"
down_revision = "20261130_1020_about"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "side_trial",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("group_name", sa.String(length=60), nullable=False),
        sa.Column("own_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_side_trial_trial_id_trial")),
        sa.ForeignKeyConstraint(["own_id"], ["trial.id"], name=op.f("fk_side_trial_own_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_side_trial")),
        sa.UniqueConstraint("trial_id", "group_name", name=op.f("uq_side_trial_trial_id_group_name")),
        sa.UniqueConstraint("own_id", name=op.f("uq_side_trial_own_id")),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("side_trial")
