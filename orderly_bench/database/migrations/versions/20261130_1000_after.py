"""nights of hardening, and trials that are put away"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261130_1000_after"
down_revision = "20261130_0940_brought"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("trial", sa.Column("archived", sa.Boolean(), nullable=False, server_default="0"))
    op.create_table(
        "hardening_night",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("out", sa.Boolean(), nullable=False),
        sa.Column("low_c", sa.Double(), nullable=True),
        sa.Column("nipped", sa.JSON(), nullable=False, server_default="{}"),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.CheckConstraint("low_c is null or low_c between -60 and 45", name=op.f("ck_hardening_night_low_range")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_hardening_night_trial_id_trial")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_hardening_night_person_id_person")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_hardening_night")),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("hardening_night")
    op.drop_column("trial", "archived")
