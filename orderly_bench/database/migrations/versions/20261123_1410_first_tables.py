"""first tables"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261123_1410_first_tables"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "lab",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("time_zone", sa.String(length=60), nullable=False),
        sa.Column("is_demo", sa.Boolean(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_lab")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "person",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("sign_in_name", sa.String(length=80), nullable=False),
        sa.Column("role", sa.String(length=20), nullable=False),
        sa.Column("password_hash", sa.String(length=200), nullable=False),
        sa.Column("active", sa.Boolean(), nullable=False),
        sa.Column("created_at", base.Moment(), nullable=False),
        sa.CheckConstraint("role in ('lead','researcher','scorer','reader')", name=op.f("ck_person_role_known")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_person")),
        sa.UniqueConstraint("sign_in_name", name=op.f("uq_person_sign_in_name")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "trial",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("code", sa.String(length=20), nullable=False),
        sa.Column("kind", sa.String(length=10), nullable=False),
        sa.Column("botanical_name", sa.String(length=120), nullable=False),
        sa.Column("cultivar", sa.String(length=120), nullable=False),
        sa.Column("source", sa.String(length=200), nullable=False),
        sa.Column("question", sa.String(length=300), nullable=False),
        sa.Column("why", sa.Text(), nullable=False),
        sa.Column("endpoint_day", sa.Integer(), nullable=False),
        sa.Column("margin_points", sa.Double(), nullable=False),
        sa.Column("alpha", sa.Double(), nullable=False),
        sa.Column("held_same", sa.Text(), nullable=False),
        sa.Column("stop_rule", sa.Text(), nullable=False),
        sa.Column("check_days", sa.JSON(), nullable=False),
        sa.Column("care_task", sa.String(length=120), nullable=False),
        sa.Column("care_every_days", sa.Integer(), nullable=False),
        sa.Column("fit_least_roots", sa.Integer(), nullable=False),
        sa.Column("fit_least_mm", sa.Double(), nullable=False),
        sa.Column("blind", sa.Boolean(), nullable=False),
        sa.Column("layout", sa.String(length=40), nullable=False),
        sa.Column("cuttings_per_arm", sa.Integer(), nullable=False),
        sa.Column("blocks", sa.Integer(), nullable=False),
        sa.Column("gradient", sa.String(length=120), nullable=False),
        sa.Column("bench", sa.String(length=80), nullable=False),
        sa.Column("tray_rows", sa.Integer(), nullable=False),
        sa.Column("tray_columns", sa.Integer(), nullable=False),
        sa.Column("cell_volume_ml", sa.Double(), nullable=False),
        sa.Column("recipes", sa.JSON(), nullable=False),
        sa.Column("assumed_rates", sa.JSON(), nullable=True),
        sa.Column("locked_at", base.Moment(), nullable=True),
        sa.Column("locked_by_id", sa.Integer(), nullable=True),
        sa.Column("digest", sa.String(length=64), nullable=True),
        sa.Column("prepared_at", base.Moment(), nullable=True),
        sa.Column("sticking_done_at", base.Moment(), nullable=True),
        sa.Column("created_at", base.Moment(), nullable=False),
        sa.Column("created_by_id", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.CheckConstraint("kind in ('test','look')", name=op.f("ck_trial_kind_known")),
        sa.CheckConstraint("endpoint_day between 1 and 1000", name=op.f("ck_trial_endpoint_day_range")),
        sa.CheckConstraint("margin_points between 1 and 99", name=op.f("ck_trial_margin_range")),
        sa.ForeignKeyConstraint(["created_by_id"], ["person.id"], name=op.f("fk_trial_created_by_id_person")),
        sa.ForeignKeyConstraint(["locked_by_id"], ["person.id"], name=op.f("fk_trial_locked_by_id_person")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_trial")),
        sa.UniqueConstraint("code", name=op.f("uq_trial_code")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "amendment",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("what", sa.String(length=300), nullable=False),
        sa.Column("reason", sa.String(length=500), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_amendment_person_id_person")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_amendment_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_amendment")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "arm",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("letter", sa.String(length=2), nullable=False),
        sa.Column("is_control", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_arm_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_arm")),
        sa.UniqueConstraint("trial_id", "letter", name=op.f("uq_arm_trial_id_letter")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "audit_entry",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=True),
        sa.Column("trial_id", sa.Integer(), nullable=True),
        sa.Column("action", sa.String(length=60), nullable=False),
        sa.Column("old", sa.JSON(), nullable=True),
        sa.Column("new", sa.JSON(), nullable=True),
        sa.Column("why", sa.String(length=500), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_audit_entry_person_id_person")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_audit_entry_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_audit_entry")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_index("ix_audit_entry_trial_id_at", "audit_entry", ["trial_id", "at"], unique=False)
    op.create_table(
        "conclusion",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("decision", sa.String(length=10), nullable=False),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("strength", sa.String(length=20), nullable=False),
        sa.Column("headline", sa.String(length=500), nullable=False),
        sa.Column("digest", sa.String(length=64), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_conclusion_person_id_person")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_conclusion_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_conclusion")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "draw",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("seed", sa.Integer(), nullable=False),
        sa.Column("reason", sa.String(length=300), nullable=False),
        sa.Column("result", sa.JSON(), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_draw_person_id_person")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_draw_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_draw")),
        sa.UniqueConstraint("trial_id", "number", name=op.f("uq_draw_trial_id_number")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "factor",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(length=20), nullable=False),
        sa.Column("name", sa.String(length=60), nullable=False),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_factor_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_factor")),
        sa.UniqueConstraint("trial_id", "position", name=op.f("uq_factor_trial_id_position")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "incident",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(length=40), nullable=False),
        sa.Column("first_day", sa.Date(), nullable=False),
        sa.Column("last_day", sa.Date(), nullable=False),
        sa.Column("note", sa.String(length=500), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("request_key", sa.String(length=40), nullable=True),
        sa.CheckConstraint("first_day <= last_day", name=op.f("ck_incident_days_in_order")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_incident_person_id_person")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_incident_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_incident")),
        sa.UniqueConstraint("request_key", name=op.f("uq_incident_request_key")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "interim_look",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("reason", sa.String(length=500), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_interim_look_person_id_person")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_interim_look_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_interim_look")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "job",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("title", sa.String(length=120), nullable=False),
        sa.Column("due_das", sa.Integer(), nullable=False),
        sa.Column("window_days", sa.Integer(), nullable=False),
        sa.Column("done_at", base.Moment(), nullable=True),
        sa.Column("done_by_id", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["done_by_id"], ["person.id"], name=op.f("fk_job_done_by_id_person")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_job_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_job")),
        sa.UniqueConstraint("trial_id", "title", "due_das", name=op.f("uq_job_trial_id_title_due_das")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "prediction",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("ranking", sa.JSON(), nullable=False),
        sa.Column("why", sa.String(length=500), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_prediction_person_id_person")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_prediction_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_prediction")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "reveal",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("reason", sa.String(length=500), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_reveal_person_id_person")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_reveal_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_reveal")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "tray",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("rows", sa.Integer(), nullable=False),
        sa.Column("columns", sa.Integer(), nullable=False),
        sa.CheckConstraint("`rows` > 0 and `columns` > 0", name=op.f("ck_tray_has_cells")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_tray_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_tray")),
        sa.UniqueConstraint("trial_id", "number", name=op.f("uq_tray_trial_id_number")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "wave",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("planned_for", sa.Date(), nullable=True),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_wave_trial_id_trial")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_wave")),
        sa.UniqueConstraint("trial_id", "number", name=op.f("uq_wave_trial_id_number")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "check_visit",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("wave_id", sa.Integer(), nullable=False),
        sa.Column("planned_das", sa.Integer(), nullable=False),
        sa.Column("window_days", sa.Integer(), nullable=False),
        sa.Column("is_endpoint", sa.Boolean(), nullable=False),
        sa.Column("way", sa.String(length=40), nullable=False),
        sa.Column("day", sa.Date(), nullable=True),
        sa.Column("opened_at", base.Moment(), nullable=True),
        sa.Column("opened_by_id", sa.Integer(), nullable=True),
        sa.Column("closed_at", base.Moment(), nullable=True),
        sa.Column("closed_by_id", sa.Integer(), nullable=True),
        sa.CheckConstraint(
            "closed_at is null or opened_at is not null", name=op.f("ck_check_visit_opened_before_closed")
        ),
        sa.ForeignKeyConstraint(["closed_by_id"], ["person.id"], name=op.f("fk_check_visit_closed_by_id_person")),
        sa.ForeignKeyConstraint(["opened_by_id"], ["person.id"], name=op.f("fk_check_visit_opened_by_id_person")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_check_visit_trial_id_trial")),
        sa.ForeignKeyConstraint(["wave_id"], ["wave.id"], name=op.f("fk_check_visit_wave_id_wave")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_check_visit")),
        sa.UniqueConstraint(
            "trial_id", "wave_id", "planned_das", name=op.f("uq_check_visit_trial_id_wave_id_planned_das")
        ),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "level",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("factor_id", sa.Integer(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=60), nullable=False),
        sa.ForeignKeyConstraint(["factor_id"], ["factor.id"], name=op.f("fk_level_factor_id_factor")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_level")),
        sa.UniqueConstraint("factor_id", "name", name=op.f("uq_level_factor_id_name")),
        sa.UniqueConstraint("factor_id", "position", name=op.f("uq_level_factor_id_position")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "lot",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("wave_id", sa.Integer(), nullable=False),
        sa.Column("day_zero_first", sa.Date(), nullable=False),
        sa.Column("day_zero_last", sa.Date(), nullable=False),
        sa.Column("held", sa.String(length=120), nullable=False),
        sa.Column("note", sa.String(length=500), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.CheckConstraint("day_zero_first <= day_zero_last", name=op.f("ck_lot_days_in_order")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_lot_trial_id_trial")),
        sa.ForeignKeyConstraint(["wave_id"], ["wave.id"], name=op.f("fk_lot_wave_id_wave")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_lot")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "unit",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("wave_id", sa.Integer(), nullable=False),
        sa.Column("arm_id", sa.Integer(), nullable=False),
        sa.Column("code", sa.String(length=8), nullable=False),
        sa.Column("bench_order", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["arm_id"], ["arm.id"], name=op.f("fk_unit_arm_id_arm")),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_unit_trial_id_trial")),
        sa.ForeignKeyConstraint(["wave_id"], ["wave.id"], name=op.f("fk_unit_wave_id_wave")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_unit")),
        sa.UniqueConstraint("code", name=op.f("uq_unit_code")),
        sa.UniqueConstraint("trial_id", "bench_order", name=op.f("uq_unit_trial_id_bench_order")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "arm_level",
        sa.Column("arm_id", sa.Integer(), nullable=False),
        sa.Column("factor_id", sa.Integer(), nullable=False),
        sa.Column("level_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["arm_id"], ["arm.id"], name=op.f("fk_arm_level_arm_id_arm")),
        sa.ForeignKeyConstraint(["factor_id"], ["factor.id"], name=op.f("fk_arm_level_factor_id_factor")),
        sa.ForeignKeyConstraint(["level_id"], ["level.id"], name=op.f("fk_arm_level_level_id_level")),
        sa.PrimaryKeyConstraint("arm_id", "factor_id", name=op.f("pk_arm_level")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "cutting",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("unit_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("status", sa.String(length=10), nullable=False),
        sa.Column("not_stuck_reason", sa.String(length=120), nullable=True),
        sa.Column("lot_id", sa.Integer(), nullable=True),
        sa.Column("stock_plant", sa.String(length=60), nullable=False),
        sa.Column("stem", sa.String(length=60), nullable=False),
        sa.CheckConstraint(
            "status <> 'not stuck' or not_stuck_reason is not null", name=op.f("ck_cutting_not_stuck_has_reason")
        ),
        sa.CheckConstraint("status <> 'stuck' or lot_id is not null", name=op.f("ck_cutting_stuck_has_lot")),
        sa.CheckConstraint("status in ('planned','stuck','not stuck')", name=op.f("ck_cutting_status_known")),
        sa.ForeignKeyConstraint(["lot_id"], ["lot.id"], name=op.f("fk_cutting_lot_id_lot")),
        sa.ForeignKeyConstraint(["unit_id"], ["unit.id"], name=op.f("fk_cutting_unit_id_unit")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_cutting")),
        sa.UniqueConstraint("unit_id", "number", name=op.f("uq_cutting_unit_id_number")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_index("ix_cutting_lot_id", "cutting", ["lot_id"], unique=False)
    op.create_table(
        "grouping",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("unit_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(length=20), nullable=False),
        sa.Column("name", sa.String(length=60), nullable=False),
        sa.ForeignKeyConstraint(["unit_id"], ["unit.id"], name=op.f("fk_grouping_unit_id_unit")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_grouping")),
        sa.UniqueConstraint("unit_id", "kind", name=op.f("uq_grouping_unit_id_kind")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "incident_unit",
        sa.Column("incident_id", sa.Integer(), nullable=False),
        sa.Column("unit_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["incident_id"], ["incident.id"], name=op.f("fk_incident_unit_incident_id_incident")),
        sa.ForeignKeyConstraint(["unit_id"], ["unit.id"], name=op.f("fk_incident_unit_unit_id_unit")),
        sa.PrimaryKeyConstraint("incident_id", "unit_id", name=op.f("pk_incident_unit")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "placement",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("unit_id", sa.Integer(), nullable=False),
        sa.Column("tray_id", sa.Integer(), nullable=False),
        sa.Column("row", sa.Integer(), nullable=False),
        sa.Column("column", sa.Integer(), nullable=False),
        sa.Column("from_at", base.Moment(), nullable=False),
        sa.ForeignKeyConstraint(["tray_id"], ["tray.id"], name=op.f("fk_placement_tray_id_tray")),
        sa.ForeignKeyConstraint(["unit_id"], ["unit.id"], name=op.f("fk_placement_unit_id_unit")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_placement")),
        sa.UniqueConstraint(
            "tray_id", "row", "column", "from_at", name=op.f("uq_placement_tray_id_row_column_from_at")
        ),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "score",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("check_id", sa.Integer(), nullable=False),
        sa.Column("cutting_id", sa.Integer(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("current", sa.Integer(), nullable=True),
        sa.Column("state", sa.String(length=40), nullable=False),
        sa.Column("roots", sa.String(length=20), nullable=False),
        sa.Column("root_number", sa.Integer(), nullable=True),
        sa.Column("longest_root_mm", sa.Double(), nullable=True),
        sa.Column("callus", sa.Boolean(), nullable=True),
        sa.Column("top", sa.String(length=20), nullable=True),
        sa.Column("failure", sa.String(length=20), nullable=True),
        sa.Column("fit", sa.String(length=12), nullable=False),
        sa.Column("known_by", sa.String(length=40), nullable=False),
        sa.Column("note", sa.String(length=500), nullable=False),
        sa.Column("scored_on", sa.Date(), nullable=False),
        sa.Column("blind", sa.Boolean(), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("reason", sa.String(length=300), nullable=False),
        sa.Column("ended_by", sa.String(length=20), nullable=True),
        sa.Column("request_key", sa.String(length=40), nullable=True),
        sa.CheckConstraint(
            "(roots = 'counted') = (root_number is not null)", name=op.f("ck_score_number_when_counted")
        ),
        sa.CheckConstraint(
            "longest_root_mm is null or (longest_root_mm > 0 and longest_root_mm <= 2000)",
            name=op.f("ck_score_length_range"),
        ),
        sa.CheckConstraint(
            "root_number is null or root_number between 1 and 500", name=op.f("ck_score_root_number_range")
        ),
        sa.ForeignKeyConstraint(["check_id"], ["check_visit.id"], name=op.f("fk_score_check_id_check_visit")),
        sa.ForeignKeyConstraint(["cutting_id"], ["cutting.id"], name=op.f("fk_score_cutting_id_cutting")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_score_person_id_person")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_score")),
        sa.UniqueConstraint("check_id", "cutting_id", "current", name=op.f("uq_score_check_id_cutting_id_current")),
        sa.UniqueConstraint("check_id", "cutting_id", "revision", name=op.f("uq_score_check_id_cutting_id_revision")),
        sa.UniqueConstraint("request_key", name=op.f("uq_score_request_key")),
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_520_ci",
        mysql_engine="InnoDB",
    )


def downgrade() -> None:
    op.drop_table("score")
    op.drop_table("placement")
    op.drop_table("incident_unit")
    op.drop_table("grouping")
    op.drop_table("cutting")
    op.drop_table("arm_level")
    op.drop_table("unit")
    op.drop_table("lot")
    op.drop_table("level")
    op.drop_table("check_visit")
    op.drop_table("wave")
    op.drop_table("tray")
    op.drop_table("reveal")
    op.drop_table("prediction")
    op.drop_table("job")
    op.drop_table("interim_look")
    op.drop_table("incident")
    op.drop_table("factor")
    op.drop_table("draw")
    op.drop_table("conclusion")
    op.drop_table("audit_entry")
    op.drop_table("arm")
    op.drop_table("amendment")
    op.drop_table("trial")
    op.drop_table("person")
    op.drop_table("lab")
