"""Which arm a sentence puts ahead, that they are alike, or that nothing was settled, held against the comparisons."""

from __future__ import annotations

import re
from dataclasses import dataclass

from orderly_bench.core.cautions import Caution
from orderly_bench.core.conclude import cost_claims
from orderly_bench.core.conclude.dose_claims import of_strengths
from orderly_bench.core.conclude.english import NUMBER, number
from orderly_bench.core.conclude.facts import Facts, Settled
from orderly_bench.core.conclude.mark import Mark
from orderly_bench.core.conclude.names import NamesFound, find_names, masked
from orderly_bench.core.conclude.things import DOWNWARD, THAN, WORSE, is_down, other_thing, own_claims, stranger
from orderly_bench.core.messages.say import caution
from orderly_bench.core.vocabulary import Strength

Found = list[tuple[Mark, Caution | None]]

#: Words that compare only where something is named, or *than* stands behind: "more are needed" compares nothing.
WEAK = re.compile(
    r"more|most|less|least|fewer|fewest|higher|highest|lower|lowest|ahead|behind|lost to|loses|won|wins?|increase[sd]?|reduce[sd]?|decrease[sd]?",
    re.I,
)
WORTH = re.compile(r"works?|worked|effective|pays?|paid|worth (?:it|the \w+)", re.I)
CLAIMS = re.compile(
    rf"\b(better|best|superior|higher|highest|more|(?<!at )most(?! of)|outperform\w*|outroot\w*|beats?|beaten|ahead|improve[sd]?|increase[sd]?|"
    rf"wins?|won|surpass\w*|exceed\w*|came (?:out )?first|came (?:out )?(?:on )?top|edge[sd]? out|recommended|prefer(?:s|red|able)?|help(?:s|ed)?|promote[sd]?|favou?r(?:s|ed)?|{WORSE}|works?|worked|effective|significant\w*|pays?|paid|worth (?:it|the \w+))\b",
    re.I,
)
OF_ALL = re.compile(
    r"\b(best|highest|most|worst|lowest|fewest|least|wins?|won|came (?:out )?(?:first|last|(?:on )?top))\b", re.I
)
#: Adverbs that are no claim by themselves.
ADVERB = re.compile(r"significant\w*", re.I)
NEITHER = re.compile(r"\bneither\b", re.I)
#: Behind *neither*, that nothing was settled; not that they are alike.
SHOWN = re.compile(r"\b(?:shown|proven|proved|found|called|demonstrated|clearly|significantly|established)\b", re.I)
#: Every one of several that are not named.
EACH_OF = re.compile(r"\b(?:both|either|each|all|every)\b", re.I)
#: In front of *more*, by how many.
BY_SO_MANY = re.compile(rf"\b({NUMBER}) (?:cuttings |pieces )?$", re.I)
LESS_THAN_AS = re.compile(
    r"\bnot (?:nearly |quite |half |at all |anywhere near |nowhere near )?as (?:good|well|many|much|high|often|effective) as\b|\bnowhere near as \w+ as\b",
    re.I,
)
SAMENESS = re.compile(
    r"\b((?<!not )the same|(?<!not )alike|(?<!not )equal(?:ly)?|equivalent|no (?:real |big )?differences?|no effect|as (?:good|well|many|much|high|often|effective) as|"
    r"(?:does|do|did)(?:n't| not) (?:matter|differ)|ma(?:kes?|de) no (?:real )?difference|indistinguishable|interchangeable|(?:is|are|was|were) (?:just )?as (?:good|effective))\b",
    re.I,
)
#: Alike, where it is said of several that are named: *similar to last year* speaks of none of these.
SIMILAR = re.compile(r"\b(?<!not )(?:similar(?:ly)?|comparabl[ey]|on a par)\b", re.I)
#: What the layout stands in, and nothing that was varied: *did not differ between blocks*.
PLACES = r"(?:blocks?|trays?|pots?|benches|rows?|columns?|positions?|reps?|replicates?|scorers?|observers?|donors?|stock plants?)"
OF_PLACES = re.compile(rf"\b(?:between|among|of|by|from|across) (?:the )?{PLACES}\b|^\W*(?:the )?{PLACES}\b", re.I)
DIFFER = re.compile(
    r"\b(differ(?:s|ed)?(?! by (?:less|fewer|under|at most|no more|not more))|there (?:was|were|is|are) (?:a |some )?(?:real |clear )?differences?|(?:a|some|the) (?:real |clear |true )?difference (?:between|in)|ma(?:kes?|de) (?:a|the|some) (?:real |clear )?difference|matter(?:s|ed)|(?:has|had|have) an? (?:\w+ )?effect|(?:was|is) an? (?:\w+ )?effect of|(?:affect|influenc)(?:s|ed)?\b(?! by)|"
    r"not (?:the same|alike|equal|equally))\b",
    re.I,
)
#: Says that the trial settles nothing, which can be true or not.
OPEN = re.compile(
    r"\b(no (?:clear|significant|convincing|settled|proven|shown|demonstrable|statistically significant) (?:differences?|effect|winner|advantage)|no differences? (?:between .{1,60} )?(?:was|were|is|has been) (?:settled|shown|proven|established|demonstrated|detected)|"
    r"(?:can|could)(?:not|'t|n't| not) (?:be )?(?:tell|told|say|said|decide|separated?|distinguish(?:ed)?)|not (?:yet )?(?:settled|shown|proven|significant(?:ly)?|conclusive|clear(?:ly)?(?! of)|decided)|"
    r"(?:did|do|does)(?:n't| not) (?:(?:significantly|clearly) differ|differ (?:significantly|clearly))|inconclusive|unsettled|undecided|unclear|too (?:few|thin|small|little|weak) to (?:tell|say)|(?:remains|is|still) open|(?:does|did|do)(?:n't| not) (?:show|settle|tell|prove)|no evidence)\b",
    re.I,
)
NEGATED = re.compile(
    r"\b(?:no|not|n't|never|nor|neither|hardly|scarcely|didn't|doesn't|isn't|wasn't|aren't|weren't|don't)\b(?: \w+){0,2} $",
    re.I,
)
HEDGED = re.compile(
    r"\b(?:may|might|could|perhaps|possibly|probably|maybe|seems?|seemed|appears?|appeared|suggests?|likely|looks? as if|i think|we think|we believe|hint\w*|tend\w*)\b",
    re.I,
)
DEGREE = re.compile(
    r"\b(?:much|far|vastly|hugely|greatly|slightly|a bit|a little|marginally|only just|dramatically|a lot|big|large|huge|enormous|small|tiny)\b",
    re.I,
)
PASSIVE = re.compile(
    r"\b(?:was|were|is|are|been|being|got) (?:clearly |easily |always |often )?(?:beaten|outrooted|outperformed|surpassed|exceeded|bettered|improved|increased) by\b",
    re.I,
)
AGAINST_FIRST = re.compile(
    r"^\W*(?:and |but |so )?(?:when )?(?:compared (?:with|to)|against|unlike|relative to|versus|than|next to|beside)\b",
    re.I,
)
EXCHANGED = re.compile(
    r"\b(?:replac\w+|swap\w*|switch\w*|instead of|rather than|chang\w+ (?:from|over)|going from|not \w+(?: \w+)? but)\b",
    re.I,
)
#: Behind *than* or *beat*, all that are not named.
THE_REST = re.compile(
    r"^\W*(?:(?:the|all|both|every|each|of|any) )*(?:others?(?: \w+)?|rest|remaining(?: \w+)?|other (?:two|three|four))\W*$",
    re.I,
)
#: The same of two.
BOTH_OF, TWO = re.compile(r"^\W*(?:both|either)(?: (?:of )?(?:the )?\w+(?: \w+)?)?\W*$", re.I), 2
#: One after the other.
IN_ORDER = re.compile(
    r"\bfollowed by\b|[,;] (?:and )?(?:then|next|after that)\b|\bthen came\b|\bahead of\b.*\bahead of\b", re.I
)
WELL = re.compile(
    r"\b(root(?:s|ed|ing)? (?:very |quite |really |so )?(?:well|easily|readily|poorly|badly|freely|nicely)|(?:easy|hard|difficult) (?:to root|plants?|species|cultivars?)|(?:good|great|excellent|poor|bad) (?:results?|rooting|rates?)|work(?:s|ed)? (?:very |quite |really )?(?:well|fine|badly)|(?:rate|rooting) (?:is|was) (?:high|low|good|poor)|useless|hopeless|worthless|successful|a success|a failure|failed)\b(?! to root)",
    re.I,
)
BARE = re.compile(
    r"\b(did not|didn't|failed to|does not|doesn't|do not|don't|cannot|can't|will not|won't|never)(?: \w+)? root(?:s|ed)?\b(?! (?:more|better|less|fewer|worse|as|any better|equally|in \w+ than|well))",
    re.I,
)


