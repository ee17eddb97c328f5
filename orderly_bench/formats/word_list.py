"""A language as a JSON file: every English text of the program with what is said instead; one left blank stays English.

``assets/words.json`` lists all texts, each with the place it was first found in. A translator copies it and writes over the places.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from pathlib import Path

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.words import tell


def write_words(words: Mapping[str, str]) -> str:
    """The list as text."""
    return json.dumps(dict(words), ensure_ascii=False, indent=1) + "\n"


def read_language(file: Path) -> Callable[[str], str]:
    """How a text is said in the language of a file.

    Raises
    ------
    UnusableData
        The file can't be read, or is no list of texts.
    """
    try:
        found = json.loads(file.read_text(encoding="utf-8"))
    except (OSError, ValueError) as error:
        raise UnusableData(
            tell("can't be read as a language"), tell("Give a JSON file of texts"), file=str(file)
        ) from error
    if not isinstance(found, dict) or not all(isinstance(text, str) for text in found.values()):
        raise UnusableData(
            tell("is no list of texts"), tell("Write each English text with what is said instead"), file=str(file)
        )
    said = {english: text for english, text in found.items() if text}
    return lambda english: said.get(english, english)
