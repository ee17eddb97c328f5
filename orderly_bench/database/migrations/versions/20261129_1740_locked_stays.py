"""after the lock the arm of a unit, the draws, the lock itself and a plan without its version stay as they are"""

from alembic import op

revision = "20261129_1740_locked_stays"
down_revision = "20261129_1430_why_then"
branch_labels = None
depends_on = None

#: What a kept score said, held byte by byte: a collation takes case and trailing blanks for the same.
RAW = (
    "trial_id", "check_id", "cutting_id", "site", "revision", "state", "roots", "root_number", "longest_root_mm", "root_class", "quality",
    "callus", "top", "failure", "fit", "known_by", "note", "scored_on", "blind", "at", "person_id", "reason", "request_key",
)  # fmt: skip
LOCKED = "exists (select 1 from trial t where t.id = old.trial_id and t.locked_at is not null)"
#: What a kept draw said.
DRAWN = ("trial_id", "number", "seed", "reason", "result", "at", "person_id")


def _refuse(name: str, when: str, table: str, condition: str, what: str) -> None:
    signal = f"signal sqlstate '45000' set message_text = '{what}'"
    op.execute(
        f"create trigger {name} before {when} on {table} for each row begin if {condition} then {signal}; end if; end"
    )


def _changed(columns: tuple[str, ...], exactly: bool = True) -> str:
    cast = "binary " if exactly else ""
    return " or ".join(f"not ({cast}old.{column} <=> {cast}new.{column})" for column in columns)


def _score_stays(exactly: bool) -> None:
    op.execute("drop trigger score_no_update")
    condition = f"{_changed(RAW, exactly)} or old.current is null"
    _refuse("score_no_update", "update", "score", condition, "a raw score can not be changed or deleted")


def upgrade() -> None:
    _score_stays(True)
    _refuse(
        "unit_arm_stays",
        "update",
        "unit",
        f"old.arm_id <> new.arm_id and {LOCKED}",
        "the arm of a unit stays after the lock",
    )
    _refuse("draw_stays", "update", "draw", f"({_changed(DRAWN)}) and {LOCKED}", "a draw stays after the lock")
    _refuse("draw_is_kept", "delete", "draw", LOCKED, "a draw stays after the lock")
    _refuse(
        "lock_stays", "update", "trial",
        "old.locked_at is not null and not (old.locked_at <=> new.locked_at and old.locked_by_id <=> new.locked_by_id)",
        "the lock of a plan stays",
    )  # fmt: skip
    _refuse(
        "plan_has_its_version", "update", "trial",
        "old.locked_at is not null and not (binary old.plan_text <=> binary new.plan_text)"
        " and not exists (select 1 from plan_version v where v.trial_id = new.id and binary v.text = binary new.plan_text)",
        "a locked plan changes by an amendment only",
    )  # fmt: skip


def downgrade() -> None:
    for name in ("unit_arm_stays", "draw_stays", "draw_is_kept", "lock_stays", "plan_has_its_version"):
        op.execute(f"drop trigger {name}")
    _score_stays(False)
