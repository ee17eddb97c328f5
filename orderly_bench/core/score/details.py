"""What else may be said of one cutting's roots and shoot: a table of fields, each in one line; blank is not judged, never no."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from statistics import fmean

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.typed import read_number
from orderly_bench.core.vocabulary import Fit, KnownBy, Roots, Score

#: Pairs of a field's name and what was said, in the order of the fields.
Details = tuple[tuple[str, str], ...]
#: Arms whose share of roots torn or washed differs by more than this were not lifted alike.
UNEVEN = 0.2


@dataclass(frozen=True)
class Detail:
    """One field.

    Attributes
    ----------
    name : str
        In forms and files.
    words : str
    options : tuple of str
        What it may be; none where it is a percentage.
    of_roots : bool
        Only where roots were seen or counted.
    """

    name: str
    words: str
    options: tuple[str, ...] = ()
    of_roots: bool = True

    @property
    def choices(self) -> list[tuple[str, str]]:
        """Its options with their words."""
        return [(option, _(option)) for option in self.options]


DETAILS = (
    Detail("thickness", N_("roots are"), (N_("fine"), N_("middling"), N_("thick"))),
    Detail("arise", N_("they arise"), (N_("at the base"), N_("at a node"), N_("along the stem"), N_("from callus"))),
    Detail("ball_percent", N_("ball, % of the stem's round")),
    Detail("colour", N_("colour of the roots"), (N_("white"), N_("cream"), N_("brown"), N_("black"))),
    Detail("lifting", N_("got out by"), (N_("tipping"), N_("shaking"), N_("rinsing"), N_("teasing")), False),
    Detail("torn", N_("torn in lifting"), (N_("no"), N_("some"), N_("many"))),
    Detail("washed", N_("washed"), (N_("no"), N_("yes"))),
    Detail("shoot_below", N_("new shoot from below"), (N_("no"), N_("yes")), False),
    Detail("not_fit_why", N_("not fit, because"), (N_("few roots"), N_("short roots"), N_("dead top"), N_("wrong place"), N_("torn")), False),
)  # fmt: skip
BY_NAME = {detail.name: detail for detail in DETAILS}


def read_details(typed: Mapping[str, str]) -> Details:
    """What was said of each field, from forms or files; blank ones left out.

    Raises
    ------
    InvalidInput
        Something that is none of the options, no number, or beyond 0 to 100 %.
    """
    found = []
    for detail in DETAILS:
        said = " ".join(typed.get(detail.name, "").split())
        if not said:
            continue
        if detail.options:
            if said not in detail.options:
                names = ", ".join(map(_, detail.options))
                raise InvalidInput(_(detail.words), _("choose one of: {names}", names=names), said[:40])
        else:
            number = read_number(said.rstrip("% "), _(detail.words))
            if not 0 <= number <= 100:
                raise InvalidInput(_(detail.words), _("lies between 0 and 100"), said[:40])
            said = f"{number:g}"
        found.append((detail.name, said))
    return tuple(found)


def in_order(said: Mapping[str, str]) -> Details:
    """What was kept, in the order of the fields."""
    return tuple((detail.name, said[detail.name]) for detail in DETAILS if said.get(detail.name))


def check_details(score: Score) -> None:
    """Refuse what is said of roots that nobody saw, and a reason for not fit of what was not judged so.

    Raises
    ------
    InvalidInput
    """
    seen = score.roots in (Roots.SEEN, Roots.COUNTED)
    for name, said in score.details:
        detail = BY_NAME[name]
        if detail.of_roots and not seen:
            raise InvalidInput(_(detail.words), _("is said of roots, and none were seen; leave it blank"), said)
    if score.fit is not Fit.NO and (why := dict(score.details).get("not_fit_why")):
        raise InvalidInput(_(BY_NAME["not_fit_why"].words), _("is said of what is not fit; choose 'no' first"), why)


def by_arm(scores: Mapping[str, Sequence[Score]]) -> list[tuple[str, dict[str, str]]]:
    """Of every field that was judged somewhere, its words and each arm's counts: ``white 12, brown 3 of 15 judged``."""
    found = []
    for detail in DETAILS:
        said = {arm: [dict(score.details).get(detail.name, "") for score in own] for arm, own in scores.items()}
        told = {arm: _told(detail, [one for one in own if one]) for arm, own in said.items()}
        if any(told.values()):
            found.append((_(detail.words), told))
    return found


def _told(detail: Detail, said: Sequence[str]) -> str:
    if not said:
        return ""
    if not detail.options:
        return _("{mean:.0f} % on average of {n} judged", mean=fmean(map(float, said)), n=str(len(said)))
    counts = Counter(said)
    parts = ", ".join(f"{_(option)} {counts[option]}" for option in detail.options if counts[option])
    return _("{parts} of {n} judged", parts=parts, n=str(len(said)))


def lifted_by(score: Score, lifting: str) -> Score:
    """A score of what was lifted with the check's way of getting it out of the medium, where it says none of its own."""
    if not lifting or score.known_by is not KnownBy.LIFTED or "lifting" in dict(score.details):
        return score
    return replace(score, details=in_order(dict(score.details) | {"lifting": lifting}))


def read_lifting(typed: str) -> str:
    """A way of getting pieces out of the medium; blank where nobody says."""
    return dict(read_details({"lifting": typed})).get("lifting", "")


def _lifted_otherwise(said: Mapping[str, Sequence[str]]) -> list[Caution]:
    """Arms that were got out of their medium in other ways."""
    for way in BY_NAME["lifting"].options:
        shares = {arm: (own.count(way), len(own)) for arm, own in said.items() if own}
        if len(shares) < 2:
            return []
        most, least = (pick(shares, key=lambda arm: shares[arm][0] / shares[arm][1]) for pick in (max, min))
        if shares[most][0] / shares[most][1] - shares[least][0] / shares[least][1] > UNEVEN:
            of = {arm: _("{k} of {n}", k=shares[arm][0], n=shares[arm][1]) for arm in (most, least)}
            return [
                caution(
                    "lifted_unevenly",
                    "way",
                    way=_(way),
                    most=most,
                    of_most=of[most],
                    least=least,
                    of_least=of[least],
                )
            ]
    return []


def doubts_about_lifting(scores: Mapping[str, Sequence[Score]]) -> list[Caution]:
    """Arms that were got out in other ways, torn, or washed more often than others: what was counted may be what was left."""
    ways = {arm: [way for s in own if (way := dict(s.details).get("lifting"))] for arm, own in scores.items()}
    found = _lifted_otherwise(ways)
    for name in ("torn", "washed"):
        shares: dict[str, tuple[int, int]] = {}
        for arm, own in scores.items():
            said = [dict(score.details)[name] for score in own if name in dict(score.details)]
            if said:
                shares[arm] = sum(one != "no" for one in said), len(said)
        if len(shares) < 2:
            continue
        most, least = (pick(shares, key=lambda arm: shares[arm][0] / shares[arm][1]) for pick in (max, min))
        if shares[most][0] / shares[most][1] - shares[least][0] / shares[least][1] > UNEVEN:
            of = {arm: _("{k} of {n}", k=shares[arm][0], n=shares[arm][1]) for arm in (most, least)}
            found.append(caution("lifted_unevenly", name, most=most, of_most=of[most], least=least, of_least=of[least]))
    return found
