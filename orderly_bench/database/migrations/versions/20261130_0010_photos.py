"""photos of units and trays"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261130_0010_photos"
down_revision = "20261129_2350_plant_ends"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "photo",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("unit_id", sa.Integer(), nullable=True),
        sa.Column("tray", sa.Integer(), nullable=True),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("shows", sa.String(10), nullable=False),
        sa.Column("note", sa.String(200), nullable=False),
        sa.Column("digest", sa.String(64), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("request_key", sa.String(40), nullable=True),
        sa.Column("withdrawn", sa.String(300), nullable=False, server_default=""),
        sa.CheckConstraint("shows in ('tops','roots','other')", name=op.f("ck_photo_shows_known")),
        sa.CheckConstraint("width > 0 and height > 0", name=op.f("ck_photo_has_size")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_photo_person_id_person")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_photo_trial_id_trial")),
        sa.ForeignKeyConstraint(
            ["unit_id", "trial_id"], ["unit.id", "unit.trial_id"], name=op.f("fk_photo_unit_id_unit")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_photo")),
        sa.UniqueConstraint("request_key", name=op.f("uq_photo_request_key")),
        sa.Index("ix_photo_trial_id_day", "trial_id", "day"),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("photo")
