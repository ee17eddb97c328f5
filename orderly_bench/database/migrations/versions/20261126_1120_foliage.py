"""the state of the leaves is graded, apart from the roots"""

import sqlalchemy as sa
from alembic import op

revision = "20261126_1120_foliage"
down_revision = "20261126_0870_worked_out"
branch_labels = None
depends_on = None

SIGNAL = "signal sqlstate '45000' set message_text = 'a raw score can not be changed or deleted'"
#: What a kept score said, before this change.
RAW = (
    "trial_id", "check_id", "cutting_id", "site", "revision", "state", "roots", "root_number", "longest_root_mm", "root_class", "quality",
    "callus", "top", "failure", "fit", "known_by", "note", "scored_on", "blind", "at", "person_id", "reason", "request_key",
)  # fmt: skip


def _guard(columns: tuple[str, ...]) -> None:
    changed = " or ".join(f"not (old.{column} <=> new.{column})" for column in columns)
    op.execute("drop trigger score_no_update")
    op.execute(
        "create trigger score_no_update before update on score for each row "
        f"begin if {changed} or old.current is null then {SIGNAL}; end if; end"
    )


def upgrade() -> None:
    op.add_column("score", sa.Column("foliage", sa.Integer(), nullable=True))
    op.create_check_constraint("foliage_range", "score", "foliage is null or foliage between 0 and 5")
    _guard((*RAW, "foliage"))


def downgrade() -> None:
    _guard(RAW)
    op.drop_constraint("foliage_range", "score", type_="check")
    op.drop_column("score", "foliage")
