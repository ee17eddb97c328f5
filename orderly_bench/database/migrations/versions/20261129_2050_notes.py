"""dated lines of a trial"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261129_2050_notes"
down_revision = "20261129_2010_care"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "note",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("unit_id", sa.Integer(), nullable=True),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("text", sa.String(500), nullable=False),
        sa.Column("early", sa.Boolean(), nullable=False, server_default="0"),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("request_key", sa.String(40), nullable=True),
        sa.CheckConstraint("text <> ''", name=op.f("ck_note_says_something")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_note_person_id_person")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_note_trial_id_trial")),
        sa.ForeignKeyConstraint(
            ["unit_id", "trial_id"], ["unit.id", "unit.trial_id"], name=op.f("fk_note_unit_id_unit")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_note")),
        sa.UniqueConstraint("request_key", name=op.f("uq_note_request_key")),
        sa.Index("ix_note_trial_id_day", "trial_id", "day"),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("note")
