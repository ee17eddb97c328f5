"""Before and while it is stuck, in the browser: medium that runs short, a tray on a phone, two lots, a scanned code, arms that part."""

from __future__ import annotations

import time
from contextlib import suppress
from datetime import date, timedelta

import pytest
from selenium.common.exceptions import TimeoutException
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from orderly_bench.core.design.codes import ALPHABET, CODE_LENGTH
from tests.browser.conftest import DESK, PHONE, Person
from tests.browser.test_before_the_trial import started

pytestmark = pytest.mark.browser
EACH = 8


def locked(person: Person) -> str:
    """A trial of two media, locked; its path."""
    where = started(person, "Olea europaea", "Inert or fed")
    person.go(f"{where}/design")
    person.fill("cuttings_per_arm", str(EACH))
    person.click("Draw the bench")
    person.wait_for("//form[@id='lock']")
    person.click("Lock the plan")
    person.wait_for("//main//button[contains(., 'All stands ready')]")
    return where


def with_day_zero(person: Person, where: str, days_ago: int = 0) -> None:
    person.go(f"{where}/stick")
    person.fill("day", (date.today() - timedelta(days=days_ago)).isoformat())
    person.click_through("Set day 0")
    person.wait_for("//main//button[contains(., 'all stuck')]")


def counted(person: Person, name: str, litres: str) -> None:
    """So much of a medium stands ready on the shelf."""
    person.go("/media")
    person.driver.execute_script("document.querySelectorAll('main details').forEach(d => d.open = true)")
    person.fill("name", name)
    person.fill("litres", litres)
    person.click("Keep the medium")
    person.wait_until(
        lambda: person.find_or_none(f"//main//*[contains(@class, 'plant')]//b[normalize-space(.)='{name}']")
    )


def opened_fold(person: Person, words: str) -> None:
    """A fold by what stands on it."""
    fold = f"//main//summary[contains(normalize-space(.), '{words}')]"
    person.driver.execute_script("arguments[0].parentElement.open = true", person.wait_for(fold))


def test_medium_that_runs_short_is_said_refused_and_mended(person: Person) -> None:
    where = locked(person)
    medium = person.find("form[data-keep='media'] tbody tr:last-child td").text
    counted(person, medium, "0.1")
    person.go(f"{where}/prepare")
    assert f"{medium}:" in person.text() and "short by" in person.text()
    person.click("All stands ready")
    person.wait_until(lambda: "short" in person.text() and person.find_or_none("main [role='alert'], main .problem"))
    assert person.driver.current_url.endswith("/prepared") or "/prepare" in person.driver.current_url
    counted(person, medium, "900")  # for all that is locked here after it, too
    person.go(f"{where}/prepare")
    assert "short by" not in person.text()
    person.click("All stands ready")
    person.wait_until(lambda: "Stick, in bench order" in person.text())


def test_a_tray_is_stuck_on_a_phone_with_three_exceptions(person: Person) -> None:
    where = locked(person)
    person.resize(PHONE)
    with_day_zero(person, where)
    for place, reason in enumerate(("broke", "diseased", "short of medium"), start=1):
        cells = "main a[href*='cutting=']"
        cell = person.wait_until(lambda cells=cells, place=place: person.all(cells)[place])
        person.driver.execute_script("arguments[0].dispatchEvent(new MouseEvent('click', {bubbles: true}))", cell)
        button = person.wait_for(f"//form[@id='exception']//button[normalize-space(.)='{reason}']")
        box = button.rect
        assert box["height"] >= 44, "a thumb finds it"
        person.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", button)
        button.click()
        person.wait_until(lambda reason=reason: f"1 x {reason}" in person.driver.page_source)
    person.click("all stuck")
    person.wait_until(lambda: "Finish sticking" in person.text())
    source = " ".join(person.driver.page_source.split())
    assert f"{2 * EACH - 3} stuck + 3 not + 0 left = {2 * EACH}" in source
    assert person.driver.execute_script("return document.documentElement.scrollWidth <= innerWidth")
    person.resize(DESK)