@dataclass(frozen=True)
class _Claim:
    """What a clause says of two: who is the subject, whether it is put above or below, and whether that is denied."""

    subject: str | None
    down: bool
    denied: bool
    words: str


def meant(said: NamesFound, facts: Facts) -> Settled | None:
    """The one comparison a text speaks of; None where it speaks of several, or of none that was made."""
    pairs = pairs_meant(said, facts)
    return pairs[0] if len(pairs) == 1 else None


def pairs_meant(said: NamesFound, facts: Facts) -> list[Settled]:
    """Comparisons a text speaks of: of two names of one group, of all that a name or a factor has, of all there are."""
    of_group: dict[int, list[str]] = {}
    for one in said.mentions:
        names = of_group.setdefault(one.group, [])
        if one.name not in names:
            names.append(one.name)
    several = [names for names in of_group.values() if len(names) > 1]
    if len(several) == 1 and len(of_group) == 1:
        return [pair for pair in facts.pairs if pair.names == frozenset(several[0][:2])]
    if several or said.ambiguous or len(said.names) > 1:
        return []
    if said.names:
        return [pair for pair in facts.pairs if said.names[0] in pair.names]
    if said.factors:
        of = said.factors[0] if len(said.factors) == 1 and said.factors[0] < len(facts.groups) else None
        levels = set(facts.groups[of]) if of is not None else set()
        return [pair for pair in facts.pairs if pair.names <= levels]
    return list(facts.pairs) if len(facts.groups) == 1 else []


