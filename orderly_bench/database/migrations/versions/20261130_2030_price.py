"""what a plant was sold for"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_2030_price"
down_revision = "20261130_1910_card_more"
branch_labels = None
depends_on = None
PRICE_OF = "price is null or (fate = 'sold' and price >= 0)"


def upgrade() -> None:
    op.add_column("plant_end", sa.Column("price", sa.Double(), nullable=True))
    op.add_column("plant_end", sa.Column("currency", sa.String(8), nullable=False, server_default=""))
    op.create_check_constraint(op.f("ck_plant_end_price_of_what_was_sold"), "plant_end", PRICE_OF)


def downgrade() -> None:
    op.drop_constraint(op.f("ck_plant_end_price_of_what_was_sold"), "plant_end", type_="check")
    for name in ("currency", "price"):
        op.drop_column("plant_end", name)
