"""The specialists' words that pages and reports use: what each means first, its name one step away."""

from __future__ import annotations

import re
from dataclasses import dataclass


@dataclass(frozen=True)
class Word:
    """A word with what a grower takes from it, and what a specialist would look up."""

    word: str
    plain: str
    more: str


WORDS = (
    Word("alpha", "How often a trial may cry wolf where nothing differs: 5 in 100 unless the lab says otherwise.", "Significance level; rejection is p < alpha."),
    Word("Aalen-Johansen", "The share rooted by each day, with the dead counted as never going to root.", "Cumulative incidence with competing risks (Aalen & Johansen 1978)."),
    Word("conditional logistic", "A second opinion that compares inside each block only.", "Logistic regression conditional on strata (Breslow & Day 1980)."),
    Word("Cochran-Mantel-Haenszel", "The textbook test for counts in blocks.", "CMH, generalised for several arms (Landis, Heyman & Koch 1978)."),
    Word("design effect", "How many more cuttings it takes because those of one pot are alike.", "1 + (m - 1) ICC (Kish 1965)."),
    Word("digest", "A fingerprint of the plan's text: change one letter and it is another.", "SHA-256, 64 hexadecimal characters."),
    Word("Firth", "A second opinion that stays sane where all or none rooted.", "Penalised likelihood (Firth 1993)."),
    Word("Fisher's exact test", "The textbook test for two arms of single cuttings.", "Hypergeometric, two-sided (Fisher 1935)."),
    Word("headless", "The same numbers from a file and a command, without this program's pages.", "A command line; nothing in it is hidden."),
    Word("Holm", "Comparing many pairs finds something by luck; this keeps the luck of all of them together within alpha.", "Step-down adjustment (Holm 1979)."),
    Word("ICC", "How alike cuttings of one container are: 0 not at all, 1 as one.", "Intraclass correlation, from the variance between and within units."),
    Word("interval", "Where the true value may well lie; 95 of 100 such intervals hold it.", "Confidence interval; Wilson, Newcombe, Klingenberg, t by what was laid out."),
    Word("Klingenberg", "The interval of a difference in blocks.", "Score-type interval of the Mantel-Haenszel difference (Klingenberg 2014)."),
    Word("margin", "The smallest difference that would change what you do.", "Equivalence margin of two one-sided tests (Schuirmann 1987)."),
    Word("McNemar", "The textbook test for pairs.", "Exact, on the pairs that differ (McNemar 1947)."),
    Word("negative binomial", "A second opinion on root numbers, which vary more than chance alone.", "NB2 with log link; the ratio of means."),
    Word("Newcombe", "The interval of a difference of two rates.", "Hybrid score (Newcombe 1998)."),
    Word("p", "How often this draw, done again and nothing else changed, would come out at least so far apart.", "Two-sided p of the randomisation test."),
    Word("power", "How often a design finds a difference that is really there.", "1 - type II error, for the layout, unit and test planned."),
    Word("quasi-binomial", "A second opinion on shares of pots.", "F test of a logistic model with its scale estimated (McCullagh & Nelder 1989)."),
    Word("randomisation test", "The bench is drawn again and again on paper; p counts how often luck alone would do as much.", "Fisher 1935; the layout's own redraw."),
    Word("Rao-Scott", "The interval of a share where cuttings share pots.", "Effective counts by the design effect (Rao & Scott 1992)."),
    Word("replicate", "What was given its treatment on its own: a cell, a pot, a covered tray.", "Experimental unit."),
    Word("retrospective", "Planned or predicted after the cuttings were stuck.", "Not prespecified."),
    Word("rule of three", "None of 20 rooted does not mean none can: up to 14 in 100 might.", "Exact one-sided 95 % bound, 1 - 0.05^(1/n)."),
    Word("separable", "Whether the arms can tell one thing apart from the others that differ.", "Estimable in the additive model of all varying aspects (Searle 1971)."),
    Word("split-plot", "One thing goes on whole trays, another on the pots in them; each is judged by its own units.", "Two strata of randomisation."),
    Word("stratum", "A part of the bench inside which arms change places.", "Block, pair or whole plot."),
    Word("studentised maximum", "Against a control, one redraw serves all comparisons at once.", "max-T (Westfall & Young 1993)."),
    Word("Wilson", "The interval of one rate.", "Score interval (Wilson 1927)."),
)  # fmt: skip


#: Words that stand as letters of others too, by how they are written where they mean themselves.
_WRITTEN = {"p": r"\bp [=<]"}


def _pattern(word: str) -> re.Pattern[str]:
    return re.compile(_WRITTEN.get(word, rf"(?<![\w-]){re.escape(word)}s?(?![\w-])"), re.IGNORECASE)


#: By word, its letters in small, which are looked for first: most words stand on no page, and a pattern takes long to say so.
_PATTERNS = {word: (word.word.casefold(), _pattern(word.word)) for word in WORDS}


def words_in(text: str) -> list[Word]:
    """The specialists' words that stand in a text, in order of the alphabet.

    >>> [word.word for word in words_in("p = 0.03, adjusted by Holm; Rao-Scott intervals")]
    ['Holm', 'interval', 'p', 'Rao-Scott']
    """
    small = text.casefold()
    return [word for word, (letters, pattern) in _PATTERNS.items() if letters in small and pattern.search(text)]


def known(word: str) -> Word | None:
    """A word, whatever its case."""
    return next((one for one in WORDS if one.word.casefold() == word.casefold()), None)