def compared(clause: str, facts: Facts) -> Found:
    """What a clause says of how arms compare."""
    said = find_names(clause, facts)
    text = masked(clause, said)
    claims = list(own_claims(text, facts)) or list(CLAIMS.finditer(text))
    claim = min(claims, key=_weight, default=None)
    same, differ, settled = _sameness(text, said), DIFFER.search(text), OPEN.search(text)
    other, apart = other_thing(text, facts), _by_itself(text, said, facts)
    if apart is not None:
        return apart
    if other is not None and (claim or same or differ or said.anything or other[1]):
        return [(Mark.BEYOND, caution("says_more", "unmeasured", words=other[0]))]
    if (well := WELL.search(text)) and not THAN.search(text):
        return [(Mark.BEYOND, caution("says_more", "well", words=well[0]))]
    if not (claim or same or differ or settled or LESS_THAN_AS.search(text)):
        return _absolute(clause, text, said, facts)
    many = BY_SO_MANY.search(text[: claim.start()]) if claim is not None and facts.shares else None
    weak = claim is not None and WEAK.fullmatch(claim[0]) and not said.anything and not THAN.search(text)
    if weak and not (same or differ or settled or LESS_THAN_AS.search(text)):
        return [(Mark.NOT_CHECKED, None)] if many else []
    if not facts.compared:
        words = next(hit[0] for hit in (claim, same, differ, settled, LESS_THAN_AS.search(text)) if hit)
        return [
            (Mark.NOT_CHECKED, None)
            if settled and not same
            else (Mark.BEYOND, caution("says_more", "look", words=words))
        ]
    if EXCHANGED.search(text):
        return [(Mark.NOT_CHECKED, None)]
    found = _each(clause, text, said, claim, facts) or [_judged(clause, text, said, claim, facts)]
    found = _with_how_many(found, many, text, said, claim, facts)
    if HEDGED.search(text):
        found = [(Mark.NOT_CHECKED, None) if mark is Mark.BEYOND else (mark, doubt) for mark, doubt in found]
    if DEGREE.search(text) and not settled:
        found = [(Mark.NOT_CHECKED, None) if mark is Mark.CARRIED else (mark, doubt) for mark, doubt in found]
    return found


def _by_itself(text: str, said: NamesFound, facts: Facts) -> Found | None:
    """What is said of strengths or of costs, which have evidence of their own; None where nothing is."""
    found = of_strengths(text, facts)
    return found if found is not None else cost_claims.held_against_costs(text, said.names, facts)


