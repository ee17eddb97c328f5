"""``conditions``: what a logger's file says of a band of temperature, of light and of the dryness of the air."""

from __future__ import annotations

import argparse
import json
import re
from dataclasses import asdict
from pathlib import Path
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from orderly_bench.cli.one_file import answered
from orderly_bench.cli.options import add_json
from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend.conditions import Conditions, conditions
from orderly_bench.formats.log_csv import LogFile, open_log, read_file, read_log

BAND = re.compile(r"\s*(-?\d+(?:[.,]\d+)?)\s*\.\.\s*(-?\d+(?:[.,]\d+)?)\s*")


def add_command(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command with its flags."""
    parser = commands.add_parser(
        "conditions",
        help=_("what a logger's file says of warmth, light and dryness"),
        epilog="./bench conditions log.csv --band 18..24 --tz Europe/London --json",
    )
    parser.add_argument("file", metavar="LOG.csv", help=_("columns time, air_c (or air_f), rh, ppfd"))
    parser.add_argument("--band", required=True, metavar="LOW..HIGH", help=_("of the air, °C: 18..24"))
    parser.add_argument("--tz", metavar="ZONE", help=_("zone of times without an offset: Europe/London"))
    parser.add_argument(
        "--as-written", action="store_true", help=_("find time, air, humidity and light by the names a logger's program gives them")
    )  # fmt: skip
    add_json(parser)
    parser.set_defaults(run=run)


def run(arguments: argparse.Namespace) -> int:
    """Read the log and sum it up; exit status 2 when it can't be."""
    return answered(arguments.file, lambda: _told(arguments))


def _told(arguments: argparse.Namespace) -> str:
    low, high = _band(arguments.band)
    zone = None if arguments.tz is None else _zone(arguments.tz)
    data = Path(arguments.file).read_bytes()
    readings = read_log(data, zone) if arguments.as_written else read_file(_called_as_here(open_log(data)), None, zone)
    found = conditions(readings, low, high)
    return json.dumps(as_dict(found), ensure_ascii=False) if arguments.json else readable(found, low, high)


def _called_as_here(file: LogFile) -> LogFile:
    if not file.ours:
        raise UnusableData(
            _("the columns are not called time and air_c (or air_f)"),
            _(
                "They are: {names}. Add --as-written to find them by these names",
                names=", ".join(filter(None, file.header)),
            ),
            row=1,
        )
    return file


def _band(typed: str) -> tuple[float, float]:
    ends = BAND.fullmatch(typed)
    if ends is None:
        raise InvalidInput("--band", _("write both ends in °C with two points between: 18..24"), typed)
    return float(ends[1].replace(",", ".")), float(ends[2].replace(",", "."))


def _zone(typed: str) -> ZoneInfo:
    try:
        return ZoneInfo(typed)
    except (ZoneInfoNotFoundError, ValueError):
        raise InvalidInput("--tz", _("write it as Europe/London or Australia/Hobart"), typed) from None


def as_dict(found: Conditions) -> dict[str, object]:
    """The result as plain data, days as text."""
    return asdict(found) | {"dli": {day.isoformat(): light for day, light in found.dli.items()}}


def readable(found: Conditions, low: float, high: float) -> str:
    """In lines."""
    lines = [
        _(
            "{rows} rows; {duplicates} repeat a time, {spikes} spikes left out, {gaps} gaps; {known:.1f} hours known",
            rows=found.rows,
            duplicates=found.duplicates,
            spikes=found.spikes,
            gaps=found.gaps,
            known=found.known_hours,
        ),
        _(
            "Below {low:g} °C: {hours:.1f} h, {degrees:.1f} degree-hours",
            low=low,
            hours=found.hours_below,
            degrees=found.degree_hours_below,
        ),
        _(
            "Above {high:g} °C: {hours:.1f} h, {degrees:.1f} degree-hours",
            high=high,
            hours=found.hours_above,
            degrees=found.degree_hours_above,
        ),
        _("Dryness of the air: not known")
        if found.vpd_kpa_mean is None
        else _("Dryness of the air, mean: {vpd:.3g} kPa", vpd=found.vpd_kpa_mean),
    ]
    lines += [
        _("Light, {day}: {light:.2f} mol/m2", day=day.isoformat(), light=light) for day, light in found.dli.items()
    ] or [_("Light: not known")]
    return "\n".join([*lines, *found.cautions])
