"""Pieces from a stem, room on a bench, and days to plan by."""

from __future__ import annotations

import re
from datetime import date, timedelta
from math import ceil, floor

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.sums.sum import Answer, SumKind
from orderly_bench.core.typed import Asked, day, number, text, ticked, whole

_TRAY = re.compile(r"(\d{1,5}(?:\.\d+)?) ?[x×] ?(\d{1,5}(?:\.\d+)?)")
#: Guards a floor against the machine's last digit.
NEARLY = 1e-9


def pieces(stem_mm: float, node_every_mm: float, nodes_each: int, keep_tip: bool) -> Answer:
    """Cuttings of one stem: its length over nodes each x spacing; the tip piece counts only where it is kept.

    >>> pieces(900, 45, 3, True).result, pieces(900, 45, 3, False).result
    ({'cuttings': 6}, {'cuttings': 5})
    """
    each = nodes_each * node_every_mm
    whole_pieces = floor(stem_mm / each + NEARLY)
    found = max(0, whole_pieces if keep_tip else whole_pieces - 1)
    working = [
        _(
            "{stem:g} mm / ({nodes} nodes x {every:g} mm) = {n} pieces",
            stem=stem_mm,
            nodes=nodes_each,
            every=node_every_mm,
            n=whole_pieces,
        )
    ]
    if not keep_tip:
        working.append(_("the tip piece is thrown away: {found} left", found=found))
    return Answer({"cuttings": found}, tuple(working))


def area(count: int, pot_mm: float, cells: int, tray_mm: str) -> Answer:
    """Room in trays now, whole trays counted, against square pots edge to edge later.

    >>> area(40, 90, 50, "300x450").result
    {'m2_now': 0.135, 'm2_after': 0.324}
    """
    sides = _TRAY.fullmatch(tray_mm.strip().lower())
    if sides is None:
        raise InvalidInput("tray, mm", _("write its two sides: 300x450"), tray_mm)
    one, other = float(sides[1]), float(sides[2])
    trays = ceil(count / cells)
    now, after = trays * one * other / 1e6, count * pot_mm**2 / 1e6
    working = (
        _(
            "now: {trays:tray|trays} of {one:g} x {other:g} mm = {now:.4g} m2",
            trays=trays,
            one=one,
            other=other,
            now=now,
        ),
        _("after: {count} x {pot:g} x {pot:g} mm = {after:.4g} m2", count=count, pot=pot_mm, after=after),
    )
    return Answer({"m2_now": now, "m2_after": after}, working)


def dates(from_: date | None, weeks_root: int, weeks_pot: int, latest: date | None) -> Answer:
    """When it is rooted and ready, and the last day to stick for a day it must be ready by.

    >>> dates(date(2026, 5, 7), 5, 6, date(2026, 9, 30)).plain()["result"]
    {'rooted': '2026-06-11', 'ready': '2026-07-23', 'latest_sticking': '2026-07-15'}
    """
    if from_ is None:
        raise InvalidInput("from", _("choose a date (year-month-day)"), _("nothing"))
    rooted = from_ + timedelta(weeks=weeks_root)
    ready = rooted + timedelta(weeks=weeks_pot)
    last = None if latest is None else latest - timedelta(weeks=weeks_root + weeks_pot)
    working = [
        _(
            "{first} + {weeks:week|weeks} = {rooted}, rooted",
            first=dated(from_),
            weeks=weeks_root,
            rooted=dated(rooted),
        ),
        _("+ {weeks:week|weeks} = {ready}, ready", weeks=weeks_pot, ready=dated(ready)),
    ]
    cautions: tuple[str, ...] = ()
    if latest is not None and last is not None:
        working.append(
            _(
                "{latest} - {weeks:week|weeks} = {last}, the last day to stick",
                latest=dated(latest),
                weeks=weeks_root + weeks_pot,
                last=dated(last),
            )
        )
        if last < from_:
            cautions = (_("Stuck on {first} it is not ready by {latest}.", first=dated(from_), latest=dated(latest)),)
    return Answer({"rooted": rooted, "ready": ready, "latest_sticking": last}, tuple(working), cautions)


_MM = number(0.1, 100_000)
SUMS = (
    SumKind(
        "yield", N_("cuttings of a stem"),
        (
            Asked("stem_mm", N_("length of the stem, mm"), _MM), Asked("node_every_mm", N_("a node every, mm"), _MM),
            Asked("nodes_each", N_("nodes in a cutting"), whole(1, 50)), Asked("keep_tip", N_("the tip is kept"), ticked()),
        ),
        pieces, {"stem_mm": "900", "node_every_mm": "45", "nodes_each": "3", "keep_tip": "yes"},
    ),
    SumKind(
        "area", N_("room now and after potting on"),
        (
            Asked("count", N_("plants"), whole(1, 1_000_000)), Asked("pot_mm", N_("across a pot, mm"), number(1, 2_000)),
            Asked("cells", N_("cells of a tray"), whole(1, 5_000)), Asked("tray_mm", N_("sides of a tray, mm"), text(20, " ")),
        ),
        area, {"count": "40", "pot_mm": "90", "cells": "50", "tray_mm": "300x450"},
    ),
    SumKind(
        "dates", N_("rooted, ready, and the last day to stick"),
        (
            Asked("from", N_("stuck on"), day()), Asked("weeks_root", N_("weeks to root"), whole(0, 200)),
            Asked("weeks_pot", N_("weeks from there to ready"), whole(0, 500)), Asked("latest", N_("ready by, at the latest"), day()),
        ),
        lambda **asked: dates(asked["from"], asked["weeks_root"], asked["weeks_pot"], asked["latest"]),
        {"from": "2026-05-07", "weeks_root": "5", "weeks_pot": "6", "latest": "2026-09-30"},
    ),
)  # fmt: skip
