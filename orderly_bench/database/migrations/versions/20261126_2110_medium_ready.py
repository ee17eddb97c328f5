"""how many litres of a medium stand ready"""

import sqlalchemy as sa
from alembic import op

revision = "20261126_2110_medium_ready"
down_revision = "20261126_2040_icc_kept"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("stock_recipe", sa.Column("litres", sa.Double(), nullable=True))
    op.create_check_constraint(
        op.f("ck_stock_recipe_litres_range"), "stock_recipe", "litres is null or litres between 0 and 100000"
    )


def downgrade() -> None:
    op.drop_constraint(op.f("ck_stock_recipe_litres_range"), "stock_recipe", type_="check")
    op.drop_column("stock_recipe", "litres")
