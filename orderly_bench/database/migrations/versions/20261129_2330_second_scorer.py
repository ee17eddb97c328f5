"""a drawn share scored again by another"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261129_2330_second_scorer"
down_revision = "20261129_2320_lift_order"
branch_labels = None
depends_on = None
ROOTS = "'none','counted','seen, not counted','not looked'"


def upgrade() -> None:
    op.add_column("check_visit", sa.Column("second_of", sa.JSON(), nullable=True))
    op.create_table(
        "second_score",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("check_id", sa.Integer(), nullable=False),
        sa.Column("cutting_id", sa.Integer(), nullable=False),
        sa.Column("roots", sa.String(20), nullable=False),
        sa.Column("root_number", sa.Integer(), nullable=True),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.CheckConstraint(f"roots in ({ROOTS})", name=op.f("ck_second_score_roots_known")),
        sa.CheckConstraint(
            "root_number is null or root_number between 1 and 500", name=op.f("ck_second_score_root_number_range")
        ),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_second_score_person_id_person")),
        sa.ForeignKeyConstraint(
            ["check_id", "trial_id"],
            ["check_visit.id", "check_visit.trial_id"],
            name=op.f("fk_second_score_check_id_check_visit"),
        ),
        sa.ForeignKeyConstraint(
            ["cutting_id", "trial_id"],
            ["cutting.id", "cutting.trial_id"],
            name=op.f("fk_second_score_cutting_id_cutting"),
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_second_score")),
        sa.UniqueConstraint("check_id", "cutting_id", name=op.f("uq_second_score_check_id_cutting_id")),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("second_score")
    op.drop_column("check_visit", "second_of")
