"""Arms that did not start alike: what is adjusted, what it does to the verdict, and what is left alone."""

from __future__ import annotations

import json
from dataclasses import replace
from math import sqrt
from pathlib import Path

import numpy as np
import pytest
from statsmodels.api import OLS

from orderly_bench.cli.main import main
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.judgement.starts import starts_apart
from orderly_bench.core.judgement.verdict import Verdict
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.layouts.latin_square.squares import all_squares
from orderly_bench.core.observations.table import Row
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.telling.headline import read
from orderly_bench.core.vocabulary import Strength

DRAWS = 2_000


def analysed(rows: list[Row], factors: tuple[str, ...] = ("medium",), **more: object) -> Analysis:
    return analyse(arrange(factors, rows), Settings(draws=DRAWS, margin=0.15, **more))


def graded(a: tuple[int, int], b: tuple[int, int], rates: tuple[float, float]) -> list[Row]:
    """Two arms of so many grade A and B; every grade roots at its own rate, exactly."""
    found = []
    for arm, counts in (("pumice", a), ("bark", b)):
        for kind, n, rate in zip("AB", counts, rates, strict=True):
            yes = round(n * rate)
            found += [Row((arm,), float(i < yes), start=(("grade", kind),)) for i in range(n)]
    return found


def codes(analysis: Analysis) -> list[str]:
    return [c.code for c in analysis.cautions]


def test_a_difference_that_the_grade_explains_is_suggested_at_most() -> None:
    analysis = analysed(graded((30, 10), (10, 30), (0.8, 0.2)))
    (c,) = analysis.comparisons
    assert c.verdict.clear and c.same_start is not None and c.same_start.verdict is Verdict.NOT_SETTLED
    assert abs(c.same_start.estimate or 1) < 0.05 < abs(c.difference.estimate or 0)
    found = read(analysis)
    assert found.strength is Strength.SUGGESTED and "start_differs" in found.codes
    said = next(x.text for x in analysis.cautions if x.code == "start_differs")
    assert (
        "grade A: 10 of 40 in bark and 30 of 40 in pumice" in said and "is not settled" in said and "not clear" in said
    )


def test_a_difference_that_stays_is_shown_and_the_start_is_told() -> None:
    rows = [r for r in graded((30, 10), (20, 20), (0.5, 0.5)) if r.levels == ("bark",)]
    rows = [replace(r, response=0.0) for r in rows] + [
        Row(("pumice",), float(i % 8 > 0), start=(("grade", "A" if i < 30 else "B"),)) for i in range(40)
    ]
    analysis = analysed(rows)
    (c,) = analysis.comparisons
    assert c.same_start is not None and c.same_start.verdict.clear and not c.same_start.changes
    assert read(analysis).strength is Strength.SHOWN
    assert "every verdict stays" in next(x.text for x in analysis.cautions if x.code == "start_differs")


@pytest.mark.parametrize("start", ["", "even", "one off"])
def test_arms_that_started_alike_are_left_alone(start: str) -> None:
    split = {"even": (20, 20), "one off": (21, 19)}.get(start)
    rows = (
        graded((20, 20), split, (0.9, 0.4)) if split else [Row((a,), float(i % 3 > 0)) for a in "ab" for i in range(9)]
    )
    analysis = analysed(rows)
    assert "start_differs" not in codes(analysis) and all(c.same_start is None for c in analysis.comparisons)
    assert analysis.starts == []


def test_a_size_is_compared_by_its_spread() -> None:
    rng = np.random.default_rng(3)
    rows = [
        Row((arm,), float(rng.random() < 0.5), start=(("length_mm", f"{rng.normal(mean, 5):.1f}"),))
        for arm, mean in (("a", 80.0), ("b", 84.0))
        for _ in range(40)
    ]
    assert [s.name for s in analysed(rows).starts] == ["length_mm"]
    near = [
        replace(r, start=(("length_mm", f"{float(r.start[0][1]) - (4 if r.levels == ('b',) else 0):.1f}"),))
        for r in rows
    ]
    gap = np.mean([float(r.start[0][1]) for r in near[:40]]) - np.mean([float(r.start[0][1]) for r in near[40:]])
    assert (analysed(near).starts == []) == (abs(gap) <= 0.25 * 5.2)
    blank = [replace(r, start=(("length_mm", ""),)) if i % 9 == 0 else r for i, r in enumerate(rows)]
    assert [s.name for s in analysed(blank).starts] == ["length_mm"], "a blank is not said, and no kind of its own"


