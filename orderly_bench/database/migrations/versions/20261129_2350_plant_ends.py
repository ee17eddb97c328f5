"""where plants went after the end"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261129_2350_plant_ends"
down_revision = "20261129_2340_ways"
branch_labels = None
depends_on = None
FATES = "'kept','potted on','planted','given','sold','discarded','dead'"


def upgrade() -> None:
    op.create_table(
        "plant_end",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("cutting_id", sa.Integer(), nullable=False),
        sa.Column("fate", sa.String(12), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("note", sa.String(200), nullable=False),
        sa.Column("rights", sa.String(300), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.CheckConstraint(f"fate in ({FATES})", name=op.f("ck_plant_end_fate_known")),
        sa.CheckConstraint(
            "fate not in ('given','sold') or rights <> ''", name=op.f("ck_plant_end_rights_before_it_leaves")
        ),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_plant_end_person_id_person")),
        sa.ForeignKeyConstraint(
            ["cutting_id", "trial_id"], ["cutting.id", "cutting.trial_id"], name=op.f("fk_plant_end_cutting_id_cutting")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_plant_end")),
        sa.Index("ix_plant_end_trial_id", "trial_id"),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("plant_end")
