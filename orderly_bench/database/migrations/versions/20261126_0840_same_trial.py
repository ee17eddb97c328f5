"""what refers to another row of a trial refers to a row of the same trial; rooting sites, replacements"""

import sqlalchemy as sa
from alembic import op

revision = "20261126_0840_same_trial"
down_revision = "20261126_0830_places"
branch_labels = None
depends_on = None

OWNERS = ("arm", "wave", "tray", "unit", "lot", "cutting", "check_visit", "planned_check")
#: Table, column, table referred to, whether a plain reference was there before.
REFERENCES = (
    ("tray", "wave_id", "wave", False),
    ("unit", "wave_id", "wave", True),
    ("unit", "arm_id", "arm", True),
    ("placement", "unit_id", "unit", True),
    ("placement", "tray_id", "tray", True),
    ("lot", "wave_id", "wave", True),
    ("cutting", "unit_id", "unit", True),
    ("cutting", "lot_id", "lot", True),
    ("cutting", "replaces_id", "cutting", False),
    ("planned_check", "wave_id", "wave", False),
    ("check_visit", "planned_id", "planned_check", False),
    ("check_visit", "lot_id", "lot", False),
    ("score", "check_id", "check_visit", True),
    ("score", "cutting_id", "cutting", True),
    ("job", "wave_id", "wave", False),
    ("treatment_change", "unit_id", "unit", True),
    ("treatment_change", "arm_id", "arm", True),
)


def upgrade() -> None:
    op.add_column("cutting", sa.Column("trial_id", sa.Integer(), nullable=True))
    op.execute("update cutting c join unit u on u.id = c.unit_id set c.trial_id = u.trial_id")
    op.alter_column("cutting", "trial_id", existing_type=sa.Integer(), nullable=False)
    op.add_column("cutting", sa.Column("replaces_id", sa.Integer(), nullable=True))
    op.create_unique_constraint("uq_cutting_replaces_id", "cutting", ["replaces_id"])
    op.add_column("score", sa.Column("trial_id", sa.Integer(), nullable=True))
    op.execute("update score s join check_visit c on c.id = s.check_id set s.trial_id = c.trial_id")
    op.alter_column("score", "trial_id", existing_type=sa.Integer(), nullable=False)
    op.add_column("score", sa.Column("site", sa.Integer(), nullable=False, server_default="1"))
    op.create_check_constraint("site_counts_from_one", "score", "site > 0")
    for last in ("current", "revision"):
        op.create_unique_constraint(
            f"uq_score_check_id_cutting_id_site_{last}", "score", ["check_id", "cutting_id", "site", last]
        )
        op.drop_constraint(f"uq_score_check_id_cutting_id_{last}", "score", type_="unique")
    for table in OWNERS:
        op.create_unique_constraint(f"uq_{table}_id_trial_id", table, ["id", "trial_id"])
    for table, column, referred, before in REFERENCES:
        name = f"fk_{table}_{column}_{referred}"
        if before:
            op.drop_constraint(name, table, type_="foreignkey")
            op.execute(f"alter table {table} drop index if exists {name}")
        op.create_foreign_key(name, table, referred, [column, "trial_id"], ["id", "trial_id"])


def downgrade() -> None:
    for table, column, referred, before in reversed(REFERENCES):
        name = f"fk_{table}_{column}_{referred}"
        op.drop_constraint(name, table, type_="foreignkey")
        op.execute(f"alter table {table} drop index if exists {name}")
        if before:
            op.create_foreign_key(name, table, referred, [column], ["id"])
    for table in OWNERS:
        op.drop_constraint(f"uq_{table}_id_trial_id", table, type_="unique")
    for last in ("current", "revision"):
        op.create_unique_constraint(f"uq_score_check_id_cutting_id_{last}", "score", ["check_id", "cutting_id", last])
        op.drop_constraint(f"uq_score_check_id_cutting_id_site_{last}", "score", type_="unique")
    op.drop_constraint("site_counts_from_one", "score", type_="check")
    op.drop_column("score", "site")
    op.drop_column("score", "trial_id")
    op.drop_constraint("uq_cutting_replaces_id", "cutting", type_="unique")
    op.drop_column("cutting", "replaces_id")
    op.drop_column("cutting", "trial_id")
