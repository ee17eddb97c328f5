"""No network at the bench: sticking, care, notes, incidents and photos wait on the device and are written once, each with its own day."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import pytest
from PIL import Image
from selenium import webdriver
from sqlalchemy import text

from orderly_bench.database.engine import make_engine
from tests.browser.conftest import DESK, PHONE, Person
from tests.browser.test_along import unfolded
from tests.browser.test_offline import EMPTIED, WAITING
from tests.browser.test_sticking import EACH, locked, with_day_zero
from tests.browser.wire import Wire
from tests.conftest import database_url

pytestmark = pytest.mark.browser
ARMS = "const done = arguments[0]; caches.keys().then((names) => done(names.filter((one) => one.startsWith('arms:')).length))"


def rows(query: str, **values: Any) -> list[tuple[Any, ...]]:
    engine = make_engine(database_url("orderly_browser"))
    with engine.connect() as connection:
        found = [tuple(row) for row in connection.execute(text(query), values)]
    engine.dispose()
    return found


@pytest.fixture
def wired(driver: webdriver.Chrome, address: str) -> Iterator[tuple[Person, Wire]]:
    """A person behind a wire that can be cut."""
    wire = Wire(int(address.rsplit(":", 1)[1]))
    person = Person(driver, wire.address)
    person.resize(DESK)
    yield person, wire
    wire.mend()
    person.go("/sign-in")
    driver.execute_script("localStorage.clear()")
    person.sign_in("Ines")
    driver.execute_async_script(EMPTIED)
    wire.close()


def stuck(person: Person, days_ago: int) -> str:
    """A trial whose sticking is done, with care that is due today."""
    where = locked(person)
    with_day_zero(person, where, days_ago)
    person.click("all stuck")
    person.wait_until(lambda: "Finish sticking" in person.text())
    person.click("Finish sticking")
    person.wait_until(lambda: "/tend" in person.driver.current_url)
    return where


def written(person: Person, n: int) -> None:
    """So many entries wait, and are shown."""
    person.wait_until(lambda: person.driver.execute_script(WAITING) == n)
    told = person.find("#queue").text
    assert f"{n} {'entry is' if n == 1 else 'entries are'} on this device, not yet sent" in told


def test_trays_are_stuck_without_a_network_and_arms_go_with_who_may_see_them(wired: tuple[Person, Wire]) -> None:
    person, wire = wired
    where = locked(person)
    with_day_zero(person, where)
    unfolded(person)
    person.find("[data-along] [data-act=pages]").click()
    person.wait_until(lambda: "On this device until you sign out" in person.find("[data-said]").text)
    person.resize(PHONE)
    wire.cut()
    person.driver.get("about:blank")
    person.go(f"{where}/stick?tray=1")
    person.click("all stuck")
    written(person, 1)
    code = person.find("main a[href*='cutting=']").get_attribute("aria-label").split(",")[0]
    person.driver.execute_script("document.querySelectorAll('main details').forEach((one) => { one.open = true; })")
    person.fill("codes", code)
    person.find("//form[contains(@action, 'several')]//button[@value='broke']").click()
    written(person, 2)
    asked = "select c.status, count(*) from cutting c join trial t on t.id = c.trial_id where t.id = :trial group by c.status order by 1"
    trial = int(where.rsplit("/", 1)[1])
    assert rows(asked, trial=trial) == [("planned", 2 * EACH)], "nothing is there yet"
    wire.mend()
    person.wait_until(lambda: person.driver.execute_script(WAITING) == 0)
    assert rows(asked, trial=trial) == [("not stuck", 1), ("stuck", 2 * EACH - 1)], "in the order in which it was done"
    assert person.driver.execute_async_script(ARMS) == 1
    person.go("/today")
    person.find("//form[contains(@action, '/sign-out')]//button").click()
    person.wait_until(lambda: "/sign-in" in person.driver.current_url)
    person.wait_until(lambda: person.driver.execute_async_script(ARMS) == 0)


def test_what_lies_here_of_another_goes_before_a_blind_person_works(wired: tuple[Person, Wire]) -> None:
    person, _ = wired
    where = locked(person)
    with_day_zero(person, where)
    unfolded(person)
    person.find("[data-along] [data-act=pages]").click()
    person.wait_until(lambda: "On this device until you sign out" in person.find("[data-said]").text)
    assert person.driver.execute_async_script(ARMS) == 1
    person.driver.delete_all_cookies()
    person.sign_in("Tomas")
    person.wait_until(lambda: person.driver.execute_async_script(ARMS) == 0)


def test_care_notes_incidents_and_photos_wait_and_are_written_once(wired: tuple[Person, Wire], tmp_path: Path) -> None:
    person, wire = wired
    where = stuck(person, 7)
    trial = int(where.rsplit("/", 1)[1])
    person.go(f"{where}/question")
    Image.new("RGB", (320, 240), "green").save(tmp_path / "tray.jpg")
    person.go(f"{where}/photos")
    wire.cut()
    person.find("[name='photo']").send_keys(str(tmp_path / "tray.jpg"))
    person.click("Keep the photo")
    written(person, 1)
    wire.mend()
    person.go(f"{where}/tend")
    person.wait_until(lambda: person.driver.execute_script(WAITING) == 0)
    assert rows("select count(*) from photo where trial_id = :trial", trial=trial) == [(1,)]
    wire.cut()
    for words in ("mould on tray 1", "the fan stands still"):
        person.fill("note_text", words)
        person.click("Keep the note")
        person.wait_until(
            lambda words=words: words not in (person.find("[name='note_text']").get_attribute("value") or "")
        )
    person.wait_until(lambda: person.driver.execute_script(WAITING) == 2)
    yesterday = (date.today() - timedelta(days=1)).isoformat()
    for name in ("first_day", "last_day"):
        person.fill(name, yesterday)
    person.find("//input[@name='where'][@value='all']").click()
    person.click("Record the incident")
    written(person, 3)
    wire.mend()
    person.wait_until(lambda: person.driver.execute_script(WAITING) == 0)
    notes = rows("select text, day from note where trial_id = :trial order by id", trial=trial)
    assert [words for words, _ in notes] == ["mould on tray 1", "the fan stands still"]
    assert [str(day) for (day,) in rows("select first_day from incident where trial_id = :trial", trial=trial)] == [
        yesterday
    ]


def test_a_job_done_without_a_network_is_done_once_it_is_back(wired: tuple[Person, Wire]) -> None:
    person, wire = wired
    person.sign_in("Ines")
    person.go("/today")
    asked = "select id, done_on from job where done_on is not null order by id"
    before = rows(asked)
    wire.cut()
    person.driver.execute_script(
        "[...document.querySelectorAll('[data-job] button.main-act, [data-job] button')].filter((one) => one.dataset.key === 'd').pop().click()"
    )
    written(person, 1)
    assert "On this device" in person.text() and rows(asked) == before
    wire.mend()
    person.wait_until(lambda: person.driver.execute_script(WAITING) == 0)
    (done,) = [one for one in rows(asked) if one not in before]
    assert str(done[1]) == date.today().isoformat()


def test_a_part_that_comes_by_itself_says_where_it_stands_that_it_did_not(wired: tuple[Person, Wire]) -> None:
    """Nobody did anything that failed: nothing is said at the head of the page, and nothing moves under the hand."""
    person, wire = wired
    person.go(f"{stuck(person, 7)}/tend")
    wire.cut()
    script = "const old = document.querySelector('[hx-get*=doubts]'), again = old.cloneNode(true); old.replaceWith(again); htmx.process(again)"
    person.driver.execute_script(script)
    person.wait_until(lambda: "this part did not come" in person.find("[hx-get*=doubts]").text)
    assert person.find("#problem").get_attribute("textContent").strip() == ""
    person.find("[name='note_text']").send_keys("dry")
    person.driver.execute_script(
        "htmx.ajax('GET', '/today', {target: '#problem', source: document.querySelector('main'), event: new Event('click')})"
    )
    person.wait_until(lambda: "Nothing was lost" in person.find("#problem").text)
