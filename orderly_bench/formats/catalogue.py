"""Languages as gettext keeps them: ``assets/messages.pot`` lists every English text, a ``.po`` or ``.mo`` file says them in another language.

A text is its own key, its values in braces. A number with its noun stands in braces too, ``{n:unit|units}``: a translation has as many
forms there as the ``Plural-Forms`` of its file, so that one text may hold several counts.

References
----------
GNU gettext, *The Format of PO Files* and *Plural forms*.
"""

from __future__ import annotations

import gettext
import io
import string
from collections.abc import Iterator, Mapping
from datetime import UTC, datetime
from pathlib import Path

from babel import Locale, UnknownLocaleError
from babel.messages.catalog import Catalog
from babel.messages.mofile import read_mo
from babel.messages.pofile import PoFileError, read_po, write_po
from babel.numbers import get_decimal_symbol

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.translation import Language
from orderly_bench.core.messages.translation import gettext as _

#: A template of texts has no date of its own: it changes when a text does.
NO_DAY = datetime(2026, 1, 1, tzinfo=UTC)
MOST_SHOWN = 5
SUFFIXES = (".po", ".mo")


def write_template(words: Mapping[str, str]) -> str:
    """The list of all texts as a ``.pot`` file, each with where it was first found."""
    catalog = Catalog(
        project="Orderly Bench",
        version="1",
        creation_date=NO_DAY,
        charset="utf-8",
        header_comment="# Every text of Orderly Bench.",
    )
    for text, place in words.items():
        catalog.add(text, auto_comments=[place])
    held = io.BytesIO()
    write_po(held, catalog, width=0, omit_header=False)
    return held.getvalue().decode()


def read_texts(file: Path) -> list[str]:
    """The texts of a template, in its order."""
    with file.open("rb") as held:
        return [str(message.id) for message in read_po(held) if message.id]


def read_language(file: Path) -> Language:
    """The texts of a language and its rule for plurals, from a ``.po`` or ``.mo`` file; what is blank or fuzzy there stays English.

    Raises
    ------
    UnusableData
        The file can't be read, or a text there has other values in braces, or another number of plural forms, than it must.
    """
    try:
        with file.open("rb") as held:
            catalog = read_mo(held) if file.suffix == ".mo" else read_po(held, abort_invalid=True)
        rule = gettext.c2py(catalog.plural_expr)
    except (OSError, ValueError, PoFileError, LookupError, AttributeError) as error:
        rule_of_file = _("Give a file of gettext, .po or .mo; assets/messages.pot lists the texts")
        raise UnusableData(_("can't be read as a language"), rule_of_file, file=str(file)) from error
    texts = {str(one.id): str(one.string) for one in catalog if one.id and one.string and not one.fuzzy}
    wrong = [text for text, said in texts.items() if not _fits(text, said, catalog.num_plurals)]
    if wrong:
        shown = "; ".join(wrong[:MOST_SHOWN]) + ("; …" if len(wrong) > MOST_SHOWN else "")
        raise UnusableData(
            _("{n:text has|texts have} other values in braces than the English, or not {forms} plural forms: {shown}", n=len(wrong), forms=catalog.num_plurals, shown=shown),
            _("Keep each name in braces as it stands, and give {forms} forms where there are several", forms=catalog.num_plurals), file=str(file),
        )  # fmt: skip
    return Language(texts, rule, *_of_locale(str(catalog.locale_identifier or file.stem)))


def read_languages(where: str) -> list[Language]:
    """The languages of a file, or of all files of a folder; none where nothing is named.

    Raises
    ------
    UnusableData
        There is no such file, or one of them can't be read as a language.
    """
    place = Path(where)
    files = sorted(file for file in place.iterdir() if file.suffix in SUFFIXES) if place.is_dir() else [place]
    return [read_language(file) for file in files] if where else []


def _of_locale(code: str) -> tuple[str, str, str]:
    """A language's code, its own name and the mark before decimals; of a code that nobody knows, itself and a point."""
    try:
        locale = Locale.parse(code.replace("-", "_"))
    except (ValueError, UnknownLocaleError):
        return code, code, "."
    return code.replace("_", "-"), locale.get_display_name() or code, get_decimal_symbol(locale)


def _fits(text: str, said: str, forms: int) -> bool:
    """Whether a translation names the same values, each count with as many forms as the language has."""
    try:
        wanted, found = {name for name, _ in _fields(text)}, list(_fields(said))
    except ValueError:  # no template: a brace that stands for itself
        return True
    counted = all(spec.count("|") == forms - 1 for _, spec in found if "|" in spec)
    return wanted == {name for name, _ in found} and counted


def _fields(text: str) -> Iterator[tuple[str, str]]:
    for _text, name, spec, _conversion in string.Formatter().parse(text):
        if name is not None:
            yield name, spec or ""