def test_two_lots_days_apart_each_keep_their_day(person: Person) -> None:
    where = locked(person)
    with_day_zero(person, where, days_ago=3)
    person.driver.execute_script("document.querySelectorAll('main details').forEach(d => d.open = true)")
    form = "//main//form[contains(@action, '/lot')][.//button[contains(., 'A new lot')]]"
    day = person.wait_for(f"{form}//input[@name='day']")
    person.driver.execute_script("arguments[0].value = arguments[1]", day, date.today().isoformat())
    person.driver.execute_script("arguments[0].click()", person.find(f"{form}//button[contains(., 'A new lot')]"))
    person.wait_for("//main//select[@name='in_lot']")
    for row, lot in ((1, 1), (None, 2)):
        if row:
            person.fill("row", str(row))
        select = Select(person.find("//main//form[contains(@action, '/stick/tray')]//select[@name='in_lot']"))
        select.select_by_index(lot)
        person.click("all stuck")
        person.wait_until(lambda row=row: ("Finish sticking" in person.text()) is (row is None))
    person.click("Finish sticking")
    person.wait_until(lambda: "/tend" in person.driver.current_url)
    assert "lot 1" in person.text() and "lot 2" in person.text()


def test_a_scanned_code_opens_its_unit_from_anywhere(person: Person) -> None:
    where = locked(person)
    with_day_zero(person, where)
    code = person.find("main a[href*='cutting=']").get_attribute("aria-label").split(",")[0]
    for page in ("/today", f"{where}/stick", f"{where}/prepare"):
        for _ in range(3):  # on a busy machine the keys may come too slowly for a scanner's: it is scanned again
            person.go(page)
            person.press(code.replace(" ", "") + Keys.ENTER)
            with suppress(TimeoutException):
                person.wait_until(
                    lambda: f"{where}/stick" in person.driver.current_url and "cutting=" in person.driver.current_url
                )
                break
        person.wait_until(lambda: f"{code} was not stuck, because" in person.text())
        person.wait_until(lambda: f"0 stuck + 0 not + {2 * EACH} left" in person.text())  # its Enter confirmed no tray


def scanned_slowly(person: Person, code: str, apart: float = 0.12) -> None:
    """A code and Enter, as a radio scanner types them: too slowly to be held back. The keys bring their own times."""
    began = time.time()
    for place, key in enumerate((*code, "Enter")):
        said = {
            "key": key,
            "timestamp": began + place * apart,
            "windowsVirtualKeyCode": 13 if key == "Enter" else ord(key),
        }
        text = {"text": "\r" if key == "Enter" else key}
        person.driver.execute_cdp_cmd("Input.dispatchKeyEvent", {"type": "keyDown", **said, **text})
        person.driver.execute_cdp_cmd("Input.dispatchKeyEvent", {"type": "keyUp", **said})


def test_the_enter_of_a_slow_scanner_confirms_no_tray(person: Person) -> None:
    where = locked(person)
    with_day_zero(person, where)
    code = person.find("main a[href*='cutting=']").get_attribute("aria-label").split(",")[0]
    person.go(f"{where}/stick")
    scanned_slowly(person, code.replace(" ", ""))
    person.wait_until(lambda: f"{code} was not stuck, because" in person.text())
    assert f"0 stuck + 0 not + {2 * EACH} left" in person.text(), "its Enter confirmed no tray"
    person.go(f"{where}/stick")
    keys = {one.get_attribute("data-key").upper() for one in person.all("[data-key]")}
    scanned_slowly(person, next(one for one in ALPHABET if one.isalpha() and one not in keys) * CODE_LENGTH, apart=0.5)
    person.wait_until(lambda: f"{2 * EACH} stuck + 0 not + 0 left" in person.text())  # so slowly types a person


def test_no_key_of_a_slow_scanner_leaves_the_page_before_its_code_is_read(person: Person) -> None:
    person.sign_in("Tomas")
    person.go("/trials")
    assert person.all("a[data-key='g']"), "G is a key that leaves the page"
    scanned_slowly(person, "G4GD7")
    person.wait_until(lambda: "No label has the code G4G" in person.text())
    person.go("/trials")
    person.press("g")
    person.wait_until(lambda: person.driver.current_url.endswith("/today"))


def test_thicker_pieces_in_one_arm_are_told_while_it_is_stuck(person: Person) -> None:
    where = locked(person)
    with_day_zero(person, where)
    person.click("all stuck")
    person.wait_until(lambda: "Finish sticking" in person.text())
    opened_fold(person, "One measure of tray")
    opened_fold(person, "Measured as they went in")
    Select(person.find("[name='measure']")).select_by_value("length_mm")
    cells = [one.get_attribute("aria-label") for one in person.all("main a[href*='cutting=']")]
    values = ["90" if "arm A" in label else "60" for label in cells]
    assert values.count("90") == values.count("60") == EACH
    person.fill("values", " ".join(values))
    person.click("Keep them")
    person.wait_until(lambda: "As they went in" in person.driver.page_source)
    told = person.wait_until(lambda: person.find("#margin .doubt").text)
    assert "90 in A and 60 in B" in told and "Alike over the arms" not in person.find("#margin").text
