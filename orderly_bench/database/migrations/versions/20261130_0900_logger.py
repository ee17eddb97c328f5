"""what was said of the columns of a kind of logger's file"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261130_0900_logger"
down_revision = "20261130_0840_steps"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "logger_kind",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("mark", sa.String(64), nullable=False),
        sa.Column("columns", sa.JSON(), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_logger_kind_person_id_person")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_logger_kind")),
        sa.UniqueConstraint("mark", name=op.f("uq_logger_kind_mark")),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("logger_kind")
