"""Fill the catalogue's sentences; whole numbers choose between singular and plural by themselves.

>>> say("units_lost", n=1)
'1 unit has no known outcome.'
>>> say("units_lost", n=3)
'3 units have no known outcome.'
"""

from __future__ import annotations

from orderly_bench.core.cautions import Caution
from orderly_bench.core.messages import english
from orderly_bench.core.messages.translation import capital, within


def say(key: str, **values: object) -> str:
    """The sentence of a key.

    Raises
    ------
    KeyError
        No such sentence, or a value that it needs is missing: a slip of the code, never of a person.
    """
    return filled(english.SENTENCES[key], values)


def clause(key: str, **values: object) -> str:
    """The words of a key, to stand inside a sentence."""
    return within(english.SENTENCES[key], values)


def caution(code: str, variant: str = "", *, serious: bool = False, **values: object) -> Caution:
    """The caution of a code; ``variant`` chooses among its wordings."""
    text, remedy = english.CAUTIONS[f"{code}/{variant}" if variant else code]
    return Caution(code, filled(text, values), filled(remedy, values), serious)


def filled(template: str, values: dict[str, object]) -> str:
    """A template with its values in place, the first letter a capital."""
    return capital(within(template, values))
