"""who has seen the arms of a trial, by record"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261126_1440_seen_arms"
down_revision = "20261126_1430_accounts"
branch_labels = None
depends_on = None

#: Reveals, interim looks, and whoever scored knowing the arms so far.
SO_FAR = """
    SELECT trial_id, person_id, MIN(at), 'so far' FROM (
        SELECT trial_id, person_id, at FROM reveal
        UNION ALL SELECT trial_id, person_id, at FROM interim_look
        UNION ALL SELECT c.trial_id, s.person_id, s.at FROM score s JOIN check_visit c ON c.id = s.check_id WHERE s.blind = 0
    ) AS known GROUP BY trial_id, person_id
"""


def upgrade() -> None:
    op.create_table(
        "seen_arms",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("how", sa.String(80), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_seen_arms_trial_id_trial")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_seen_arms_person_id_person")),
        sa.UniqueConstraint("trial_id", "person_id", name=op.f("uq_seen_arms_trial_id_person_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_seen_arms")),
        **base.TABLE,
    )
    op.execute(f"INSERT INTO seen_arms (trial_id, person_id, at, how) {SO_FAR}")


def downgrade() -> None:
    op.drop_table("seen_arms")
