"""A check taken along opens on its device without a network, also after the page was closed, and comes back whole."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from selenium import webdriver
from sqlalchemy import text

from orderly_bench.database.engine import make_engine
from tests.browser.conftest import PHONE, Person
from tests.browser.test_offline import WAITING, keep, scores
from tests.browser.wire import Wire
from tests.conftest import database_url

pytestmark = pytest.mark.browser


def out() -> int:
    """Devices that have a check along."""
    engine = make_engine(database_url("orderly_browser"))
    with engine.connect() as connection:
        n = connection.scalar(text("select count(*) from taken_along where back_at is null and released = ''"))
    engine.dispose()
    return int(n or 0)


def unfolded(person: Person) -> None:
    person.find("[data-along]")
    person.driver.execute_script("document.querySelector('[data-along]').closest('details').open = true")


@pytest.fixture
def wire(address: str) -> Iterator[Wire]:
    made = Wire(int(address.rsplit(":", 1)[1]))
    yield made
    made.close()


def test_a_check_is_taken_along_scored_without_a_network_and_brought_back(
    driver: webdriver.Chrome, wire: Wire, olive_check: str
) -> None:
    person = Person(driver, wire.address)
    person.resize(PHONE)
    person.sign_in("Tomas")
    person.go(olive_check)
    before, number = scores(), olive_check.split("check=")[1].split("&")[0]
    unfolded(person)
    person.find("[data-along] [data-act=take]").click()
    person.wait_until(lambda: "On this device" in person.find("[data-said]").text)
    assert out() == 1
    person.go(f"/checks/{number}/along")
    wire.cut()
    first = keep(person, "21")
    # The page is closed and opened again, the battery was dead: still no network.
    person.driver.get("about:blank")
    person.go(f"/checks/{number}/along")
    person.wait_until(lambda: "1 score is on this device" in person.find("#queue").text)
    assert person.find(".unit-code").text != first, "what waits here is not asked for again"
    second = keep(person, "22")
    assert second != first and person.driver.execute_script(WAITING) == 2 and scores() == before
    # Any page that is not kept leads to what is.
    person.driver.get("about:blank")
    person.go("/today")
    person.wait_until(lambda: "On this device" in person.find("h1").text)
    person.find("[data-along] [data-list] a").click()
    person.wait_until(lambda: "2 scores are on this device" in person.find("#queue").text)
    unfolded(person)
    person.find("[data-along] [data-act=back]").click()
    person.wait_until(lambda: "2 on this device are not sent" in person.find("[data-said]").text)
    wire.mend()
    person.wait_until(lambda: person.driver.execute_script(WAITING) == 0)
    assert [n for _, n in scores()[len(before) :]] == [21, 22]
    person.go(f"/checks/{number}/along")
    unfolded(person)
    person.find("[data-along] [data-act=back]").click()
    person.wait_until(lambda: "Brought back" in person.find("[data-said]").text)
    assert out() == 0
    wire.cut()
    person.go(f"/checks/{number}/along")
    person.wait_until(lambda: "Nothing is taken along" in person.find("main").text)
