"""The network drops while a tray is scored: what is kept waits on the device, in order, and nothing is lost or doubled when it is back."""

from __future__ import annotations

import os
import signal
from pathlib import Path

import pytest
from selenium.webdriver.common.keys import Keys
from sqlalchemy import text

from orderly_bench.database.engine import make_engine
from tests.browser.conftest import DESK, PHONE, Person, begun_browser, score_with_keys
from tests.conftest import database_url

pytestmark = pytest.mark.browser
WAITING = "return window.outbox ? outbox.all().length : 0"
#: Takes off what other walks left on the device.
EMPTIED = "const done = arguments[0]; (async () => { for (const one of await outbox.refresh()) await outbox.remove(one); })().then(done, done)"


def network(person: Person, there: bool) -> None:
    person.driver.execute_cdp_cmd("Network.enable", {})
    person.driver.execute_cdp_cmd(
        "Network.emulateNetworkConditions",
        {"offline": not there, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1},
    )


def scores() -> list[tuple[int, int]]:
    """Cutting and number of roots of every score there is, in the order of writing."""
    engine = make_engine(database_url("orderly_browser"))
    with engine.connect() as connection:
        found = connection.execute(
            text("select cutting_id, root_number from score where root_number between 21 and 29 order by id")
        ).all()
    engine.dispose()
    return [(cutting, number) for cutting, number in found]


@pytest.fixture(autouse=True)
def there_again(person: Person):
    yield
    network(person, True)
    person.driver.execute_script("localStorage.clear()")
    if person.driver.execute_script("return Boolean(window.outbox)"):
        person.driver.execute_async_script(EMPTIED)


def keep(person: Person, keys: str) -> str:
    """Score the cutting that is up; its code."""
    code = person.find(".unit-code").text
    for key in keys:
        person.press(key)
    person.press(Keys.ENTER)
    person.wait_until(lambda: person.find(".unit-code").text != code)
    return code


@pytest.mark.parametrize("size", [DESK, PHONE], ids=["desk", "phone"])
def test_scores_wait_in_order_and_go_out_once(person: Person, olive_check: str, size: tuple[int, int]) -> None:
    person.resize(size)
    person.sign_in("Tomas")
    person.go(olive_check)
    before = scores()
    score_with_keys(person, "q3")
    network(person, False)
    codes = [keep(person, f"2{n}") for n in (1, 2, 3)]
    assert len(set(codes)) == 3 and person.driver.execute_script(WAITING) == 3
    assert "3 scores are on this device, not yet sent" in person.find("#queue").text and scores() == before
    network(person, True)
    person.wait_until(lambda: person.driver.execute_script(WAITING) == 0)
    person.wait_until(lambda: not person.find("#queue").is_displayed())
    new = scores()[len(before) :]
    assert [number for _, number in new] == [21, 22, 23] and len({cutting for cutting, _ in new}) == 3


def test_a_tab_that_is_opened_anew_sends_what_waits(person: Person, olive_check: str) -> None:
    person.resize(DESK)
    person.sign_in("Tomas")
    person.go(olive_check)
    before = scores()
    network(person, False)
    keep(person, "24")
    keep(person, "25")
    person.driver.execute_script("window.onbeforeunload = null")
    network(person, True)
    person.go(olive_check)
    person.wait_until(lambda: person.driver.execute_script(WAITING) == 0)
    assert [number for _, number in scores()[len(before) :]] == [24, 25]


