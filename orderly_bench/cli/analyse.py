"""``analyse``: the headless analysis of tidy CSV files."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

from orderly_bench.core.cautions import Caution
from orderly_bench.core.compare.analysis import Analysis, Settings, TermResult, analyse
from orderly_bench.core.compare.arms import Added, ArmResult, Classed, Curve, Numbers
from orderly_bench.core.compare.comparisons import Comparison, DaysApart, SameStart
from orderly_bench.core.compare.dose_curve import DoseCurve
from orderly_bench.core.compare.lenses import Lenses, look_through
from orderly_bench.core.compare.logistic import ModelTest
from orderly_bench.core.compare.more_units import with_more_units
from orderly_bench.core.compare.observations import NOT_STUCK
from orderly_bench.core.compare.one_rate import OneRate, one_rate
from orderly_bench.core.compare.reading import read
from orderly_bench.core.compare.strength import grade
from orderly_bench.core.compare.wording import of, p_value, points, said_first, signs, size, span
from orderly_bench.core.compare.working import show_working
from orderly_bench.core.design.stick_for import StickFor, for_batches
from orderly_bench.core.errors import InvalidInput, OrderlyError, UnusableData
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.vocabulary import Strength
from orderly_bench.formats.tidy_csv import Columns, read_observations

#: How often the plants wanted should be there.
ASSURANCE = 0.95


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Flags of the command."""
    parser.add_argument("files", nargs="+", metavar="FILE.csv")
    parser.add_argument("--response", choices=[r.value for r in Response], default="rooted")
    parser.add_argument("--factors", help="columns that make up the arm, comma between: medium,hormone")
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
        "--max-t", action="store_true", help="with --family control: adjust by the joint redraw, not Holm"
    )
    parser.add_argument(
        "--dose", metavar="FACTOR", help="the factor whose levels are strengths: its trend is tested too"
    )
    parser.add_argument(
        "--start",
        metavar="COLUMNS",
        help="what the cuttings started with (length_mm, grade): comparisons adjusted for it too",
    )
    parser.add_argument("--look", action="store_true", help="a look, not a test: counts only")
    parser.add_argument("--rate", action="store_true", help="one arm: its count, interval and bound")
    parser.add_argument("--want", type=int, metavar="N", help="with --rate: how many to stick for N, 95 times in 100")
    parser.add_argument(
        "--not-worse-than", action="store_true", help="is each arm no worse than the control by more than the margin"
    )
    parser.add_argument(
        "--more-units", action="store_true", help="for what is not settled: how many more would find it (slower)"
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
            printed = _worked_out(file, arguments, settings, columns)
        except UnusableData as error:
            print(error.within(file), file=sys.stderr)
            status = 2
        except OrderlyError as error:
            print(f"{file}: {error}", file=sys.stderr)
            status = 2
        else:
            print(printed)
    return status


def _worked_out(file: str, arguments: argparse.Namespace, settings: Settings, columns: Columns) -> str:
    least = 1 if arguments.rate else 2
    observations = read_observations(_read(file), _factors(arguments), settings.response, columns, least)
    if arguments.rate:
        found = one_rate(observations, settings)
        advised = _to_stick(arguments.want, found)
        if arguments.json:
            return _dumped(rate_as_dict(file, found, advised))
        stick = f" Stick {advised.stick} for {arguments.want}, 95 times in 100." if advised else ""
        return f"{Path(file).name}: {found.sentence}{stick}\n"
    analysis = analyse(observations, settings)
    if arguments.more_units:
        analysis = with_more_units(analysis)
    return _printed(file, analysis, arguments)


def _dumped(found: dict[str, object]) -> str:
    return json.dumps(found, ensure_ascii=False, allow_nan=False)


def _printed(file: str, analysis: Analysis, arguments: argparse.Namespace) -> str:
    if arguments.json:
        found = as_dict(file, analysis)
        if arguments.explain:
            found["working"] = [{"of": w.title, "lines": w.lines} for w in show_working(analysis)]
        return _dumped(found)
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
    if arguments.want is not None and not arguments.rate:
        raise InvalidInput("--want", "goes with --rate", arguments.want)
    if arguments.rate and arguments.look:
        raise InvalidInput("--rate", "is of one arm, a look of several; give one of the two")
    names = ("unit", "block", "pair", "whole_plot", "row", "column", "wave")
    starts = tuple(dict.fromkeys(name.strip() for name in (arguments.start or "").split(",") if name.strip()))
    return Columns(**{name: getattr(arguments, name) for name in names}, starts=starts)


def _read(file: str) -> bytes:
    try:
        return Path(file).read_bytes()
    except OSError as error:
        raise UnusableData(f"cannot be read ({error.strerror})", "Check the name and the rights of the file") from error


def _factors(arguments: argparse.Namespace) -> list[str]:
    if arguments.factors is None:
        if arguments.rate:
            return []
        raise InvalidInput("--factors", "name the columns that make up the arm, comma between")
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
        look=arguments.look,
        max_t=arguments.max_t,
        not_worse=arguments.not_worse_than,
    )


