"""columns that hold one of a few words are held to them"""

from alembic import op

revision = "20261126_0850_known_values"
down_revision = "20261126_0840_same_trial"
branch_labels = None
depends_on = None

GRADES = ("lifted and counted", "through the wall", "at the hole", "tug", "shoots", "green bark")
STATES = (
    "alive", "looks dead", "dead", "cannot tell yet", "missing", "taken out: rot or death confirmed", "taken out: other", "sampled",
    "potted out", "given away",
)  # fmt: skip
INCIDENTS = (
    "frost", "heat", "missed water", "soaked", "pest", "algae", "knocked", "cover off", "shade off", "label lost", "other",
)  # fmt: skip
WORDS = (
    ("tray", "shape", ("tray of cells", "pot", "jar", "tank", "lidded tray", "bed")),
    ("check_visit", "way", GRADES),
    ("score", "state", STATES),
    ("score", "roots", ("none", "counted", "seen, not counted", "not looked")),
    ("score", "top", ("fresh", "growing", "flower", "wilting", "dried", "gone")),
    ("score", "failure", ("black base", "dry from top", "pest")),
    ("score", "fit", ("yes", "no", "not judged")),
    ("score", "known_by", GRADES),
    ("incident", "kind", INCIDENTS),
    ("conclusion", "decision", ("adopt", "drop", "repeat", "hold")),
)


def upgrade() -> None:
    for table, column, words in WORDS:
        listed = ",".join(f"'{word}'" for word in words)
        op.create_check_constraint(f"{column}_known", table, f"{column} in ({listed})")
    op.create_check_constraint("redraw_has_reason", "draw", "number = 1 or reason <> ''")


def downgrade() -> None:
    op.drop_constraint("redraw_has_reason", "draw", type_="check")
    for table, column, _ in WORDS:
        op.drop_constraint(f"{column}_known", table, type_="check")