def _sameness(text: str, said: NamesFound) -> re.Match[str] | None:
    return SAMENESS.search(text) or (SIMILAR.search(text) if len(said.names) > 1 else None)


def _weight(claim: re.Match[str]) -> int:
    """The claim that a clause rests on comes first: a verdict before a size, a size before a worth, adverbs last."""
    return next((i for i, kind in ((3, ADVERB), (2, WORTH), (1, WEAK)) if kind.fullmatch(claim[0])), 0)


def _each(clause: str, text: str, said: NamesFound, claim: re.Match[str] | None, facts: Facts) -> Found:
    """Of three of one group, one or two on either side of the claim, each pair by itself; nothing where it is not so."""
    if claim is None or len(said.names) != 3 or len({one.group for one in said.mentions}) != 1:
        return []
    first = [one.name for one in said.mentions if one.end <= claim.start()]
    then = [one.name for one in said.mentions if one.start >= claim.end()]
    if not first or not then or set(first) & set(then):
        return []
    denied, down = bool(NEGATED.search(text[: claim.start()])), is_down(claim[0], facts)
    found = []
    for a in first:
        for b in then:
            pair = next((one for one in facts.pairs if one.names == {a, b}), None)
            found.append(_ahead(_Claim(a, down, denied, claim[0]), pair, said, claim, facts))
    if IN_ORDER.search(text) and len(then) == 2:
        pair = next((one for one in facts.pairs if one.names == {*then}), None)
        found.append(_ahead(_Claim(then[0], down, denied, claim[0]), pair, said, claim, facts))
    return found


def _judged(
    clause: str, text: str, said: NamesFound, claim: re.Match[str] | None, facts: Facts
) -> tuple[Mark, Caution | None]:
    pairs, less = pairs_meant(said, facts), LESS_THAN_AS.search(text)
    pair = pairs[0] if len(pairs) == 1 else None
    if len(said.names) == 1 and any(factor != said.mentions[0].group for factor in said.factors):
        pairs = []  # of one level of another factor alone
    if OF_PLACES.search(text) and not said.anything:
        return Mark.NOT_CHECKED, None
    if (not_here := stranger(text, said)) is not None:
        return Mark.BEYOND, caution("says_more", "stranger", words=not_here)
    if (settled := OPEN.search(text)) and not less:
        return _open(settled[0], pairs)
    if less is None and (one := _alike_or_not(text, said, claim, pairs, facts)) is not None:
        return one
    if claim is not None and (of_all := _above_the_rest(text, said, claim, facts)) is not None:
        return of_all
    if less is not None:
        made = _Claim(said.names[0] if said.names else None, True, False, less[0])
    else:
        assert claim is not None
        if (each := _each_above_one(text, said, claim, facts)) is not None:
            return each
        made = _claim(text, said, claim, pair, facts)
    return _ahead(made, pair, said, claim, facts)


def _alike_or_not(
    text: str, said: NamesFound, claim: re.Match[str] | None, pairs: list[Settled], facts: Facts
) -> tuple[Mark, Caution | None] | None:
    """What says that they are the same, or that they differ; None where neither is said."""
    if claim is not None and (neither := NEITHER.search(text[: claim.start()])):
        shown = SHOWN.search(text)
        return _open(shown[0], pairs) if shown else _same(neither[0], pairs, said, facts, False)
    if same := _sameness(text, said):
        return _same(same[0], pairs, said, facts, bool(NEGATED.search(text[: same.start()])))
    differ = DIFFER.search(text) if claim is None or ADVERB.fullmatch(claim[0]) else None
    if differ is None:
        return None
    denied = NEGATED.search(text[: differ.start()]) is not None
    return _same(differ[0], pairs, said, facts, False) if denied else _differs(differ[0], pairs, said, facts)


def _above_the_rest(
    text: str, said: NamesFound, claim: re.Match[str], facts: Facts
) -> tuple[Mark, Caution | None] | None:
    """One put above or below *the others*; None where it is not."""
    than = THAN.search(text)
    if than is None or len(said.names) != 1 or len(facts.pairs) < 2:
        return None
    both = BOTH_OF.search(text[than.end() :]) and sum(said.names[0] in pair.names for pair in facts.pairs) == TWO
    if said.mentions[0].start > than.start() or not (both or THE_REST.search(text[than.end() :])):
        return None
    denied = NEGATED.search(text[: claim.start()]) is not None
    return (Mark.NOT_CHECKED, None) if denied else _of_all(said.names[0], claim[0], facts)


