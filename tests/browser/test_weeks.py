"""The weeks of care in the browser: what was missed, who was away and what was given up stand beside the answer."""

from __future__ import annotations

import threading
from datetime import date, datetime, time, timedelta
from pathlib import Path
from typing import Any

import pytest

from orderly_bench.trial import intake
from tests.browser.conftest import Person, of_demo, score_with_keys
from tests.browser.test_before_the_trial import started
from tests.browser.test_walks import chosen, closed, locked_and_stuck, opened

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
        text = person.read(f"{where}/{page}")
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


def log_of(day: date, days: int, light: float) -> str:
    """A maker's file of an hourly reading: light at noon, the air the same everywhere."""
    rows = ["Warm end 2", "Date Time,Temp °C,RH %,PAR µmol/m2/s,Battery V"]
    for n in range(24 * days):
        at = datetime.combine(day, time()) + timedelta(hours=n)
        rows.append(f"{at:%d/%m/%Y %H:%M},{20 + n % 5 / 10:.1f},80,{light if 8 <= at.hour < 18 else 0:.0f},3.1")
    return "\n".join(rows) + "\n"


def test_a_logger_s_file_makes_light_a_rival_of_the_medium(person: Person, tmp_path: Path) -> None:
    where = started(person, "Olea europaea", "Inert or fed")
    person.go(f"{where}/question")
    person.fill("endpoint_day", "20")
    person.fill("check_days", "")
    person.click("Save the question")
    person.wait_until(lambda: "Changed, and not saved" not in person.text())
    person.go(f"{where}/design")
    for name, value in (
        ("cuttings_per_arm", "12"),
        ("cuttings_per_unit", "2"),
        ("shape", "jar"),
        ("rows", "1"),
        ("columns", "1"),
    ):
        person.fill(name, value)
    locked_and_stuck(person, where, 20)
    arms = {}
    for number in range(1, 13):
        person.go(f"{where}/stick?tray={number}")
        arms[f"tray {number}"] = (
            "A" if ", arm A" in person.find("svg [aria-label*=', arm ']").get_attribute("aria-label") else "B"
        )
    assert sorted(arms.values()) == ["A"] * 6 + ["B"] * 6
    for n, (arm, light) in enumerate((("A", 200.0), ("B", 90.0))):
        file = tmp_path / f"log{n}.csv"
        file.write_bytes(log_of(date.today() - timedelta(days=20), 20, light).encode("cp1252"))
        person.go(f"{where}/tend")
        person.driver.execute_script("document.querySelectorAll('#conditions details').forEach(d => d.open = true)")
        person.find("#conditions [name='log']").send_keys(str(file))
        person.fill("zone", f"by the {arm} end")
        for box in person.all("#conditions [name='stood']"):
            if arms.get(box.get_attribute("value")) == arm:
                person.driver.execute_script("arguments[0].click()", box)
        form = "//*[@id='conditions']//form[.//input[@name='log']]"
        person.driver.execute_script(
            "arguments[0].click()", person.find(f"{form}//button[normalize-space(.)='Keep it']")
        )
        person.wait_until(
            lambda arm=arm: (
                f"by the {arm} end"
                in person.find("#conditions").text.lower().replace(f"the {arm.lower()} end", f"the {arm} end")
            )
        )
    assert "air from Temp °C" in person.text() and "light from PAR" in person.text()
    assert "55 % less light" in person.text() or "less light" in person.text()
    opened(person, where)
    for _ in range(24):
        score_with_keys(person, "w4")
    closed(person)
    for page in ("compare", "conclude", "report"):
        assert "less light" in person.read(f"{where}/{page}"), page


def test_a_large_log_is_stopped_midway_and_sent_again(
    person: Person, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """100,000 rows; what reads them waits in the midst until the person has stopped it."""
    first, go_on = datetime.combine(date.today() - timedelta(days=70), time()), threading.Event()
    rows = (f"{first + timedelta(minutes=i):%Y-%m-%d %H:%M},{20 + i % 7 / 10}" for i in range(100_000))
    (tmp_path / "minutes.csv").write_text("time,air_c\n" + "\n".join(rows))
    really = intake.keep_log

    def in_steps(*given: Any) -> Any:
        *sent, tick = given

        def waits(done: int, of: int) -> None:
            if done >= 40_000:
                go_on.wait(60)
            tick(done, of)

        return really(*sent, waits)

    monkeypatch.setattr(intake, "keep_log", in_steps)
    person.sign_in("Ines")
    for stopped in (True, False):
        person.go(of_demo("/trials/2/tend"))
        person.driver.execute_script("document.querySelectorAll('#conditions details').forEach(d => d.open = true)")
        person.find("#conditions [name='log']").send_keys(str(tmp_path / "minutes.csv"))
        person.fill("zone", "under the bench")
        form = "//*[@id='conditions']//form[.//input[@name='log']]"
        keep = person.find(f"{form}//button[normalize-space(.)='Keep it']")
        person.driver.execute_script("arguments[0].click()", keep)
        if stopped:
            person.wait_until(lambda: "38,000 of 100,000 rows read" in person.text())
            person.click("Stop: keep nothing of it")
            person.wait_until(lambda: "Stopped; nothing of it was kept." in person.text())
            go_on.set()
        else:
            person.wait_until(lambda: "All 100,000 rows are read" in person.text())
        person.click("Back to Tend")
        person.wait_until(lambda: "Air and light where they stand" in person.text())
        told = person.find("#conditions").text.lower()
        assert ("under the bench" in told) is not stopped
        assert ("100,000 readings" in told or "100000 readings" in told) is not stopped


def test_decimals_are_typed_with_a_comma_and_frost_with_a_minus(person: Person) -> None:
    person.sign_in("Ines")
    person.go("/weather")
    person.find("[name='day']").send_keys(f"{date.today() + timedelta(days=2):%m%d%Y}")
    low, gains = person.find("[name='low']"), person.find("[name='gains']")
    low.send_keys("-4,5")
    gains.send_keys("2,5")
    assert (low.get_attribute("value"), gains.get_attribute("value")) == ("-4,5", "2,5"), "as quick as a scanner types"
    person.click("Keep it")
    person.wait_until(lambda: "\u22124.5 °C forecast, 2.5 gained, \u22122.0 °C" in person.text())
    low = person.find("[name='low']")
    low.send_keys("4d5")
    person.wait_until(lambda: low.get_attribute("value") == "45"), "a letter is a key, no number"
