"""who is away, and who covers"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261130_0130_away"
down_revision = "20261130_0110_stuck_by"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "away",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("first_day", sa.Date(), nullable=False),
        sa.Column("last_day", sa.Date(), nullable=False),
        sa.Column("cover_id", sa.Integer(), nullable=True),
        sa.Column("note", sa.String(500), nullable=False),
        sa.Column("withdrawn", sa.Boolean(), nullable=False, server_default="0"),
        sa.Column("at", base.Moment(), nullable=False),
        sa.CheckConstraint("first_day <= last_day", name=op.f("ck_away_days_in_order")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_away_person_id_person")),
        sa.ForeignKeyConstraint(["cover_id"], ["person.id"], name=op.f("fk_away_cover_id_person")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_away")),
        sa.Index("ix_away_last_day", "last_day"),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("away")
