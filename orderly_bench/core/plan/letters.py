"""Arms called by the letters of their stakes in what people write: *arm B*, *B rooted more*, *A's roots*."""

from __future__ import annotations

import re
from collections.abc import Iterator

#: A letter behind one of these is that thing's, and no arm's.
OTHERS = re.compile(
    r"\b(?:vitamin|plan|grade|block|bench|bed|house|lot|batch|class|type|tray|pot|group|zone|room|section|part|figure|table|step)\s*$|°\s*$",
    re.I,
)
ARM = re.compile(r"\b(?:arms?|stakes?|treatments?)\s+$", re.I)
#: In front of the head of a sentence; nothing, too.
BEGINS = ("", ".", "!", "?", ":", ";")
#: What follows the letter A at the head of a sentence; anything else makes it the little word.
AFTER_A = re.compile(
    r"\s*(?:$|[.,;:()\d<>=]|(?:and|or|against|than|versus|vs|root(?:s|ed)|did|does|was|were|is|had|has|gave|gives|came|beats?|outperform\w*|outroot\w*|won|wins?|fail(?:s|ed)|"
    r"lost|loses|lags?|lagged|took|takes|made|makes|may|might|will|would|should|could|costs?|needs?|shows?|showed|looks?|looked|leads?|led|alone|itself|over|exceed\w*|"
    r"surpass\w*|improve\w*|works?|worked|differ\w*|stayed|stands?|kept|grew|survived)\b)"
)


def lettered(text: str, letter: str) -> Iterator[tuple[int, int]]:
    """Where an arm is called by its letter, *arm B* or *B*; A at the head of a sentence, and I, may be little words.

    >>> [text[a:b] for text in ("A rooted more than B.", "A tray of arm b", "in B's pots", "vitamin B") for a, b in lettered(text, "B")]
    ['B', 'arm b', "B's"]
    """
    for hit in re.finditer(rf"(?<![\w'’-]){letter}(?:['’]s\b|(?![\w'’-]))", text, re.I):
        before, behind = text[: hit.start()], text[hit.end() :]
        called = ARM.search(before)
        plain = hit[0][0] == letter != "I" and (
            letter != "A" or before.rstrip()[-1:] not in BEGINS or AFTER_A.match(behind) is not None
        )
        if called or (plain and not OTHERS.search(before)):
            yield (called.start() if called else hit.start()), hit.end()
