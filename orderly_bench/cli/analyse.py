"""``analyse``: the headless analysis of tidy CSV files."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

from orderly_bench.core.compare.analysis import Analysis, Settings, analyse
from orderly_bench.core.compare.comparisons import Comparison
from orderly_bench.core.compare.wording import of, p_value, points
from orderly_bench.core.errors import InvalidInput, OrderlyError, UnusableData
from orderly_bench.formats.tidy_csv import read_rooted

RESPONSES = ("rooted",)


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Flags of the command."""
    parser.add_argument("files", nargs="+", metavar="FILE.csv")
    parser.add_argument("--response", choices=RESPONSES, default="rooted")
    parser.add_argument("--factors", required=True, help="columns that make up the arm, comma between: medium,hormone")
    parser.add_argument("--block", help="column of the block the cuttings were laid out in")
    parser.add_argument("--interval", choices=("wilson", "clopper-pearson"), default="wilson")
    parser.add_argument("--control", help='the control arm: "medium=sand,hormone=none"')
    parser.add_argument("--margin", type=float, help="smallest difference that matters, as a proportion: 0.15")
    parser.add_argument("--alpha", type=float, default=0.05)
    parser.add_argument("--draws", type=int, default=20_000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--family", choices=("all", "control"), default="all")
    parser.add_argument("--json", action="store_true", help="one JSON object per file, one per line")


def run(arguments: argparse.Namespace) -> int:
    """Analyse every file; exit status 2 when any could not be."""
    try:
        settings = _settings(arguments)
    except InvalidInput as error:
        print(f"orderly-bench analyse: {error}", file=sys.stderr)
        return 2
    status = 0
    for file in arguments.files:
        try:
            observations = read_rooted(_read(file), _factors(arguments), arguments.block)
            analysis = analyse(observations, settings)
        except UnusableData as error:
            print(error.within(file), file=sys.stderr)
            status = 2
        except OrderlyError as error:
            print(f"{file}: {error}", file=sys.stderr)
            status = 2
        else:
            print(
                json.dumps(as_dict(file, analysis), ensure_ascii=False, allow_nan=False)
                if arguments.json
                else readable(file, analysis)
            )
    return status


def _read(file: str) -> bytes:
    try:
        return Path(file).read_bytes()
    except OSError as error:
        raise UnusableData(f"cannot be read ({error.strerror})", "Check the name and the rights of the file") from error


def _factors(arguments: argparse.Namespace) -> list[str]:
    factors = [name.strip() for name in arguments.factors.split(",")]
    if not all(factors) or len(set(factors)) < len(factors):
        raise InvalidInput("--factors", "name each column once, comma between", arguments.factors)
    return factors


def _control(text: str | None, factors: list[str]) -> tuple[str, ...] | None:
    if text is None:
        return None
    given = dict(part.split("=", 1) for part in text.split(",") if "=" in part)
    given = {name.strip(): level.strip() for name, level in given.items()}
    if set(given) != set(factors):
        raise InvalidInput("--control", f"give one level for each of {', '.join(factors)}", text)
    return tuple(given[factor] for factor in factors)


def _settings(arguments: argparse.Namespace) -> Settings:
    return Settings(
        alpha=arguments.alpha,
        margin=arguments.margin,
        draws=arguments.draws,
        seed=arguments.seed,
        control=_control(arguments.control, _factors(arguments)),
        against_control=arguments.family == "control",
        interval=arguments.interval,
    )


def _comparison(c: Comparison) -> dict[str, object]:
    interval = c.difference.interval
    return {
        "a": c.a.name,
        "b": c.b.name,
        "estimate": c.difference.estimate,
        "ci_low": interval.low if interval else None,
        "ci_high": interval.high if interval else None,
        "p": c.p,
        "p_adjusted": c.p_adjusted,
        "verdict": c.verdict.value,
        "odds_ratio": c.odds_ratio,
    }


def as_dict(file: str, analysis: Analysis) -> dict[str, object]:
    """The JSON object of one file; a quantity that can't be had is None, never absent."""
    test = analysis.test
    return {
        "file": Path(file).name,
        "response": "rooted",
        "design": analysis.design,
        "n_cuttings": len(analysis.observations.rows),
        "n_units": len(analysis.observations.rows),
        "n_blocks": len(analysis.observations.blocks) or None,
        "arms": [
            {
                "arm": arm.name,
                "levels": arm.levels,
                "n": arm.stuck,
                "k": arm.rooted,
                "estimate": arm.rate,
                "ci_low": arm.interval.low if arm.interval else None,
                "ci_high": arm.interval.high if arm.interval else None,
                "left_out": arm.left_out,
            }
            for arm in analysis.arms
        ],
        "overall": {
            "p": test.p,
            "exact": test.exact,
            "draws": test.draws,
            "mc_error": test.monte_carlo_error,
            "statistic": test.statistic,
            "model": analysis.model.as_dict(),
        },
        "terms": [
            {
                "term": term.name,
                "p": term.p,
                "source": "randomisation" if term.test else "model",
                "model": {"chi2": term.model.chi2, "df": term.model.df, "p": term.model.p},
                "contrasts": [_comparison(c) for c in term.contrasts],
            }
            for term in analysis.terms
        ],
        "comparisons": [_comparison(c) for c in analysis.comparisons],
        "letters": analysis.letters or None,
        "cluster": None,
        "cautions": [{"code": caution.code, "text": caution.text} for caution in analysis.cautions],
    }


def readable(file: str, analysis: Analysis) -> str:
    """The same as a table for people."""
    lines = [f"{Path(file).name}: {analysis.design}, {len(analysis.observations.rows)} cuttings", ""]
    width = max(len(arm.name) for arm in analysis.arms)
    for arm in analysis.arms:
        span = f"{points(arm.interval.low)} to {points(arm.interval.high)} %" if arm.interval else "no interval"
        letters = analysis.letters.get(arm.name, "")
        lines.append(f"  {arm.name:<{width}}  {of(arm.rooted, arm.stuck):<18} {span:<14} {letters}")
    exact = "exact" if analysis.test.exact else f"{analysis.test.draws} draws"
    lines += [
        "",
        f"  overall: {p_value(analysis.test.p)} ({exact}); {analysis.model.name}: {p_value(analysis.model.p)}",
    ]
    lines += [f"  {t.name}: {p_value(t.p)} ({'randomisation' if t.test else 'model'})" for t in analysis.terms]
    lines.append("")
    for c in analysis.comparisons:
        interval = c.difference.interval
        span = f"{points(interval.low, True)} to {points(interval.high, True)}" if interval else "no interval"
        lines.append(
            f"  {c.a.name} against {c.b.name}: {points(c.difference.estimate, True)} points ({span}), "
            f"{p_value(c.p)}, Holm {p_value(c.p_adjusted)}: {c.verdict.value}"
        )
    lines += [f"  ! {caution.text}" for caution in analysis.cautions]
    return "\n".join(lines) + "\n"
