"""what a person reads where units stand"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261130_0320_by_hand"
down_revision = "20261130_0300_care_steps"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "hand_reading",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(40), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("units", sa.JSON(), nullable=False),
        sa.Column("state", sa.String(20), nullable=False, server_default=""),
        sa.Column("low", sa.Double(), nullable=True),
        sa.Column("high", sa.Double(), nullable=True),
        sa.Column("place", sa.String(60), nullable=False, server_default=""),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("request_key", sa.String(40), nullable=True),
        sa.Column("withdrawn", sa.String(300), nullable=False, server_default=""),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_hand_reading_person_id_person")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_hand_reading_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_hand_reading")),
        sa.UniqueConstraint("request_key", name=op.f("uq_hand_reading_request_key")),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("hand_reading")
