"""first look, death, window, needs and signs of failure on a method card"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_1910_card_more"
down_revision = "20261130_1800_lifting"
branch_labels = None
depends_on = None
TEXTS = (("taken_when", 120), ("needs", 300), ("signs", 300))


def upgrade() -> None:
    for name in ("first_look", "dead_from"):
        op.add_column("method_card", sa.Column(name, sa.Integer(), nullable=True))
    for name, size in TEXTS:
        op.add_column("method_card", sa.Column(name, sa.String(size), nullable=False, server_default=""))


def downgrade() -> None:
    for name, _ in reversed(TEXTS):
        op.drop_column("method_card", name)
    for name in ("dead_from", "first_look"):
        op.drop_column("method_card", name)
