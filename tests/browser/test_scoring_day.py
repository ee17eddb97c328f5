"""A scoring day as it is worked: a tray of fifty by keys, a pot of twelve, a second scorer, what looks dead too early, and the close."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, date, datetime, timedelta
from statistics import median
from time import monotonic

import pytest
from selenium.webdriver.common.keys import Keys
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.stick import operations as stick
from orderly_bench.core.layouts.kinds import LayoutKind
from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.database.engine import make_engine
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import CheckVisit, ScoreRecord, Trial
from orderly_bench.trial.models import Person as Someone
from tests.browser.conftest import DESK, PHONE, Person, score_with_keys
from tests.conftest import database_url
from tests.factories import create_drawn

pytestmark = pytest.mark.browser
#: What the scorer sees of fifty: mostly none or a few, now and then more to say.
TRAY = [
    "n",
    "3",
    "5",
    "n",
    "q4",
    "12",
    "n",
    "v",
    "7",
    "n",
    "wn",
    "2",
    "6",
    "n",
    "l",
    "4",
    "n",
    "10",
    "n",
    "bn",
    "3",
    "n",
    "8",
    "n",
    "5",
] * 2
SECONDS, MEDIAN_KEYS = 60, 4


@contextmanager
def lab(address: str) -> Iterator[Session]:
    """The database of the served lab."""
    engine = make_engine(database_url("orderly_browser"))
    with Session(engine) as session:
        yield session
        session.commit()
    engine.dispose()


#: Trials that the walks made; put away after each, so that Today is the demo lab's.
MADE: list[int] = []


@pytest.fixture(autouse=True)
def put_away(address: str, olive_check: str) -> Iterator[None]:
    yield
    with lab(address) as session:
        for number in MADE:
            session.get_one(Trial, number).archived = True
    MADE.clear()


def check_open(address: str, days_ago: int = 42, **changes: object) -> tuple[str, int, int]:
    """A trial whose last check, or its first where it is not that old, is open today: the pad's path, trial and check."""
    now, today = datetime.now(UTC), date.today()
    with lab(address) as session:
        ines = session.scalars(select(Someone).where(Someone.name.like("Ines%"))).one()
        trial = create_drawn(session, ines, factors=[("medium", "medium", ["grit", "pumice"])], **changes)
        locking.lock_plan(session, trial, ines, now)
        lot = stick.add_lot(
            session, trial, ines, now, trial.waves[0], stick.LotValues(today - timedelta(days=days_ago)), today
        )
        for tray in trial.trays:
            stick.confirm_tray(session, trial, ines, now, tray.number, lot)
        stick.finish_sticking(session, trial, ines, now, trial.waves[0])
        check = next(c for c in reversed(checks_of(session, trial)) if c.planned_das <= days_ago)
        score.open_check(session, check, ines, now, score.Looking(today, KnownBy.LIFTED.value), today)
        MADE.append(trial.id)
        return f"/trials/{trial.id}/score?check={check.id}", trial.id, check.id


def kept(address: str, check: int) -> list[tuple[str, str, int | None]]:
    """State, roots and number of every standing score, in the order of keeping."""
    with lab(address) as session:
        query = (
            select(ScoreRecord).where(ScoreRecord.check_id == check, ScoreRecord.current == 1).order_by(ScoreRecord.id)
        )
        return [(one.state, one.roots, one.root_number) for one in session.scalars(query)]


def test_a_tray_of_fifty_takes_a_minute_of_machine_time_and_few_keys(person: Person, address: str) -> None:
    where, _, check = check_open(address, cuttings_per_arm=25, columns=10, rows=5, layout=LayoutKind.COMPLETELY_RANDOMISED.value, blocks=1)  # fmt: skip
    person.resize(DESK)
    person.sign_in("Tomas")
    person.go(where)
    begun = monotonic()
    # The first is kept by an Enter that no field has: the page itself hears it.
    before = person.find("[data-pad] [name='cutting']").get_attribute("value")
    person.press(TRAY[0])
    person.wait_until(lambda: person.find_or_none("[data-pad] [data-key='n']:checked"))
    person.driver.execute_script("document.activeElement.blur()")
    person.press(Keys.ENTER)
    person.wait_until(lambda: person.find("[data-pad] [name='cutting']").get_attribute("value") != before)
    for keys in TRAY[1:]:
        score_with_keys(person, f"u{keys}" if keys == "l" else keys)
    took = monotonic() - begun
    assert took < SECONDS, f"{took:.0f} s for {len(TRAY)}"
    assert median(len(keys) + 1 for keys in TRAY) <= MEDIAN_KEYS
    found = Counter((state, roots) for state, roots, _ in kept(address, check))
    assert found.total() == 50 and found["alive", "none"] == 22 and found["looks dead", "not looked"] == 2
    assert "Every cutting is accounted for" in person.text()
    for left in (1, 2, 3):
        person.press("z")
        person.wait_until(lambda left=left: f"{left} unaccounted" in " ".join(person.driver.page_source.split()))
    assert len(kept(address, check)) == 47, "back to the beginning of the sitting, from after the last"


def test_a_code_is_typed_from_anywhere(person: Person, address: str) -> None:
    where, trial, _ = check_open(address, cuttings_per_arm=8)
    person.resize(DESK)
    person.sign_in("Tomas")
    with lab(address) as session:
        code = session.get_one(Trial, trial).units[3].code
    for page in ("/benches", "/sums", where):
        person.go(page)
        person.press("/")
        person.press(f"{code[:3]} {code[3:]}".lower() + Keys.ENTER)
        person.wait_until(lambda: "cutting=" in person.driver.current_url)
        assert person.find(".unit-code").text.replace(" ", "") == code


