"""stock plants, benches, containers, recipes, method cards; a cutting has its donor, grade and place on the stem"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261126_1130_stock"
down_revision = "20261126_1120_foliage"
branch_labels = None
depends_on = None

STAGES = ("soft", "semi-hard", "hard", "flowering", "not said")
SHAPES = ("tray of cells", "pot", "jar", "tank", "lidded tray", "bed")


def _among(column: str, values: tuple[str, ...]) -> sa.CheckConstraint:
    listed = ", ".join(f"'{value}'" for value in values)
    return sa.CheckConstraint(f"{column} in ({listed})", name=f"{column}_known")


def _text(name: str, size: int, default: str | None = None) -> sa.Column[str]:
    return sa.Column(name, sa.String(size), nullable=False, server_default=default)


def _name(table: str) -> list[sa.Constraint]:
    return [sa.PrimaryKeyConstraint("id", name=op.f(f"pk_{table}"))]


def upgrade() -> None:
    op.create_table(
        "stock_plant", sa.Column("id", sa.Integer(), nullable=False), _text("code", 40), _text("taxon", 120), _text("source", 120),
        sa.Column("age_years", sa.Double(), nullable=True), _text("health", 120), _text("stage", 12),
        sa.Column("most_to_take", sa.Integer(), nullable=True), sa.Column("gone", sa.Boolean(), nullable=False, server_default="0"),
        _among("stage", STAGES),
        sa.CheckConstraint("age_years is null or age_years between 0 and 1000", name="age_range"),
        sa.CheckConstraint("most_to_take is null or most_to_take between 0 and 10000", name="most_range"),
        sa.UniqueConstraint("code", name=op.f("uq_stock_plant_code")), *_name("stock_plant"), **base.TABLE,
    )  # fmt: skip
    op.create_table(
        "stock_bench", sa.Column("id", sa.Integer(), nullable=False), _text("name", 80), sa.Column("length_cm", sa.Double(), nullable=True),
        sa.Column("width_cm", sa.Double(), nullable=True), _text("gradient", 120),
        sa.CheckConstraint("length_cm is null or length_cm between 10 and 20000", name="length_range"),
        sa.CheckConstraint("width_cm is null or width_cm between 10 and 20000", name="width_range"),
        sa.UniqueConstraint("name", name=op.f("uq_stock_bench_name")), *_name("stock_bench"), **base.TABLE,
    )  # fmt: skip
    op.create_table(
        "stock_container", sa.Column("id", sa.Integer(), nullable=False), _text("name", 80), _text("shape", 20),
        sa.Column("rows_", sa.Integer(), nullable=False), sa.Column("columns_", sa.Integer(), nullable=False),
        sa.Column("volume_ml", sa.Double(), nullable=False), _text("wall", 20), sa.Column("drained", sa.Boolean(), nullable=True),
        _among("shape", SHAPES),
        sa.CheckConstraint("rows_ between 1 and 60 and columns_ between 1 and 60", name="places_range"),
        sa.CheckConstraint("volume_ml > 0", name="volume_above_nothing"),
        sa.UniqueConstraint("name", name=op.f("uq_stock_container_name")), *_name("stock_container"), **base.TABLE,
    )  # fmt: skip
    op.create_table(
        "stock_recipe", sa.Column("id", sa.Integer(), nullable=False), _text("name", 120), _text("text", 500),
        sa.UniqueConstraint("name", name=op.f("uq_stock_recipe_name")), *_name("stock_recipe"), **base.TABLE,
    )  # fmt: skip
    op.create_table(
        "method_card", sa.Column("id", sa.Integer(), nullable=False), _text("taxon", 120), _text("cutting_type", 120),
        sa.Column("rate", sa.Double(), nullable=True), sa.Column("rooted", sa.Integer(), nullable=True),
        sa.Column("stuck", sa.Integer(), nullable=True), sa.Column("weeks_least", sa.Integer(), nullable=True),
        sa.Column("weeks_most", sa.Integer(), nullable=True), _text("care", 500),
        sa.CheckConstraint("rate is null or rate between 0 and 1", name="rate_range"),
        sa.CheckConstraint("(rooted is null) = (stuck is null)", name="counts_together"),
        sa.CheckConstraint("rooted is null or rooted between 0 and stuck", name="rooted_of_stuck"),
        sa.UniqueConstraint("taxon", "cutting_type", name=op.f("uq_method_card_taxon_cutting_type")), *_name("method_card"), **base.TABLE,
    )  # fmt: skip
    op.execute(
        "insert into stock_plant (code, taxon, source, health, stage) "
        "select distinct left(c.stock_plant, 40), 'not said', '', '', 'not said' from cutting c where c.stock_plant <> ''"
    )
    op.add_column("cutting", sa.Column("piece", sa.Integer(), nullable=True))
    op.add_column("cutting", sa.Column("donor_id", sa.Integer(), nullable=True))
    op.add_column("cutting", _text("grade", 40, ""))
    op.add_column("cutting", _text("stem_place", 40, ""))
    op.create_foreign_key(op.f("fk_cutting_donor_id_stock_plant"), "cutting", "stock_plant", ["donor_id"], ["id"])
    op.execute("update cutting c join stock_plant p on p.code = left(c.stock_plant, 40) set c.donor_id = p.id")
    op.drop_column("cutting", "stock_plant")


def downgrade() -> None:
    op.add_column("cutting", _text("stock_plant", 60, ""))
    op.execute("update cutting c join stock_plant p on p.id = c.donor_id set c.stock_plant = p.code")
    op.drop_constraint(op.f("fk_cutting_donor_id_stock_plant"), "cutting", type_="foreignkey")
    for column in ("stem_place", "grade", "donor_id", "piece"):
        op.drop_column("cutting", column)
    for table in ("method_card", "stock_recipe", "stock_container", "stock_bench", "stock_plant"):
        op.drop_table(table)
