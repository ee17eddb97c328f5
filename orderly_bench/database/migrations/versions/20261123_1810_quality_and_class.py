"""root quality, and root numbers in classes"""

import sqlalchemy as sa
from alembic import op

revision = "20261123_1810_quality_and_class"
down_revision = "20261123_1800_layouts"
branch_labels = None
depends_on = None

OLD = "(roots = 'counted') = (root_number is not null)"
NEW = "(roots = 'counted') = (root_number is not null or root_class is not null)"


def upgrade() -> None:
    op.add_column("score", sa.Column("quality", sa.Integer(), nullable=True))
    op.add_column("score", sa.Column("root_class", sa.String(length=12), nullable=True))
    op.create_check_constraint("quality_range", "score", "quality is null or quality between 0 and 5")
    op.drop_constraint("number_when_counted", "score", type_="check")
    op.create_check_constraint("number_when_counted", "score", NEW)


def downgrade() -> None:
    op.drop_constraint("number_when_counted", "score", type_="check")
    op.execute("update score set roots = 'seen, not counted' where root_number is null and root_class is not null")
    op.create_check_constraint("number_when_counted", "score", OLD)
    op.drop_constraint("quality_range", "score", type_="check")
    op.drop_column("score", "root_class")
    op.drop_column("score", "quality")
