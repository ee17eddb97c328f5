"""The weeks of care in the browser: what was missed, who was away and what was given up stand beside the answer."""

from __future__ import annotations

from datetime import date, timedelta

import pytest

from tests.browser.conftest import Person, score_with_keys
from tests.browser.test_before_the_trial import started
from tests.browser.test_walks import chosen, closed, locked_and_stuck, opened, read

pytestmark = pytest.mark.browser
EACH = 8


def test_missed_water_and_an_arm_given_up_are_read_beside_what_came_of_it(person: Person) -> None:
    where = started(person, "Olea europaea", "Inert or fed")
    person.go(f"{where}/question")
    person.fill("endpoint_day", "20")
    person.fill("check_days", "")
    person.fill("care_rules", "Water: every 4 days")
    person.click("Save the question")
    person.wait_until(lambda: "Changed, and not saved" not in person.text())
    person.go(f"{where}/design")
    person.fill("cuttings_per_arm", str(EACH))
    locked_and_stuck(person, where, 20)
    person.go(f"{where}/tend")
    person.wait_until(lambda: "Water: 0 of" in person.text())
    person.fill("left_out_why", "the pump failed")
    person.click("Left out")
    person.wait_until(lambda: "left out: the pump failed" in person.driver.page_source)
    person.go(f"{where}/design")
    chosen(person, "kind", "an arm given up")
    person.find("#amendments [name='arm'] option[value='B']").click()
    person.fill("reason", "wilted, not watered any more")
    person.click("Record the amendment")
    person.wait_until(lambda: "Version 2" in person.text())
    opened(person, where)
    for _ in range(2 * EACH):
        score_with_keys(person, "w4")
    closed(person)
    for page in ("compare", "report"):
        text = read(person, f"{where}/{page}")
        assert text.count(f"{EACH} of {EACH}") >= 2, "what was given up and thrived counts all the same"
        assert "abandoned: wilted, not watered any more" in text, page
        assert "Water: 0 of 4 done, 4 left out for a reason, longest gap 20 days" in text, page


def test_who_is_away_says_what_nobody_covers_and_hands_over(person: Person) -> None:
    person.sign_in("Ines")
    person.go("/away")
    first = date.today() + timedelta(days=1)
    person.fill("first_day", first.isoformat())
    person.fill("last_day", (first + timedelta(days=9)).isoformat())
    person.fill("away_note", "the key hangs in the shed")
    person.click("Keep it")
    person.wait_until(lambda: "nobody covers" in person.text())
    assert "Find someone" in person.text()
    person.click("I am here after all")
    person.wait_until(lambda: "nobody covers" not in person.text())
    person.fill("first_day", first.isoformat())
    person.fill("last_day", (first + timedelta(days=9)).isoformat())
    person.fill("away_note", "the key hangs in the shed")
    chosen(person, "cover", "Tomas Birk")
    person.click("Keep it")
    person.wait_until(lambda: "Tomas Birk covers" in person.text())
    assert "Find someone" not in person.text()
    person.click("To hand over")
    person.wait_until(lambda: "the key hangs in the shed" in person.text())
    assert "26-02" in person.text()
    person.go("/away")
    person.click("I am here after all")
    person.wait_until(lambda: "Tomas Birk covers" not in person.text())
