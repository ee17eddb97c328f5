"""Question and Design in the browser: what most trials are lost by is seen, said and mended before a cutting is taken."""

from __future__ import annotations

import time

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import DESK, PHONE, Person

pytestmark = pytest.mark.browser
MOST_INTERACTIONS, MOST_SECONDS = 60, 600


def started(person: Person, plant: str, start: str) -> str:
    """A new trial at a ready question; its path."""
    person.sign_in("Ines")
    person.go("/trials")
    person.fill("botanical_name", plant)
    person.click("Start")
    person.find(f"//button[normalize-space(.)='{start}']").click()
    person.wait_for("//a[contains(., 'On to Design')]")
    return person.driver.current_url.removeprefix(person.address).removesuffix("/question")


def margin(person: Person) -> str:
    return person.wait_until(lambda: " ".join(person.find("#margin").text.split()))


def says(person: Person, words: str) -> None:
    person.wait_until(lambda: words in margin(person))


def test_a_newcomer_locks_a_two_arm_test_in_few_steps(person: Person) -> None:
    began, steps = time.monotonic(), 0
    person.sign_in("Ines")
    person.go("/trials")
    for act in (
        lambda: person.fill("botanical_name", "Buxus sempervirens"),
        lambda: person.click("Start"),
        lambda: person.find("//button[normalize-space(.)='Hormone or none']").click(),
        lambda: person.click("On to Design"),
        lambda: person.fill("guess_A", "70"),
        lambda: person.fill("guess_B", "40"),
        lambda: person.fill("cuttings_per_arm", "40"),
        lambda: person.click("Draw the bench"),
        lambda: person.click("Lock the plan"),
    ):
        act()
        steps += 1
        if steps == 7:
            person.wait_for("//div[@id='curve']//*[local-name()='svg']")
            person.wait_until(lambda: "is found in" in person.find("#curve").text)
    person.wait_for("//h1[contains(., 'Prepare') or contains(., 'ready')] | //button[contains(., 'All stands ready')]")
    assert steps <= MOST_INTERACTIONS and time.monotonic() - began < MOST_SECONDS
    assert "locked" in person.find(".walk").text


@pytest.mark.parametrize("size", [DESK, PHONE], ids=["desk", "phone"])
def test_nothing_moves_away_from_under_a_click_when_the_curve_comes(person: Person, size: tuple[int, int]) -> None:
    where = started(person, "Olea europaea", "Hormone or none")
    person.resize(size)
    person.go(f"{where}/design")
    for guess, share in (("guess_A", "70"), ("guess_B", "40")):
        person.fill(guess, share)
    person.click("Draw the bench")
    person.wait_for("//form[@id='lock']")
    person.wait_until(lambda: "For 80 of 100" in person.find("#curve").text)
    room = "const all = document.querySelector('#curve'); return [parseFloat(getComputedStyle(all).minHeight), all.offsetHeight]"
    drawn = person.driver.execute_script(room)
    person.click("Lock the plan")
    person.wait_for("//button[contains(., 'All stands ready')]")
    person.go(f"{where}/design")
    person.wait_until(lambda: "For 80 of 100" in person.find("#curve").text)
    locked = person.driver.execute_script(room)
    person.resize(DESK)
    for kept, taken in (drawn, locked):
        assert kept > 200 and taken <= kept + 1


def test_the_same_by_keyboard_alone(person: Person) -> None:
    person.sign_in("Ines")
    person.go("/trials")

    def to(selector: str) -> None:
        """Tab until it has the focus."""
        for _ in range(220):
            if person.driver.execute_script("return document.activeElement.matches(arguments[0])", selector):
                return
            person.press(Keys.TAB)
        pytest.fail(f"{selector} can't be reached with Tab")

    def back_to(selector: str) -> None:
        for _ in range(220):
            if person.driver.execute_script("return document.activeElement.matches(arguments[0])", selector):
                return
            ActionChains(person.driver).key_down(Keys.SHIFT).send_keys(Keys.TAB).key_up(Keys.SHIFT).perform()
        pytest.fail(f"{selector} can't be reached with Shift and Tab")

    to("[name='botanical_name']")
    person.press("Buxus microphylla" + Keys.ENTER)
    person.wait_for("//h1//input[@name='botanical_name']")
    to("[name='ask_2']")
    person.press(" ")
    person.wait_until(lambda: person.driver.execute_script("return document.activeElement.name") == "value_2_1")
    person.press("sand" + Keys.TAB + "bark")
    back_to("[name='endpoint_day']")
    person.press(Keys.ENTER)
    person.wait_for("//a[contains(., 'On to Design')]")
    assert "does medium change how many root" in person.text()
    to("main a[href$='/design']")
    person.press(Keys.ENTER)
    person.wait_for("[name='gradient_ways']")
    to("[name='guess_A']")
    person.press("30" + Keys.TAB + "75")
    to("button[value='draw']")
    person.press(Keys.ENTER)
    person.wait_for("//form[@id='lock']")
    to("#lock button")
    person.press(Keys.ENTER)
    person.wait_for("//button[contains(., 'All stands ready')]")


