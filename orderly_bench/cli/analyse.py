"""``analyse``: the headless analysis of tidy CSV files."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

from orderly_bench.core.compare.analysis import Analysis, ArmResult, Settings, TermResult, analyse
from orderly_bench.core.compare.comparisons import Comparison
from orderly_bench.core.compare.lenses import Lenses, look_through
from orderly_bench.core.compare.logistic import ModelTest
from orderly_bench.core.compare.observations import NOT_STUCK
from orderly_bench.core.compare.reading import read
from orderly_bench.core.compare.responses import Response
from orderly_bench.core.compare.wording import of, p_value, points
from orderly_bench.core.compare.working import show_working
from orderly_bench.core.errors import InvalidInput, OrderlyError, UnusableData
from orderly_bench.core.vocabulary import Strength
from orderly_bench.formats.tidy_csv import Columns, read_observations


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Flags of the command."""
    parser.add_argument("files", nargs="+", metavar="FILE.csv")
    parser.add_argument("--response", choices=[r.value for r in Response], default="rooted")
    parser.add_argument("--factors", required=True, help="columns that make up the arm, comma between: medium,hormone")
    parser.add_argument("--unit", help="column of the unit several cuttings share: a pot, a jar")
    parser.add_argument("--block", help="column of the block the units were laid out in")
    parser.add_argument("--pair", help="column of the pair of cuttings from one stem")
    parser.add_argument("--whole-plot", help="column of the whole plot of a split-plot")
    parser.add_argument("--row", help="column of the row of a Latin square")
    parser.add_argument("--column", help="column of the column of a Latin square")
    parser.add_argument("--wave", help="column of the sticking occasion, for seasons")
    parser.add_argument("--interval", choices=("wilson", "clopper-pearson"), default="wilson")
    parser.add_argument("--control", help='the control arm: "medium=sand,hormone=none"')
    parser.add_argument(
        "--margin", type=float, help="smallest difference that matters, in the unit of the estimate: 0.15"
    )
    parser.add_argument("--alpha", type=float, default=0.05)
    parser.add_argument("--draws", type=int, default=20_000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--family", choices=("all", "control"), default="all")
    parser.add_argument(
        "--dose", metavar="FACTOR", help="the factor whose levels are strengths: its trend is tested too"
    )
    parser.add_argument("--json", action="store_true", help="one JSON object per file, one per line")
    parser.add_argument("--explain", action="store_true", help="add how each number came about")


def run(arguments: argparse.Namespace) -> int:
    """Analyse every file; exit status 2 when any could not be."""
    try:
        settings, columns = _settings(arguments), _columns(arguments)
    except InvalidInput as error:
        print(f"orderly-bench analyse: {error}", file=sys.stderr)
        return 2
    status = 0
    for file in arguments.files:
        try:
            observations = read_observations(_read(file), _factors(arguments), settings.response, columns)
            analysis = analyse(observations, settings)
        except UnusableData as error:
            print(error.within(file), file=sys.stderr)
            status = 2
        except OrderlyError as error:
            print(f"{file}: {error}", file=sys.stderr)
            status = 2
        else:
            print(_printed(file, analysis, arguments))
    return status


def _printed(file: str, analysis: Analysis, arguments: argparse.Namespace) -> str:
    if arguments.json:
        found = as_dict(file, analysis)
        if arguments.explain:
            found["working"] = [{"of": w.title, "lines": w.lines} for w in show_working(analysis)]
        return json.dumps(found, ensure_ascii=False, allow_nan=False)
    text = readable(file, analysis)
    if arguments.explain:
        text += "\n  working\n" + "".join(
            f"  {w.title}\n" + "".join(f"    {line}\n" for line in w.lines) for w in show_working(analysis)
        )
    return text


def _columns(arguments: argparse.Namespace) -> Columns:
    if (arguments.row is None) != (arguments.column is None):
        raise InvalidInput("--row and --column", "give both; a Latin square has rows and columns")
    if arguments.pair and arguments.block:
        raise InvalidInput("--pair", "a pair is its own block; give one of the two")
    names = ("unit", "block", "pair", "whole_plot", "row", "column", "wave")
    return Columns(**{name: getattr(arguments, name) for name in names})


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
        response=Response(arguments.response),
        dose=arguments.dose,
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
        "exact": c.test.exact,
        "more_units": c.more_units,
        **c.extras,
    }


