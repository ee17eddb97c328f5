"""an open tray with one mat or lamp for all that it holds is a container of its own"""

from alembic import op

revision = "20261127_0100_whole_tray"
down_revision = "20261126_2340_curve_kept"
branch_labels = None
depends_on = None

BEFORE = ("tray of cells", "pot", "jar", "tank", "lidded tray", "bed")
TABLES = ("tray", "stock_container")


def _hold(shapes: tuple[str, ...]) -> None:
    listed = ",".join(f"'{shape}'" for shape in shapes)
    for table in TABLES:
        op.drop_constraint("shape_known", table, type_="check")
        op.create_check_constraint("shape_known", table, f"shape in ({listed})")


def upgrade() -> None:
    _hold((*BEFORE, "whole tray"))


def downgrade() -> None:
    _hold(BEFORE)
