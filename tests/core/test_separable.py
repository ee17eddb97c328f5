"""What the arms of a plan can tell apart, against a slow second way and against every set of added arms."""

from __future__ import annotations

from itertools import combinations, product

import numpy as np
import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan.separable import Described, Separation, separate


def arms_of(*rows: dict[str, str]) -> list[Described]:
    return [Described(str(i + 1), row) for i, row in enumerate(rows)]


def estimable_slowly(rows: list[dict[str, str]], aspects: list[str], factor: str, a: str, b: str) -> bool:
    """Every least-squares solution that fits random arm means gives the same difference of a and b."""
    rows = [row for row in rows if all(row.get(x) for x in aspects)]
    columns = [(x, v) for x in aspects for v in sorted({row[x] for row in rows})]
    if not {(factor, a), (factor, b)} <= set(columns):
        return False
    matrix = np.array([[1.0] + [float(row[x] == v) for x, v in columns] for row in rows])
    truth = np.random.default_rng(7).normal(size=matrix.shape[1])
    solution, *_ = np.linalg.lstsq(matrix, matrix @ truth, rcond=None)
    found = solution[1 + columns.index((factor, a))] - solution[1 + columns.index((factor, b))]
    return bool(abs(found - (truth[1 + columns.index((factor, a))] - truth[1 + columns.index((factor, b))])) < 1e-6)


def varying(rows: list[dict[str, str]]) -> list[str]:
    return [x for x in rows[0] if len({row[x] for row in rows if row[x]}) > 1]


def all_separable(rows: list[dict[str, str]], asked: list[str]) -> bool:
    return all(
        estimable_slowly(rows, varying(rows), f, a, b)
        for f in asked
        for a, b in combinations(sorted({row[f] for row in rows if row[f]}), 2)
    )


def mended(rows: list[dict[str, str]], found: Separation, which: int) -> list[dict[str, str]]:
    mend = found.mends[which]
    changed = [{**row, **dict.fromkeys(mend.make_same, "common")} for row in [*rows, *map(dict, mend.add_arms)]]
    return [dict(items) for items in dict.fromkeys(tuple(row.items()) for row in changed)]


def random_rows(rng: np.random.Generator, blanks: bool) -> list[dict[str, str]]:
    aspects = int(rng.integers(2, 5))
    rows = {
        tuple(str(v) for v in rng.integers(0, 2 + (rng.random() < 0.3), aspects).tolist())
        for _ in range(int(rng.integers(2, 6)))
    }
    made = [dict(zip("wxyz", row, strict=False)) for row in sorted(rows)]
    if blanks:
        for row in made:
            if rng.random() < 0.3:
                row["x"] = ""
    return made


@pytest.mark.parametrize("blanks", [False, True])
def test_random_arms_agree_with_a_slow_second_way_and_every_mend_mends(blanks: bool) -> None:
    rng = np.random.default_rng(11)
    judged = added = 0
    for _ in range(150):
        rows = random_rows(rng, blanks)
        asked = [x for x in varying(rows) if x != "x"][:2] if blanks else varying(rows)[:2]
        try:
            found = separate(arms_of(*rows), asked)
        except InvalidInput:
            continue
        for c in found.contrasts:
            judged += 1
            assert c.separable == estimable_slowly(rows, varying(rows), c.aspect, c.a, c.b)
            others = [x for x in varying(rows) if x != c.aspect]
            alone = [x for x in others if not estimable_slowly(rows, [c.aspect, x], c.aspect, c.a, c.b)]
            assert list(c.travels_with) == alone
        for which, mend in enumerate(found.mends):
            assert all_separable(mended(rows, found, which), asked)
            if not mend.make_same and not blanks:
                added += 1
                assert mend.added == fewest_by_trying(rows, asked)
        assert [m.added for m in found.mends] == sorted(m.added for m in found.mends)
    assert judged > 100
    assert blanks or added > 50


