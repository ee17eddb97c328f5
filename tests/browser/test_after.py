"""Walks through what came after the first chapters: a dilution read off, a photo made smaller, a container from the shelf, plants that went."""

from __future__ import annotations

from pathlib import Path

import pytest
from PIL import Image
from selenium.webdriver.support.ui import Select

from tests.browser.conftest import DESK, PHONE, Person

pytestmark = pytest.mark.browser


def test_a_dilution_is_read_off_the_sheet_with_ones_own_bottle(person: Person) -> None:
    person.resize(DESK)
    person.sign_in("Ines")
    person.go("/trials/2/prepare")
    person.find("//a[normalize-space(.)='Hormone sheet']").click()
    person.wait_until(lambda: "Hormone sheet" in person.find("h1").text)
    person.find("summary").click()
    strength = person.find("[name=ppm]")
    strength.clear()
    strength.send_keys("8000")
    person.find("//button[normalize-space(.)='Work it out']").click()
    person.wait_until(lambda: "ppm=8000" in person.driver.current_url)
    drawn = person.find("section.dish .max-w-xl svg").get_attribute("aria-label")
    assert drawn == "5 mL from the bottle of 8000 ppm, filled up with 15 mL: IBA 2000 ppm"


@pytest.mark.parametrize("size", [DESK, PHONE], ids=["desk", "phone"])
def test_a_photo_is_made_smaller_before_it_is_sent_and_kept(
    person: Person, tmp_path: Path, size: tuple[int, int]
) -> None:
    taken = tmp_path / "IMG_1.jpg"
    Image.effect_noise((3000, 2400), 60).convert("RGB").save(taken, quality=97)
    person.resize(size)
    person.sign_in("Ines")
    person.go("/trials/2/photos")
    before = len(person.driver.find_elements("css selector", ".shot"))
    person.find("input[data-photo]").send_keys(str(taken))
    sent = "return document.querySelector('input[data-photo]').files[0].size"
    person.wait_until(lambda: person.driver.execute_script(sent) < taken.stat().st_size / 1.5)
    person.find("//button[normalize-space(.)='Keep the photo']").click()
    person.wait_until(lambda: len(person.driver.find_elements("css selector", ".shot")) == before + 1)
    width = "return (i => i.complete && i.naturalWidth)(document.querySelector('.shot img'))"
    assert person.wait_until(lambda: person.driver.execute_script(width)) == 240


def test_a_container_from_the_shelf_fills_the_design(person: Person) -> None:
    person.resize(DESK)
    person.sign_in("Ines")
    person.go("/trials/3/design")
    person.driver.execute_script("document.querySelectorAll('details').forEach(d => d.open = true)")
    Select(person.driver.find_element("css selector", "select[data-fills]")).select_by_visible_text("9 cm pot, clear")
    values = {
        name: person.find(f"[name={name}]").get_attribute("value")
        for name in ("shape", "volume_ml", "wall", "outline", "drained")
    }
    assert values == {"shape": "pot", "volume_ml": "400", "wall": "clear", "outline": "round", "drained": "yes"}


def test_plants_are_potted_on_and_their_room_is_known(person: Person) -> None:
    person.resize(DESK)
    person.sign_in("Ines")
    person.go("/trials/1/plants")
    person.wait_until(lambda: "rooted plants stand in cells" in person.find("main").text)
    person.find("//button[normalize-space(.)='Keep it']").click()
    person.wait_until(lambda: "Potted on" in person.find("thead").text)
    assert "stand in cells" not in person.find("main").text
