"""minutes of a job, and those read off the marks"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_1430_minutes"
down_revision = "20261130_1220_band"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("time_spent", sa.Column("off_the_marks", sa.Boolean(), server_default="0", nullable=False))
    op.add_column("time_spent", sa.Column("put_right", sa.String(300), server_default="", nullable=False))
    op.add_column("time_spent", sa.Column("job_id", sa.Integer(), nullable=True))
    op.create_unique_constraint(op.f("uq_time_spent_job_id"), "time_spent", ["job_id"])
    op.create_foreign_key(op.f("fk_time_spent_job_id_job"), "time_spent", "job", ["job_id"], ["id"])


def downgrade() -> None:
    op.drop_constraint(op.f("fk_time_spent_job_id_job"), "time_spent", type_="foreignkey")
    op.drop_constraint(op.f("uq_time_spent_job_id"), "time_spent", type_="unique")
    op.drop_column("time_spent", "job_id")
    op.drop_column("time_spent", "put_right")
    op.drop_column("time_spent", "off_the_marks")
