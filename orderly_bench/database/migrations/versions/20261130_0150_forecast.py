"""nights to come, and more that can happen"""

import sqlalchemy as sa
from alembic import op

revision = "20261130_0150_forecast"
down_revision = "20261130_0130_away"
branch_labels = None
depends_on = None
BEFORE = "'frost','heat','missed water','soaked','pest','algae','knocked','cover off','shade off','label lost','other'"
MORE = "'frost','heat','missed water','soaked','pest','algae','weeds','knocked','dug up to look','shears or mower','animals','cover off','shade off','label lost','other'"


def _known(kinds: str) -> None:
    op.drop_constraint("kind_known", "incident", type_="check")
    op.create_check_constraint("kind_known", "incident", f"kind in ({kinds})")


def upgrade() -> None:
    op.add_column("lab", sa.Column("forecast", sa.JSON(), nullable=False, server_default="{}"))
    _known(MORE)


def downgrade() -> None:
    op.execute(
        sa.text(
            "update incident set kind = 'other' where kind in ('weeds','dug up to look','shears or mower','animals')"
        )
    )
    _known(BEFORE)
    op.drop_column("lab", "forecast")
