"""waves are stuck one by one, lots have their own day 0 and checks"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261126_0820_waves_and_lots"
down_revision = "20261126_0810_plan_as_text"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("wave", sa.Column("sticking_done_at", base.Moment(), nullable=True))
    op.execute(
        "update wave w join trial t on t.id = w.trial_id set w.sticking_done_at = t.sticking_done_at where w.number = 1"
    )
    op.drop_column("trial", "sticking_done_at")
    op.add_column("lot", sa.Column("number", sa.Integer(), nullable=False, server_default="1"))
    op.add_column("lot", sa.Column("held_hours", sa.Double(), nullable=True))
    op.add_column("lot", sa.Column("held_on_purpose", sa.Boolean(), nullable=False, server_default="0"))
    op.create_check_constraint("held_hours_range", "lot", "held_hours is null or held_hours between 0 and 8760")
    op.create_unique_constraint("uq_lot_wave_id_number", "lot", ["wave_id", "number"])
    op.create_table(
        "day_zero_correction",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("lot_id", sa.Integer(), nullable=False),
        sa.Column("old_first", sa.Date(), nullable=False),
        sa.Column("old_last", sa.Date(), nullable=False),
        sa.Column("reason", sa.String(300), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.CheckConstraint("reason <> ''", name=op.f("ck_day_zero_correction_has_reason")),
        sa.ForeignKeyConstraint(["lot_id"], ["lot.id"], name=op.f("fk_day_zero_correction_lot_id_lot")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_day_zero_correction_person_id_person")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_day_zero_correction")),
        **base.TABLE,
    )
    _checks()
    op.add_column("job", sa.Column("wave_id", sa.Integer(), nullable=True))
    op.execute("update job j join wave w on w.trial_id = j.trial_id and w.number = 1 set j.wave_id = w.id")
    op.alter_column("job", "wave_id", existing_type=sa.Integer(), nullable=False)
    op.create_unique_constraint("uq_job_wave_id_title_due_das", "job", ["wave_id", "title", "due_das"])
    op.drop_constraint("fk_job_trial_id_trial", "job", type_="foreignkey")
    op.drop_constraint("uq_job_trial_id_title_due_das", "job", type_="unique")
    op.create_foreign_key("fk_job_trial_id_trial", "job", "trial", ["trial_id"], ["id"])


def _checks() -> None:
    op.create_table(
        "planned_check",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("wave_id", sa.Integer(), nullable=False),
        sa.Column("planned_das", sa.Integer(), nullable=False),
        sa.Column("window_days", sa.Integer(), nullable=False),
        sa.Column("endpoint", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_planned_check_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_planned_check")),
        sa.UniqueConstraint("wave_id", "planned_das", name=op.f("uq_planned_check_wave_id_planned_das")),
        sa.UniqueConstraint("wave_id", "endpoint", name=op.f("uq_planned_check_wave_id_endpoint")),
        **base.TABLE,
    )
    op.execute(
        "insert into planned_check (id, trial_id, wave_id, planned_das, window_days, endpoint) "
        "select id, trial_id, wave_id, planned_das, window_days, if(is_endpoint, 1, null) from check_visit"
    )
    op.add_column("check_visit", sa.Column("planned_id", sa.Integer(), nullable=True))
    op.add_column("check_visit", sa.Column("lot_id", sa.Integer(), nullable=True))
    op.execute(
        "update check_visit c join lot l on l.trial_id = c.trial_id and l.wave_id = c.wave_id set c.planned_id = c.id, c.lot_id = l.id"
    )
    op.execute("delete from check_visit where lot_id is null")
    for name in ("planned_id", "lot_id"):
        op.alter_column("check_visit", name, existing_type=sa.Integer(), nullable=False)
    op.create_unique_constraint("uq_check_visit_planned_id_lot_id", "check_visit", ["planned_id", "lot_id"])
    op.drop_constraint("fk_check_visit_wave_id_wave", "check_visit", type_="foreignkey")
    op.drop_constraint("fk_check_visit_trial_id_trial", "check_visit", type_="foreignkey")
    op.drop_constraint("uq_check_visit_trial_id_wave_id_planned_das", "check_visit", type_="unique")
    op.create_foreign_key("fk_check_visit_trial_id_trial", "check_visit", "trial", ["trial_id"], ["id"])
    for name in ("wave_id", "planned_das", "window_days", "is_endpoint"):
        op.drop_column("check_visit", name)


def downgrade() -> None:
    for name in ("planned_das", "window_days", "wave_id"):
        op.add_column("check_visit", sa.Column(name, sa.Integer(), nullable=True))
    op.add_column("check_visit", sa.Column("is_endpoint", sa.Boolean(), nullable=False, server_default="0"))
    op.execute(
        "update check_visit c join planned_check p on p.id = c.planned_id set c.planned_das = p.planned_das, "
        "c.window_days = p.window_days, c.wave_id = p.wave_id, c.is_endpoint = p.endpoint is not null"
    )
    op.execute(
        "insert into check_visit (trial_id, wave_id, planned_id, lot_id, planned_das, window_days, is_endpoint, way) "
        "select p.trial_id, p.wave_id, p.id, 0, p.planned_das, p.window_days, p.endpoint is not null, 'lifted and counted' "
        "from planned_check p left join check_visit c on c.planned_id = p.id where c.id is null"
    )
    for name in ("planned_das", "window_days", "wave_id"):
        op.alter_column("check_visit", name, existing_type=sa.Integer(), nullable=False)
    op.create_foreign_key("fk_check_visit_wave_id_wave", "check_visit", "wave", ["wave_id"], ["id"])
    op.create_unique_constraint(
        "uq_check_visit_trial_id_wave_id_planned_das", "check_visit", ["trial_id", "wave_id", "planned_das"]
    )
    op.drop_constraint("uq_check_visit_planned_id_lot_id", "check_visit", type_="unique")
    op.drop_column("check_visit", "planned_id")
    op.drop_column("check_visit", "lot_id")
    op.drop_table("planned_check")
    op.create_unique_constraint("uq_job_trial_id_title_due_das", "job", ["trial_id", "title", "due_das"])
    op.drop_constraint("uq_job_wave_id_title_due_das", "job", type_="unique")
    op.drop_column("job", "wave_id")
    op.drop_table("day_zero_correction")
    op.drop_constraint("fk_lot_wave_id_wave", "lot", type_="foreignkey")
    op.drop_constraint("uq_lot_wave_id_number", "lot", type_="unique")
    op.create_foreign_key("fk_lot_wave_id_wave", "lot", "wave", ["wave_id"], ["id"])
    op.drop_constraint("held_hours_range", "lot", type_="check")
    for name in ("number", "held_hours", "held_on_purpose"):
        op.drop_column("lot", name)
    op.add_column("trial", sa.Column("sticking_done_at", base.Moment(), nullable=True))
    op.execute(
        "update trial t join wave w on w.trial_id = t.id and w.number = 1 set t.sticking_done_at = w.sticking_done_at"
    )
    op.drop_column("wave", "sticking_done_at")
