"""results hold sentences: each language has its own"""

import sqlalchemy as sa
from alembic import op

revision = "20261201_0620_results"
down_revision = "20261201_0610_language"
branch_labels = None
depends_on = None

BEFORE, NOW = ("trial_id", "day"), ("trial_id", "day", "language")


def _name(columns: tuple[str, ...]) -> str:
    return f"uq_worked_out_{'_'.join(columns)}"


def upgrade() -> None:
    op.add_column("worked_out", sa.Column("language", sa.String(16), server_default="en", nullable=False))
    op.create_unique_constraint(_name(NOW), "worked_out", list(NOW))
    op.drop_constraint(_name(BEFORE), "worked_out", type_="unique")


def downgrade() -> None:
    op.execute("DELETE FROM worked_out WHERE language <> 'en'")
    op.create_unique_constraint(_name(BEFORE), "worked_out", list(BEFORE))
    op.drop_constraint(_name(NOW), "worked_out", type_="unique")
    op.drop_column("worked_out", "language")
