"""treatments given otherwise than planned"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261123_1820_changed_treatments"
down_revision = "20261123_1810_quality_and_class"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "treatment_change",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("unit_id", sa.Integer(), nullable=False),
        sa.Column("arm_id", sa.Integer(), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("reason", sa.String(length=300), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_treatment_change_trial_id_trial")),
        sa.ForeignKeyConstraint(["unit_id"], ["unit.id"], name=op.f("fk_treatment_change_unit_id_unit")),
        sa.ForeignKeyConstraint(["arm_id"], ["arm.id"], name=op.f("fk_treatment_change_arm_id_arm")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_treatment_change_person_id_person")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_treatment_change")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )


def downgrade() -> None:
    op.drop_table("treatment_change")
