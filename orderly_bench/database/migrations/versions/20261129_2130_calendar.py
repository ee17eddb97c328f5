"""an address for one's own calendar"""

import sqlalchemy as sa
from alembic import op

revision = "20261129_2130_calendar"
down_revision = "20261129_2110_care_by_arm"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("person", sa.Column("calendar_digest", sa.String(64), nullable=True))
    op.create_unique_constraint(op.f("uq_person_calendar_digest"), "person", ["calendar_digest"])


def downgrade() -> None:
    op.drop_constraint(op.f("uq_person_calendar_digest"), "person", type_="unique")
    op.drop_column("person", "calendar_digest")
