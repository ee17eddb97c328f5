"""when each cutting was stuck, and by whom"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261130_0110_stuck_by"
down_revision = "20261130_0050_audit_names"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("cutting", sa.Column("stuck_at", base.Moment(), nullable=True))
    op.add_column("cutting", sa.Column("stuck_by_id", sa.Integer(), nullable=True))
    op.create_foreign_key(op.f("fk_cutting_stuck_by_id_person"), "cutting", "person", ["stuck_by_id"], ["id"])


def downgrade() -> None:
    op.drop_constraint(op.f("fk_cutting_stuck_by_id_person"), "cutting", type_="foreignkey")
    op.drop_index(op.f("fk_cutting_stuck_by_id_person"), "cutting")
    op.drop_column("cutting", "stuck_by_id")
    op.drop_column("cutting", "stuck_at")
