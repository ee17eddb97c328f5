"""settings of the lab"""

from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "20261126_0800_lab_settings"
down_revision = "20261123_1820_changed_treatments"
branch_labels = None
depends_on = None


def _columns() -> list[sa.Column[Any]]:
    return [
        sa.Column("hemisphere", sa.String(10), nullable=False, server_default="north"),
        sa.Column("units", sa.String(10), nullable=False, server_default="metric"),
        sa.Column("alpha", sa.Double(), nullable=False, server_default="0.05"),
        sa.Column("usual_margin", sa.Double(), nullable=False, server_default="15"),
        sa.Column("fit_least_roots", sa.Integer(), nullable=False, server_default="3"),
        sa.Column("fit_least_mm", sa.Double(), nullable=False, server_default="10"),
    ]


CHECKS = {
    "hemisphere_known": "hemisphere in ('north','south')",
    "units_known": "units in ('metric','imperial')",
    "alpha_range": "alpha > 0 and alpha < 0.5",
    "usual_margin_range": "usual_margin between 1 and 99",
}


def upgrade() -> None:
    for column in _columns():
        op.add_column("lab", column)
    for name, rule in CHECKS.items():
        op.create_check_constraint(name, "lab", rule)


def downgrade() -> None:
    for name in CHECKS:
        op.drop_constraint(name, "lab", type_="check")
    for column in _columns():
        op.drop_column("lab", column.name)
