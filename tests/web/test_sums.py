"""The Sums page: every sum, its answer with its working, and an address that can be passed on."""

from __future__ import annotations

import html
import re
import shlex

import pytest

from orderly_bench.core.sums.registry import SUMS
from tests.web.conftest import SignIn, flat


@pytest.mark.parametrize("name", SUMS)
def test_each_shows_its_example_and_answers_what_its_address_says(sign_in: SignIn, name: str) -> None:
    client, one = sign_in("reader"), SUMS[name]
    blank = client.get(f"/sums/{name}").text
    assert all(f'name="{ask.name}"' in blank for ask in one.asks) and "An example: type your own" in blank
    page = flat(client.get(f"/sums/{name}", query_string=dict(one.example)).text)
    found = one.of(one.example)
    assert all(line.replace("<", "&lt;") in page for line in found.working)
    assert f"./bench sum {name}" in page and "An example" not in page
    assert all(line.replace("<", "&lt;") in flat(blank) for line in found.working)


def test_a_wrong_value_is_named_and_what_was_typed_stays(sign_in: SignIn) -> None:
    wrong = sign_in("reader").get("/sums/dilution?stock=100&want=4000&volume_ml=7")
    assert wrong.status_code == 422 and "above that of the stock" in wrong.text and 'value="4000"' in wrong.text


def test_all_are_listed_and_no_other_is_there(sign_in: SignIn) -> None:
    client = sign_in("reader")
    page = client.get("/sums").text
    assert all(f'href="/sums/{name}"' in page for name in SUMS)
    assert client.get("/sums/alchemy").status_code == 404


def test_the_command_can_be_pasted_whatever_the_address_holds(sign_in: SignIn) -> None:
    page = sign_in("reader").get("/sums/medium?containers=10&ml=90&recipe=1 peat, 1 $(touch here)").text
    shown = re.search(r"headless: <span class=\"mono\">(.*?)</span>", page, re.S)
    assert shown and "1 peat, 1 $(touch here)" in shlex.split(html.unescape(shown[1]))