def _each_above_one(
    text: str, said: NamesFound, claim: re.Match[str], facts: Facts
) -> tuple[Mark, Caution | None] | None:
    """*Both rooted more than the control*; None where it is not so."""
    than = THAN.search(text)
    if than is None or len(said.names) != 1 or said.mentions[0].start < than.end() or len(facts.pairs) < 2:
        return None
    if not EACH_OF.search(text[: claim.start()]) or NEGATED.search(text[: claim.start()]):
        return None
    own = [pair for pair in facts.pairs if said.names[0] in pair.names]
    right = [(pair.lower if not is_down(claim[0], facts) else pair.higher).name == said.names[0] for pair in own]
    if wrong := next((one for one, fits in zip(own, right, strict=True) if one.clear and not fits), None):
        return Mark.AGAINST, caution("says_more", "other_way", words=claim[0], a=wrong.higher.name, b=wrong.lower.name)
    if own and all(pair.clear for pair in own):
        return Mark.CARRIED, None
    return Mark.BEYOND, caution("says_more", "difference", words=claim[0], strength=Strength.CANNOT_TELL.value)


def _with_how_many(
    found: Found, many: re.Match[str] | None, text: str, said: NamesFound, claim: re.Match[str] | None, facts: Facts
) -> Found:
    """The same, with *six more* held against the counts: that says no more than was counted, so nothing of it is beyond them."""
    if many is None or claim is None:
        return found
    pair = meant(said, facts)
    held = _by_so_many(many, claim, _claim(text, said, claim, pair, facts), pair)
    return [held] if found[0][0] is Mark.BEYOND and not OPEN.search(text) else [*found, held]


def _by_so_many(
    many: re.Match[str], claim: re.Match[str], made: _Claim, pair: Settled | None
) -> tuple[Mark, Caution | None]:
    """*Six more*: what was counted of two, whatever it settles."""
    if pair is None or made.denied or made.subject is None or pair.higher.known != pair.lower.known:
        return Mark.NOT_CHECKED, None
    ahead = (made.subject == pair.higher.name) is not made.down
    if ahead and number(many[1]) == pair.higher.did - pair.lower.did:
        return Mark.CARRIED, None
    return Mark.AGAINST, caution("says_more", "count", words=many[0] + claim[0])


def _claim(text: str, said: NamesFound, claim: re.Match[str], pair: Settled | None, facts: Facts) -> _Claim:
    names = [one for one in said.mentions if pair is None or one.name in pair.names] or list(said.mentions)
    order = list(dict.fromkeys(one.name for one in names))
    if len(order) > 1 and AGAINST_FIRST.search(text[: names[0].start] + " "):
        order = order[1:] + order[:1]
    subject = order[0] if order else None
    than = THAN.search(text)
    if pair is not None and len(order) == 1 and than is not None and names[0].start >= than.end():
        subject = next(iter(pair.names - {order[0]}))
    if pair is not None and subject is not None and PASSIVE.search(text) and len(order) > 1:
        subject = order[1]
    denied = bool(NEGATED.search(text[: claim.start()]))
    return _Claim(subject, is_down(claim[0], facts), denied, claim[0])


def _open(words: str, pairs: list[Settled]) -> tuple[Mark, Caution | None]:
    """Says that nothing is settled."""
    if not pairs:
        return Mark.NOT_CHECKED, None
    if all(one.clear for one in pairs):
        return Mark.AGAINST, caution("says_more", "against", words=words)
    return (Mark.NOT_CHECKED if any(one.clear or one.alike for one in pairs) else Mark.CARRIED), None


def _same(
    words: str, pairs: list[Settled], said: NamesFound, facts: Facts, denied: bool
) -> tuple[Mark, Caution | None]:
    """Says that all it speaks of are alike."""
    if denied:
        return _differs(words, pairs, said, facts)
    if any(one.clear for one in pairs):
        return Mark.AGAINST, caution("says_more", "against", words=words)
    if pairs and all(one.alike for one in pairs):
        return Mark.CARRIED, None
    if not pairs and not said.mentions:
        return Mark.NOT_CHECKED, None
    return Mark.BEYOND, caution("says_more", "alike", words=words)


