"""Figures in a sentence, each held against the counts of the arm it is said of: percentages, counts, parts, ratios, days."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from orderly_bench.core.cautions import Caution
from orderly_bench.core.conclude import cost_claims, p_claims
from orderly_bench.core.conclude.cost_claims import MONEY
from orderly_bench.core.conclude.ends_claims import ends
from orderly_bench.core.conclude.english import NUMBER, PART, number, part
from orderly_bench.core.conclude.facts import Counted, Facts, Settled
from orderly_bench.core.conclude.mark import Mark
from orderly_bench.core.conclude.names import NamesFound, masked
from orderly_bench.core.conclude.said_of import bound, clause_around, counted, counts_told, shares_of
from orderly_bench.core.messages.say import caution
from orderly_bench.core.responses.kind import Response

Found = list[tuple[Mark, Caution | None]]

TIMES = {
    "twice": 2.0, "double": 2.0, "doubles": 2.0, "doubled": 2.0, "triple": 3.0, "triples": 3.0, "tripled": 3.0, "threefold": 3.0, "twofold": 2.0,
    "thrice": 3.0, "quadruple": 4.0, "quadruples": 4.0, "quadrupled": 4.0, "trebles": 3.0, "trebled": 3.0, "quintupled": 5.0, "fourfold": 4.0,
}  # fmt: skip
RATIO = re.compile(
    rf"\b({'|'.join(TIMES)})\b|\b({NUMBER})(?: times(?! (?:we|they|it|in|per|a)\b)|-fold| fold|x\b)|\b(halves|halved|({PART})(?: as (?:much|many|well|good|often)| less| fewer| more))\b|\bby (?:about |nearly |almost |over |more than )?({PART})\b(?! (?:of|an?)\b)",
    re.I,
)
#: What is so many times as high, and no rate.
ODDS = re.compile(r"\bodds\b", re.I)
#: By which a rate falls; by any other word it rises.
FALLS = re.compile(r"\b(?:reduc|decreas|lower|cut|drop|fell|diminish|less|fewer)\w*\b", re.I)
#: *Of 48 in pumice, 40 rooted.*
OF_SO_MANY = re.compile(
    rf"\bof (?:the |all )?({NUMBER})\b[^.;:]{{0,60}}?[ ,]({NUMBER}) (?:did not |failed to |have |had )?root", re.I
)
POINTS = re.compile(rf"\b({NUMBER})\s*(?:percentage )?points?\b", re.I)
PERCENT = re.compile(rf"({NUMBER})\s*(?:%|percent\b|per cent\b)(?!\s*(?:interval|confidence|points|CI\b))", re.I)
#: *From 33 % to 77 %*: the rates of two that are compared.
FROM_TO = re.compile(
    rf"\bfrom (?:only |about |some )?({NUMBER})\s*(?:%|percent\b|per cent\b)? to (?:only |about |some )?({NUMBER})\s*(?:%|percent\b|per cent\b)",
    re.I,
)
#: *Six more*, which is held where it is read which is ahead.
SO_MANY = re.compile(rf"\b({NUMBER}) (?:cuttings |pieces )?(?:more|fewer)\b(?! than (?:{PART}|{NUMBER})\b)", re.I)
#: In front of a figure, that it is passed or not reached.
PASSED = re.compile(
    r"\b(?:(?P<over>more than|over|above|upwards of)|(?P<least>at least|no less than|not less than)|(?P<under>less than|under|below|fewer than)|(?P<most>at most|no more than|not more than|up to)|within)\s+$",
    re.I,
)
#: In front of that, which then says how little.
DIFFER_BY = re.compile(r"\bdiffer(?:s|ed)? by\s+$", re.I)
#: What a percentage may be of, that is no rate.
OTHER_SHARE = re.compile(
    r"^\W*(?:shade|humidity|alcohol|ethanol|light|iba|naa|talc|less light|more light|bleach|solution|margin|significan|level|strength|cheaper|dearer|saving)",
    re.I,
)
COUNT = re.compile(rf"\b({NUMBER})\s*(?:of|out of|in|/)\s*(?:the |its |all )?({NUMBER})(?!\w)", re.I)
QUANTIFIER = re.compile(
    rf"\b(?:(?P<nearly>nearly all|almost all|virtually all)|(?P<hardly>almost none|hardly any|next to none|almost no)|(?P<beside>more than|over|less than|under|fewer than)\s+(?P<parted>{PART})"
    rf"|(?:about |around |roughly |some |nearly |almost |only )?(?P<plain>{PART})|(?P<most>(?<!rooted )(?<!root )(?<!roots )most|the majority)|(?P<every>(?:not |(?<!in ))all(?: of)?(?! (?:that|those|three|two|four|species|cultivars|plants|seasons|media|other|along|the (?:time|same|difference)))|every (?:single )?(?:cutting|piece|one))"
    r"|(?P<none>none|nothing|no (?:cuttings?|pieces?)|not (?:a single )?one|no(?=\s{3,}root)))(?![\w])(?! as | less| fewer| more| the difference|\s+(?:light|feed|strength|the price|the cost))",
    re.I,
)
ROOTING = re.compile(r"\b(?:root(?:s|ed|ing|less)?|struck|strike|took|alive|survived?|failed|fit)\b", re.I)
NOT_SO = re.compile(
    r"\b(?:(?:did|do|does|have|had|has|could|would|will)(?:n't| not)(?: \w+)? root\w*|without (?:any )?roots?|unrooted|rootless|not root\w*|no roots|failed to root|fail(?:s)? to root|never rooted)\b",
    re.I,
)
#: Fates that are not the other side of rooting.
FATE = re.compile(
    r"\b(?:died|dead|dying|dies|deaths?|lost|losses|rotted|rot|shrivelled|missing|failed)\b(?! to root)", re.I
)
TO_COME = re.compile(
    r"\b(?:will|shall|would|expect\w*|plan (?:for|on)|can be expected|count on|in (?:the )?future|relied on|rely on|be trusted|bound to|from now on|should root|going to|next (?:time|year|season|spring|summer|autumn|winter))\b",
    re.I,
)
DAYS = re.compile(
    rf"\b(?:day ({NUMBER})|((?:about|nearly|roughly|almost|some) )?({NUMBER})[- ](days?|weeks?|months?))\b", re.I
)
#: Behind a percentage, that it is a difference.
GAP = re.compile(r"\b(?:ahead|more|less|fewer|better|worse|higher|lower|difference|above|below)\b", re.I)
#: What belongs to a ratio: *twice as many as*.
AS_MANY = re.compile(r"\s*(?:as (?:many|much|good|well|often|high|long)(?: \w+)?(?: as)?|better|more|higher)\b", re.I)
#: How far a percentage or ratio may lie from what was counted and still be it; a part of a whole; weeks in days.
ROUNDED, NEAR, ABOUT, WEEK, OFF = 1.0, 0.1, 0.06, 7, 2
NEARLY_ALL, HARDLY_ANY = 0.9, 0.1
#: *Nine out of ten* is a part of a whole, unless ten were stuck.
SMALL = 10
OVERALL = re.compile(r"\b(?:overall|on average|in total|altogether|all told|of all)\b", re.I)
#: Arms of which every sum is looked at.
MOST_SUMMED = 8


@dataclass
class Figures:
    """What the figures of a sentence come to, and where they stand: what is left over was not checked."""

    found: Found = field(default_factory=list)
    taken: list[tuple[int, int]] = field(default_factory=list)

    def add(self, hit: re.Match[str], mark: Mark | None, doubt: Caution | None = None, more: int = 0) -> None:
        """A figure read, with so many signs behind it; None where it says nothing of the result."""
        self.taken.append((hit.start(), hit.end() + more))
        if mark is not None:
            self.found.append((mark, doubt))

    def blanked(self, text: str) -> str:
        """The text without what was read; that some did not root belongs to their figure."""
        for start, end in self.taken:
            text = text[:start] + " " * (end - start) + text[end:]
        return NOT_SO.sub(lambda hit: " " * len(hit[0]), text) if self.found else text

    def free(self, hit: re.Match[str]) -> bool:
        """Whether nothing of it was read before."""
        return all(hit.end() <= start or hit.start() >= end for start, end in self.taken)


def figures(sentence: str, said: NamesFound, facts: Facts, pair: Settled | None) -> Figures:
    """Every figure of a sentence; ``pair`` is the comparison it speaks of."""
    text, read = masked(sentence, said), Figures()
    for hit, of in p_claims.with_pairs(text, said, facts, pair):
        read.add(hit, *p_claims.held(hit, of))
    for hit in RATIO.finditer(text):
        beside = AS_MANY.match(text[hit.end() :])
        read.add(hit, *_times(hit, text, said, facts, pair), more=beside.end() if beside else 0)
    for hit in cost_claims.PRICE.finditer(text):
        if MONEY.search(text) and facts.costs and not re.search(r"\bcuttings?\b", text, re.I):
            read.add(hit, *cost_claims.price(hit, said.names, facts))
    if facts.shares:
        _read_shares(read, sentence, text, said, facts, pair)
    for hit in DAYS.finditer(text):
        if read.free(hit):
            read.add(hit, *_day(hit, text, facts))
    left = [hit for hit in re.finditer(rf"(?<![\w.]){NUMBER}(?!\w)", text, re.I) if read.free(hit)]
    held = {hit.start() for hit in SO_MANY.finditer(text)} if pair is not None and facts.shares else set()
    if any(hit.start() not in held and hit[0].lower() not in ("one", "two") for hit in left):
        read.found.append((Mark.NOT_CHECKED, None))
    return read


def _times(
    hit: re.Match[str], text: str, said: NamesFound, facts: Facts, pair: Settled | None
) -> tuple[Mark | None, Caution | None]:
    """So many times as much: of money beside the costs, of odds not checked, else beside the counts."""
    clause = clause_around(hit, text)
    if MONEY.search(clause):
        return cost_claims.times(hit[0], _stated(hit), _is_less(hit), said.names, facts)
    return (Mark.NOT_CHECKED, None) if ODDS.search(clause) else _ratio(hit, pair, facts)


def _read_shares(read: Figures, sentence: str, text: str, said: NamesFound, facts: Facts, pair: Settled | None) -> None:
    """Counts, points, percentages and parts of a whole, where the endpoint is a yes or no."""
    _read_counts(read, sentence, text, said, facts)
    for hit in POINTS.finditer(text):
        beside = PASSED.search(text[: hit.start()])
        if beside and (by := DIFFER_BY.search(text[: beside.start()])):
            read.taken += [by.span(), beside.span()]
        read.add(hit, *_gap(hit, pair, beside))
    for hit in FROM_TO.finditer(text):
        if read.free(hit) and not MONEY.search(clause_around(hit, text)):
            read.add(hit, *_from_to(hit, pair, said, facts))
    for hit, mark in ends(text, facts.arms):
        if read.free(hit) and not MONEY.search(clause_around(hit, text)):
            read.add(hit, mark)
    _read_percents(read, text, said, facts)
    for hit in QUANTIFIER.finditer(text):
        if read.free(hit) and (ROOTING.search(text) or TO_COME.search(text)):
            read.add(hit, *_quantifier(hit, bound(hit, 0, [hit], text, said, facts)[0], text, facts))


def _read_counts(read: Figures, sentence: str, text: str, said: NamesFound, facts: Facts) -> None:
    """Counts, and parts of a whole that look like one, each of the arm it is said of."""
    counts, known = [hit for hit in COUNT.finditer(text) if read.free(hit)], _counts_of(facts)
    for i, hit in enumerate(counts):
        arms, sure = bound(hit, i, counts, text, said, facts)
        if hit[0].split()[1:2] == ["in"] and (beside := PASSED.search(text[: hit.start()])):
            read.taken.append(beside.span())
            share = 100 * number(hit[1]) / max(number(hit[2]), 1.0)
            read.add(hit, *_passed(hit, share, beside, arms, text))
            continue
        fits = (number(hit[1]), number(hit[2])) in known
        read.add(hit, *_unless_elsewhere(_count(hit, arms, text, facts), sure, fits))
    for hit in OF_SO_MANY.finditer(text):
        if read.free(hit):
            arms, _ = bound(hit, 0, [hit], text, said, facts)
            words, clause = sentence[hit.start() : hit.end()], clause_around(hit, text) + hit[0]
            read.add(hit, *_held(number(hit[2]), number(hit[1]), arms, clause, words, facts))


def _read_percents(read: Figures, text: str, said: NamesFound, facts: Facts) -> None:
    """Percentages, each of the arm it is said of."""
    rates = [100 * k / n for k, n in _counts_of(facts) if n]
    percents = [hit for hit in PERCENT.finditer(text) if read.free(hit)]
    for i, hit in enumerate(percents):
        if MONEY.search(clause_around(hit, text)):
            read.add(hit, *_part_of_cost(hit, text, said, facts))
            continue
        arms, sure = bound(hit, i, percents, text, said, facts)
        if (beside := PASSED.search(text[: hit.start()])) and not GAP.search(text[hit.end() : hit.end() + 14]):
            fits = any(_passes(beside, number(hit[1]), rate) for rate in rates)
            read.taken.append(beside.span())
            read.add(hit, *_unless_elsewhere(_passed(hit, number(hit[1]), beside, arms, text), sure, fits))
            continue
        fits = any(abs(number(hit[1]) - rate) <= ROUNDED for rate in rates)
        read.add(hit, *_unless_elsewhere(_percent(hit, arms, text, facts), sure, fits))


def _part_of_cost(hit: re.Match[str], text: str, said: NamesFound, facts: Facts) -> tuple[Mark, Caution | None]:
    off = min(number(hit[1]), 99.0) / 100
    less = re.match(r"\W*(?:less|cheaper|below|under)\b", text[hit.end() :], re.I) is not None
    return cost_claims.times(hit[0], 1 / (1 - off) if less else 1 + off, less, said.names, facts)


def _unless_elsewhere(
    read: tuple[Mark | None, Caution | None], sure: bool, fits: bool
) -> tuple[Mark | None, Caution | None]:
    """What stands against the arm that a figure seems to be of, but is true of another, is not checked where the arm is not sure."""
    return (Mark.NOT_CHECKED, None) if read[0] is Mark.AGAINST and fits and not sure else read


def _counts_of(facts: Facts) -> set[tuple[float, float]]:
    """Counts of every arm and level, and of any of the arms together, with what did not."""
    found = {(one.did, one.known) for one in counted(facts)}
    sums: set[tuple[int, int]] = {(0, 0)}
    for arm in facts.arms[:MOST_SUMMED]:
        sums |= {(did + arm.did, known + arm.known) for did, known in sums}
    return {(float(k), float(n)) for did, n in found | sums for k in (did, n - did)}


def _count(
    hit: re.Match[str], arms: list[Counted] | None, text: str, facts: Facts
) -> tuple[Mark | None, Caution | None]:
    k, n = number(hit[1]), number(hit[2])
    clause = clause_around(hit, text)
    if TO_COME.search(clause) and n:
        return _to_come(k / n, counted(facts) if arms is None else arms, hit[0], ABOUT)
    whole = {arm.known for arm in counted(facts)} | {sum(arm.known for arm in facts.arms)}
    if hit[0].split()[1:2] == ["in"] or (n <= SMALL and n not in whole):  # one in three is a part of a whole
        return _part(hit, k / n if n else 0.0, arms, clause, facts)
    return _held(k, n, arms, clause, hit[0], facts)


def _held(
    k: float, n: float, arms: list[Counted] | None, clause: str, words: str, facts: Facts
) -> tuple[Mark | None, Caution | None]:
    """k of n beside the counts of the arms it is said of, or of all together."""
    if FATE.search(clause) and facts.response is not Response.ALIVE:
        return Mark.BEYOND, caution("says_more", "fate", words=words)
    negated = bool(NOT_SO.search(clause))
    among = counted(facts) if arms is None else arms
    known = {((arm.known - arm.did) if negated else arm.did, arm.known) for arm in among}
    did, n_all = sum(arm.did for arm in facts.arms), sum(arm.known for arm in facts.arms)
    total = (n_all - did if negated else did), n_all
    if arms is None and len(facts.arms) > 1:
        known |= {total}
    if (k, n) in known:
        return (Mark.CARRIED if arms is not None or (k, n) == total else Mark.NOT_CHECKED), None
    return Mark.AGAINST, caution("says_more", "count", words=words)


def _gap(hit: re.Match[str], pair: Settled | None, beside: re.Match[str] | None) -> tuple[Mark | None, Caution | None]:
    """Points between the two it speaks of; what lies beyond or within so many is for an interval, unless the counts lie elsewhere."""
    high, low = (pair.higher.rate, pair.lower.rate) if pair is not None else (None, None)
    if high is None or low is None:
        return Mark.NOT_CHECKED, None
    if beside is not None and _passes(beside, number(hit[1]), 100 * (high - low)):
        return Mark.NOT_CHECKED, None
    if beside is None and abs(100 * (high - low) - number(hit[1])) <= ROUNDED:
        return Mark.CARRIED, None
    return Mark.AGAINST, caution("says_more", "percent", words=hit[0])


def _from_to(
    hit: re.Match[str], pair: Settled | None, said: NamesFound, facts: Facts
) -> tuple[Mark | None, Caution | None]:
    """The rates of two that are compared, one after the other; of another two than those meant it is not checked."""
    told = [number(hit[1]), number(hit[2])]

    def fits(one: Settled) -> bool:
        rates = [100 * (side.rate or 0.0) for side in (one.lower, one.higher)]
        return any(all(abs(a - b) <= ROUNDED for a, b in zip(told, both, strict=True)) for both in (rates, rates[::-1]))

    if pair is not None and fits(pair) and len({one.group for one in said.mentions}) < 2:
        return Mark.CARRIED, None
    if any(one.clear and fits(one) and said.names == [one.higher.name] for one in facts.pairs) and told[0] < told[1]:
        return Mark.CARRIED, None
    if pair is None or any(fits(one) for one in facts.pairs):
        return Mark.NOT_CHECKED, None
    return Mark.AGAINST, caution("says_more", "percent", words=hit[0])


def _passes(beside: re.Match[str], told: float, rate: float) -> bool:
    """Whether a rate lies on that side of a figure, as far as it was rounded."""
    if beside["over"] or beside["least"]:
        return rate > told or (bool(beside["least"]) and rate >= told - ROUNDED)
    return rate < told or (not beside["under"] and rate <= told + ROUNDED)


def _passed(
    hit: re.Match[str], told: float, beside: re.Match[str], arms: list[Counted] | None, text: str
) -> tuple[Mark | None, Caution | None]:
    """*More than 80 %*, *fewer than one in four*, of the arms it is said of."""
    clause = clause_around(hit, text)
    if arms is None or OTHER_SHARE.search(text[hit.end() :]) or TO_COME.search(text) or FATE.search(clause):
        return Mark.NOT_CHECKED, None
    if any(_passes(beside, told, 100 * share) for share in shares_of(arms, bool(NOT_SO.search(clause)))):
        return Mark.CARRIED, None
    return Mark.AGAINST, caution("says_more", "part", words=beside[0] + hit[0], told=counts_told(arms))


def _percent(
    hit: re.Match[str], arms: list[Counted] | None, text: str, facts: Facts
) -> tuple[Mark | None, Caution | None]:
    if OTHER_SHARE.search(text[hit.end() :]):
        return Mark.NOT_CHECKED, None
    value, clause = number(hit[1]), clause_around(hit, text)
    rates = [100 * rate for rate in shares_of(counted(facts), False)]
    gap = GAP.search(text[hit.end() : hit.end() + 14])
    if gap and any(abs(value - abs(a - b)) <= ROUNDED for a in rates for b in rates):
        return Mark.CARRIED, None
    if FATE.search(clause) and facts.response is not Response.ALIVE:
        return Mark.BEYOND, caution("says_more", "fate", words=hit[0])
    doubt = caution("says_more", "percent", words=hit[0])
    if arms and not gap and any(abs(value - rate) <= ROUNDED for rate in rates):
        doubt = caution("says_more", "percent_of", words=hit[0], name=arms[0].name, told=counts_told(arms))
    if TO_COME.search(text):
        return _to_come(value / 100, counted(facts) if arms is None else arms, hit[0], ROUNDED / 100)
    if arms is None:
        total = [100 * _total(facts)] if OVERALL.search(text) else []
        if any(abs(value - one) <= ROUNDED for one in total):
            return Mark.CARRIED, None
        there = any(abs(value - one) <= ROUNDED for one in rates)
        return (Mark.NOT_CHECKED, None) if there else (Mark.BEYOND, doubt)
    there = any(abs(100 * share - value) <= ROUNDED for share in shares_of(arms, bool(NOT_SO.search(clause))))
    if there:
        return Mark.CARRIED, None
    return (Mark.BEYOND if gap else Mark.AGAINST), doubt


def _total(facts: Facts) -> float:
    known = sum(arm.known for arm in facts.arms)
    return sum(arm.did for arm in facts.arms) / known if known else 0.0


def _to_come(share: float, arms: list[Counted], words: str, near: float) -> tuple[Mark, Caution | None]:
    """What is to come of an arm: outside its interval against the data, inside it still more than one trial says."""
    ends = [(arm.low, arm.high) for arm in arms if arm.low is not None and arm.high is not None]
    if ends and all(share < low - near or share > high + near for low, high in ends):
        low, high = ends[0]
        return Mark.AGAINST, caution(
            "says_more", "outside", words=words, low=f"{100 * low:.0f}", high=f"{100 * high:.0f}"
        )
    return Mark.BEYOND, caution("says_more", "to_come", words=words)


def _quantifier(
    hit: re.Match[str], arms: list[Counted] | None, text: str, facts: Facts
) -> tuple[Mark | None, Caution | None]:
    clause = clause_around(hit, text)
    if arms is None:
        return Mark.NOT_CHECKED, None
    if hit["plain"]:
        return _part(hit, part(hit["plain"]), arms, clause, facts)
    if FATE.search(clause) and facts.response is not Response.ALIVE:
        return Mark.BEYOND, caution("says_more", "fate", words=hit[0])
    if TO_COME.search(text):
        return Mark.BEYOND, caution("says_more", "to_come", words=hit[0])
    shares = shares_of(arms, bool(NOT_SO.search(clause)) and not hit["none"])
    if any(_fits(hit, share) for share in shares):
        return Mark.CARRIED, None
    return Mark.AGAINST, caution("says_more", "part", words=hit[0], told=counts_told(arms))


def _fits(hit: re.Match[str], share: float) -> bool:
    """Whether a share is what a word of counting says."""
    if hit["every"]:
        return share < 1 if hit["every"].lower().startswith("not") else share == 1
    if hit["beside"]:
        over = hit["beside"].lower() in ("more than", "over")
        return share > part(hit["parted"]) if over else share < part(hit["parted"])
    fits = {"none": share == 0, "nearly": share >= NEARLY_ALL, "hardly": share <= HARDLY_ANY, "most": share > 1 / 2}
    return next(right for kind, right in fits.items() if hit[kind])


def _part(
    hit: re.Match[str], share: float, arms: list[Counted] | None, clause: str, facts: Facts
) -> tuple[Mark | None, Caution | None]:
    if arms is None:
        return Mark.NOT_CHECKED, None
    if FATE.search(clause) and facts.response is not Response.ALIVE:
        return Mark.BEYOND, caution("says_more", "fate", words=hit[0])
    if TO_COME.search(clause) or not ROOTING.search(clause):
        return _to_come(share, arms, hit[0], ABOUT)
    if any(abs(one - share) <= ABOUT for one in shares_of(arms, bool(NOT_SO.search(clause)))):
        return Mark.CARRIED, None
    return Mark.AGAINST, caution("says_more", "part", words=hit[0], told=counts_told(arms))


def _is_less(hit: re.Match[str]) -> bool:
    return hit[0].lower().endswith(("less", "fewer"))


def _stated(hit: re.Match[str]) -> float:
    """The ratio that a word says, of the greater over the less."""
    if hit[1]:
        return TIMES[hit[1].lower()]
    if hit[2]:
        return number(hit[2])
    if hit[5]:
        of = part(hit[5])
        return 1 / (1 - of) if FALLS.search(hit.string[: hit.start()]) else 1 + of
    of = part(hit[4]) if hit[4] else 1 / 2
    return 1 / (1 - of) if _is_less(hit) else 1 + of if hit[0].lower().endswith("more") else 1 / of


def _ratio(hit: re.Match[str], pair: Settled | None, facts: Facts) -> tuple[Mark, Caution | None]:
    """A ratio beside that of the counts: larger stands against them, as large says more than an interval was made for."""
    if pair is None or not facts.shares or pair.ratio is None:
        return Mark.BEYOND, caution("says_more", "no_ratio", words=hit[0])
    stated = _stated(hit)
    variant = "ratio_against" if stated > pair.ratio * (1 + NEAR) else "ratio"
    doubt = caution(
        "says_more", variant, words=hit[0], ratio=f"{pair.ratio:.2g}", a=pair.higher.name, b=pair.lower.name
    )
    return (Mark.AGAINST if variant == "ratio_against" else Mark.BEYOND), doubt


def _day(hit: re.Match[str], text: str, facts: Facts) -> tuple[Mark | None, Caution | None]:
    """A day of looking; one that is none of them stands against the data where it says after how long they rooted."""
    if not facts.days:
        return Mark.NOT_CHECKED, None
    told = number(hit[1] or hit[3])
    unit = (hit[4] or "day").lower()
    if unit.startswith("month"):
        return Mark.NOT_CHECKED, None
    day = told * (WEEK if unit.startswith("week") else 1)
    off = OFF + (1 if hit[2] else 0) if unit.startswith("week") else (3 if hit[2] else 0)
    if any(abs(day - one) <= off for one in facts.days):
        return None, None
    if hit[1] or re.search(r"\b(?:in|after|by|within|on|at)\W+$", text[: hit.start()], re.I):
        return Mark.AGAINST, caution("says_more", "day", words=hit[0], days=", ".join(map(str, facts.days)))
    return Mark.NOT_CHECKED, None
