"""One sentence of a conclusion, held against the facts.

It is read clause by clause for what can be checked: names of arms and levels, which is ahead, sameness, ratios, percentages, counts,
parts of a whole, days, causes and how wide it reaches. Whatever in it can't be placed keeps it from being carried; a sentence that
speaks of nothing of the result is *not about* it; one that is not English is *not checked*. No sentence is ever corrected.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from orderly_bench.core.cautions import Caution
from orderly_bench.core.conclude.comparison_claims import (
    AGAINST_FIRST,
    BARE,
    CLAIMS,
    DIFFER,
    OPEN,
    SAMENESS,
    WEAK,
    WELL,
    compared,
    meant,
)
from orderly_bench.core.conclude.english import is_english
from orderly_bench.core.conclude.facts import Facts
from orderly_bench.core.conclude.figure_claims import COUNT, PERCENT, QUANTIFIER, TO_COME, Found, figures
from orderly_bench.core.conclude.in_each import said_of_each
from orderly_bench.core.conclude.mark import GRAVEST, Mark
from orderly_bench.core.conclude.names import NamesFound, find_names, masked
from orderly_bench.core.conclude.things import THAN, THINGS
from orderly_bench.core.messages.say import caution

__all__ = ["Mark", "Marked", "mark"]

CAUSES = re.compile(
    r"\b(because|due to|owing to|caused by|causes|thanks to|leads? to|led to|explains?|explained by|since it|is what ma(?:kes?|de)|the reason (?:for|why)|as a result of|on account of|by virtue of|(?<=, )(?:since|as) (?=\w))\b",
    re.I,
)
#: Causes too, unless what did it was varied.
DID_IT = re.compile(
    r"\b(ma(?:kes?|de) (?:all )?the (?:whole )?difference|did (?:it|this|that)|killed|(?:is|was) (?:why|the (?:cause|reason)))\b",
    re.I,
)
WIDE = re.compile(
    r"\b(always|never|every(?! (?:single )?(?:cutting|piece|one|strength|dose|concentration|level|\w+ (?:rooted|wanted|needed|sold))\b)|everywhere|everything|growers|gardeners|nurseries|everyone|everybody|anyone|anybody|anywhere|nobody|there is(?=\W*$)|ever(?=\W*$)|any(?! better| worse| more)|identical(?:ly)?|prove[sdn]?|proof|certain(?:ly)?|guarantee\w*|in general|in all|"
    r"all (?:cultivars|species|plants|seasons|media|growers)|other (?:cultivars|species|plants|shrubs|seasons|stations)|undoubtedly|definitely|universal\w*|whatever|regardless)\b",
    re.I,
)
#: Places and seasons that a sentence on one bench may not reach, unless it speaks of *this* one.
#: A kind of plant as a whole, said in the present: wider than the pieces that were tried.
KIND = re.compile(
    r"^\W*(?:the )?(?!cuttings|pieces|they|those|these|more|most|fewer|we|tips|stems|all|both|roots)(?:[a-z]+ )?[a-z]+s (?:always )?root\b|\broots (?!as\b|less\b|across\b)[a-z]+s\b",
    re.I,
)
ELSEWHERE = re.compile(
    r"(?<!this )(?<!that )(?<!last )\b(?:outdoors|in the (?:field|open|garden|ground)|on (?:any|every|other) bench(?:es)?|in (?:winter|spring|summer|autumn)|elsewhere|at other stations|commercially|in practice)\b",
    re.I,
)
RESULT = re.compile(
    r"\b(root\w*|unrooted|struck|strike|rates?|results?|success\w*|fail\w*|trial|evidence|data|treatment\w*|arms?|difference|effect|interact\w*|cuttings? (?:did|were|was)|surviv\w*|died|dead|alive|verdict|interval|to tell|significan\w*|p value)\b",
    re.I,
)
PLAN = re.compile(
    r"^\W*(?:so )?(?:let us|let's|we (?:will|shall|should|plan|intend|want|hope|must|need to|can\b(?!['’]t))|next (?:time|year|season|spring|summer|autumn|winter)|repeat|order|buy|try|use|keep|stop|ask|thank\w*|please|remember|"
    r"check|write|print|clean|many thanks|i (?:will|shall|should|want|hope)|tomas|ines|maren)\b",
    re.I,
)
#: Causes that a name follows; *because bark holds water* names a property of it.
OF_IT = re.compile(r"(?:because of|due to|owing to|caused by|thanks to|as a result of|on account of)", re.I)
#: *Better for olives.*
FOR_A_KIND = re.compile(
    r"\bfor (?!these|those|us|the|this|our|cuttings|tips|pieces|others?\b|days|weeks)(?:all )?[a-z]+s\b(?! (?:of|in) )",
    re.I,
)
#: A reason given, up to the next comma: it is no part of what is compared.
REASON = re.compile(r"\b(?:because|owing to|due to|thanks to|on account of)\b[^,;:.]*", re.I)
#: Says itself that what it says may be nothing.
CHANCE = re.compile(
    r"\b(?:may|might|could|can) (?:well |all )?(?:be|have been) (?:due to |down to |by )?(?:pure |mere )?(?:chance|luck|accident)\b",
    re.I,
)
#: What was done with things, and no result.
HANDLED = re.compile(
    r"\b(?:was|were|is|are|got|had been) (?:\w+ )?(?:washed|rinsed|cleaned|trimmed|bought|ordered|labelled|photographed|sieved|watered|filled|mixed|painted|repaired|borrowed|"
    r"sterilised|swept|emptied|opened|printed|pretty)\b",
    re.I,
)
CLAUSES = re.compile(
    r"\s*(?:;|:|, (?:but|and|while|whereas|although|though|yet|so)\b|\b(?:but|while|whereas|although|though|however)\b)\s*",
    re.I,
)
WITH_AND_WITHOUT = re.compile(r",?\s*(?:both )?with and without [\w +-]+?(?=[,.;:]|$)", re.I)


@dataclass(frozen=True)
class Marked:
    """A sentence with its mark and why."""

    sentence: str
    mark: Mark
    doubts: tuple[Caution, ...] = ()
    #: what was written before and says the other
    before: tuple[Caution, ...] = ()

    @property
    def all_doubts(self) -> tuple[Caution, ...]:
        """Against it, and written before."""
        return self.doubts + self.before


def mark(sentence: str, facts: Facts | None) -> Marked:
    """The mark of a sentence; without facts, because nothing was compared or counted, it is *not checked*."""
    if facts is None or not is_english(sentence):
        return Marked(sentence, Mark.NOT_CHECKED)
    plain = WITH_AND_WITHOUT.sub("", sentence)
    said = find_names(plain, facts)
    if _not_about(plain, said):
        return Marked(sentence, Mark.NOT_ABOUT)
    read = figures(plain, said, facts, meant(said, facts))
    found = [*_wide(plain, said, facts), *read.found]
    for clause in clauses(REASON.sub(lambda hit: " " * len(hit[0]), read.blanked(plain))):
        found += compared(clause, facts)
    if CHANCE.search(plain):
        found = [(Mark.NOT_CHECKED, None) if one is Mark.BEYOND else (one, doubt) for one, doubt in found]
    if TO_COME.search(masked(plain, said)):
        found = [
            (Mark.BEYOND, caution("says_more", "to_come", words=_to_come(plain, said)))
            if one is Mark.CARRIED
            else (one, doubt)
            for one, doubt in found
        ]
    if any(one is Mark.CARRIED for one, _ in found):
        found += said_of_each(plain, said, facts)
    marks = [one for one, _ in found]
    gravest = next((one for one in GRAVEST if one in marks), Mark.NOT_CHECKED)
    return Marked(
        sentence,
        gravest,
        tuple(doubt for one, doubt in found if doubt is not None) if gravest in (Mark.AGAINST, Mark.BEYOND) else (),
    )


def _to_come(sentence: str, said: NamesFound) -> str:
    hit = TO_COME.search(masked(sentence, said))
    return hit[0] if hit else ""


def clauses(sentence: str) -> list[str]:
    """Clauses that are read by themselves; one that only says with what it is compared belongs to the next."""
    parts = [part for part in CLAUSES.split(sentence) if part]
    return [sentence] if AGAINST_FIRST.search(sentence) else parts


def _not_about(sentence: str, said: NamesFound) -> bool:
    """Whether it speaks of nothing of the result: thanks, plans, the weather."""
    text = masked(sentence, said)
    claims = any(
        pattern.search(text) for pattern in (SAMENESS, DIFFER, OPEN, WELL, BARE, CAUSES, DID_IT, WIDE, PERCENT, THAN)
    )
    claims |= any(not WEAK.fullmatch(hit[0]) for hit in CLAIMS.finditer(text))
    to_come = TO_COME.search(text) and (COUNT.search(text) or QUANTIFIER.search(text))
    if (
        PLAN.search(text)
        and not to_come
        and not any(pattern.search(text) for pattern in (SAMENESS, DIFFER, WELL, CAUSES, WIDE, PERCENT))
    ):
        return not re.search(r"\b(?:than|better|best|worse)\b", text, re.I) and not re.search(
            r"\broot(?:s|ed)\b", text, re.I
        )
    other = re.search(
        "|".join(rf"\b(?:{words})\b" for thing, words in THINGS.items() if thing not in ("air", "cost")), text, re.I
    )
    if HANDLED.search(text) and not (claims or other or RESULT.search(text) or COUNT.search(text)):
        return True
    return not (claims or to_come or other or said.anything or RESULT.search(text))


def _wide(sentence: str, said: NamesFound, facts: Facts) -> Found:
    """Causes that were not varied, and more than one trial can say."""
    found: Found = []
    text = masked(sentence, said)
    if did := DID_IT.search(text):
        varied = bool(said.factors) or any(one.end <= did.start() for one in said.mentions)
        found.append((Mark.NOT_CHECKED, None) if varied else (Mark.BEYOND, caution("cause_not_varied", words=did[0])))
    cause = CAUSES.search(text)
    if cause and (text[: cause.start()].strip() or cause[0].lower() != "thanks to" or said.anything):
        of_it = OF_IT.search(cause[0] + text[cause.end() : cause.end() + 4])
        behind = [one for one in said.mentions if of_it and 0 <= one.start - cause.end() < 12]
        found.append((Mark.NOT_CHECKED, None) if behind else (Mark.BEYOND, caution("cause_not_varied", words=cause[0])))
    for pattern in (WIDE, ELSEWHERE, KIND, FOR_A_KIND):
        if wide := pattern.search(text):
            found.append((Mark.BEYOND, caution("says_more", "wide", words=wide[0])))
    return found
