"""checks taken along on a device"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261130_0600_along"
down_revision = "20261130_0530_shelf"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "taken_along",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("check_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("key", sa.String(40), nullable=False),
        sa.Column("device", sa.String(120), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("back_at", base.Moment(), nullable=True),
        sa.Column("released", sa.String(300), nullable=False, server_default=""),
        sa.ForeignKeyConstraint(
            ["check_id", "trial_id"],
            ["check_visit.id", "check_visit.trial_id"],
            name=op.f("fk_taken_along_check_id_check_visit"),
        ),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_taken_along_person_id_person")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_taken_along_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_taken_along")),
        sa.UniqueConstraint("key", name=op.f("uq_taken_along_key")),
        **base.TABLE,
    )
    op.create_index("ix_taken_along_check", "taken_along", ["check_id"])


def downgrade() -> None:
    op.drop_table("taken_along")
