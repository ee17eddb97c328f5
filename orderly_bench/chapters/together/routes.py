"""Trials of one question together: disagreement first, then the mean."""

from __future__ import annotations

from flask import Blueprint, render_template, request
from flask.typing import ResponseReturnValue
from markupsafe import Markup

from orderly_bench.core.errors import InvalidInput, OrderlyError
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.stock.ways import Way, pairs_of, together
from orderly_bench.figures import forest
from orderly_bench.stock.operations import taxa_with_ways, ways_for
from orderly_bench.trial.access import Act
from orderly_bench.web import fields
from orderly_bench.web.access import route
from orderly_bench.web.store import db

chapter = Blueprint("together", __name__, template_folder="templates")


@route(chapter, "/together", Act.READ)
def page() -> ResponseReturnValue:
    """A plant, two ways that stood side by side, and what all their trials say; what was chosen stands in the address."""
    args = request.args
    taxon, cutting_type, looks = fields.text(args, "taxon"), fields.text(args, "type"), args.get("looks") == "yes"
    by_type = ways_for(db(), taxon)
    if cutting_type not in by_type:
        cutting_type = next(iter(by_type), "")
    ways: list[Way] = by_type.get(cutting_type, [])
    pairs = pairs_of(ways)
    first, second = fields.text(args, "first"), fields.text(args, "second")
    if not (first and second) and pairs:
        first, second = pairs[0][:2]
    found, error, none_counts, drawn = None, None, "", Markup()
    try:
        if first and second:
            found = together(ways, first, second, looks)
            drawn = Markup(forest.figure(found.found, first, second))  # noqa: S704 - drawn by us, texts escaped
    except OrderlyError as refused:
        known = any((first, second) == pair[:2] for pair in pairs)
        if isinstance(refused, InvalidInput) and known and not looks:
            none_counts = _("They stood side by side in no trial that counts ({why}).", why=refused.value)
        else:
            error = refused
    shown = render_template(
        "together.html", taxa=taxa_with_ways(db()), taxon=taxon, types=list(by_type), cutting_type=cutting_type, pairs=pairs, first=first,
        second=second, looks=looks, found=found, drawn=drawn, error=error, none_counts=none_counts,
    )  # fmt: skip
    return shown, 422 if error else 200
