"""sessions on the server, a shared throttle, one-time links for a new password, a second factor"""

import sqlalchemy as sa
from alembic import op

from orderly_bench.database import base

revision = "20261126_1430_accounts"
down_revision = "20261126_1400_standing"
branch_labels = None
depends_on = None


def _id() -> sa.Column[int]:
    return sa.Column("id", sa.Integer(), nullable=False)


def _person(table: str, column: str) -> sa.ForeignKeyConstraint:
    return sa.ForeignKeyConstraint([column], ["person.id"], name=op.f(f"fk_{table}_{column}_person"))


def upgrade() -> None:
    op.add_column("person", sa.Column("totp_secret", sa.String(64), nullable=True))
    op.add_column("person", sa.Column("totp_step", sa.Integer(), nullable=True))
    op.create_table(
        "signed_in",
        _id(),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("key_digest", sa.String(64), nullable=False),
        sa.Column("since", base.Moment(), nullable=False),
        sa.Column("seen_at", base.Moment(), nullable=False),
        sa.Column("ended_at", base.Moment(), nullable=True),
        sa.Column("address", sa.String(45), nullable=False),
        sa.Column("device", sa.String(160), nullable=False),
        _person("signed_in", "person_id"),
        sa.UniqueConstraint("key_digest", name=op.f("uq_signed_in_key_digest")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_signed_in")),
        **base.TABLE,
    )
    op.create_index(op.f("ix_signed_in_person_id"), "signed_in", ["person_id"])
    op.create_table(
        "throttle",
        _id(),
        sa.Column("what", sa.String(100), nullable=False),
        sa.Column("fails", sa.Integer(), nullable=False),
        sa.Column("last_at", base.Moment(), nullable=False),
        sa.UniqueConstraint("what", name=op.f("uq_throttle_what")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_throttle")),
        **base.TABLE,
    )
    op.create_table(
        "reset_link",
        _id(),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("key_digest", sa.String(64), nullable=False),
        sa.Column("made_by_id", sa.Integer(), nullable=False),
        sa.Column("until", base.Moment(), nullable=False),
        sa.Column("used_at", base.Moment(), nullable=True),
        _person("reset_link", "person_id"),
        _person("reset_link", "made_by_id"),
        sa.UniqueConstraint("key_digest", name=op.f("uq_reset_link_key_digest")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_reset_link")),
        **base.TABLE,
    )


def downgrade() -> None:
    for table in ("reset_link", "throttle", "signed_in"):
        op.drop_table(table)
    op.drop_column("person", "totp_step")
    op.drop_column("person", "totp_secret")