def test_a_clash_is_shown_and_what_was_scored_here_stays(person: Person, olive_check: str) -> None:
    """Someone else scored it meanwhile: what waits was made over a score that does not stand."""
    person.resize(DESK)
    person.sign_in("Tomas")
    person.go(olive_check)
    before = scores()
    network(person, False)
    code = keep(person, "26")
    person.driver.execute_async_script(
        "const done = arguments[0], item = outbox.all()[0]; outbox.put({ ...item, fields: { ...item.fields, revision: '7' } }).then(done)"
    )
    network(person, True)
    person.wait_until(lambda: "Nothing of yours was written" in person.find("#queue").text)
    assert code in person.find("#queue").text and person.driver.execute_script(WAITING) == 1 and scores() == before
    person.find("//form[contains(@action, '/sign-out')]//button").click()
    person.wait_until(lambda: "1 on this device" in person.find("#problem").text)
    assert "/score" in person.driver.current_url
    person.find("//*[@id='queue']//button[.='Mine stands']").click()
    assert person.driver.execute_script(WAITING) == 1, "not without a reason"
    person.find("#queue label input").send_keys("lifted it myself")
    person.find("//*[@id='queue']//button[.='Mine stands']").click()
    person.wait_until(lambda: person.driver.execute_script(WAITING) == 0)
    assert [number for _, number in scores()[len(before) :]] == [26]


def test_what_waits_outlives_a_dead_battery(address: str, olive_check: str, tmp_path: Path) -> None:
    """The browser is killed the moment the second score counts as kept on the device."""
    before = scores()
    with begun_browser(str(tmp_path)) as first:
        person = Person(first, address)
        person.sign_in("Tomas")
        person.go(olive_check)
        network(person, False)
        keep(person, "28")
        keep(person, "29")
        os.kill(first.capabilities["goog:processID"], signal.SIGKILL)
    with begun_browser(str(tmp_path)) as again:
        person = Person(again, address)
        person.sign_in("Tomas")
        person.wait_until(lambda: len(scores()) == len(before) + 2)
        person.wait_until(lambda: person.driver.execute_script(WAITING) == 0)
    assert [number for _, number in scores()[len(before) :]] == [28, 29]


def test_a_device_that_keeps_nothing_more_says_so_and_what_was_typed_stays(person: Person, olive_check: str) -> None:
    person.resize(DESK)
    person.sign_in("Tomas")
    person.go(olive_check)
    code = person.find(".unit-code").text
    network(person, False)
    person.driver.execute_script("outbox.add = () => Promise.reject(new DOMException('full', 'QuotaExceededError'))")
    person.press("27" + Keys.ENTER)
    person.wait_until(lambda: "This device keeps nothing more" in person.find("#problem").text)
    assert person.find(".unit-code").text == code and person.driver.execute_script(WAITING) == 0
    assert person.find("[name='root_number']").get_attribute("value") == "27"


def test_nothing_is_kept_that_says_nothing_of_roots(person: Person, olive_check: str) -> None:
    person.resize(DESK)
    person.sign_in("Tomas")
    person.go(olive_check)
    code = person.find(".unit-code").text
    network(person, False)
    person.press("q")
    person.press(Keys.ENTER)
    person.wait_until(lambda: "a blank would be a guess" in person.find("#problem").text)
    assert person.find(".unit-code").text == code and person.driver.execute_script(WAITING) == 0


#: Counts the pushes instead of giving them.
COUNTED = "window.pushed = 0; Object.defineProperty(navigator, 'vibrate', {value: () => { window.pushed += 1; return true; }})"


def test_a_push_tells_that_a_score_is_kept_where_the_device_is_asked_for_it(person: Person, olive_check: str) -> None:
    person.resize(PHONE)
    person.sign_in("Tomas")
    person.go(olive_check)
    person.driver.execute_script(COUNTED)
    keep(person, "q5")
    assert person.driver.execute_script("return window.pushed") == 0, "nobody asked for it"
    person.driver.execute_script(
        "const box = document.querySelector('[data-felt]'); box.closest('details').open = true; box.click()"
    )
    keep(person, "q5")
    person.wait_until(lambda: person.driver.execute_script("return window.pushed") == 1)
    network(person, False)
    keep(person, "q5")
    person.wait_until(lambda: person.driver.execute_script("return window.pushed") == 2)
    network(person, True)
    person.wait_until(lambda: person.driver.execute_script(WAITING) == 0)
    person.go(olive_check)
    assert person.driver.execute_script("return document.querySelector('[data-felt]').checked"), "the device remembers"