def _comparison(c: Comparison) -> dict[str, object]:
    interval, decided, unknown = c.difference.interval, c.decided_by, c.range
    found: dict[str, object] = {
        "a": c.a.name,
        "b": c.b.name,
        "estimate": c.difference.estimate,
        "ci_low": interval.low if interval else None,
        "ci_high": interval.high if interval else None,
        "p": c.p,
        "p_adjusted": c.p_adjusted,
        "verdict": c.verdict.value,
        "decided_by": {"level": decided.level, "low": decided.low, "high": decided.high} if decided else None,
        "range": {key: getattr(unknown, key) for key in ("low", "high", "p_low", "p_high")} if unknown else None,
        "same_start": _same_start(c.same_start),
        "adjusted": {"a": c.adjusted[0], "b": c.adjusted[1]} if c.adjusted else None,
        "odds_ratio": c.odds_ratio,
        "exact": c.test.exact,
        "more_units": c.more_units,
        "more_units_margin": c.more_units_margin,
        "smallest_gap": c.smallest_gap,
        **_days(c.days),
    }
    if c.not_worse is not None:
        found["not_worse"] = {"limit": c.not_worse.limit, "holds": c.not_worse.holds}
    return found


def _days(found: DaysApart | None) -> dict[str, float | None]:
    """What days to root add to a pair; nothing else has it."""
    if found is None:
        return {}
    ratio, low, high = found.hazard or (None, None, None)
    first, last = found.possible or (None, None)
    return {"hazard_ratio": ratio, "hr_low": low, "hr_high": high, "area_low": first, "area_high": last}


def _added(found: Added) -> dict[str, object]:
    """What a response adds to an arm."""
    if isinstance(found, Numbers):
        return {"mean_per_rooted": found.mean_per_rooted}
    if isinstance(found, Classed):
        return {"cuttings_by_class_floor": found.by_floor, "median_class_floor": found.median_floor}
    if isinstance(found, Curve):
        return {"cif": found.incidence, "median_day": found.median_day, "area": found.area}
    return {}


def _same_start(found: SameStart | None) -> dict[str, object] | None:
    if found is None:
        return None
    low, high = (found.interval.low, found.interval.high) if found.interval else (None, None)
    adjusted = {
        "estimate": found.estimate,
        "ci_low": low,
        "ci_high": high,
        "p": found.p,
        "p_adjusted": found.p_adjusted,
    }
    return {**adjusted, "verdict": found.verdict.value, "changes": found.changes}


def _graded(c: Comparison, analysis: Analysis) -> dict[str, object]:
    """A comparison with how strongly it may be said."""
    graded = grade(c, analysis.cautions, False)
    return {**_comparison(c), "strength": graded.strength.value, "strength_reasons": list(graded.codes)}


def _arm(arm: ArmResult) -> dict[str, object]:
    return {
        "arm": arm.name,
        "levels": arm.levels,
        "n": arm.stuck,
        "stuck": arm.stuck + arm.left_out,
        "left_out": arm.left_out,
        "k": arm.rooted,
        "estimate": arm.estimate,
        "ci_low": arm.interval.low if arm.interval else None,
        "ci_high": arm.interval.high if arm.interval else None,
        **_added(arm.added),
    }


