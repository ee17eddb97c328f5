"""units drawn and lifted for good at a check"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_1730_sample"
down_revision = "20261130_1550_photo_length"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("check_visit", sa.Column("sample_of_each", sa.Integer(), nullable=True))
    op.add_column("unit", sa.Column("sampled_id", sa.Integer(), nullable=True))
    op.create_foreign_key(
        op.f("fk_unit_sampled_id_check_visit"), "unit", "check_visit", ["sampled_id", "trial_id"], ["id", "trial_id"]
    )


def downgrade() -> None:
    op.drop_constraint(op.f("fk_unit_sampled_id_check_visit"), "unit", type_="foreignkey")
    op.drop_column("unit", "sampled_id")
    op.drop_column("check_visit", "sample_of_each")
