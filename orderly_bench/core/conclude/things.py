"""What is compared: the very thing that was scored, or another, whether a word puts one above or below in it, and with what."""

from __future__ import annotations

import re
from collections.abc import Iterator

from orderly_bench.core.conclude.facts import Facts
from orderly_bench.core.conclude.names import NamesFound
from orderly_bench.core.responses.kind import Response

OF_PIECES = re.compile(r"\W*(?:the |all |most )?(?:roots?|cuttings?|they|plants|pieces)\b", re.I)
WORSE = r"worse|worst|inferior|lower|lowest|fewer|fewest|less|(?<!at )least|behind|reduce[sd]?|decrease[sd]?|loses|lost to|lags?|lagged|came (?:out )?last|second to|hinder(?:s|ed)?|inhibit(?:s|ed)?|hamper(?:s|ed)?"
DOWNWARD = re.compile(rf"\b({WORSE})\b", re.I)
#: What is compared that may be another thing than the endpoint.
THINGS = {
    "number": r"roots per|number of roots|root (?:counts?|numbers?)|(?:more|fewer|most|fewest) roots\b|roots (?:each|apiece)",
    "length": r"longer|longest|shorter|shortest|root length|length of",
    "days": r"faster|fastest|sooner|soonest|earlier|earliest|quicker|quickest|slower|slowest|late|later|early|speed\w*|quickly|rapidly",
    "look": r"(?:better|finer|nicer|good|bigger|stronger) (?:plants|liners|stock|roots|tops)|thick\w*|thinner|thinnest|healthi\w+|healthy|vigou?r\w*|greener|greenest|stronger|strongest|weaker|sturdier|heavier|denser|bushier|taller|bigger|larger|smaller|quality|"
    r"leaf\w*|leaves|shoots?|tops?|growth|grew|grows|callus\w*|colou?r\w*|fatter|finer|branch\w*",
    "life": r"surviv\w*|alive|died|dead|dying|deaths?|losses|mortality|rotted|rotting|rots?",
    "cost": r"cheap\w*|costs?|costly|price\w*|dear\w*|expensive|easier|easiest|hours|labou?r|saves?|saved|savings?|value|money|economical|profit\w*|convenient",
    "air": r"warmer|colder|cooler|hotter|wetter|drier|moister|humid\w*|brighter|darker|temperature\w*|drains?|drained|draining|aerated",
}
#: Words that put one above or below where its own thing is compared.
ABOVE = {
    "length": r"longer|longest", "days": r"faster|fastest|sooner|soonest|earlier|earliest|quicker|quickest",
    "look": r"healthier|greener|greenest|stronger|strongest|bushier|denser", "number": r"more roots", "life": r"more survived",
}  # fmt: skip
BELOW = {
    "length": r"shorter|shortest",
    "days": r"slower|slowest|later",
    "look": r"weaker|thinner",
    "number": r"fewer roots",
    "life": r"more died",
}
#: Any other comparative: *safer than*.
COMPARATIVE = re.compile(
    r"\b(?!better|higher|lower|fewer|rather|other|further|over|under|whether|never|ever)(\w{3,}er) than\b", re.I
)
#: How many rooted, where another thing was the endpoint.
ROOTED_MORE = re.compile(
    r"\brooted (?:\w+ )?(?:more|most|fewer|fewest)\b(?! roots)|\b(?:more|fewer|most) (?:\w+ )?rooted\b", re.I
)
OWN = {
    Response.ROOT_COUNT: ("number",), Response.ROOT_CLASS: ("number",), Response.LONGEST: ("length",), Response.DAYS: ("days",),
    Response.QUALITY: ("look",), Response.FOLIAGE: ("look",), Response.ALIVE: ("life",),
}  # fmt: skip

THAN = re.compile(
    r"\b(?:as (?:good|well|many|much|high|often|effective) as|the same as|equal to|than|versus|vs\.?|compared (?:with|to)|outperform\w*|outroot\w*|beats?|surpass\w*|superior to|inferior to)\b",
    re.I,
)
#: Behind *than*, the letter of an arm that is not there: one that is stands blank in the text.
NO_ARM = re.compile(r"\W*(?:arm )?([B-HJ-Z])(?![\w'’-])")
#: Behind *than*, and no arm of another trial.
ANY_OTHER = re.compile(
    r"^\W*(?:(?:did|was|were|with|in|of|on|at|under|those|pieces|cuttings|we|i|they|it|any|all|chance|half|expected|before|usual|ever|one|two|three|any of|"
    r"what|the (?:other|others|rest|remaining|two|three|control)|(?:the )?others?|the rest|control|untreated|when|if|that|this|them|zero|nothing|either|each|both)\b|\d|$)",
    re.I,
)


def own_claims(text: str, facts: Facts) -> Iterator[re.Match[str]]:
    """Words that put one above or below in the very thing that was scored."""
    for thing in OWN.get(facts.response, ()):
        yield from re.finditer(rf"\b({ABOVE[thing]}|{BELOW[thing]})\b", text, re.I)


def is_down(words: str, facts: Facts) -> bool:
    """Whether a word puts its subject below, in whatever was scored."""
    below = "|".join(BELOW[thing] for thing in OWN.get(facts.response, ()))
    return bool(DOWNWARD.fullmatch(words)) or bool(below and re.fullmatch(below, words, re.I))


def other_thing(text: str, facts: Facts) -> tuple[str, bool] | None:
    """The first thing spoken of that is not what was scored, and whether the word compares by itself."""
    own = OWN.get(facts.response, ())
    for thing, words in THINGS.items():
        hit = re.search(rf"\b(?:{words})\b", text, re.I)
        if hit and thing not in own:
            alone = bool(re.search(r"(?:er|est)$", hit[0], re.I)) or OF_PIECES.match(text) is not None
            return hit[0], alone
    if facts.response is not Response.ROOTED and (rooted := ROOTED_MORE.search(text)):
        return rooted[0], True
    hit = COMPARATIVE.search(text)
    ours = "|".join(f"{ABOVE[thing]}|{BELOW[thing]}" for thing in own)
    return (hit[1], True) if hit and not (ours and re.fullmatch(ours, hit[1], re.I)) else None


def stranger(text: str, said: NamesFound) -> str | None:
    """What something is compared with that is none of the trial's; None where all that is compared is known."""
    than = THAN.search(text)
    if than is not None and (letter := NO_ARM.match(text[than.end() :])):
        return letter[1]
    if than is None or any(one.start >= than.end() for one in said.mentions) or said.ambiguous:
        return None
    behind = text[than.end() :]
    word = re.match(r"\W*(?:the |a |an )?([^\W\d_]+)", behind)
    return None if ANY_OTHER.search(behind) or word is None or said.factors else word[1]
