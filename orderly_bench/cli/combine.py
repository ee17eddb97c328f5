"""``combine``: one question over several trials, from a CSV with a row per trial and arm."""

from __future__ import annotations

import argparse
import json
from dataclasses import asdict
from pathlib import Path

from orderly_bench.cli.one_file import answered
from orderly_bench.cli.options import add_json
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.numbers import MINUS
from orderly_bench.core.messages.translation import decimal
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.combine import Combined, OneTrial, combine
from orderly_bench.formats.trials_csv import read_trials


def add_command(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command with its flags."""
    parser = commands.add_parser(
        "combine",
        help=_("one question over several trials"),
        epilog="./bench combine trials.csv --arms pumice,bark --json",
    )
    parser.add_argument(
        "file", metavar="TRIALS.csv", help=_("a row per trial and arm: trial, arm, k, n and, if wanted, n_effective")
    )
    parser.add_argument("--arms", metavar="A,B", help=_("the first minus the second; else the two in order of name"))
    add_json(parser)
    parser.set_defaults(run=run)


def run(arguments: argparse.Namespace) -> int:
    """Read the trials, combine them; exit status 2 when they can't be."""
    return answered(arguments.file, lambda: _told(arguments))


def _told(arguments: argparse.Namespace) -> str:
    asked = None if arguments.arms is None else _pair(arguments.arms)
    arms, trials = read_trials(Path(arguments.file).read_bytes(), asked)
    found = combine(trials)
    return json.dumps(as_dict(arms, found), ensure_ascii=False) if arguments.json else readable(arms, found)


def _pair(typed: str) -> tuple[str, str]:
    first, comma, second = (part.strip() for part in typed.partition(","))
    if not (first and comma and second) or first == second or "," in second:
        raise InvalidInput("--arms", _("name two arms with a comma between: pumice,bark"), typed)
    return first, second


def as_dict(arms: tuple[str, str], found: Combined) -> dict[str, object]:
    """The result as plain data; ``trials`` counts them, ``by_trial`` holds each."""
    told = asdict(found)
    each = told.pop("trials")
    return told | {
        "trials": len(each),
        "arms": list(arms),
        "disagree": found.disagree,
        "cautions": found.cautions,
        "by_trial": each,
    }


def readable(arms: tuple[str, str], found: Combined) -> str:
    """Trials with their weights, whether they agree, and only then the mean."""
    lines = [_("{first} minus {second}, in points", first=arms[0], second=arms[1])]
    lines += [_trial(one) for one in found.trials]
    lines += found.cautions
    if found.tau2 is not None:
        lines.append(
            _(
                "Between trials: SD {sd:.1f} points, I2 {i2:.0f} %, Q {q:.2f} (p = {p:.2g})",
                sd=100 * found.tau2**0.5,
                i2=found.i2,
                q=found.q,
                p=found.q_p,
            )
        )
    lines.append(
        _(
            "Mean {mean}, 95 % interval {low} to {high}",
            mean=_signed(100 * found.estimate),
            low=_signed(_points(found.ci_low)),
            high=_signed(_points(found.ci_high)),
        )
    )
    if found.prediction_low is not None and found.prediction_high is not None:
        low, high = _points(found.prediction_low), _points(found.prediction_high)
        lines.append(_("A next trial: {low} to {high}", low=_signed(low), high=_signed(high)))
        lines.append(_("Random effects, REML; Hartung and Knapp, factor at least 1; t on trials - 1."))
    return "\n".join(lines)


def _signed(points: float) -> str:
    return decimal(f"{points:+.1f}".replace("-", MINUS))


def _trial(one: OneTrial) -> str:
    return _(
        "  {name}: {k1} of {n1} against {k2} of {n2}, {points}, weight {share:.0f} %",
        name=one.name,
        k1=one.first.k,
        n1=one.first.n,
        k2=one.second.k,
        n2=one.second.n,
        points=_signed(100 * (one.rates[0] - one.rates[1])),
        share=100 * one.weight,
    )


def _points(share: float) -> float:
    """Percentage points; no difference of rates lies outside -100 to 100."""
    return 100 * max(-1.0, min(1.0, share))