def test_a_travelling_difference_is_found_and_mended(person: Person) -> None:
    where = started(person, "Daphne odora", "Hormone or none")
    person.click("Add what else could differ")
    line = person.wait_until(lambda: person.find("tr:has([placeholder='what else could differ'])"))
    line.find_element("css selector", "[placeholder='what else could differ']").send_keys("pot shape")
    line.find_element("css selector", "[data-split]").click()
    for field, value in zip(line.find_elements("css selector", ".own input"), ("square", "round"), strict=True):
        field.send_keys(value)
    says(person, "Hormone can't be told from pot shape")
    person.wait_until(lambda: person.find("#margin button[value='mend:0']")).click()
    person.wait_until(lambda: "can't be told" not in margin(person))
    assert person.find("[aria-label='pot shape, every arm']").get_attribute("value") == "square"
    person.go(f"{where}/design")
    assert "can't be told" not in margin(person)


def test_three_a_side_is_refused_and_offered_as_a_look(person: Person) -> None:
    where = started(person, "Daphne odora", "Bottom heat or none")
    person.go(f"{where}/design")
    person.fill("cuttings_per_arm", "3")
    says(person, "No outcome could convince")
    person.click("Draw the bench")
    person.click("Lock the plan")
    person.wait_for("//div[@id='problem']//p[contains(., 'make it a look')]")
    person.go(f"{where}/question")
    person.find("[name='kind'][value='look']").click()
    person.click("Save the question")
    person.go(f"{where}/design")
    assert "No outcome could convince" not in margin(person)
    person.click("Lock the plan")
    person.wait_for("//button[contains(., 'All stands ready')]")


def test_pots_of_five_say_what_they_are_worth(person: Person) -> None:
    where = started(person, "Olea europaea", "Covered or open")
    person.go(f"{where}/design")
    person.fill("cuttings_per_unit", "5")
    person.fill("cuttings_per_arm", "40")
    person.fill("assumed_icc", "0.25")
    says(person, "40 cuttings 5 to a container are worth 20 standing alone")
    assert "8 replicates, not 40" in margin(person)


def test_a_season_of_one_wave_each_is_told_what_it_can_not_show(person: Person) -> None:
    where = started(person, "Olea europaea", "Spring or late summer")
    says(person, "can't be told apart from that particular week")
    person.go(f"{where}/design")
    says(person, "no waves belong to its levels")
    person.fill("waves", "2")
    person.click("Save the design")
    person.wait_for("//select[@name='wave_2_season']")
    for n, season in ((1, "spring"), (2, "late summer")):
        person.find(f"//select[@name='wave_{n}_season']/option[.='{season}']").click()
    says(person, "4 of each season are the least")
    says(person, "The smallest p they can reach is 1")


def test_unequal_containers_stand_on_one_bench_and_travel_along(person: Person) -> None:
    where = started(person, "Olea europaea", "Inert or fed")
    person.go(f"{where}/design")
    person.find("//summary[contains(., 'Arms that stand in something else')]").click()
    person.find("//select[@name='own_B_shape']/option[.='jar']").click()
    person.fill("own_B_per_unit", "8")
    person.fill("own_B_units", "3")
    person.wait_until(lambda: len(person.all("#as-typed figure")) == 4)
    says(person, "can't be told from container")


def test_a_redraw_needs_a_reason_and_an_amendment_says_the_difference(person: Person) -> None:
    where = started(person, "Melaleuca alternifolia", "Wounded or not")
    person.go(f"{where}/design")
    person.click("Draw the bench")
    person.click("Redraw")
    person.wait_for("//div[@id='problem']//p[contains(., 'reason')]")
    person.fill("reason", "the bench was moved")
    person.click("Redraw")
    person.wait_until(lambda: "the bench was moved" in margin(person))
    person.find("[name='layer'][value='code']").click()
    person.wait_until(
        lambda: person.find("#bench .on-code").is_displayed() and not person.find("#bench .on-arm").is_displayed()
    )
    person.click("Lock the plan")
    person.wait_for("//button[contains(., 'All stands ready')]")
    person.go(f"{where}/design")
    person.find("//select[@name='kind']/option[.='another endpoint day']").click()
    person.find("#amendments [name='what']").send_keys("49")
    person.find("#amendments [name='reason']").send_keys("slow this year")
    person.click("Record the amendment")
    person.wait_for("//section[@id='amendments']//p[contains(., 'endpoint day 42, now 49')]")


def test_blocks_are_plants_and_a_unit_goes_elsewhere_by_keys(person: Person) -> None:
    """Two stock plants as blocks, each with its own pieces; the draw is looked at by donor, and one unit moved from the keyboard."""
    where = started(person, "Lavandula angustifolia", "Hormone or none")
    person.go(f"{where}/design")
    person.find("//summary[contains(., 'The layout by hand')]").click()
    person.find("//select[@name='layout']/option[.='randomised complete blocks']").click()
    person.fill("blocks", "2")
    person.fill("cuttings_per_arm", "8")
    person.find("//select[@name='blocks_are']/option[.='stock plants']").click()
    person.fill("block_names", "L1\nL2")
    person.fill("pieces", "L1, A, 8\nL2, A, 9")
    person.click("Draw the bench")
    person.wait_for("//summary[contains(., 'Even over the arms: block, donor')]")
    person.find("[name='layer'][value='donor']").click()
    person.wait_until(lambda: {t.text for t in person.all("#bench .on-donor")} == {"L1", "L2"})
    person.find("#bench .map a").send_keys(Keys.ENTER)
    person.wait_for("//*[@id='move']//p[contains(., 'Choose its new place')]")
    person.all("#bench .map a")[5].send_keys(Keys.ENTER)
    person.wait_for("//*[@id='move']//button[.='Move it']")
    person.fill("why", "a cold corner")
    person.click("Move it")
    person.wait_until(lambda: "a cold corner" in margin(person))
    person.click("Lock the plan")
    person.wait_for("//h2[.='Pick list']")
