"""where a stock plant grows and whether it flowers; covers and zones"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261130_0530_shelf"
down_revision = "20261130_0440_time_spent"
branch_labels = None
depends_on = None
STAGES = "'soft','semi-hard','hard','not said'"
BEFORE = "'soft','semi-hard','hard','flowering','not said'"
FLOWERS = "'no flowers','in bud','in flower','in fruit','not said'"
GROWS = "'in a pot','in the ground','under cover','not said'"
COVERS = "'lid','bag','jar or bottle','tent','fleece','shade cloth','sheet of glass','other'"
ZONES = "'glasshouse','tunnel','cold frame','room','growth chamber','outdoors','other'"


def _said(name: str) -> sa.Column[str]:
    return sa.Column(name, sa.String(16), nullable=False, server_default="not said")


def _known(column: str, table: str, kinds: str) -> None:
    op.create_check_constraint(f"{column}_known", table, f"{column} in ({kinds})")


def upgrade() -> None:
    op.add_column("stock_plant", _said("flowering"))
    op.add_column("stock_plant", _said("grows"))
    op.add_column("stock_plant", sa.Column("health_day", sa.Date(), nullable=True))
    op.execute(sa.text("update stock_plant set flowering = 'in flower', stage = 'not said' where stage = 'flowering'"))
    op.drop_constraint("stage_known", "stock_plant", type_="check")
    _known("stage", "stock_plant", STAGES)
    _known("flowering", "stock_plant", FLOWERS)
    _known("grows", "stock_plant", GROWS)
    for side in ("length", "width"):
        op.add_column("stock_container", sa.Column(f"outside_{side}_cm", sa.Double(), nullable=True))
    op.create_table(
        "stock_cover",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("kind", sa.String(16), nullable=False),
        sa.Column("pieces", sa.Integer(), nullable=True),
        sa.Column("height_cm", sa.Double(), nullable=True),
        sa.Column("lets_light", sa.Double(), nullable=True),
        sa.Column("note", sa.String(200), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_stock_cover")),
        sa.UniqueConstraint("name", name=op.f("uq_stock_cover_name")),
        sa.CheckConstraint(f"kind in ({COVERS})", name="kind_known"),
        **base.TABLE,
    )
    op.create_table(
        "stock_zone",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("kind", sa.String(16), nullable=False),
        sa.Column("low_c", sa.Double(), nullable=True),
        sa.Column("high_c", sa.Double(), nullable=True),
        sa.Column("bottom_c", sa.Double(), nullable=True),
        sa.Column("gain", sa.Double(), nullable=True),
        sa.Column("light", sa.String(60), nullable=False),
        sa.Column("note", sa.String(200), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_stock_zone")),
        sa.UniqueConstraint("name", name=op.f("uq_stock_zone_name")),
        sa.CheckConstraint(f"kind in ({ZONES})", name="kind_known"),
        sa.CheckConstraint("low_c is null or low_c < high_c", name="band_in_order"),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("stock_zone")
    op.drop_table("stock_cover")
    for side in ("length", "width"):
        op.drop_column("stock_container", f"outside_{side}_cm")
    for column in ("grows", "flowering", "stage"):
        op.drop_constraint(f"{column}_known", "stock_plant", type_="check")
    op.execute(
        sa.text("update stock_plant set stage = 'flowering' where flowering = 'in flower' and stage = 'not said'")
    )
    _known("stage", "stock_plant", BEFORE)
    for column in ("health_day", "grows", "flowering"):
        op.drop_column("stock_plant", column)
