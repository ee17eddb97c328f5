"""What every list of the shelf has: its form, an entry put right in its place, its history, its file out and in."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from flask import render_template, request
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.shelf.history import histories
from orderly_bench.chapters.shelf.lists import LISTS, ShelfList
from orderly_bench.core.errors import InvalidInput, OrderlyError, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.stock.usual import USUAL
from orderly_bench.formats.shelf_csv import read_entries, write_entries
from orderly_bench.trial.access import Act, may
from orderly_bench.trial.errors import NotFound
from orderly_bench.trial.used import named_in
from orderly_bench.web import fields
from orderly_bench.web.access import actor
from orderly_bench.web.answers import answer
from orderly_bench.web.pdf import download
from orderly_bench.web.store import db, now


def list_named(name: str) -> ShelfList:
    """A list by the name in its address."""
    if name not in LISTS:
        raise NotFound(_("There is no such list on the shelf."))
    return LISTS[name]


def list_page(name: str, error: OrderlyError | None = None, **more: object) -> str:
    """A list's page, with what else it shows."""
    one = list_named(name)
    entries = one.entries(db())
    return render_template(
        f"{name}.html", error=error, listed=one.listed, entries=entries, typed=_typed(one, entries), history=histories(db(), one.actions),
        named=named_in(db(), name, [getattr(entry, one.listed.needed[0]) for entry in entries]), plans=may(actor(), Act.PLAN), usual=[one.name for one in USUAL.get(name, ())], **more,
    )  # fmt: skip


def _typed(one: ShelfList, entries: list[object]) -> Mapping[str, str]:
    """What the form shows: what was sent, else the entry that is to be put right, else what a new one begins with."""
    if request.method == "POST":
        return request.form
    written = [one.listed.as_typed(entry) for entry in entries]
    asked = {field.name: request.args[field.name] for field in one.listed.asked if field.name in request.args}
    found = next((w for w in written if asked and all(w[name] == said for name, said in asked.items())), None)
    return found or one.listed.begun | asked


def keep_entry(name: str) -> None:
    """Keep what a list's form sent."""
    one = list_named(name)
    typed = {field.name: fields.text(request.form, field.name) for field in one.listed.asked}
    one.keep(db(), actor(), now(), one.listed.read(typed))


def begin_list(name: str) -> None:
    """Keep what such a list usually begins with; nothing where it has an entry already."""
    one = list_named(name)
    if one.entries(db()):
        raise Refused(_("This list has entries already; nothing was added."))
    for entry in USUAL.get(name, ()):
        one.keep(db(), actor(), now(), entry)


def list_file(name: str) -> ResponseReturnValue:
    """The list as a file."""
    one = list_named(name)
    return download(write_entries(one.listed, one.entries(db())), "text/csv; charset=utf-8", f"{name}.csv")


def bring_file(name: str, then: str, page: Callable[[OrderlyError], str]) -> ResponseReturnValue:
    """Keep the entries of a file, all or none."""
    one = list_named(name)

    def bring() -> None:
        _name, data = fields.file(request.files, "file")
        if data is None:
            raise InvalidInput("file", _("choose the CSV file with the entries"))
        for entry in read_entries(one.listed, data):
            one.keep(db(), actor(), now(), entry)

    return answer(bring, then, page)
