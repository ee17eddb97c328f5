"""Whole jobs that once broke half-way, walked in the browser from where they begin to the page where they are read."""

from __future__ import annotations

import io
import re
from datetime import date, timedelta

import pytest
from pypdf import PdfReader
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By

from tests.browser.conftest import Person, of_demo, score_with_keys
from tests.browser.test_before_the_trial import margin, says, started
from tests.browser.test_jobs import fetch

pytestmark = pytest.mark.browser


def chosen(person: Person, name: str, words: str) -> None:
    """An option of a field, picked by its words, with the folds above it opened."""
    field = person.find(f"[name='{name}']")
    person.driver.execute_script(
        "for (let e = arguments[0]; e; e = e.parentElement) if (e.tagName === 'DETAILS') e.open = true", field
    )
    option = next(o for o in field.find_elements(By.TAG_NAME, "option") if o.text.strip() == words)
    person.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", field)
    option.click()


def locked_and_stuck(person: Person, where: str, days_ago: int, why: str = "") -> None:
    """From a filled design to the check that may be opened."""
    person.click("Draw the bench")
    person.wait_for("//form[@id='lock']")
    if why:
        person.fill("anyway", why)
    person.click("Lock the plan")
    person.click("All stands ready")
    person.fill("day", (date.today() - timedelta(days=days_ago)).isoformat())
    person.click_through("Set day 0")
    person.wait_for("//main//button[contains(., 'all stuck')]")
    for number in range(1, len(person.all("[aria-label='Trays'] a")) + 1):
        person.click(f"Tray {number}: all stuck")
        person.wait_until(lambda number=number: f"Tray {number}: all stuck" not in person.text())
    person.click("Finish sticking")
    person.wait_for(
        "//p[contains(., 'Endpoint check, day')] | //td[contains(., 'Endpoint check')] | //*[contains(text(), 'Endpoint check')]"
    )


def opened(person: Person, where: str) -> None:
    person.go(f"{where}/score")
    person.click("Open the check")
    person.wait_for("[data-pad]")


def closed(person: Person) -> None:
    person.wait_for("//h2[contains(., 'Every cutting is accounted for')]")
    person.click("Close the check")
    person.wait_for("//header[@class='title']")


def test_a_rate_from_nothing_to_how_many_to_stick(person: Person) -> None:
    person.sign_in("Ines")
    person.go("/trials")
    person.fill("botanical_name", "Olea europaea")
    person.click("Start")
    person.find("[name='kind'][value='rate']").click()
    person.fill("endpoint_day", "20")
    person.fill("check_days", "")
    person.find("//summary[contains(., 'lants wanted') or contains(., 'wanted')]").click()
    person.fill("wanted_plants", "40")
    chosen(person, "wanted_sure", person.find("[name='wanted_sure'] option:last-child").text.strip())
    person.click("Save the question")
    person.wait_for("//a[contains(., 'On to Design')]")
    where = person.driver.current_url.removeprefix(person.address).removesuffix("/question")
    asked = person.text()
    assert not re.search(r"no control|alpha|blind|margin of", asked)
    person.go(f"{where}/design")
    person.fill("cuttings_per_arm", "24")
    locked_and_stuck(person, where, 20)
    opened(person, where)
    for i in range(24):
        score_with_keys(person, "wn" if i % 3 == 0 else "w4")
    closed(person)
    found = {page: person.read(f"{where}/{page}") for page in ("compare", "report")}
    stick = {page: re.findall(r"[Ss]tick (\d+)", text) for page, text in found.items()}
    assert stick["compare"] and set(stick["compare"]) == set(stick["report"]), stick
    assert int(stick["compare"][0]) > 60, "16 of 24 rooted: 40 plants for sure are more than 40 / (16 / 24)"
    assert all("16 of 24" in text and "Strength" not in text for text in found.values())


def test_a_look_at_a_jar_and_a_cup_says_to_the_end_what_can_not_be_told_apart(person: Person) -> None:
    where = started(person, "Daphne odora", "Water or a solid medium")
    person.go(f"{where}/question")
    person.find("[name='kind'][value='look']").click()
    person.fill("endpoint_day", "20")
    person.fill("check_days", "")
    person.click("Save the question")
    person.wait_until(lambda: "Changed, and not saved" not in person.text())
    person.go(f"{where}/design")
    for arm, shape, each, units in (("A", "jar", "3", "1"), ("B", "pot", "1", "3")):
        chosen(person, f"own_{arm}_shape", shape)
        person.fill(f"own_{arm}_per_unit", each)
        person.fill(f"own_{arm}_units", units)
    person.click("Save the design")
    says(person, "can't be told from container")
    locked_and_stuck(person, where, 20)
    doubt = "can't be told from container: the arms differ in both"
    for page in ("design", "stick", "tend"):
        person.go(f"{where}/{page}")
        person.wait_until(lambda: doubt in margin(person))
    opened(person, where)
    for _ in range(6):
        score_with_keys(person, "w3")
    closed(person)
    for page in ("compare", "conclude", "report"):
        text = person.read(f"{where}/{page}")
        assert doubt in text, page
        assert "Strength" not in text and "annot tell" not in text, page


