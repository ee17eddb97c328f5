"""large logger files that are read beside the page"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import MEDIUMBLOB

from orderly_bench.database import base

revision = "20261130_1120_intake"
down_revision = "20261130_1100_again"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "log_intake",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("zone", sa.String(length=60), nullable=False),
        sa.Column("low_c", sa.Double(), nullable=False),
        sa.Column("high_c", sa.Double(), nullable=False),
        sa.Column("clock", sa.String(length=60), nullable=False),
        sa.Column("columns", sa.JSON(), nullable=False),
        sa.Column("units", sa.JSON(), nullable=False),
        sa.Column("data", MEDIUMBLOB(), nullable=False),
        sa.Column("rows_done", sa.Integer(), nullable=False),
        sa.Column("rows_all", sa.Integer(), nullable=False),
        sa.Column("state", sa.String(length=10), nullable=False),
        sa.Column("told", sa.String(length=600), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("beat_at", base.Moment(), nullable=True),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.CheckConstraint(
            "state in ('waiting','reading','kept','refused','stopped')", name=op.f("ck_log_intake_state_known")
        ),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_log_intake_trial_id_trial")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_log_intake_person_id_person")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_log_intake")),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("log_intake")