def _to_stick(want: int | None, found: OneRate) -> StickFor | None:
    """How many to stick for so many, the rate being no better known than one batch tells."""
    return None if want is None else for_batches(want, [(found.arm.rooted, found.arm.stuck)], ASSURANCE)


def rate_as_dict(file: str, found: OneRate, advised: StickFor | None) -> dict[str, object]:
    """The JSON object of one rate: nothing is compared."""
    return {
        "file": Path(file).name,
        "response": found.response.value,
        "design": "one arm",
        "n_cuttings": found.arm.stuck + found.arm.left_out,
        "n_units": found.units,
        "n_blocks": None,
        "arms": [_arm(found.arm)],
        "overall": None,
        "terms": [],
        "comparisons": [],
        "headline": found.sentence,
        "strength": Strength.CANNOT_TELL.value,
        "strength_reasons": ["rate"],
        "trend": None,
        "letters": None,
        "cluster": None,
        "bound": found.bound,
        "stick": advised.stick if advised else None,
        "cautions": _cautions([*found.cautions, *(advised.cautions if advised else [])]),
    }


def _cautions(cautions: list[Caution]) -> list[dict[str, str]]:
    return [{"code": c.code, "text": c.text, "remedy": c.remedy} for c in cautions]


def _model(model: ModelTest) -> dict[str, object]:
    if model.df1 is not None:
        return {"F": model.f, "df1": model.df1, "df2": model.df2, "p": model.p}
    return {"chi2": model.chi2, "df": model.df, "p": model.p}


def _curve(curve: DoseCurve | None) -> dict[str, object] | None:
    if curve is None:
        return None
    best = {"best": curve.best, "best_low": curve.best_low, "best_high": curve.best_high}
    return {"bend_p": curve.bend.p, **best, "saturated": curve.saturated}


def as_dict(file: str, analysis: Analysis) -> dict[str, object]:
    """The JSON object of one file; a quantity that can't be had is None, never absent."""
    o, cluster, reading = analysis.observations, analysis.cluster, read(analysis)
    return {
        "file": Path(file).name,
        "response": analysis.settings.response.value,
        "design": analysis.design,
        "n_cuttings": sum(row.state != NOT_STUCK for row in o.rows) + analysis.aside.cuttings,
        "n_units": o.layout.unit_count,
        "n_blocks": len(o.blocks) or None,
        "arms": [_arm(arm) for arm in analysis.arms],
        "overall": _overall(analysis),
        "terms": [_term(term, analysis) for term in analysis.terms],
        "comparisons": [_graded(c, analysis) for c in analysis.comparisons],
        "headline": reading.headline,
        "strength": reading.strength.value,
        "strength_reasons": list(reading.codes),
        "letters": analysis.letters or None,
        "trend": {
            factor: {
                "p": t.test.p,
                "exact": t.test.exact,
                "scores": t.scores,
                "model": {"name": t.model.name, **_model(t.model)},
                "curve": _curve(t.curve),
            }
            for factor, t in analysis.trends.items()
        }
        or None,
        "cluster": {
            "icc": cluster.icc,
            "icc_low": cluster.interval.low if cluster.interval else None,
            "icc_high": cluster.interval.high if cluster.interval else None,
            "design_effect": cluster.design_effect,
        }
        if cluster.icc is not None
        else None,
        "cautions": _cautions(analysis.cautions),
        **lenses_as_dict(analysis, look_through(analysis)),
    }


def _overall(analysis: Analysis) -> dict[str, object] | None:
    test, model = analysis.test, analysis.model
    if analysis.settings.look:
        return None
    return {
        "p": test.p,
        "exact": test.exact,
        "draws": test.draws,
        "mc_error": test.monte_carlo_error,
        "statistic": test.statistic,
        "model": {"name": model.name, **_model(model)},
    }


