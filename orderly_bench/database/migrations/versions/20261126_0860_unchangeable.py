"""raw scores, versions of the plan and the audit trail can be added to, not changed"""

from alembic import op

revision = "20261126_0860_unchangeable"
down_revision = "20261126_0850_known_values"
branch_labels = None
depends_on = None

FOR_EVER = {
    "plan_version": "a version of the plan",
    "audit_entry": "the audit trail",
    "day_zero_correction": "a correction",
}
#: What a kept score said; whether it stands, and how it ended, may change once.
RAW = (
    "trial_id", "check_id", "cutting_id", "site", "revision", "state", "roots", "root_number", "longest_root_mm", "root_class", "quality",
    "callus", "top", "failure", "fit", "known_by", "note", "scored_on", "blind", "at", "person_id", "reason", "request_key",
)  # fmt: skip


def _refuse(name: str, when: str, table: str, what: str, condition: str = "") -> None:
    signal = f"signal sqlstate '45000' set message_text = '{what} can not be changed or deleted'"
    body = f"if {condition} then {signal}; end if" if condition else signal
    op.execute(f"create trigger {name} before {when} on {table} for each row begin {body}; end")


def upgrade() -> None:
    for table, what in FOR_EVER.items():
        for when in ("update", "delete"):
            _refuse(f"{table}_no_{when}", when, table, what)
    changed = " or ".join(f"not (old.{column} <=> new.{column})" for column in RAW)
    _refuse("score_no_update", "update", "score", "a raw score", f"{changed} or old.current is null")
    _refuse("score_no_delete", "delete", "score", "a raw score")


def downgrade() -> None:
    for table in (*FOR_EVER, "score"):
        for when in ("update", "delete"):
            op.execute(f"drop trigger {table}_no_{when}")
