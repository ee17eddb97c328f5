"""Whole jobs in the browser, with mouse, keyboard and thumb."""

from __future__ import annotations

import io
from datetime import date

import pytest
from pypdf import PdfReader
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import PHONE, Person, of_demo, score_with_keys

pytestmark = pytest.mark.browser


def fetch(person: Person, path: str) -> bytes:
    """A download through the browser's own session."""
    script = (
        "const done = arguments[1]; fetch(arguments[0]).then(r => r.arrayBuffer())"
        ".then(b => done(Array.from(new Uint8Array(b))))"
    )
    return bytes(person.driver.execute_async_script(script, person.address + path))


def test_one_walk_from_new_trial_to_report(person: Person) -> None:
    person.sign_in("Ines")
    person.go("/trials")
    person.fill("botanical_name", "Hippophae rhamnoides")
    person.click("Start")
    person.find("//summary[contains(., 'Where the plants come from')]").click()
    person.fill("sentence", "Does sand root more sea buckthorn than pumice?")
    person.find("[aria-label='ask about medium']").click()
    person.fill("value_2_1", "sand")
    person.fill("value_2_2", "pumice")
    person.wait_for("//aside//p[contains(., '2 of medium = 2 arms')]")
    person.fill("endpoint_day", "20")
    person.find("//summary[contains(., 'Looked at on day')]").click()
    person.fill("check_days", "")
    person.click("Save the question")
    trial = person.driver.current_url.split("/")[-2]
    person.click("Keep the prediction")
    person.wait_for("//summary[contains(., 'Predict again')]")
    person.go(f"/trials/{trial}/design")
    person.fill("cuttings_per_arm", "3")
    person.wait_for("//aside//p[contains(., 'No outcome could convince')]")
    person.fill("cuttings_per_arm", "8")
    person.wait_until(lambda: "No outcome" not in person.find("#margin").text)
    person.click("Draw the bench")
    person.wait_until(lambda: len(person.all("#bench .map g[transform] rect")) == 32)
    person.click("Lock the plan")
    person.click("All stands ready")
    person.find("summary").click() if not person.find("[name='day']").is_displayed() else None
    stuck = (date.today().toordinal()) - 20
    person.fill("day", date.fromordinal(stuck).isoformat())
    person.click("Set day 0")
    person.click("Tray 1: all stuck")
    person.click("Finish sticking")
    assert "Endpoint check, day 20" in person.text()
    person.go(f"/trials/{trial}/score")
    person.click("Open the check")
    for i in range(16):
        score_with_keys(person, "w5" if i % 2 else "wn")
    person.wait_for("//h2[contains(., 'Every cutting is accounted for')]")
    person.click("Close the check")
    person.wait_for("//h1[contains(., 'of 8')]")
    person.go(f"/trials/{trial}/conclude")
    person.find("//label[contains(., 'repeat')]").click()
    person.fill("text", "Sand is better.")
    person.wait_for("//div[@id='doubts']//h2 | //div[@id='doubts']//p")
    person.click("Keep the conclusion")
    pdf = PdfReader(io.BytesIO(fetch(person, f"/trials/{trial}/report.pdf")))
    words = " ".join(" ".join(page.extract_text() for page in pdf.pages).split())
    assert "Does sand root more sea buckthorn than pumice?" in words and "Sand is better." in words
    assert fetch(person, f"/trials/{trial}/endpoint.csv").decode().count("\n") == 17


def test_scoring_by_keyboard_keeps_takes_back_and_keeps_on_trouble(person: Person, olive_check: str) -> None:
    person.sign_in("Tomas")
    person.go(olive_check)
    first = person.find(".unit-code").text
    # Another test may have scored here, in any order.
    before, scope = (
        int(person.find("#live-margin").text.split(each)[0].split()[-1]) for each in (" seen", " in scope")
    )
    score_with_keys(person, "q7")
    now = person.find("#live-margin").text
    assert "7 roots" in now and f"{before + 1} seen" in now
    score_with_keys(person, "rk" + "nb")
    assert f" {scope} in scope" in person.text()
    person.press("z")
    person.wait_until(lambda: f" {before + 1} seen" in person.find("#live-margin").text)
    person.press("q")
    person.press(Keys.ENTER)
    person.wait_for("//div[@id='problem']//p[contains(., 'a blank would be a guess')]")
    assert person.find("[name='top'][value='fresh']").is_selected()
    person.press("u")
    person.press(Keys.ENTER)
    person.wait_until(lambda: f" {before + 2} seen" in person.find("#live-margin").text)
    assert person.find("#problem").text == ""
    person.press("?")
    assert person.find("#keys-help").is_displayed() and "keep, next" in person.find("#keys-help").text
    person.press(Keys.ESCAPE)
    assert first


def test_scoring_with_a_thumb_on_a_phone(person: Person, olive_check: str) -> None:
    person.resize(PHONE)
    person.sign_in("Tomas")
    person.go(olive_check)
    person.wait_for("[data-pad]")
    before = person.find("[data-pad] [name='cutting']").get_attribute("value")
    assert person.driver.execute_script("return document.documentElement.scrollWidth") == 360
    person.find("//label[contains(., 'growing')]").click()
    person.find(".numbers [data-value='6']").click()
    assert person.find("[name='root_number']").get_attribute("value") == "6"
    assert person.find("[name='roots'][value='counted']").is_selected()
    person.find(".keep-bar .main-act").click()
    person.wait_until(lambda: person.find("[data-pad] [name='cutting']").get_attribute("value") != before)
    small = [
        k.text
        for k in person.all(".key, .keep-bar .button")
        if k.is_displayed() and (k.size["height"] < 47.5 or k.size["width"] < 44)
    ]
    assert small == []