def test_a_communal_tray_is_tipped_out_and_counted(person: Person) -> None:
    where = started(person, "Lavandula angustifolia", "Hormone or none")
    person.go(f"{where}/question")
    person.fill("endpoint_day", "20")
    person.fill("check_days", "")
    person.click("Save the question")
    person.wait_until(lambda: "Changed, and not saved" not in person.text())
    person.go(f"{where}/design")
    chosen(person, "shape", "lidded tray")
    for name, value in (("cuttings_per_unit", "12"), ("cuttings_per_arm", "24"), ("rows", "1"), ("columns", "1")):
        person.fill(name, value)
    person.fill("volume_ml", "6000")
    locked_and_stuck(person, where, 20, "only four trays there are")
    opened(person, where)
    assert len(person.all(".container-list a")) == 12
    for rooted in (9, 7, 3, 4):
        person.find("//summary[contains(., 'Tipped out')]").click()
        for name, n in (("rooted", rooted), ("bare", 12 - rooted - 2), ("dead", 0), ("missing", 2)):
            person.fill(name, str(n))
        before = person.find("[data-pad] [name='cutting']").get_attribute("value")
        person.click("Keep the count")
        person.wait_until(
            lambda before=before: (
                (f := person.find_or_none("[data-pad] [name='cutting']")) is None or f.get_attribute("value") != before
            )
        )
    closed(person)
    for page in ("compare", "report"):
        text = person.read(f"{where}/{page}")
        rooted = [int(k) for k in re.findall(r"\b(\d+) of 20\b", text)]
        assert sum(rooted[:2]) == 23, (page, text)
    rows = fetch(person, f"{where}/endpoint.csv").decode().splitlines()
    assert len(rows) == 49 and sum(",1," in row for row in rows[1:]) >= 23


def test_an_own_container_survives_the_other_page(person: Person) -> None:
    where = started(person, "Olea europaea", "Inert or fed")
    person.go(f"{where}/design")
    chosen(person, "own_B_shape", "jar")
    person.fill("own_B_per_unit", "8")
    person.fill("own_B_units", "3")
    person.click("Save the design")
    person.wait_until(lambda: "can't be told from container" in margin(person))
    person.go(f"{where}/question")
    assert "can't be told from container" in margin(person)
    person.fill("endpoint_day", "35")
    person.click("Save the question")
    person.wait_until(lambda: person.find("[name='endpoint_day']").get_attribute("value") == "35")
    person.go(f"{where}/design")
    kept = {
        name: person.find(f"[name='own_B_{name}']").get_attribute("value") for name in ("shape", "per_unit", "units")
    }
    assert kept == {"shape": "jar", "per_unit": "8", "units": "3"}
    assert "can't be told from container" in margin(person)


def test_a_conclusion_keeps_its_marks_in_report_and_pdf(person: Person) -> None:
    person.sign_in("Ines")
    person.go("/trials")
    person.wait_for("main a")
    person.go(of_demo("/trials/1/conclude"))
    marks = r"\[(carried by the data|against the data|beyond the data|not about the result|not checked)"
    on_page = re.findall(marks, person.read(of_demo("/trials/1/conclude")))
    in_report = re.findall(marks, person.read(of_demo("/trials/1/report")))
    pdf = PdfReader(io.BytesIO(fetch(person, of_demo("/trials/1/report.pdf"))))
    in_pdf = re.findall(marks, " ".join(" ".join(page.extract_text() for page in pdf.pages).split()))
    assert on_page and on_page == in_report == in_pdf


def test_days_dragged_on_the_strip_become_an_incident(person: Person) -> None:
    person.sign_in("Ines")
    person.go(of_demo("/trials/2/tend"))
    strip = person.find("[data-strip] svg")
    left, right, days = (
        float(strip.find_element(By.XPATH, "..").get_attribute(f"data-{name}")) for name in ("left", "right", "days")
    )
    scale = strip.size["width"] / 950
    first = date.fromisoformat(strip.find_element(By.XPATH, "..").get_attribute("data-first"))

    def at(day: int) -> int:
        """Px right of the middle of the strip, where the driver measures from."""
        return round((left + day / days * (right - left)) * scale - strip.size["width"] / 2)

    person.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", strip)
    ActionChains(person.driver).move_to_element_with_offset(strip, at(4), 0).click_and_hold().move_by_offset(
        at(9) - at(4), 0
    ).release().perform()
    typed = [
        person.find(f"form[data-keep='incident'] [name='{name}']").get_attribute("value")
        for name in ("first_day", "last_day")
    ]
    assert typed == [(first + timedelta(days=4)).isoformat(), (first + timedelta(days=9)).isoformat()]
    person.find("form[data-keep='incident'] input[name='where'][value='all']").find_element(By.XPATH, "..").click()
    person.find("form[data-keep='incident'] [name='note']").send_keys("the vent stuck open")
    person.click("Record the incident")
    person.wait_for("//section[@id='incidents']//p[contains(., 'the vent stuck open')]")
