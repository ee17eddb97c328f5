"""What is kept is plain JSON that comes back as it was, and nothing else comes out of it."""

from __future__ import annotations

import json
from dataclasses import dataclass, fields, is_dataclass
from datetime import date, datetime
from math import inf, isnan, nan

import numpy as np
import pytest
from frozendict import frozendict
from sqlalchemy.orm import Session

from orderly_bench.core.judgement.strength import Strength
from orderly_bench.core.methods.rates import Interval
from orderly_bench.core.plan.value import Plan
from orderly_bench.evidence.results import Results, work_out
from orderly_bench.record import as_json
from orderly_bench.record.gather import gather
from tests.factories import create_finished, create_person


def again(value: object) -> object:
    return as_json.read(as_json.written(value))


@pytest.mark.parametrize(
    "value",
    [
        None, True, 3, 2.5, inf, "ä \u2026", [1, [2]], (1, ("a",)), {1, 2}, {("a", 1): [2]}, frozendict(a=1), Strength.SHOWN,
        {Strength.SHOWN: 1}, date(2026, 5, 1), datetime(2026, 5, 1, 12, 30), Interval(0.1, 0.9, 0.95), Plan("LAV1"),
    ],
)  # fmt: skip
def test_values_come_back_as_they_were(value: object) -> None:
    found = again(value)
    assert found == value
    assert type(found) is type(value) or isinstance(value, set)


def test_arrays_keep_shape_and_kind_and_what_is_not_a_number() -> None:
    found = again(np.array([[1.0, nan], [inf, 2.0]]))
    assert isinstance(found, np.ndarray)
    assert found.shape == (2, 2)
    assert found.dtype == float
    assert found[1, 0] == inf
    assert isnan(found[0, 1])
    assert again(np.float64(0.1)) == 0.1


def test_one_object_stays_one_object() -> None:
    one = Interval(0.2, 0.4, 0.95)
    first, second = again([one, one])  # type: ignore[misc]
    assert first is second


@pytest.mark.parametrize(
    ("object_", "why"),
    [
        (["os:system", {}], "os"),
        (["orderly_bench.record.as_json:json", {}], "json"),
        (["orderly_bench.core.methods.rates:Interval", {"low": 0.1}], "high"),
        (["orderly_bench.core.methods.rates:nothing", {}], "nothing"),
    ],
)
def test_only_data_of_this_package_is_read(object_: list[object], why: str) -> None:
    with pytest.raises(ValueError, match=why):
        as_json.read(json.dumps({"root": {"o": 0}, "objects": [object_]}))


@pytest.mark.parametrize("text", ["", "[]", "{}", '{"root": {"?": 1}, "objects": []}'])
def test_other_texts_are_refused(text: str) -> None:
    with pytest.raises(ValueError, match=r"."):
        as_json.read(text)


def test_what_has_no_plain_form_is_refused_when_it_is_kept() -> None:
    @dataclass
    class Held:
        how: object

    with pytest.raises(TypeError, match="function has no plain form"):
        as_json.written(Held(lambda: 1))


def same(one: object, other: object) -> bool:
    """Equal all the way down, with arrays in it."""
    if is_dataclass(one) and type(one) is type(other):
        return all(same(getattr(one, f.name), getattr(other, f.name)) for f in fields(one) if f.init)
    if isinstance(one, np.ndarray):
        return np.array_equal(one, other, equal_nan=one.dtype.kind == "f")
    if isinstance(one, list | tuple):
        return len(one) == len(other) and all(map(same, one, other))  # type: ignore[arg-type]
    if isinstance(one, dict):
        return one.keys() == other.keys() and all(same(one[k], other[k]) for k in one)  # type: ignore[attr-defined]
    return bool(one == other) or (one != one and other != other)


def test_results_of_a_trial_come_back_whole(session: Session) -> None:
    trial = create_finished(session, create_person(session), create_person(session, "scorer"))
    results = work_out(gather(session, trial))
    found = again(results)
    assert isinstance(found, Results)
    assert same(results, found)
    assert found.found.analysis is not None
    assert found.found.analysis.comparisons == results.found.analysis.comparisons  # type: ignore[union-attr]
