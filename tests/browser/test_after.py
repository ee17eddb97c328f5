"""Walks through what came after the first chapters: a dilution read off, a photo made smaller, a container from the shelf, plants that went."""

from __future__ import annotations

from pathlib import Path

import pytest
from PIL import Image
from selenium.webdriver import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.conftest import DESK, PHONE, Person, begun_browser, of_demo

pytestmark = pytest.mark.browser


def test_a_dilution_is_read_off_the_sheet_with_ones_own_bottle(person: Person) -> None:
    person.resize(DESK)
    person.sign_in("Ines")
    person.go(of_demo("/trials/2/prepare"))
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
    person.go(of_demo("/trials/2/photos"))
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
    person.go(of_demo("/trials/3/design"))
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
    person.go(of_demo("/trials/1/plants"))
    person.wait_until(lambda: "rooted plants stand in cells" in person.find("main").text)
    person.find("//button[normalize-space(.)='Keep it']").click()
    person.wait_until(lambda: "Potted on" in person.find("thead").text)
    assert "stand in cells" not in person.find("main").text


def test_the_last_picture_is_faint_over_the_camera(address: str, tmp_path: Path) -> None:
    """A camera that the browser makes up: the picture taken goes out as one that was chosen."""
    Image.new("RGB", (320, 240), "white").save(tmp_path / "tray.png")
    with begun_browser("", "--use-fake-device-for-media-stream", "--use-fake-ui-for-media-stream") as phone:
        person = Person(phone, address)
        person.resize(PHONE)
        person.sign_in("Tomas")
        person.go(of_demo("/trials/2/photos"))
        Select(person.find("[name='tray']")).select_by_value("1")
        assert not person.find("[data-act=camera]").is_displayed(), "there is none of this tray yet"
        person.find("[name='photo']").send_keys(str(tmp_path / "tray.png"))
        person.click("Keep the photo")
        person.wait_until(lambda: not person.find("[name='photo']").get_attribute("value"))
        Select(person.find("[name='tray']")).select_by_value("1")
        person.wait_until(lambda: person.find("[data-act=camera]").is_displayed())
        person.find("[data-act=camera]").click()
        person.wait_until(
            lambda: person.find(".camera video").is_displayed() and person.find(".camera img").is_displayed()
        )
        assert "/large.jpg" in person.find(".camera img").get_attribute("src")
        person.wait_until(lambda: phone.execute_script("return document.querySelector('.camera video').videoWidth > 0"))
        person.find("[data-act=take]").click()
        person.wait_until(lambda: "Taken. Keep the photo" in person.text())
        assert not person.find(".camera").is_displayed()
        pictures = len(person.all("figure.shot"))
        person.click("Keep the photo")
        person.wait_until(lambda: len(person.all("figure.shot")) > pictures)


def test_a_length_is_clicked_on_a_photo_and_stands_on_the_pad(person: Person, olive_check: str, tmp_path: Path) -> None:
    Image.new("RGB", (600, 400), "white").save(tmp_path / "roots.png")
    person.sign_in("Tomas")
    person.go(olive_check)
    code = person.find(".unit-code").text.replace(" ", "")
    trial = olive_check.split("/trials/")[1].split("/")[0]
    person.go(f"/trials/{trial}/photos?code={code}")
    person.find("[name='photo']").send_keys(str(tmp_path / "roots.png"))
    person.click("Keep the photo")
    person.wait_until(lambda: "measure" in person.text())
    person.find(f"//figure[.//a[contains(@href, 'code={code}')]]//a[.='measure']").click()
    photo = person.wait_for("svg[data-ruler-photo]")
    width = photo.size["width"]
    for x, y in ((-200, 100), (100, 100)):
        ActionChains(person.driver).move_to_element_with_offset(
            photo, x * width / 600, y * width / 600
        ).click().perform()
    person.fill("scale_mm", "30")
    ActionChains(person.driver).move_to_element_with_offset(photo, 0, -100 * width / 600).click().perform()
    person.wait_until(lambda: "On along the root" in person.text())
    person.driver.execute_script("document.querySelector('svg[data-ruler-photo]').focus()")
    for _ in range(10):
        ActionChains(person.driver).send_keys(Keys.ARROW_DOWN).perform()
    ActionChains(person.driver).send_keys(Keys.ENTER).perform()
    person.wait_until(lambda: "10.0 mm along 2 points" in person.text())
    person.click("Keep the length")
    person.wait_until(lambda: "2 points, scale 30 mm" in person.text())
    person.click("Score it with this as its longest root")
    person.wait_until(lambda: person.find("[name='longest_root_mm']").get_attribute("value") == "10")
    assert person.find(".unit-code").text.replace(" ", "") == code
