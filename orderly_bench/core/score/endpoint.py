"""Rooted at the endpoint: yes, no, or left out with the reason.

Not dead, and roots seen or counted. Tug, shoots and green bark never suffice, for roots or for none. Dead, or taken out with
rot or death confirmed, is not rooted, whenever that was. No earlier score is carried forward.
"""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.vocabulary import INDIRECT_GRADES, Roots, Score, State


@dataclass(frozen=True)
class Outcome:
    """``rooted`` None means left out of the comparison; ``state`` says why, as the CSV prints it."""

    rooted: bool | None
    state: str

    @property
    def left_out(self) -> bool:
        """Whether the cutting has no known outcome (sampling by design is out, not left out)."""
        return self.rooted is None


NOT_EXAMINED = Outcome(None, "unaccounted")


def outcome_at_endpoint(endpoint: Score | None, carried: Score | None = None) -> Outcome:
    """Judge one cutting.

    Parameters
    ----------
    endpoint : Score or None
        Its score at the endpoint check.
    carried : Score or None
        An earlier score with a final state, which carries forward when the endpoint has none.
    """
    score = endpoint or carried
    if score is None:
        return NOT_EXAMINED
    if score.state in (State.DEAD, State.TAKEN_OUT_DEAD):
        return Outcome(False, score.state.value)
    if score.state not in (State.ALIVE, State.LOOKS_DEAD) or endpoint is None:
        return Outcome(None, score.state.value)
    if score.roots is Roots.NOT_LOOKED:
        return Outcome(None, "not looked")
    if score.known_by in INDIRECT_GRADES:
        told = "no roots" if score.roots is Roots.NONE else "roots"
        return Outcome(None, f"{told} only by {score.known_by.value}")
    if score.roots is Roots.NONE:
        return Outcome(False, score.state.value)
    return Outcome(True, score.state.value)


#: Columns of a reconciliation, in the order printed.
COLUMNS = ("rooted", "no roots, not dead", "dead", "left out", "unaccounted")


def column_of(outcome: Outcome) -> str:
    """The reconciliation column an outcome is counted in; the columns add up to the stuck."""
    if outcome == NOT_EXAMINED:
        return "unaccounted"
    if outcome.rooted is None:
        return "left out"
    if outcome.rooted:
        return "rooted"
    return "dead" if outcome.state in (State.DEAD, State.TAKEN_OUT_DEAD) else "no roots, not dead"


def reconcile(outcomes: list[Outcome]) -> dict[str, int]:
    """Count outcomes by column; the values sum to ``len(outcomes)``."""
    counts = dict.fromkeys(COLUMNS, 0)
    for outcome in outcomes:
        counts[column_of(outcome)] += 1
    return counts
