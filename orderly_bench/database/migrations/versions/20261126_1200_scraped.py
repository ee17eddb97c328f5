"""roots seen where the medium was scraped aside are a grade of their own"""

from alembic import op

revision = "20261126_1200_scraped"
down_revision = "20261126_1130_stock"
branch_labels = None
depends_on = None

BEFORE = ("lifted and counted", "through the wall", "at the hole", "tug", "shoots", "green bark")
COLUMNS = (("check_visit", "way"), ("score", "known_by"))


def _hold(grades: tuple[str, ...]) -> None:
    listed = ",".join(f"'{grade}'" for grade in grades)
    for table, column in COLUMNS:
        op.drop_constraint(f"{column}_known", table, type_="check")
        op.create_check_constraint(f"{column}_known", table, f"{column} in ({listed})")


def upgrade() -> None:
    _hold((*BEFORE, "scraped aside and seen"))


def downgrade() -> None:
    _hold(BEFORE)
