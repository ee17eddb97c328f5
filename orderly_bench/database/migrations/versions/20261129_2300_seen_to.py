"""what was seen to before sticking"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261129_2300_seen_to"
down_revision = "20261129_2130_calendar"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "seen_to",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("item", sa.String(20), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_seen_to_person_id_person")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_seen_to_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_seen_to")),
        sa.UniqueConstraint("trial_id", "item", name=op.f("uq_seen_to_trial_id_item")),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("seen_to")