@pytest.mark.parametrize("size", [DESK, PHONE], ids=["desk", "phone"])
def test_the_pad_fits_and_keep_is_in_sight(person: Person, olive_check: str, size: tuple[int, int]) -> None:
    person.resize(size)
    person.sign_in("Tomas")
    person.go(olive_check)
    assert person.driver.execute_script("return scrollY") == 0
    box = person.find("[data-key='Enter'][type='submit']").rect
    assert box["y"] + box["height"] <= size[1] and box["height"] >= 40, box
    for group in ("state", "roots"):
        one = person.find(f"[name='{group}']").find_element("xpath", "ancestor::fieldset").rect
        assert one["y"] + one["height"] <= size[1], f"{group} is out of sight"
    person.resize(DESK)


def test_a_pot_of_twelve_has_every_cutting_reached_and_shows_them_all(person: Person, address: str) -> None:
    where, _, check = check_open(address, cuttings_per_arm=60, cuttings_per_unit=12, columns=5, rows=2, layout=LayoutKind.COMPLETELY_RANDOMISED.value, blocks=1)  # fmt: skip
    person.resize(PHONE)
    person.sign_in("Tomas")
    person.go(where)
    seen = []
    for n in range(12):
        seen.append(person.find(".unit-code").text)
        score_with_keys(person, "n" if n % 3 else "4")
    pot = seen[0].rsplit("-", 1)[0]
    assert [one.rsplit("-", 1) for one in seen] == [[pot, str(n)] for n in range(1, 13)]
    assert len(kept(address, check)) == 12 and person.find(".unit-code").text.rsplit("-", 1)[0] != pot, "on to the next"
    with lab(address) as session:
        last = session.get_one(CheckVisit, check).scores[-1].cutting_id
    person.go(f"{where}&cutting={last}")
    inside = person.driver.find_elements("css selector", "#container a")
    assert len(inside) == 12 and all(one.find_elements("css selector", "svg") for one in inside), "a picture of each"
    told = [one.get_attribute("textContent").split() for one in inside]
    assert told == [[str(n), *(["4", "roots"] if n % 3 == 1 else ["no", "roots"])] for n in range(1, 13)]
    assert min(one.rect["height"] for one in inside) >= 48 and min(one.rect["width"] for one in inside) >= 48
    person.resize(DESK)


def test_another_scores_a_drawn_share_again_and_does_not_see_the_first(person: Person, address: str) -> None:
    where, trial, check = check_open(address, cuttings_per_arm=8)
    person.resize(DESK)
    person.sign_in("Tomas")
    person.go(where)
    for _ in range(16):
        score_with_keys(person, "4")
    person.sign_in("Ines")
    person.go(where)
    person.find("//a[contains(., 'Second scorer')]").click()
    person.fill("percent", "20")
    person.click("Draw the share")
    person.wait_for("//p[contains(., '0 of 5 scored again')]")
    for n in range(5):
        assert "4 roots" not in person.text(), "the first score is not shown"
        person.find("//select[@name='roots']/option[@value='counted']").click()
        person.fill("root_number", "5" if n == 0 else "4")
        person.click("Keep, next")
        person.wait_for(f"//p[contains(., '{n + 1} of 5 scored again')]")
    person.go(where)
    person.click("Close the check")
    person.wait_until(lambda: "/compare" in person.driver.current_url)
    person.wait_until(lambda: "Two scorers" in person.driver.page_source or person.driver.refresh() is not None)
    assert "5 of 5 judged alike" in " ".join(person.driver.page_source.split("Two scorers", 1)[1].split())[:600]


def test_dead_before_its_day_is_looks_dead_and_comes_again(person: Person, address: str) -> None:
    where, trial, check = check_open(address, days_ago=14, cuttings_per_arm=8, dead_from_day="21")
    person.resize(PHONE)
    person.sign_in("Tomas")
    person.go(where)
    score_with_keys(person, "dn")
    assert kept(address, check) == [("looks dead", "none", None)]
    person.go(f"/trials/{trial}/score?check={check}")
    assert "Nothing is called dead before day 21" in " ".join(person.driver.page_source.replace("<b>", "").split())
    person.resize(DESK)


def test_a_check_that_a_device_has_along_is_not_closed(person: Person, address: str) -> None:
    where, trial, check = check_open(address, cuttings_per_arm=8)
    person.resize(DESK)
    person.sign_in("Tomas")
    person.go(where)
    person.driver.execute_script("document.querySelectorAll('main details').forEach((one) => { one.open = true; })")
    person.find("[data-along] [data-act=take]").click()
    person.wait_until(lambda: "On this device" in person.find("[data-said]").text)
    for _ in range(16):
        score_with_keys(person, "4")
    person.sign_in("Ines")
    person.go(where)
    person.click("Close the check")
    person.wait_until(lambda: "has this check along on a device" in person.find("#problem").text)
    person.sign_in("Tomas")
    person.go(where)
    person.driver.execute_script("document.querySelectorAll('main details').forEach((one) => { one.open = true; })")
    person.find("[data-along] [data-act=back]").click()
    person.wait_until(lambda: "Brought back" in person.find("[data-said]").text)
    person.sign_in("Ines")
    person.go(where)
    person.click("Close the check")
    person.wait_until(lambda: "/compare" in person.driver.current_url)