def test_sign_and_family_follow_the_comparison() -> None:
    """Against a control that comes first: the first side is the higher arm index."""
    rng = np.random.default_rng(8)
    rows = [
        Row((arm,), float(rng.random() < rate), start=(("grade", "A" if rng.random() < share else "B"),))
        for arm, rate, share in (("none", 0.1, 0.2), ("weak", 0.5, 0.5), ("strong", 0.9, 0.8))
        for _ in range(40)
    ]
    analysis = analysed(rows, ("hormone",), control=("none",), against_control=True)
    for c in analysis.comparisons:
        assert c.same_start is not None and c.same_start.estimate is not None and c.difference.estimate is not None
        assert c.same_start.estimate * c.difference.estimate > 0
        assert c.same_start.p_adjusted >= c.same_start.p
    assert len(analysis.comparisons) == 2


def test_the_levels_of_a_factor_are_adjusted_as_well() -> None:
    rows = []
    for medium in ("pumice", "bark"):
        for hormone in ("IBA", "none"):
            for i in range(20):
                kind = "A" if (i < 15) == (medium == "pumice") else "B"
                rows.append(
                    Row(
                        (medium, hormone),
                        float((i % 10 < 9) if kind == "A" else (i % 10 == 0)),
                        start=(("grade", kind),),
                    )
                )
    analysis = analysed(rows, ("medium", "hormone"))
    medium = next(t for t in analysis.terms if t.name == "medium")
    (c,) = medium.contrasts
    assert c.same_start is not None and abs(c.same_start.estimate or 1) < abs(c.difference.estimate or 0)
    assert ("start_differs" in c.limits.capped) == c.same_start.changes


def test_what_is_left_of_a_factor_lies_as_the_factor_does() -> None:
    """Both are the first level minus the second."""
    tens = {("pumice", "A"): 9, ("pumice", "B"): 5, ("bark", "A"): 6, ("bark", "B"): 1}
    rows = []
    for medium in ("pumice", "bark"):
        for hormone in ("IBA", "none"):
            for i in range(20):
                kind = "A" if (i < 12) == (medium == "pumice") else "B"
                rows.append(Row((medium, hormone), float(i % 10 < tens[medium, kind]), start=(("grade", kind),)))
    (c,) = next(t for t in analysed(rows, ("medium", "hormone")).terms if t.name == "medium").contrasts
    assert c.same_start is not None and c.same_start.estimate is not None and c.difference.estimate is not None
    assert abs(c.same_start.estimate) > 0.1 and c.same_start.estimate * c.difference.estimate > 0


def test_units_and_other_responses_are_adjusted_by_p_alone() -> None:
    rng = np.random.default_rng(5)
    rows = [
        Row((arm,), float(rng.poisson(6 if kind == "A" else 1)), unit=f"{arm}{u}", start=(("grade", kind),))
        for arm, good in (("a", 8), ("b", 2))
        for u in range(10)
        for kind in ["A" if u < good else "B"]
        for _ in range(4)
    ]
    analysis = analyse(arrange(("medium",), rows), Settings(draws=DRAWS, response=Response.ROOT_COUNT))
    (c,) = analysis.comparisons
    assert c.p is not None and c.p < 0.05 and c.same_start is not None
    assert c.same_start.estimate is None and c.same_start.p > 0.05 and c.same_start.changes


SQUARE = ["ABCD", "BADC", "CDAB", "DCBA"]


def squared(value, start) -> list[Row]:
    """A square of single cuttings: value and start by row, column and arm."""
    return [
        Row((arm,), value(i, j, arm), row=str(i), column=str(j), unit=f"{i}{j}", start=((start(i, j, arm)),))
        for i, line in enumerate(SQUARE)
        for j, arm in enumerate(line)
    ]


