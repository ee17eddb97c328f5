"""lengths clicked on photos"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261130_1550_photo_length"
down_revision = "20261130_1430_minutes"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "photo_length",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("photo_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), server_default="1", nullable=False),
        sa.Column("points", sa.JSON(), nullable=False),
        sa.Column("scale", sa.JSON(), nullable=False),
        sa.Column("scale_mm", sa.Double(), nullable=False),
        sa.Column("mm", sa.Double(), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("request_key", sa.String(length=40), nullable=True),
        sa.Column("withdrawn", sa.String(length=300), server_default="", nullable=False),
        sa.CheckConstraint("mm > 0 and mm <= 2000", name=op.f("ck_photo_length_mm_range")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_photo_length_trial_id_trial")),
        sa.ForeignKeyConstraint(["photo_id"], ["photo.id"], name=op.f("fk_photo_length_photo_id_photo")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_photo_length_person_id_person")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_photo_length")),
        sa.UniqueConstraint("request_key", name=op.f("uq_photo_length_request_key")),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("photo_length")