def fewest_by_trying(rows: list[dict[str, str]], asked: list[str]) -> int:
    every = [dict(zip(rows[0], c, strict=True)) for c in product(*(sorted({r[x] for r in rows}) for x in rows[0]))]
    fresh = [row for row in every if row not in rows]
    for size in range(1, 4):
        if any(all_separable([*rows, *chosen], asked) for chosen in combinations(fresh, size)):
            return size
    raise AssertionError("more than three")


def test_two_arms_that_differ_in_two_things_travel_together() -> None:
    found = separate(
        arms_of({"hormone": "IBA", "pot": "clear", "lid": "on", "light": ""}, {"hormone": "none", "pot": "dark", "lid": "on", "light": ""}),
        ["hormone"],
    )  # fmt: skip
    assert (found.same, found.travelling, found.not_said) == ({"lid": "on"}, ("pot",), ("light",))
    assert not found.separable
    assert found.contrasts[0].travels_with == ("pot",)
    assert found.mends[0].make_same == ("pot",)
    assert found.mends[0].added == 0
    assert found.mends[1].added == 1


def test_where_no_single_aspect_explains_it_the_smallest_sets_do() -> None:
    rows = arms_of(
        {"x": "1", "y": "1", "z": "0"}, {"x": "1", "y": "0", "z": "1"}, {"x": "0", "y": "0", "z": "0"}, {"x": "0", "y": "0", "z": "0", "w": "1"}
    )[:3]  # fmt: skip
    contrast = separate(rows, ["x"]).contrasts[0]
    assert not contrast.separable
    assert contrast.travels_with == ()
    assert contrast.together == (("y", "z"),)


def test_a_half_factorial_is_separable_if_aspects_act_separately() -> None:
    rows = arms_of(*({"x": a, "y": b, "z": c} for a, b, c in ("000", "011", "101", "110")))
    found = separate(rows, ["x", "y", "z"])
    assert found.separable
    assert found.mends == ()


def test_making_an_aspect_the_same_says_which_arms_are_then_one() -> None:
    rows = arms_of(
        {"hormone": "IBA", "pot": "clear"}, {"hormone": "none", "pot": "dark"}, {"hormone": "none", "pot": "green"}
    )
    merged = separate(rows, ["hormone"]).mends[0]
    assert merged.make_same == ("pot",)
    assert merged.merged == (("2", "3"),)


def test_a_blank_that_is_asked_for_comes_in_with_the_arms_it_needs() -> None:
    rows = [{"hormone": "IBA", "carrier": "alcohol"}, {"hormone": "NAA", "carrier": "water"}]
    found = separate(arms_of(*rows), ["hormone"], [("hormone", "none")])
    with_blank = [m for m in found.mends if any(arm["hormone"] == "none" for arm in m.add_arms)]
    assert with_blank
    for mend in with_blank:
        assert all_separable([*rows, *map(dict, mend.add_arms)], ["hormone"])


@pytest.mark.parametrize(
    ("rows", "asked", "says"),
    [
        ([("1", {"x": "a"})], ["x"], "at least two"),
        ([("1", {"x": "a"}), ("2", {"x": "a"})], ["x"], "must differ between arms"),
        ([("1", {"x": "a", "y": "c"}), ("2", {"x": "b", "y": "c"}), ("3", {"x": "b", "y": "c"})], ["x"], "alike in everything"),
        ([("1", {"x": "a"}), (" ", {"x": "b"})], ["x"], "this one is blank"),
        ([("one", {"x": "a"}), ("One", {"x": "b"})], ["x"], "stands twice"),
        ([("1", {"x": "clear"}), ("2", {"x": "Clear"})], ["x"], "are they one"),
        ([("1", {"x": "a"}), ("2", {"x": "b"})], ["y"], "one of the aspects"),
        ([("1", {"x": "a"}), ("2", {"x": "b"})], [], "at least one aspect"),
    ],
)  # fmt: skip
def test_refused_plainly(rows: list[tuple[str, dict[str, str]]], asked: list[str], says: str) -> None:
    with pytest.raises(InvalidInput, match=says):
        separate([Described(name, values) for name, values in rows], asked)