def test_a_square_is_adjusted_by_redrawing_the_whole() -> None:
    """Estimate and error as of the linear model, p by every square of the order, each written out."""
    rng = np.random.default_rng(12)
    length = {(i, j): rng.normal(80, 6) for i in range(4) for j in range(4)}
    rows = squared(
        lambda i, j, arm: float(rng.random() < (0.8 if arm in "AB" else 0.3)),
        lambda i, j, arm: ("length_mm", f"{length[i, j] + 6 * (arm == 'A'):.1f}"),
    )
    analysis = analysed(rows)
    got = next(c.same_start for c in analysis.comparisons if (c.a.name, c.b.name) == ("A", "C"))
    arm, row, column = (np.array([ord(c) - 65 for line in SQUARE for c in line]), *np.divmod(np.arange(16), 4))
    y, x = np.array([r.response for r in rows]), np.array([float(r.start[0][1]) for r in rows])
    x = (x - x.mean()) / np.ptp(x)
    base = np.column_stack([np.ones(16), x, *(row == k for k in (1, 2, 3)), *(column == k for k in (1, 2, 3))]).astype(
        float
    )
    fit = OLS(y, np.column_stack([base, *(arm == k for k in (1, 2, 3))]).astype(float)).fit()
    assert got is not None and got.estimate == pytest.approx(-fit.params[9]) and got.interval is not None
    assert got.interval.high - got.interval.low <= 2 * fit.bse[9] * 2.5706 + 1e-6
    left = y - base @ np.linalg.lstsq(base, y, rcond=None)[0]
    gaps = [abs(left[s[row, column] == 0].mean() - left[s[row, column] == 2].mean()) for s in all_squares(4)]
    seen = abs(left[arm == 0].mean() - left[arm == 2].mean())
    assert got.p == pytest.approx(np.mean(np.array(gaps) >= seen - 1e-9))


def test_part_blocks_are_adjusted_too_and_keep_their_level() -> None:
    rng, trials, alarms = np.random.default_rng(5), 120, 0
    blocks = ["AB", "AC", "BC"] * 6
    for _ in range(trials):
        rows = [
            Row((arm,), float(rng.random() < (0.75 if good else 0.25)), block=str(b), unit=f"{b}{arm}{i}", start=(("grade", "x" if good else "y"),))
            for b, arms in enumerate(blocks) for arm in arms for i in range(3)
            if (good := rng.random() < (0.75 if arm == "A" else 0.35)) or True
        ]  # fmt: skip
        analysis = analyse(arrange(("medium",), rows), Settings(draws=300))
        c = next(c for c in analysis.comparisons if (c.a.name, c.b.name) == ("A", "B"))
        alarms += c.same_start is not None and c.same_start.p is not None and c.same_start.p < 0.05
    assert analysis.design.startswith("incomplete blocks") and alarms / trials <= 0.05 + 3 * sqrt(0.05 * 0.95 / trials)


@pytest.mark.parametrize("in_a_square", [True, False])
def test_an_arm_that_is_its_start_cant_be_told_from_it(in_a_square: bool) -> None:
    def kind(i: int, j: int, arm: str) -> tuple[str, str]:
        return "grade", "x" if arm in "AB" else "y"

    rows = squared(lambda i, j, arm: float(arm in "AB"), kind) if in_a_square else []
    rows = rows or [Row((arm,), float(arm in "AB"), start=(kind(0, 0, arm),)) for arm in "ABCD" for _ in range(12)]
    analysis = analysed(rows)
    beside = {(c.a.name, c.b.name): c.same_start for c in analysis.comparisons}
    told, untold = beside["A", "B"], beside["A", "C"]
    assert untold is not None and untold.estimate is None and untold.p is None
    assert (told is not None and told.p is not None) == in_a_square, "two arms of one grade did not start apart"
    said = next(x.text for x in analysis.cautions if x.code == "start_differs")
    if not in_a_square:
        assert (
            "A against C can't be told from how they started" in said and read(analysis).strength is not Strength.SHOWN
        )


def test_where_nothing_was_drawn_nothing_is_adjusted() -> None:
    rows = [
        Row((arm,), float(i % 2), block=arm, start=(("grade", "x" if (i < 6) == (arm == "a") else "y"),)) for arm in "ab" for i in range(9)
    ]  # fmt: skip
    said = next(x.text for x in analysed(rows).cautions if x.code == "start_differs")
    assert "no comparison adjusted for it" in said