def _arm(arm: ArmResult) -> dict[str, object]:
    return {
        "arm": arm.name,
        "levels": arm.levels,
        "n": arm.stuck,
        "k": arm.rooted,
        "estimate": arm.estimate,
        "ci_low": arm.interval.low if arm.interval else None,
        "ci_high": arm.interval.high if arm.interval else None,
        "left_out": arm.left_out,
        **arm.extras,
    }


def _model(model: ModelTest) -> dict[str, object]:
    if model.df1 is not None:
        return {"F": model.f, "df1": model.df1, "df2": model.df2, "p": model.p}
    return {"chi2": model.chi2, "df": model.df, "p": model.p}


def as_dict(file: str, analysis: Analysis) -> dict[str, object]:
    """The JSON object of one file; a quantity that can't be had is None, never absent."""
    test, model, o = analysis.test, analysis.model, analysis.observations
    cluster = analysis.cluster
    return {
        "file": Path(file).name,
        "response": analysis.settings.response.value,
        "design": analysis.design,
        "n_cuttings": sum(row.state != NOT_STUCK for row in o.rows),
        "n_units": o.unit_count,
        "n_blocks": len(o.blocks) or None,
        "arms": [_arm(arm) for arm in analysis.arms],
        "overall": {
            "p": test.p,
            "exact": test.exact,
            "draws": test.draws,
            "mc_error": test.monte_carlo_error,
            "statistic": test.statistic,
            "model": {"name": model.name, **_model(model)},
        },
        "terms": [
            {
                "term": term.name,
                "p": term.p,
                "source": "randomisation" if term.test else "model",
                "model": _model(term.model),
                "contrasts": [_comparison(c) for c in term.contrasts],
                **_headline(term),
            }
            for term in analysis.terms
        ],
        "comparisons": [_comparison(c) for c in analysis.comparisons],
        "letters": analysis.letters or None,
        "trend": {
            factor: {
                "p": t.test.p,
                "exact": t.test.exact,
                "scores": t.scores,
                "model": {"name": t.model.name, **_model(t.model)},
            }
            for factor, t in analysis.trends.items()
        }
        or None,
        "cluster": {"icc": cluster.icc, "design_effect": cluster.design_effect} if cluster.icc is not None else None,
        **_strength(analysis),
        "cautions": [{"code": c.code, "text": c.text, "remedy": c.remedy} for c in analysis.cautions],
        **lenses_as_dict(analysis, look_through(analysis)),
    }


def _strength(analysis: Analysis) -> dict[str, object]:
    """The sentence, for rooting; how strongly it may be said, and the codes of what weakens it."""
    reading = read(analysis)
    weakening = [c.code for c in analysis.cautions if c.serious] if reading.strength is Strength.SUGGESTED else []
    said = reading.headline if analysis.settings.response is Response.ROOTED and reading.findings else None
    return {"headline": said, "strength": reading.strength.value, "strength_reasons": weakening}


def _headline(term: TermResult) -> dict[str, object]:
    """Estimate, interval and verdict of a factor with two levels."""
    if len(term.contrasts) != 1:
        return {"estimate": None, "ci_low": None, "ci_high": None, "verdict": None}
    only = _comparison(term.contrasts[0])
    return {key: only[key] for key in ("estimate", "ci_low", "ci_high", "verdict")}


