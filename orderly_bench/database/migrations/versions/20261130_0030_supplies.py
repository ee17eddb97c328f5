"""supplies by lot; containers with their size across"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261130_0030_supplies"
down_revision = "20261130_0010_photos"
branch_labels = None
depends_on = None
UNITS = "'pieces','L','mL','g','kg'"


def upgrade() -> None:
    op.add_column("stock_container", sa.Column("across_cm", sa.Double(), nullable=True))
    op.add_column("stock_container", sa.Column("outline", sa.String(10), nullable=False, server_default=""))
    op.create_table(
        "supply",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("lot", sa.String(40), nullable=False),
        sa.Column("amount", sa.Double(), nullable=False),
        sa.Column("unit", sa.String(10), nullable=False),
        sa.Column("opened", sa.Date(), nullable=True),
        sa.Column("use_by", sa.Date(), nullable=True),
        sa.Column("price", sa.Double(), nullable=True),
        sa.Column("currency", sa.String(8), nullable=False),
        sa.Column("note", sa.String(200), nullable=False),
        sa.CheckConstraint(f"unit in ({UNITS})", name=op.f("ck_supply_unit_known")),
        sa.CheckConstraint("amount >= 0", name=op.f("ck_supply_amount_not_below_0")),
        sa.CheckConstraint("price is null or price >= 0", name=op.f("ck_supply_price_not_below_0")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_supply")),
        sa.UniqueConstraint("name", "lot", name=op.f("uq_supply_name_lot")),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("supply")
    for name in ("outline", "across_cm"):
        op.drop_column("stock_container", name)
