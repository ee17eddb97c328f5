"""Which side stands first where the estimate has no value or no size, and what a shift of rootless cuttings may not say."""

from __future__ import annotations

from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.comparisons import turned
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.judgement.verdict import Verdict
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.observations.table import Row
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.telling.headline import read


def judged(*rows: list[Row], factors: tuple[str, ...] = ("medium",), **settings: object) -> Analysis:
    chosen = Settings(**{"margin": 0.15, "draws": 2_000, **settings})  # type: ignore[arg-type]
    return analyse(arrange(factors, [row for part in rows for row in part]), chosen)


class TestDirectionWithoutAnEstimate:
    def test_without_a_ratio_the_higher_mean_is_said_to_be_higher(self) -> None:
        """None rooted in the arm that sorts first: the ratio has no value, the means have a direction."""
        rows = [Row((arm,), value) for arm, values in (("a", [0.0] * 10), ("b", [4.0, 5.0] * 5)) for value in values]
        said = read(judged(rows, response=Response.ROOT_COUNT, margin=1.5)).headline
        assert said.startswith("B made more roots than a: mean 4.5 (n 10) against mean 0")

    def test_a_shift_of_nothing_takes_its_direction_from_the_means(self) -> None:
        """Most have no root, so the median shift is 0; three long ones in every block make the difference."""
        rows = [
            Row((arm,), float(length), f"b{block}")
            for block in range(20)
            for arm, lengths in (("a", (0, 0, 0, 0, 0)), ("b", (0, 0, 0, 30, 40)))
            for length in lengths
        ]
        pair = turned(judged(rows, response=Response.LONGEST, margin=5).comparisons[0])
        assert pair.difference.estimate == 0 and pair.p is not None and pair.p < 0.05
        assert (pair.a.name, pair.b.name) == ("b", "a")

    def test_lengths_that_are_nearly_all_none_are_not_the_same(self) -> None:
        rows = [Row((arm,), 21.0 if arm == "a" and i == 0 else 0.0) for arm in ("a", "b") for i in range(40)]
        found = judged(rows, response=Response.LONGEST, margin=5)
        assert found.comparisons[0].difference.interval is None
        assert found.comparisons[0].verdict is Verdict.NOT_SETTLED
        assert "no_interval" in {c.code for c in found.cautions}
        spread = judged(
            [Row((arm,), float(i)) for arm in ("a", "b") for i in range(40)], response=Response.LONGEST, margin=20
        )
        assert spread.comparisons[0].verdict is Verdict.SAME and "no_interval" not in {c.code for c in spread.cautions}

    def test_means_a_margin_apart_are_neither_the_same_nor_a_little_different(self) -> None:
        """Many have no root: the interval of the shift is 0 to 2 mm, the means are 9 mm apart."""
        rows = [
            Row((arm,), 50.0 + i % 7 if i < rooted else 0.0)
            for arm, rooted in (("a", 40), ("b", 30))
            for i in range(60)
        ]
        found = judged(rows, response=Response.LONGEST, margin=5).comparisons[0]
        assert found.p is not None and found.p > 0.05 and found.verdict is Verdict.NOT_SETTLED
        assert found.same is not None and -5 < found.same.low <= found.same.high < 5


def test_the_reason_of_a_headline_speaks_of_its_own_two_sides() -> None:
    """Several pairs hang on their unknown outcomes; the list of doubts names the first, the headline is another."""
    rows = [
        Row((medium,), None if i >= 20 else float(i < k), state="missing" if i >= 20 else "")
        for medium, k in (("bark", 8), ("grit", 5), ("moss", 17))
        for i in range(28)
    ]
    found = judged(rows)
    reading = read(found, planned=False)
    best = reading.findings[0].comparison
    assert reading.codes == ("range_changes_verdict",) and {best.a.name, best.b.name} == {"grit", "moss"}
    listed = next(c.text for c in found.cautions if c.code == "range_changes_verdict")
    assert "grit" not in listed.casefold() or "moss" not in listed.casefold(), "or this shows nothing"
    assert all(name in reading.reasons[0].casefold() for name in ("grit", "moss"))
