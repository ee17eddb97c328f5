"""what was read where units stood"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261129_2000_conditions"
down_revision = "20261129_1930_as_stuck"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "condition_log",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("zone", sa.String(60), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("digest", sa.String(64), nullable=False),
        sa.Column("low_c", sa.Double(), nullable=False),
        sa.Column("high_c", sa.Double(), nullable=False),
        sa.Column("first_day", sa.Date(), nullable=False),
        sa.Column("last_day", sa.Date(), nullable=False),
        sa.Column("report", sa.JSON(), nullable=False),
        sa.Column("days", sa.JSON(), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("withdrawn", sa.String(300), nullable=False, server_default=""),
        sa.CheckConstraint("low_c < high_c", name=op.f("ck_condition_log_band_in_order")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_condition_log_person_id_person")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_condition_log_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_condition_log")),
        sa.UniqueConstraint("trial_id", "digest", "zone", name=op.f("uq_condition_log_trial_id_digest_zone")),
        **base.TABLE,
    )
    op.create_table(
        "condition_log_unit",
        sa.Column("log_id", sa.Integer(), nullable=False),
        sa.Column("unit_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["log_id"], ["condition_log.id"], name=op.f("fk_condition_log_unit_log_id_condition_log")
        ),
        sa.ForeignKeyConstraint(["unit_id"], ["unit.id"], name=op.f("fk_condition_log_unit_unit_id_unit")),
        sa.PrimaryKeyConstraint("log_id", "unit_id", name=op.f("pk_condition_log_unit")),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("condition_log_unit")
    op.drop_table("condition_log")
