"""ways by trial on the method cards, and lessons"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261129_2340_ways"
down_revision = "20261129_2330_second_scorer"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("method_card", sa.Column("way", sa.String(240), nullable=False, server_default=""))
    op.create_table(
        "way_kept",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("taxon", sa.String(120), nullable=False),
        sa.Column("cutting_type", sa.String(120), nullable=False),
        sa.Column("trial_code", sa.String(20), nullable=False),
        sa.Column("letter", sa.String(2), nullable=False),
        sa.Column("way", sa.String(200), nullable=False),
        sa.Column("day", sa.Integer(), nullable=False),
        sa.Column("rooted", sa.Integer(), nullable=False),
        sa.Column("known", sa.Integer(), nullable=False),
        sa.Column("worth", sa.Double(), nullable=True),
        sa.Column("best_of", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column("late", sa.Boolean(), nullable=False),
        sa.Column("decision", sa.String(10), nullable=False),
        sa.Column("adopted", sa.Boolean(), nullable=False),
        sa.CheckConstraint("rooted between 0 and known", name=op.f("ck_way_kept_rooted_of_known")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_way_kept")),
        sa.UniqueConstraint("trial_code", "letter", name=op.f("uq_way_kept_trial_code_letter")),
        sa.Index("ix_way_kept_taxon", "taxon", "cutting_type"),
        **base.TABLE,
    )
    op.create_table(
        "lesson",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("taxon", sa.String(120), nullable=False),
        sa.Column("trial_code", sa.String(20), nullable=False),
        sa.Column("what", sa.String(10), nullable=False),
        sa.Column("text", sa.String(300), nullable=False),
        sa.Column("rests_on", sa.String(300), nullable=False),
        sa.CheckConstraint("what in ('keep','change','stop')", name=op.f("ck_lesson_what_known")),
        sa.CheckConstraint("text <> ''", name=op.f("ck_lesson_says_something")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_lesson")),
        sa.Index("ix_lesson_taxon", "taxon"),
        **base.TABLE,
    )


def downgrade() -> None:
    op.drop_table("lesson")
    op.drop_table("way_kept")
    op.drop_column("method_card", "way")
