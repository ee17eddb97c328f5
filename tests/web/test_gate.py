"""A few requests are worked on at once; the others wait for them, but not for long."""

from __future__ import annotations

import gc
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

import pytest

from orderly_bench.app import _warm
from orderly_bench.web.gate import Places, Wsgi, few_at_once

LONG = 20.0


class Work:
    """An application whose requests go on until they are told to end."""

    def __init__(self) -> None:
        self.began, self.end = threading.Semaphore(0), threading.Event()

    def __call__(self, environ: dict[str, Any], _start: Callable[..., Any]) -> list[bytes]:
        self.began.release()
        if environ.get("fails"):
            raise ValueError("it fails")
        assert self.end.wait(LONG)
        return [b"done"]

    def began_one(self) -> bool:
        """Whether another request is worked on, soon."""
        return self.began.acquire(timeout=LONG)


@contextmanager
def asked(gated: Wsgi, many: int, answers: list[list[bytes]]) -> Iterator[list[threading.Thread]]:
    """That many requests at once; all are answered at the end."""
    threads = [threading.Thread(target=lambda: answers.append(list(gated({}, print)))) for _ in range(many)]
    for thread in threads:
        thread.start()
    try:
        yield threads
    finally:
        for thread in threads:
            thread.join(LONG)


def test_a_fourth_waits_until_one_of_three_is_done() -> None:
    work, answers = Work(), []
    gated = few_at_once(work, Places(3), LONG)
    with asked(gated, 4, answers) as threads:
        assert all(work.began_one() for _ in range(3))
        assert not work.began.acquire(timeout=0.2) and all(thread.is_alive() for thread in threads)
        work.end.set()
        assert work.began_one(), "the fourth goes on when one is done"
    assert answers == [[b"done"]] * 4


def test_who_waited_long_goes_on_beside_a_slow_page() -> None:
    work, answers = Work(), []
    with asked(few_at_once(work, Places(1), 0.01), 2, answers):
        assert work.began_one() and work.began_one(), "the second does not wait for the end of the first"
        work.end.set()
    assert len(answers) == 2


def test_what_fails_gives_its_place_back_and_what_took_none_gives_none() -> None:
    work, answers = Work(), []
    gated = few_at_once(work, Places(1), LONG)
    for _ in range(3):
        with pytest.raises(ValueError, match="it fails"):
            gated({"fails": True}, print)
        assert work.began_one()
    with asked(gated, 2, answers):
        assert work.began.acquire(timeout=LONG / 4), "its place was given back"
        assert not work.began.acquire(timeout=0.2), "once"
        work.end.set()
    assert len(answers) == 2


def test_what_is_loaded_at_the_start_is_not_looked_through_again() -> None:
    """Python stops all threads while it looks for what can be let go; of a whole application that takes a third of a second."""
    before = gc.get_freeze_count()
    try:
        _warm()
        assert gc.get_freeze_count() > before + 10_000
    finally:
        gc.unfreeze()