def test_the_adjusted_test_keeps_its_level() -> None:
    """The start drives the outcome and differs by arm; the arms do nothing."""
    rng, trials, alarms = np.random.default_rng(77), 300, 0
    for _ in range(trials):
        rows = []
        for arm, share in (("a", 0.7), ("b", 0.3)):
            for _ in range(30):
                good = rng.random() < share
                rows.append(
                    Row((arm,), float(rng.random() < (0.8 if good else 0.2)), start=(("grade", "A" if good else "B"),))
                )
        (c,) = analyse(arrange(("medium",), rows), Settings(draws=400)).comparisons
        alarms += c.same_start is not None and c.same_start.p is not None and c.same_start.p < 0.05
    assert alarms / trials <= 0.05 + 3 * sqrt(0.05 * 0.95 / trials)


def run(tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, *flags: str) -> dict:
    file = tmp_path / "trial.csv"
    file.write_text(text)
    assert main(["analyse", str(file), "--factors", "medium", "--json", *flags]) == 0
    return json.loads(capsys.readouterr().out)


def test_headless_takes_the_columns_of_the_start(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    rows = "".join(
        f"{r.levels[0]},{int(r.response or 0)},{r.start[0][1]}\n" for r in graded((30, 10), (10, 30), (0.9, 0.1))
    )
    plain = run(tmp_path, capsys, "medium,rooted,grade\n" + rows)
    assert plain["comparisons"][0]["same_start"] is None and plain["strength"] == "shown"
    with_start = run(tmp_path, capsys, "medium,rooted,grade\n" + rows, "--start", "grade")
    beside = with_start["comparisons"][0]["same_start"]
    assert (
        set(beside) == {"estimate", "ci_low", "ci_high", "p", "p_adjusted", "verdict", "changes"} and beside["changes"]
    )
    assert with_start["strength"] == "suggested" and "start_differs" in with_start["strength_reasons"]
    assert with_start["comparisons"][0]["p"] == plain["comparisons"][0]["p"], "the primary stays as it was"


@pytest.mark.parametrize("column", ["medium", "rooted", "nothere"])
def test_a_start_that_is_none_is_refused(tmp_path: Path, capsys: pytest.CaptureFixture[str], column: str) -> None:
    file = tmp_path / "trial.csv"
    file.write_text("medium,rooted\na,1\na,0\nb,1\nb,0\n")
    assert main(["analyse", str(file), "--factors", "medium", "--start", column, "--json"]) == 2
    said = capsys.readouterr()
    assert said.out == "" and column in said.err and ("is no start" in said.err or "there is no column" in said.err)


def test_earlier_roots_count_by_what_is_new(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    lines = [
        "pumice,1,2,5",
        "pumice,1,2,2",
        "pumice,1,2,",
        "pumice,0,0,",
        "bark,1,0,4",
        "bark,0,0,",
        "bark,1,,3",
        "bark,0,0,",
    ]
    found = run(tmp_path, capsys, "medium,rooted,earlier_roots,root_count\n" + "\n".join(lines) + "\n")
    arms = {arm["arm"]: (arm["k"], arm["n"], arm["left_out"]) for arm in found["arms"]}
    assert arms == {"pumice": (1, 3, 1), "bark": (2, 4, 0)}
    said = next(c["text"] for c in found["cautions"] if c["code"] == "earlier_roots")
    assert "3 cuttings had roots when stuck (3 of pumice)" in said and "1 of them is unknown" in said
    numbers = run(
        tmp_path,
        capsys,
        "medium,rooted,earlier_roots,root_count\n" + "\n".join(lines) + "\n",
        "--response",
        "root_count",
    )
    assert next(a for a in numbers["arms"] if a["arm"] == "pumice")["estimate"] == 1.5
    none = run(tmp_path, capsys, "medium,rooted,earlier_roots\npumice,1,0\npumice,0,0\nbark,1,0\nbark,0,0\n")
    assert "earlier_roots" not in [c["code"] for c in none["cautions"]]


def test_of_many_measures_no_more_go_into_the_model_than_the_cuttings_bear() -> None:
    rows = [
        Row(
            (arm,),
            float(i % 2),
            None,
            "alive",
            start=tuple((f"m{k}", str(i % 5 + k * (arm == "a"))) for k in range(1, 7)),
        )
        for arm in "ab"
        for i in range(12)
    ]
    assert [start.name for start in starts_apart(arrange(("arm",), rows))] == ["m4", "m5", "m6"]
