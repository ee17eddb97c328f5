"""trays stand on benches, to scale and from a day on"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261126_1400_standing"
down_revision = "20261126_1200_scraped"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("tray", sa.Column("across_cm", sa.Double(), nullable=True))
    op.create_table(
        "tray_standing",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("tray_id", sa.Integer(), nullable=False),
        sa.Column("bench_id", sa.Integer(), nullable=False),
        sa.Column("x_cm", sa.Double(), nullable=False),
        sa.Column("y_cm", sa.Double(), nullable=False),
        sa.Column("current", sa.Integer(), nullable=True),
        sa.Column("from_at", base.Moment(), nullable=False),
        sa.Column("reason", sa.String(300), nullable=False, server_default=""),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.CheckConstraint("x_cm >= 0 and y_cm >= 0", name="on_the_bench"),
        sa.ForeignKeyConstraint(
            ["tray_id", "trial_id"], ["tray.id", "tray.trial_id"], name=op.f("fk_tray_standing_tray_id_tray")
        ),
        sa.ForeignKeyConstraint(["bench_id"], ["stock_bench.id"], name=op.f("fk_tray_standing_bench_id_stock_bench")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_tray_standing_person_id_person")),
        sa.UniqueConstraint("tray_id", "current", name=op.f("uq_tray_standing_tray_id_current")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_tray_standing")),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("tray_standing")
    op.drop_column("tray", "across_cm")