def lenses_as_dict(analysis: Analysis, lenses: Lenses) -> dict[str, object]:
    """``classical``, ``models``, ``transform`` and ``bayes``."""
    names = analysis.observations.names

    def pair(a: int, b: int) -> str:
        return f"{names[a]} - {names[b]}"

    plain: dict[str, object] = {name: vars(test) for name, test in lenses.classical.items()}
    if lenses.cmh_by_factor:
        plain["cmh"] = {factor: vars(test) for factor, test in lenses.cmh_by_factor.items()}
    t = lenses.transform
    posterior: dict[str, object] = {pair(a, b): vars(found) for (a, b), found in lenses.bayes.items()}
    return {
        "classical": plain or None,
        "models": {
            "firth": {pair(a, b): {"log_odds_ratio": lor, "se": se} for (a, b), (lor, se) in lenses.firth.items()}
            or None,
            "gee": _model(lenses.gee) if lenses.gee else None,
            "nb": {"theta": lenses.theta} if analysis.settings.response is Response.ROOT_COUNT else None,
        },
        "transform": {
            "anova": {"F": t.f, "p": t.p},
            "tukey": {pair(a, b): vars(found) for (a, b), found in t.pairs.items()},
        }
        if t
        else None,
        "bayes": {**posterior, "p_best": dict(zip(names, lenses.p_best, strict=True))} if lenses.bayes else None,
    }


def readable(file: str, analysis: Analysis) -> str:
    """The same as a table for people."""
    binary = analysis.settings.response.binary
    lines = [f"{Path(file).name}: {analysis.design}, {len(analysis.observations.rows)} cuttings", ""]
    width = max(len(arm.name) for arm in analysis.arms)
    for arm in analysis.arms:
        letters = analysis.letters.get(arm.name, "")
        lines.append(f"  {arm.name:<{width}}  {_arm_words(arm, binary):<40} {letters}")
    exact = "exact" if analysis.test.exact else f"{analysis.test.draws} draws"
    lines += [
        "",
        f"  overall: {p_value(analysis.test.p)} ({exact}); {analysis.model.name}: {p_value(analysis.model.p)}",
    ]
    lines += [
        f"  {factor} as a dose: trend {p_value(t.test.p)}; one slope in the {t.model.name} model: {p_value(t.model.p)}"
        for factor, t in analysis.trends.items()
    ]
    lines += [f"  {t.name}: {p_value(t.p)} ({'randomisation' if t.test else 'model'})" for t in analysis.terms]
    lines.append("")
    for c in analysis.comparisons:
        lines.append(
            f"  {c.a.name} against {c.b.name}: {_effect_words(c, binary)}, {p_value(c.p)}, Holm {p_value(c.p_adjusted)}: {c.verdict.value}"
        )
    lines += [f"  ! {caution.text}" for caution in analysis.cautions]
    return "\n".join(lines) + "\n"


def _arm_words(arm: ArmResult, binary: bool) -> str:
    if binary:
        interval = f"{points(arm.interval.low)} to {points(arm.interval.high)} %" if arm.interval else "no interval"
        return f"{of(arm.rooted, arm.stuck):<18} {interval}"
    if "cuttings_by_class_floor" in arm.extras:
        counts: dict[str, int] = arm.extras["cuttings_by_class_floor"]  # type: ignore[assignment]
        return ", ".join(f"{n} with {floor} or more" if floor != "0" else f"{n} none" for floor, n in counts.items())
    estimate = "no estimate" if arm.estimate is None else f"{arm.estimate:.3g}"
    interval = f" ({arm.interval.low:.3g} to {arm.interval.high:.3g})" if arm.interval else ""
    return f"{estimate}{interval}, n {arm.stuck}"


def _effect_words(c: Comparison, binary: bool) -> str:
    d = c.difference
    if d.estimate is None:
        return "no estimate"
    if binary:
        span = f"{points(d.interval.low, True)} to {points(d.interval.high, True)}" if d.interval else "no interval"
        return f"{points(d.estimate, True)} points ({span})"
    span = f"{d.interval.low:.3g} to {d.interval.high:.3g}" if d.interval else "no interval"
    return f"{d.estimate:.3g} ({span})"
