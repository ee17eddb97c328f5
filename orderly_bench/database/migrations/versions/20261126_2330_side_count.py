"""what became of the groups beside a trial"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261126_2330_side_count"
down_revision = "20261126_2110_medium_ready"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "side_count",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("group_name", sa.String(60), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        *(sa.Column(name, sa.Integer(), nullable=False) for name in ("stuck", "rooted", "bare", "dead")),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.CheckConstraint(
            "stuck > 0 and rooted >= 0 and bare >= 0 and dead >= 0", name=op.f("ck_side_count_counts_not_below_0")
        ),
        sa.CheckConstraint("rooted + bare + dead <= stuck", name=op.f("ck_side_count_counts_add_up")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_side_count_trial_id_trial")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_side_count_person_id_person")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_side_count")),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("side_count")
