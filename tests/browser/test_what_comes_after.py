"""What comes after the end, in the browser: a way adopted comes back with the next plan; plants that die in their pots turn the answer."""

from __future__ import annotations

import pytest
from selenium.webdriver.support.ui import Select

from tests.browser.conftest import Person, score_with_keys
from tests.browser.test_before_the_trial import started
from tests.browser.test_walks import chosen, closed, locked_and_stuck, opened

pytestmark = pytest.mark.browser
EACH = 10


def told_apart(person: Person, plant: str) -> str:
    """A closed trial of which every cutting of A rooted and none of B; its path."""
    where = started(person, plant, "Inert or fed")
    person.go(f"{where}/question")
    person.fill("endpoint_day", "20")
    person.fill("check_days", "")
    person.click("Save the question")
    person.wait_until(lambda: "Changed, and not saved" not in person.text())
    person.go(f"{where}/design")
    person.fill("cuttings_per_arm", str(EACH))
    locked_and_stuck(person, where, 20)
    person.go(f"{where}/stick")
    arm_of = {one.split(",")[0]: ", arm A" in one for one in labels(person)}
    opened(person, where)
    for _ in range(2 * EACH):
        code = person.wait_for(".unit-code").text
        score_with_keys(person, "w4" if next(a for c, a in arm_of.items() if c in code or code in c) else "wn")
    closed(person)
    return where


def labels(person: Person) -> list[str]:
    return [one.get_attribute("aria-label") for one in person.all("main svg [aria-label*=', arm ']")]


def test_a_way_adopted_comes_back_with_the_next_plan_of_the_plant(person: Person) -> None:
    where = told_apart(person, "Daphne mezereum")
    person.read(f"{where}/conclude")
    person.find("input[name='decision'][value='adopt']").click()
    person.fill("text", "More rooted in A.")
    person.driver.execute_script("arguments[0].closest('details').open = true", person.find("[name='adopted']"))
    Select(person.find("[name='adopted']")).select_by_value("A")
    person.fill("lesson_keep", "the free draining one")
    person.click("Keep the conclusion")
    person.wait_until(lambda: "Conclude again" in person.text())
    code = where_code(person)
    person.go("/cards")
    person.wait_until(lambda: "Daphne mezereum" in person.text())
    assert f"{EACH} of {EACH}" in person.driver.page_source and code in person.driver.page_source
    person.go("/trials")
    person.fill("botanical_name", "Daphne mezereum")
    person.click("Start")
    person.wait_until(lambda: "/question" in person.driver.current_url)
    assert "the free draining one" in person.driver.page_source


def where_code(person: Person) -> str:
    """The code of the trial that is shown."""
    return person.find("header.title").text.split()[-1]


def test_plants_that_die_in_their_pots_turn_the_answer(person: Person) -> None:
    where = told_apart(person, "Hebe pinguifolia")
    before = person.read(f"{where}/compare")
    assert f"{EACH} of {EACH}" in before and "died" not in before
    person.go(f"{where}/stick")
    codes = [one.split(",")[0] for one in labels(person) if ", arm A" in one]
    person.go(f"{where}/plants")
    for fate, which, some in (("potted on", "all that rooted", []), ("dead", "these codes", codes[:9])):
        person.wait_for("//button[normalize-space(.)='Keep it']")
        chosen(person, "which", which)
        chosen(person, "fate", fate)
        person.fill("codes", "\n".join(some))
        person.click("Keep it")
        person.wait_until(
            lambda fate=fate: fate in person.find("main").text and not person.find_or_none("main .problem")
        )
    after = person.read(f"{where}/compare")
    assert "Of what had rooted at the endpoint 9 died" in after and f"A 9 of {EACH}" in after
    more = person.read(f"{where}/compare/more")
    assert "what died since counts as failed" in more
