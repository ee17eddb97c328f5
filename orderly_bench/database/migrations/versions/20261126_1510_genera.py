"""the lab's own notes on genera, in place of the shipped ones"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261126_1510_genera"
down_revision = "20261126_1500_seen_stays"
branch_labels = None
depends_on = None

FLAGS = ("irritant", "toxic_people", "toxic_animals", "invasive", "protected", "quarantine")


def upgrade() -> None:
    op.create_table(
        "genus_note",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("genus", sa.String(40), nullable=False),
        *(sa.Column(flag, sa.Boolean(), nullable=False, server_default="0") for flag in FLAGS),
        sa.Column("note", sa.String(300), nullable=False, server_default=""),
        sa.Column("source", sa.String(200), nullable=False),
        sa.UniqueConstraint("genus", name=op.f("uq_genus_note_genus")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_genus_note")),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("genus_note")
