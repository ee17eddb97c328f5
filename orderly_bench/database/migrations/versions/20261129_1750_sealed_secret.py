"""the secret of a second factor is kept encrypted, which is longer"""

import sqlalchemy as sa
from alembic import op

revision = "20261129_1750_sealed_secret"
down_revision = "20261129_1740_locked_stays"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.alter_column("person", "totp_secret", type_=sa.String(255), existing_type=sa.String(64), existing_nullable=True)


def downgrade() -> None:
    # A sealed secret does not fit and could not be read: its person signs in without, and turns it on again.
    op.execute("update person set totp_secret = null, totp_step = null where char_length(totp_secret) > 64")
    op.alter_column("person", "totp_secret", type_=sa.String(64), existing_type=sa.String(255), existing_nullable=True)
