"""a label of another lab may have the code of one that was drawn here"""

import sqlalchemy as sa
from alembic import op

revision = "20261201_1030_labels"
down_revision = "20261201_0620_results"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("unit", sa.Column("brought", sa.Integer, server_default="0", nullable=False))
    op.create_unique_constraint("uq_unit_code_brought", "unit", ["code", "brought"])
    op.drop_constraint("uq_unit_code", "unit", type_="unique")


def downgrade() -> None:
    op.create_unique_constraint("uq_unit_code", "unit", ["code"])
    op.drop_constraint("uq_unit_code_brought", "unit", type_="unique")
    op.drop_column("unit", "brought")
