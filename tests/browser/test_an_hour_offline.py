"""Two devices score 200 cuttings while the network is cut and restored at random: none lost, none doubled, clashes shown."""

from __future__ import annotations

import contextlib
import random
from collections.abc import Iterator

import pytest
from selenium import webdriver
from selenium.common.exceptions import NoSuchElementException, StaleElementReferenceException, TimeoutException
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import WebDriverWait
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from orderly_bench.database.engine import make_engine
from orderly_bench.trial.models import CheckVisit
from orderly_bench.trial.models import Person as Someone
from tests.browser.conftest import DESK, Person, begun_browser
from tests.browser.test_offline import WAITING
from tests.browser.wire import Wire
from tests.conftest import database_url
from tests.factories import create_stuck, open_endpoint

pytestmark = [pytest.mark.browser, pytest.mark.long]
EACH, BOTH, CUTS = 100, 20, 20
LAST = "All that was left is on this device"
CLASHES = "return (window.outbox ? outbox.all() : []).filter((one) => one.trouble).length"
CLASHED = CLASHES.replace(".length", ".map((one) => one.code)")
#: Brings a later cutting up, as a page without a network does: the ones before it count as sent from here.
FROM = """
const still = JSON.parse(document.querySelector("form[data-pad]").dataset.still), key = "scored:" + document.body.dataset.person;
localStorage.setItem(key, JSON.stringify(still.slice(0, arguments[0]).map(([cutting, site]) => `${cutting},${site}`)));
"""


@pytest.fixture
def check(address: str) -> Iterator[int]:
    """An open check of 200 cuttings."""
    engine = make_engine(database_url("orderly_browser"))
    with Session(engine) as session:
        ines = session.scalars(select(Someone).where(Someone.name.like("Ines%"))).one()
        trial = create_stuck(session, ines, factors=[("medium", "medium", ["bark", "pumice"])], cuttings_per_arm="100")
        made = open_endpoint(session, trial, ines)
        session.commit()
        number = made.id
    yield number
    with Session(engine) as session:
        assert session.get_one(CheckVisit, number).closed_at is None
    engine.dispose()


@pytest.fixture
def two(driver: webdriver.Chrome, address: str) -> Iterator[list[tuple[Person, Wire]]]:
    """Two people at two devices, each on a wire of its own."""
    port = int(address.rsplit(":", 1)[1])
    wires = [Wire(port), Wire(port)]
    with begun_browser() as other:
        yield [(Person(driver, wires[0].address), wires[0]), (Person(other, wires[1].address), wires[1])]
    for wire in wires:
        wire.close()


def kept_of(check: int) -> list[tuple[str, str]]:
    """Code and scorer of every score of a check."""
    engine = make_engine(database_url("orderly_browser"))
    with engine.connect() as connection:
        asked = text(
            "select u.code, p.name from score s join person p on p.id = s.person_id join cutting c on c.id = s.cutting_id join unit u on u.id = c.unit_id where s.check_id = :check"
        )
        found = [tuple(row) for row in connection.execute(asked, {"check": check})]
    engine.dispose()
    return found


def score(person: Person, roots: int, page: str) -> tuple[str, bool]:
    """One cutting, kept here or there: its code, and whether another's score of it was shown instead.

    A page that came anew under the keys is typed into once more, as a person would.
    """
    code = person.find(".unit-code").text

    def ended() -> bool:
        told = person.find("#problem").text
        return person.find(".unit-code").text != code or "while you were looking" in told or LAST in told

    for _ in range(4):
        person.press("q")
        person.press(str(roots))
        person.press(Keys.ENTER)
        with contextlib.suppress(TimeoutException):
            WebDriverWait(person.driver, 6, 0.1, (StaleElementReferenceException, NoSuchElementException)).until(
                lambda _: ended()
            )
            clash = "while you were looking" in person.find("#problem").text
            if clash:
                person.go(page)
            return code.replace(" ", ""), clash
    raise AssertionError(f"{code} was not kept: {person.text()[:400]}")


def test_nothing_is_lost_or_doubled_over_an_hour_without_a_steady_network(
    two: list[tuple[Person, Wire]], check: int
) -> None:
    rng = random.Random(20261130)
    for (person, _), name in zip(two, ("Tomas", "Ines"), strict=True):
        person.resize(DESK)
        person.sign_in(name)
        person.go(f"/checks/{check}/along")
        person.find("[data-along]")
        person.driver.execute_script("document.querySelector('[data-along]').closest('details').open = true")
        person.find("[data-along] [data-act=take]").click()
        person.wait_until(lambda person=person: "On this device" in person.find("[data-said]").text)
    (first, _), (second, _) = two
    # The second begins where the first will stop, but for some that both score.
    second.driver.execute_script(FROM, EACH - BOTH // 2)
    for person in (first, second):
        person.go(f"/checks/{check}/along")
    cuts, page = 0, f"/checks/{check}/along"
    tried: list[set[str]] = [set(), set()]
    shown: list[set[str]] = [set(), set()]
    turns = sorted(rng.sample(range(2 * EACH), CUTS))
    for n in range(EACH + BOTH // 2):
        for at, (person, wire) in enumerate(two):
            if turns and 2 * n + at >= turns[0]:
                turns.pop(0)
                cuts += 1
                wire.cut() if wire.whole else wire.mend()
            if LAST in person.find("#problem").text:
                continue
            code, clash = score(person, 3 + at, page)
            tried[at].add(code)
            shown[at] |= {code} if clash else set()
    assert cuts == CUTS
    for person, wire in two:
        wire.mend()
        person.wait_until(
            lambda person=person: person.driver.execute_script(WAITING) == person.driver.execute_script(CLASHES)
        )
    kept = kept_of(check)
    assert len({code for code, _ in kept}) == len(kept), "none doubled"
    assert {code for code, _ in kept} == tried[0] | tried[1], "none lost"
    assert len(kept) > 2 * EACH - BOTH
    clashed = [
        shown[at] | {code.replace(" ", "") for code in person.driver.execute_script(CLASHED)}
        for at, (person, _) in enumerate(two)
    ]
    for at, (person, _) in enumerate(two):
        own = {code for code, name in kept if name.startswith(("Tomas", "Ines")[at])}
        assert tried[at] <= own | clashed[at] and not own & clashed[at], (
            "each is kept, or shown as a clash with another's"
        )
        assert person.find("#queue").text.count("Nothing of yours was written") >= min(len(clashed[at] - shown[at]), 8)
    assert clashed[0] | clashed[1], "they met"
