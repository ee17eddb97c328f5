"""one unit in one place at a time; moves have a reason; trays belong to a wave and have a shape"""

import sqlalchemy as sa
from alembic import op

revision = "20261126_0830_places"
down_revision = "20261126_0820_waves_and_lots"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("tray", sa.Column("wave_id", sa.Integer(), nullable=True))
    op.add_column("tray", sa.Column("shape", sa.String(20), nullable=False, server_default="tray of cells"))
    op.execute("update tray t join wave w on w.trial_id = t.trial_id and w.number = 1 set t.wave_id = w.id")
    op.execute("update tray t join trial r on r.id = t.trial_id set t.shape = 'pot' where r.plan_text like '%\\n  cuttings_per_unit: %' and r.plan_text not like '%\\n  cuttings_per_unit: 1\\n%'")  # fmt: skip
    op.alter_column("tray", "wave_id", existing_type=sa.Integer(), nullable=False)
    op.alter_column("tray", "shape", existing_type=sa.String(20), server_default=None)
    op.add_column("placement", sa.Column("trial_id", sa.Integer(), nullable=True))
    op.add_column("placement", sa.Column("spot", sa.Integer(), nullable=False, server_default="1"))
    op.add_column("placement", sa.Column("current", sa.Integer(), nullable=True))
    op.add_column("placement", sa.Column("reason", sa.String(300), nullable=False, server_default=""))
    op.add_column("placement", sa.Column("person_id", sa.Integer(), nullable=True))
    op.execute("update placement p join unit u on u.id = p.unit_id set p.trial_id = u.trial_id")
    op.execute(
        "update placement p join (select unit_id, max(id) newest from placement group by unit_id) n on n.newest = p.id set p.current = 1"
    )
    op.alter_column("placement", "trial_id", existing_type=sa.Integer(), nullable=False)
    op.create_check_constraint("place_counts_from_one", "placement", "`row` > 0 and `column` > 0 and spot > 0")
    op.create_foreign_key("fk_placement_person_id_person", "placement", "person", ["person_id"], ["id"])
    op.create_unique_constraint("uq_placement_unit_id_current", "placement", ["unit_id", "current"])
    op.create_unique_constraint(
        "uq_placement_tray_id_row_column_spot_current", "placement", ["tray_id", "row", "column", "spot", "current"]
    )
    op.drop_constraint("uq_placement_tray_id_row_column_from_at", "placement", type_="unique")


def downgrade() -> None:
    op.create_unique_constraint(
        "uq_placement_tray_id_row_column_from_at", "placement", ["tray_id", "row", "column", "from_at"]
    )
    op.drop_constraint("uq_placement_tray_id_row_column_spot_current", "placement", type_="unique")
    op.drop_constraint("fk_placement_unit_id_unit", "placement", type_="foreignkey")
    op.drop_constraint("uq_placement_unit_id_current", "placement", type_="unique")
    op.create_foreign_key("fk_placement_unit_id_unit", "placement", "unit", ["unit_id"], ["id"])
    op.drop_constraint("fk_placement_person_id_person", "placement", type_="foreignkey")
    op.drop_constraint("place_counts_from_one", "placement", type_="check")
    for name in ("trial_id", "spot", "current", "reason", "person_id"):
        op.drop_column("placement", name)
    op.drop_column("tray", "wave_id")
    op.drop_column("tray", "shape")