def _differs(words: str, pairs: list[Settled], said: NamesFound, facts: Facts) -> tuple[Mark, Caution | None]:
    """Says that there is a difference among what it speaks of."""
    if not pairs or (said.names and len(pairs) > 1) or (words.lower().startswith("matter") and not said.anything):
        return Mark.NOT_CHECKED, None
    if any(one.clear for one in pairs):
        return Mark.CARRIED, None
    alike = all(one.alike for one in pairs)
    strength = facts.strength.value if alike else Strength.CANNOT_TELL.value
    return (Mark.AGAINST if alike else Mark.BEYOND), caution("says_more", "difference", words=words, strength=strength)


def _ahead(
    made: _Claim, pair: Settled | None, said: NamesFound, claim: re.Match[str] | None, facts: Facts
) -> tuple[Mark, Caution | None]:
    words = made.words
    if len(said.names) == 1 and OF_ALL.fullmatch(words) and len(facts.pairs) > 1:
        return (Mark.NOT_CHECKED, None) if made.denied else _of_all(said.names[0], words, facts)
    if pair is None:
        alone = len(said.names) == 1 and said.mentions[0].group >= 0 and not (said.factors or said.ambiguous)
        two = len(said.names) > 1 and len({one.group for one in said.mentions}) == 1
        return (Mark.BEYOND, caution("says_more", "which", words=words)) if alone or two else (Mark.NOT_CHECKED, None)
    worth = claim is not None and WORTH.fullmatch(claim[0]) is not None and not made.denied
    if pair.alike or not pair.clear:
        return _unsettled(made, pair, worth, facts)
    if made.subject is None:
        return Mark.NOT_CHECKED, None
    ahead = made.subject == pair.higher.name
    if (made.down is ahead) is made.denied:
        return (Mark.NOT_CHECKED if made.denied or worth else Mark.CARRIED), None
    if worth:
        return Mark.BEYOND, caution("says_more", "well", words=words)
    return Mark.AGAINST, caution("says_more", "other_way", words=words, a=pair.higher.name, b=pair.lower.name)


def _unsettled(made: _Claim, pair: Settled, worth: bool, facts: Facts) -> tuple[Mark, Caution | None]:
    """One put ahead, or denied to be, of two that are alike or of which nothing is settled."""
    if pair.alike and made.denied:
        return Mark.CARRIED, None
    if pair.alike and worth:
        return Mark.BEYOND, caution("says_more", "well", words=made.words)
    if made.denied:
        return Mark.BEYOND, caution("says_more", "alike", words=made.words)
    strength = facts.strength.value if pair.alike else Strength.CANNOT_TELL.value
    doubt = caution("says_more", "difference", words=made.words, strength=strength)
    return (Mark.AGAINST if pair.alike else Mark.BEYOND), doubt


def _of_all(name: str, words: str, facts: Facts) -> tuple[Mark, Caution | None]:
    """One named best or worst of all: clear against each other arm that it is compared with."""
    down = bool(DOWNWARD.search(words))
    own = [pair for pair in facts.pairs if name in pair.names]
    sides = [(pair, (pair.lower if down else pair.higher).name == name) for pair in own]
    if any(pair.clear and not right for pair, right in sides):
        pair = next(pair for pair, right in sides if pair.clear and not right)
        return Mark.AGAINST, caution("says_more", "other_way", words=words, a=pair.higher.name, b=pair.lower.name)
    if sides and all(pair.clear and right for pair, right in sides):
        return Mark.CARRIED, None
    return Mark.BEYOND, caution("says_more", "of_all", words=words, name=name)


def _absolute(clause: str, text: str, said: NamesFound, facts: Facts) -> Found:
    """That one roots well, fails, or does not root, by itself."""
    if hit := WELL.search(text):
        return [(Mark.BEYOND, caution("says_more", "well", words=hit[0]))]
    bare = BARE.search(text)
    arms = [arm for arm in facts.arms if arm.name in said.names] or (list(facts.arms) if len(facts.arms) == 1 else [])
    if bare is None or not arms or not facts.shares:
        return []
    if any(arm.did for arm in arms):
        told = f"{arms[0].did}/{arms[0].known}"
        return [(Mark.AGAINST, caution("says_more", "part", words=bare[0], told=told))]
    past = bare[1].lower() in ("did not", "didn't", "failed to")
    return [(Mark.CARRIED, None) if past else (Mark.BEYOND, caution("says_more", "wide", words=bare[0]))]
