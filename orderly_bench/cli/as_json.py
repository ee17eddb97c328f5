"""The JSON object of one analysed file; a quantity that can't be had is null, never absent."""

from __future__ import annotations

from pathlib import Path

from orderly_bench.core.cautions import Caution
from orderly_bench.core.judgement.arms import ArmResult
from orderly_bench.core.judgement.comparisons import Comparison, Hurdle, SameStart
from orderly_bench.core.judgement.dose_curve import DoseCurve
from orderly_bench.core.judgement.lenses import Lenses, look_through
from orderly_bench.core.judgement.result import Analysis, TermResult
from orderly_bench.core.judgement.strength import grade
from orderly_bench.core.judgement.varies import Varies
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.responses.added import Added, Classed, Curve, DaysApart, Numbers
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.telling.headline import read
from orderly_bench.core.telling.one_rate import Advice, OneRate
from orderly_bench.core.vocabulary import Strength


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
        "heterogeneity": [_varies(one) for one in c.varies] if c.varies else None,
        "hurdle": _hurdle(c.hurdle),
        "not_worse": {"limit": c.not_worse.limit, "holds": c.not_worse.holds} if c.not_worse else None,
        "adjusted_by": c.adjusted_by,
        "more_units": c.more_units,
        "more_units_margin": c.more_units_margin,
        "more_units_open": c.more_units_open or None,
        "smallest_gap": c.smallest_gap,
        **_days(c.days),
    }
    return found


def _varies(one: Varies) -> dict[str, object]:
    keys = ("over", "name", "p", "p_adjusted", "reversal_p", "reversal_p_adjusted")
    return {**{key: getattr(one, key) for key in keys}, "differences": dict(one.differences)}


def _hurdle(found: Hurdle | None) -> dict[str, object] | None:
    if found is None:
        return None
    (k_a, n_a), (k_b, n_b) = found.a, found.b
    return {
        "a": k_a / n_a if n_a else None,
        "b": k_b / n_b if n_b else None,
        "estimate": found.estimate,
        "p_adjusted": found.p_adjusted,
    }


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


def rate_as_dict(file: str, found: OneRate, advised: Advice | None) -> dict[str, object]:
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
        "stick": advised.known.stick if advised else None,
        "stick_range": {"fewest": advised.fewest, "most": advised.most} if advised else None,
        "cautions": _cautions([*found.cautions, *(advised.known.cautions if advised else [])]),
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
    return {
        "bend_p": curve.bend.p,
        "misfit_p": curve.misfit.p,
        "turns": curve.turns,
        **best,
        "saturated": curve.saturated,
    }


def as_dict(file: str, analysis: Analysis) -> dict[str, object]:
    """The JSON object of one file; a quantity that can't be had is None, never absent."""
    o, cluster, reading = analysis.observations, analysis.cluster, read(analysis)
    return {
        "file": Path(file).name,
        "response": analysis.settings.response.value,
        "design": analysis.design,
        "n_cuttings": analysis.cuttings,
        "n_units": layout_of(o).unit_count,
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
    """A term; of a factor with two levels also its estimate, interval, verdict, adjusted values and strength."""
    o = analysis.observations
    permuted = set(term.factors) & {o.factors[f] for f in layout_of(o).carried}
    two = len(term.contrasts) == 1
    only = _graded(term.contrasts[0], analysis) if two else {}
    headline = (
        "estimate",
        "ci_low",
        "ci_high",
        "p_adjusted",
        "verdict",
        "strength",
        "strength_reasons",
        "heterogeneity",
        "hurdle",
    )
    c = term.contrasts[0] if two else None
    return {
        "term": term.name,
        "p": term.p,
        "source": "model" if term.test is None else "permutation" if permuted else "randomisation",
        "model": _model(term.model),
        "contrasts": [_graded(c, analysis) for c in term.contrasts],
        **{key: only.get(key) for key in headline},
        "adjusted": {c.a.name: c.adjusted[0], c.b.name: c.adjusted[1]} if c and c.adjusted else None,
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
        "bayes": {**posterior, "p_best": dict(zip(names, lenses.p_best, strict=True)) if lenses.p_best else None}
        if lenses.bayes
        else None,
    }
