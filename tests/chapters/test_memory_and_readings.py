"""Results are kept by what they were computed from, and other readings say when the answer turns."""

from __future__ import annotations

import pytest

from orderly_bench.core.compare.sensitivity import Scenario, would_it_change
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.lenses import look_through
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.observations.table import Row
from orderly_bench.core.telling.headline import read
from orderly_bench.evidence import memory
from orderly_bench.trial.audit import changes


def rows(a: int, b: int, n: int = 24) -> list[Row]:
    return [Row((arm,), float(i < k)) for arm, k in (("a", a), ("b", b)) for i in range(n)]


def test_a_result_is_computed_once_and_again_when_its_input_changes() -> None:
    calls: list[int] = []

    def compute() -> int:
        calls.append(1)
        return len(calls)

    key = memory.digest_of("test", [1, 2])
    assert memory.remembered(key, compute) == memory.remembered(key, compute) == 1
    assert memory.remembered(memory.digest_of("test", [1, 3]), compute) == 2


def test_old_results_make_room(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(memory, "MOST_KEPT", 2)
    for i in range(5):
        memory.remembered(memory.digest_of("room", i), lambda i=i: i)
    assert memory.remembered(memory.digest_of("room", 0), lambda: "anew") == "anew"
    assert memory.remembered(memory.digest_of("room", 4), lambda: "anew") == 4


def test_answers_that_turn_are_marked_and_those_that_stay_are_not() -> None:
    settings = Settings(margin=0.15)
    primary = read(analyse(arrange(("medium",), rows(20, 6)), settings))
    scenarios = [
        Scenario("weaker, still clear", rows(18, 7)),
        Scenario("not settled any more", rows(13, 11)),
        Scenario("turned round", rows(6, 20)),
        Scenario("one arm only", rows(20, 6)[:24]),
    ]
    answers = {a.name: a for a in would_it_change(["medium"], scenarios, settings, primary)}
    assert [answers[s.name].changed for s in scenarios] == [False, True, True, False]
    assert "one arm" in answers["one arm only"].problem


def test_lenses_agree_on_a_clear_case() -> None:
    lenses = look_through(analyse(arrange(("medium",), rows(20, 6)), Settings(margin=0.15)))
    assert set(lenses.classical) == {"pearson", "fisher"}
    assert all(test.p is not None and test.p < 0.01 for test in lenses.classical.values())
    assert lenses.p_best[0] > 0.99 and lenses.bayes[0, 1].p_a_beyond > 0.95
    assert lenses.firth == {} and lenses.gee is None and lenses.transform is None


def test_firth_is_there_when_an_arm_is_at_the_end() -> None:
    lenses = look_through(analyse(arrange(("medium",), rows(24, 6)), Settings()))
    log_odds, error = lenses.firth[0, 1]
    assert 3 < log_odds < 8 and 0 < error < 3


def test_the_audit_keeps_only_what_changed() -> None:
    assert changes({"a": 1, "b": 2}, {"a": 1, "b": 3}) == ({"b": 2}, {"b": 3})
    assert changes({}, {"a": None}) == ({}, {})
