"""entries of the audit trail name people by their number, never by name"""

import json

import sqlalchemy as sa
from alembic import op

revision = "20261130_0050_audit_names"
down_revision = "20261130_0030_supplies"
branch_labels = None
depends_on = None

#: Under what older entries kept a name for signing in.
NAMED = ("who", "sign_in_name")
REFUSED = "create trigger audit_entry_no_update before update on audit_entry for each row begin signal sqlstate '45000' set message_text = 'the audit trail can not be changed or deleted'; end"


def _without(value: str | None, people: dict[str, int]) -> str | None:
    """What an entry holds with numbers in place of names; one whose account goes by a code already has no number to find: it is left blank."""
    held = json.loads(value) if value else None
    if not isinstance(held, dict) or not any(key in held for key in NAMED):
        return value
    named = next(held[key] for key in NAMED if key in held)
    rest = {key: one for key, one in held.items() if key not in NAMED}
    return json.dumps({"person": people.get(str(named)), **rest}, ensure_ascii=False)


def upgrade() -> None:
    connection = op.get_bind()
    people = {name: number for number, name in connection.execute(sa.text("select id, sign_in_name from person"))}
    entries = connection.execute(
        sa.text(
            "select id, old, new from audit_entry where concat(coalesce(old, ''), coalesce(new, '')) regexp '\"(who|sign_in_name)\"'"
        )
    ).all()
    op.execute("drop trigger if exists audit_entry_no_update")
    for number, old, new in entries:
        values = {"id": number, "old": _without(old, people), "new": _without(new, people)}
        connection.execute(sa.text("update audit_entry set old = :old, new = :new where id = :id"), values)
    op.execute(REFUSED)


def downgrade() -> None:
    """Names are not put back."""
