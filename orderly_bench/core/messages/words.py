"""Words in the language of the installation: what is written here in English is looked up in that language's list, if there is one.

An English text is its own key, with its values in braces; whole numbers choose between singular and plural by themselves.

>>> tell("must be at least the {n:place|places} to fill", n=12)
'must be at least the 12 places to fill'
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

Lookup = Callable[[str], str]


def _english(text: str) -> str:
    return text


_lookup: Lookup = _english


def speak(lookup: Lookup | None = None) -> None:
    """Look every text up so from now on, in the whole process; none is English again."""
    global _lookup
    _lookup = lookup or _english


def shown(text: str) -> str:
    """A label in the language spoken."""
    return _lookup(text)


def word(text: str) -> str:
    """Marks a label for the list of all words; it is looked up where it is shown."""
    return text


class Counted(int):
    """A whole number in a template: ``{n:unit|units}`` is the number with its noun, ``{n:~is|are}`` the word alone."""

    def __format__(self, spec: str) -> str:
        if "|" not in spec:
            return format(int(self), spec)
        one, many = spec.removeprefix("~").split("|")
        word = one if self == 1 else many
        return word if spec.startswith("~") else f"{int(self)} {word}"


class Typed(str):
    """What a person typed: it stays as it is."""

    __slots__ = ()


def tell(text: str, **values: object) -> str:
    """A text with its values in place."""
    return within(text, values)


def all_of(names: Iterable[str]) -> str:
    """Names with *and* between."""
    return tell(" and ").join(names)


def any_of(names: Iterable[str]) -> str:
    """Names with *or* between."""
    return tell(" or ").join(names)


def within(template: str, values: Mapping[str, object]) -> str:
    """A template with its values in place, as a part of a sentence; a value that is a label is looked up too."""
    return _lookup(template).format(**{name: _value(value) for name, value in values.items()})


def _value(value: object) -> object:
    if isinstance(value, int) and not isinstance(value, bool):
        return Counted(value)
    return _lookup(str(value)) if isinstance(value, str) and not isinstance(value, Typed) else value