def _term(term: TermResult, analysis: Analysis) -> dict[str, object]:
    """A term; of a factor with two levels also its estimate, interval, verdict and strength."""
    o = analysis.observations
    permuted = set(term.factors) & {o.factors[f] for f in o.layout.carried}
    only = _graded(term.contrasts[0], analysis) if len(term.contrasts) == 1 else {}
    headline = ("estimate", "ci_low", "ci_high", "p_adjusted", "verdict", "strength", "strength_reasons")
    return {
        "term": term.name,
        "p": term.p,
        "source": "model" if term.test is None else "permutation" if permuted else "randomisation",
        "model": _model(term.model),
        "contrasts": [_graded(c, analysis) for c in term.contrasts],
        **{key: only.get(key) for key in headline},
        **(_untold(term, analysis) if not term.contrasts and len(term.factors) == 1 else {}),
    }


def _untold(term: TermResult, analysis: Analysis) -> dict[str, object]:
    """Why nothing is said of a factor."""
    codes = [c.code for c in analysis.cautions if c.code in ("aliased", "season_not_waves", "block_is_arm", "one_unit")]
    return {"strength": Strength.CANNOT_TELL.value, "strength_reasons": codes}


def lenses_as_dict(analysis: Analysis, lenses: Lenses) -> dict[str, object]:
    """``classical``, ``models``, ``transform`` and ``bayes``; all null for a look, whatever they would say."""
    if analysis.settings.look:
        return dict.fromkeys(("classical", "models", "transform", "bayes"))
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
    binary = kind_of(analysis.settings.response).yes_no
    lines = [f"{Path(file).name}: {analysis.design}, {len(analysis.observations.rows)} cuttings", ""]
    width = max(len(arm.name) for arm in analysis.arms)
    for arm in analysis.arms:
        letters = signs(analysis.letters.get(arm.name, ""))
        lines.append(f"  {arm.name:<{width}}  {_arm_words(arm, binary):<40} {letters}".rstrip())
    reading = read(analysis)
    lines += ["", f"  {reading.headline}", f"  {said_first(reading.strength.value)}: {'; '.join(reading.reasons)}."]
    if analysis.settings.look:
        return "\n".join([*lines, *(f"  ! {caution.text}" for caution in analysis.cautions)]) + "\n"
    exact = "exact" if analysis.test.exact else f"{analysis.test.draws} draws"
    lines += [
        "",
        f"  overall: {p_value(analysis.test.p)} ({exact}); {analysis.model.name}: {p_value(analysis.model.p)}",
    ]
    lines += [
        f"  {factor} as a dose: trend {p_value(t.test.p)}; one slope in the {t.model.name} model: {p_value(t.model.p)}"
        for factor, t in analysis.trends.items()
    ]
    lines += [
        f"  {' by '.join(t.factors)}: {p_value(t.p)} ({'randomisation' if t.test else 'model'})" for t in analysis.terms
    ]
    lines.append("")
    for c in analysis.comparisons:
        lines.append(
            f"  {c.a.name} against {c.b.name}: {_effect_words(c, binary)}, {p_value(c.p)}, Holm {p_value(c.p_adjusted)}: {c.verdict.value}"
        )
    lines += [f"  ! {caution.text}" for caution in analysis.cautions]
    return "\n".join(lines) + "\n"


def _arm_words(arm: ArmResult, binary: bool) -> str:
    if binary:
        interval = f"{span(arm.interval.low, arm.interval.high, True)} %" if arm.interval else "no interval"
        return f"{of(arm.rooted, arm.stuck):<18} {interval}"
    if isinstance(arm.added, Classed):
        counts = arm.added.by_floor
        return ", ".join(f"{n} with {floor} or more" if floor != "0" else f"{n} none" for floor, n in counts.items())
    estimate = "no estimate" if arm.estimate is None else f"{arm.estimate:.3g}"
    interval = f" ({span(arm.interval.low, arm.interval.high, False)})" if arm.interval else ""
    return f"{estimate}{interval}, n {arm.stuck}"


def _effect_words(c: Comparison, binary: bool) -> str:
    d = c.difference
    if d.estimate is None:
        return "no estimate"
    if binary:
        ends = span(d.interval.low, d.interval.high, True, True) if d.interval else "no interval"
        return f"{points(d.estimate, True)} points ({ends})"
    ends = span(d.interval.low, d.interval.high, False) if d.interval else "no interval"
    return f"{size(d.estimate)} ({ends})"
