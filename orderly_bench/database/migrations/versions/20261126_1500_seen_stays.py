"""who saw arms, and what was predicted, stays as it was written down"""

from alembic import op

revision = "20261126_1500_seen_stays"
down_revision = "20261126_1450_turns"
branch_labels = None
depends_on = None

STAYS = {
    "seen_arms": "who has seen the arms",
    "reveal": "a reveal",
    "interim_look": "a look before the end",
    "prediction": "a prediction",
}


def upgrade() -> None:
    for table, what in STAYS.items():
        for when in ("update", "delete"):
            signal = f"signal sqlstate '45000' set message_text = '{what} can not be changed or deleted'"
            op.execute(f"create trigger {table}_no_{when} before {when} on {table} for each row begin {signal}; end")


def downgrade() -> None:
    for table in STAYS:
        for when in ("update", "delete"):
            op.execute(f"drop trigger {table}_no_{when}")
