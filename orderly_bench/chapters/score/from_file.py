"""Scores of a check from a file: all of it is checked before any is kept, and what stands already changes nothing."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from orderly_bench.chapters.score.holding import lock
from orderly_bench.chapters.score.operations import Sent, current_scores, keep_score
from orderly_bench.core.design.codes import normalise
from orderly_bench.core.errors import Refused, UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.formats.scores_csv import ScoreRow, read_scores
from orderly_bench.trial.access import Act, may
from orderly_bench.trial.checks import in_scope
from orderly_bench.trial.models import CheckVisit, Cutting, Person, ScoreRecord


@dataclass(frozen=True)
class Brought:
    """How many rows were new, corrected a standing score, and said what stood already."""

    new: int
    corrected: int
    same: int

    @property
    def words(self) -> str:
        """In one line."""
        return _(
            "{n:score|scores} kept, {corrected} corrected, {same} as they stood",
            n=self.new,
            corrected=str(self.corrected),
            same=str(self.same),
        )


def bring_scores(
    session: Session, check: CheckVisit, actor: Person, now: datetime, data: bytes, reason: str = ""
) -> Brought:
    """Keep the scores of a file. A row that differs from a standing score corrects it, with the reason given for the whole file.

    Of a closed check a researcher brings it, with a reason: what a device had kept comes in late.

    Raises
    ------
    UnusableData
        Any row that can't be read, names no cutting of the check, or comes twice: then nothing is kept.
    Refused
        Standing scores differ and no reason is given.
    """
    lock(session, check.id)
    _refuse_unless_taken(check, actor, reason)
    rows = read_scores(data, check.planned_das, KnownBy(check.way))
    if not rows:
        raise UnusableData(
            _("no row scores anything at the check of day {day}", day=str(check.planned_das)),
            _("Fill in state and roots, or take the file of this check"),
        )
    cuttings = {_key(c.code): c for c in in_scope(session, check)}
    standing = current_scores(session, [check])[check.id]
    wanted: list[tuple[ScoreRow, Cutting, int, ScoreRecord | None]] = []
    seen: set[tuple[int, int]] = set()
    for row in rows:
        cutting = cuttings.get(_key(row.code))
        if cutting is None:
            raise UnusableData(
                _("{code} is no cutting of this check", code=row.code[:40]),
                _("Look at its label"),
                row=row.line,
                column="cutting",
            )
        site = _site(cutting, row)
        if (cutting.id, site) in seen:
            raise UnusableData(
                _("{code} comes twice", code=cutting.code), _("Keep one row"), row=row.line, column="cutting"
            )
        seen.add((cutting.id, site))
        wanted.append((row, cutting, site, standing.get((cutting.id, site))))
    differing = [
        cutting.code for row, cutting, _, stands in wanted if stands is not None and stands.as_score() != row.score
    ]
    if differing and not reason.strip():
        raise Refused(
            _("{n:score differs|scores differ} from what stands ({codes}). Say why they are corrected, or take those rows out.", n=len(differing), codes=", ".join(differing[:6]))
        )  # fmt: skip
    new = 0
    for row, cutting, site, stands in wanted:
        if stands is None or stands.as_score() != row.score:
            sent = Sent(site, stands.revision if stands else 0, reason if stands else "")
            keep_score(session, check, cutting, actor, now, row.score, sent)
            new += stands is None
    return Brought(new, len(differing), len(wanted) - new - len(differing))


def _refuse_unless_taken(check: CheckVisit, actor: Person, reason: str) -> None:
    """A file is taken of an open check, and of a closed one by whoever runs checks, with a reason."""
    if check.is_open:
        return
    if check.closed_at is None or not may(actor, Act.RUN_CHECK):
        raise Refused(_("This check is not open. A file is taken while it is; of a closed one by a researcher."))
    if not reason.strip():
        raise Refused(_("This check is closed: say why scores come in after it, such as a device that came back."))


def _key(code: str) -> str:
    """A code as it is compared: no spaces, its letters normal, the number of the cutting behind it."""
    unit, dash, number = code.replace(" ", "").partition("-")
    return normalise(unit) + dash + number


def _site(cutting: Cutting, row: ScoreRow) -> int:
    if row.site not in cutting.sites:
        names = ", ".join(site or _("(blank)") for site in cutting.sites)
        raise UnusableData(
            _("{code} has no site {site!r}", code=cutting.code, site=row.site), _("It is one of: {names}", names=names), row=row.line, column="site"
        )  # fmt: skip
    return cutting.sites.index(row.site) + 1