@pytest.mark.parametrize("path", ["/today", "/trials/2/stick", "/trials/2/tend", "/trials/1/compare"])
def test_phone_width_does_not_scroll_sideways(person: Person, path: str) -> None:
    person.resize(PHONE)
    person.sign_in("Tomas")
    person.go(of_demo(path))
    assert person.driver.execute_script("return document.documentElement.scrollWidth") == 360


def test_a_half_typed_form_survives_a_closed_tab(person: Person) -> None:
    person.sign_in("Ines")
    person.go(of_demo("/trials/3/question"))
    person.find("//summary[contains(., 'Plants from') or contains(., 'Where the plants')]").click()
    person.fill("why", "Heels take three minutes each.")
    person.go("/today")
    person.go(of_demo("/trials/3/question"))
    person.click("Put it back")
    assert person.find("[name='why']").get_attribute("value") == "Heels take three minutes each."


def test_a_note_from_the_pad_is_of_the_cutting_that_is_up(person: Person, olive_check: str) -> None:
    person.sign_in("Tomas")
    person.go(olive_check)
    code = person.find("#pad-code .unit-code").text.split("-")[0]
    person.click("Write a note")
    person.wait_until(lambda: person.find("[name='note_code']").get_attribute("value") == code)


def test_a_care_job_is_done_with_one_key_and_taken_back(person: Person) -> None:
    person.sign_in("Tomas")
    person.press("j")
    person.press("d")
    person.wait_for("//li[contains(@class, 'done')]")
    person.find("//li[contains(@class, 'done')]//button").click()
    person.wait_until(lambda: person.find_or_none("//li[contains(@class, 'done')]") is None)


def test_a_class_of_roots_stands_for_the_number_and_never_beside_it(person: Person, olive_check: str) -> None:
    person.sign_in("Tomas")
    person.go(olive_check)
    person.wait_for("[data-pad]")
    person.find("[data-pad] details summary").click()
    person.find("[name='root_number']").send_keys("7")
    # the bar with *keep* stays in sight at the foot, and may lie over what is there
    person.driver.execute_script("document.querySelector('[name=root_class]').scrollIntoView({block: 'center'})")
    person.find("//label[.//input[@name='root_class' and @value='5-9']]").click()
    assert person.find("[name='root_number']").get_attribute("value") == ""
    assert person.find("[name='roots'][value='counted']").is_selected()
    person.find("[name='root_number']").send_keys("12")
    assert person.find("[name='root_class'][value='']").is_selected()
    person.driver.execute_script("document.querySelector('[name=root_class]').scrollIntoView({block: 'center'})")
    person.find("//label[.//input[@name='root_class' and @value='10+']]").click()
    person.driver.execute_script("document.querySelector('[name=quality]').scrollIntoView({block: 'center'})")
    person.find("//label[.//input[@name='quality' and @value='4']]").click()
    before = person.find("[data-pad] [name='cutting']").get_attribute("value")
    person.find(".keep-bar .main-act").click()
    person.wait_until(lambda: person.find("[data-pad] [name='cutting']").get_attribute("value") != before)
    assert "10+ roots" in person.find("#live-margin").text


def test_grades_and_classes_have_keys_and_digits_go_back_to_the_number(person: Person, olive_check: str) -> None:
    person.sign_in("Tomas")
    person.go(olive_check)

    def chosen(name: str) -> str | None:
        return person.driver.execute_script(f"return (document.querySelector('[name={name}]:checked') || {{}}).value")

    person.press("s4")
    person.wait_until(lambda: chosen("quality") == "4")
    person.press("f2")
    person.wait_until(lambda: chosen("foliage") == "2")
    person.press(".3")
    person.wait_until(lambda: chosen("root_class") == "10+" and chosen("roots") == "counted")
    person.press("9")
    person.wait_until(
        lambda: person.find("[name='root_number']").get_attribute("value") == "9" and chosen("root_class") == ""
    )
    person.press(".1")
    person.wait_until(
        lambda: chosen("root_class") == "1-4" and person.find("[name='root_number']").get_attribute("value") == ""
    )
    assert (chosen("quality"), chosen("foliage")) == ("4", "2")


def test_a_tray_is_moved_on_the_bench_by_keys_and_by_dragging(person: Person) -> None:
    from selenium.webdriver.common.action_chains import ActionChains

    person.sign_in("Ines")
    person.go("/benches?named=Heated bench")
    tray = person.find("[data-tray]")
    person.driver.execute_script("arguments[0].focus()", tray)
    for key in (Keys.ARROW_DOWN, Keys.ARROW_DOWN, Keys.ARROW_DOWN):
        person.press(key)
    assert person.find("[name='y_cm']").get_attribute("value") == "3"
    ActionChains(person.driver).drag_and_drop_by_offset(tray, 0, 60).perform()
    dragged = int(person.find("[name='y_cm']").get_attribute("value"))
    assert 5 < dragged < 60 and person.driver.switch_to.active_element.get_attribute("name") == "why"
    person.press("clear of the drip")
    person.click("Move it")
    person.wait_for("//p[contains(., 'clear of the drip')]")
    label = person.find("[data-tray][aria-label*='tray 1,']").get_attribute("aria-label")
    assert f"{dragged} cm across" in label
