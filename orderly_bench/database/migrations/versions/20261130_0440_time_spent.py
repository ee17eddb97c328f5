"""minutes of work"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261130_0440_time_spent"
down_revision = "20261130_0420_sightings"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "time_spent",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("work", sa.String(20), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("minutes", sa.Double(), nullable=False),
        sa.Column("arms", sa.String(60), nullable=False, server_default=""),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("request_key", sa.String(40), nullable=True),
        sa.Column("withdrawn", sa.String(300), nullable=False, server_default=""),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_time_spent_person_id_person")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_time_spent_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_time_spent")),
        sa.UniqueConstraint("request_key", name=op.f("uq_time_spent_request_key")),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("time_spent")
