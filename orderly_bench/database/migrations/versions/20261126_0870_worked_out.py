"""results that were worked out survive a restart"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import MEDIUMBLOB

from orderly_bench.database import base

revision = "20261126_0870_worked_out"
down_revision = "20261126_0860_unchangeable"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "worked_out",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("day", sa.Integer(), nullable=False),
        sa.Column("stamp", sa.String(64), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("signed", MEDIUMBLOB(), nullable=False),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_worked_out_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_worked_out")),
        sa.UniqueConstraint("trial_id", "day", name=op.f("uq_worked_out_trial_id_day")),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("worked_out")
