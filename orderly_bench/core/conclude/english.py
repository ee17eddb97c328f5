"""English as conclusions are written in it: numbers in words, and whether a sentence is English at all."""

from __future__ import annotations

import re

UNITS = [
    "zero",
    "one",
    "two",
    "three",
    "four",
    "five",
    "six",
    "seven",
    "eight",
    "nine",
    "ten",
    "eleven",
    "twelve",
    "thirteen",
    "fourteen",
    "fifteen",
    "sixteen",
    "seventeen",
    "eighteen",
    "nineteen",
]
TENS = dict(
    zip(("twenty", "thirty", "forty", "fifty", "sixty", "seventy", "eighty", "ninety"), range(20, 100, 10), strict=True)
)
WORDS = {word: n for n, word in enumerate(UNITS)} | TENS | {"hundred": 100}
_SINGLE = "|".join(sorted(WORDS, key=len, reverse=True))
#: A number in digits or in words, such as ``39``, ``3,5``, ``thirty-nine``.
NUMBER = rf"(?:\d+(?:[.,]\d+)?|(?:{'|'.join(TENS)})[- ](?:{'|'.join(UNITS[1:10])})|(?:{_SINGLE}))"
#: Parts of a whole in words.
PARTS = {
    "half": 1 / 2, "a third": 1 / 3, "one third": 1 / 3, "two thirds": 2 / 3, "a quarter": 1 / 4, "one quarter": 1 / 4, "three quarters": 3 / 4,
    "a fifth": 1 / 5, "one fifth": 1 / 5, "two fifths": 2 / 5, "three fifths": 3 / 5, "four fifths": 4 / 5, "a tenth": 1 / 10,
}  # fmt: skip
PART = rf"(?:{'|'.join(sorted(map(re.escape, PARTS), key=len, reverse=True))})".replace(r"\ ", "[- ]")
_ENGLISH = set(
    [
        "the",
        "a",
        "an",
        "of",
        "in",
        "on",
        "at",
        "to",
        "for",
        "from",
        "by",
        "with",
        "without",
        "than",
        "and",
        "or",
        "but",
        "not",
        "no",
        "is",
        "are",
        "was",
        "were",
        "be",
        "been",
        "it",
        "its",
        "this",
        "that",
        "these",
        "those",
        "we",
        "our",
        "they",
        "their",
        "as",
        "all",
        "more",
        "most",
        "less",
        "had",
        "has",
        "have",
        "did",
        "do",
        "does",
        "will",
        "so",
        "if",
        "when",
        "while",
        "here",
        "there",
        "only",
        "each",
        "both",
        "one",
    ]
)
_OTHERS = set(
    [
        "der",
        "die",
        "das",
        "und",
        "nicht",
        "ist",
        "war",
        "als",
        "mit",
        "ein",
        "eine",
        "im",
        "auf",
        "von",
        "zu",
        "den",
        "dem",
        "le",
        "la",
        "les",
        "un",
        "une",
        "des",
        "est",
        "et",
        "que",
        "plus",
        "pas",
        "avec",
        "dans",
        "el",
        "los",
        "las",
        "y",
        "es",
        "con",
        "por",
        "il",
        "lo",
        "gli",
        "che",
        "non",
        "per",
        "het",
        "een",
        "van",
        "niet",
        "voor",
        "och",
        "att",
        "det",
        "som",
        "en",
        "i",
        "på",
        "til",
        "af",
    ]
)


def number(words: str) -> float:
    """A number in digits or words.

    >>> number("thirty-nine"), number("3,5"), number("Twelve")
    (39.0, 3.5, 12.0)
    """
    text = words.lower().strip()
    if text[0].isdigit():
        return float(text.replace(",", "."))
    return float(sum(WORDS[part] for part in re.split(r"[- ]", text)))


def part(words: str) -> float:
    """A part of a whole in words, as a share."""
    return PARTS[re.sub(r"[- ]+", " ", words.lower())]


def is_english(sentence: str) -> bool:
    """Whether the little words are English ones; without any it is taken for English where nothing speaks against it."""
    words = re.findall(r"[a-zà-öø-ÿ]+", sentence.lower())
    ours, others = (sum(word in known for word in words) for known in (_ENGLISH, _OTHERS - _ENGLISH))
    foreign = any(ord(sign) > 127 and sign.isalpha() for word in words for sign in word)
    return ours > others or (ours == others == 0 and not foreign)
