"""What waits on a device goes into a file, from which a researcher brings it in; and an entry that is no score outlives what a score does."""

from __future__ import annotations

import json
import os
import signal
from pathlib import Path
from typing import Any

import pytest
from PIL import Image

from tests.browser.conftest import Person, begun_browser
from tests.browser.test_offline import EMPTIED, WAITING, keep, scores
from tests.browser.test_waiting import rows, stuck, wired  # noqa: F401 - a fixture
from tests.browser.wire import Wire

pytestmark = pytest.mark.browser
FULL = "outbox.add = () => Promise.reject(new DOMException('full', 'QuotaExceededError'))"


def lost(person: Person, wire: Wire, folder: Path, n: int) -> Path:
    """Of ``n`` entries that wait without a network: saved as a file, and then the device is lost."""
    person.wait_until(lambda: person.driver.execute_script(WAITING) == n)
    person.driver.execute_cdp_cmd("Browser.setDownloadBehavior", {"behavior": "allow", "downloadPath": str(folder)})
    person.find("//*[@id='queue']//button[contains(., 'Save all')]").click()
    file = folder / "waits-on-this-device.json"
    person.wait_until(lambda: file.exists() and file.stat().st_size > 0)
    person.driver.execute_async_script(EMPTIED)
    wire.mend()
    return file


def brought(person: Person, file: Path) -> str:
    """The file is read in by a researcher; what is said of it."""
    person.sign_in("Ines")
    person.go("/along")
    person.driver.execute_script("document.querySelectorAll('main details').forEach((one) => { one.open = true; })")
    person.find("[data-queue-file]").send_keys(str(file))
    person.wait_until(lambda: person.find("[data-brought]").text)
    said = person.find("[data-brought]").text
    person.wait_until(lambda: person.driver.execute_script(WAITING) == 0)
    return said


def test_notes_and_incidents_of_a_lost_device_come_in_once(wired: tuple[Person, Wire], tmp_path: Path) -> None:  # noqa: F811
    person, wire = wired
    where = stuck(person, 7)
    trial = int(where.rsplit("/", 1)[1])
    person.sign_in("Tomas")
    person.go(f"{where}/tend")
    wire.cut()
    person.fill("note_text", "mould on tray 1")
    person.click("Keep the note")
    person.wait_until(lambda: person.driver.execute_script(WAITING) == 1)
    person.find("//input[@name='where'][@value='all']").click()
    person.click("Record the incident")
    file = lost(person, wire, tmp_path, 2)
    assert json.loads(file.read_text())["of"].startswith("Tomas")
    for _ in range(2):
        assert "2 from the file" in brought(person, file)
        assert rows("select text from note where trial_id = :trial", trial=trial) == [("mould on tray 1",)]
        assert rows("select count(*) from incident where trial_id = :trial", trial=trial) == [(1,)]


def test_a_photo_of_a_lost_device_comes_in_whole(wired: tuple[Person, Wire], tmp_path: Path) -> None:  # noqa: F811
    person, wire = wired
    where = stuck(person, 7)
    trial = int(where.rsplit("/", 1)[1])
    Image.new("RGB", (320, 240), "green").save(tmp_path / "tray.jpg")
    person.go(f"{where}/photos")
    wire.cut()
    person.find("[name='photo']").send_keys(str(tmp_path / "tray.jpg"))
    person.click("Keep the photo")
    assert "1 from the file" in brought(person, lost(person, wire, tmp_path, 1))
    assert rows("select width, height from photo where trial_id = :trial", trial=trial) == [(320, 240)]


def test_scores_of_someone_who_is_gone_come_in_and_say_whose(
    wired: tuple[Person, Wire],  # noqa: F811
    olive_check: str,
    tmp_path: Path,
) -> None:
    person, wire = wired
    before = scores()
    person.sign_in("Tomas")
    person.go(olive_check)
    wire.cut()
    keep(person, "21")
    keep(person, "22")
    file = lost(person, wire, tmp_path, 2)
    brought(person, file)
    assert [number for _, number in scores()[len(before) :]] == [21, 22]
    told = rows("select reason from score order by id desc limit 2")
    assert all(reason.startswith("entered by Tomas") for (reason,) in told)
    brought(person, file)
    assert len(scores()) == len(before) + 2, "what came already is not written again"


@pytest.mark.parametrize("url", ["/people/1/role", "/trials/1/lock", "https://elsewhere.example/checks/1/scores", "/checks/1/close"])  # fmt: skip
def test_a_file_can_ask_for_nothing_but_what_waits(wired: tuple[Person, Wire], tmp_path: Path, url: str) -> None:  # noqa: F811
    person, _ = wired
    entry: dict[str, Any] = {"kind": "form", "url": url, "words": "a note", "entries": [["role", "lead"]]}
    file = tmp_path / "made.json"
    file.write_text(json.dumps({"form": "orderly-bench outbox 1", "of": "Nobody", "entries": [entry]}))
    assert "Nothing was taken from it" in brought(person, file)


def test_a_note_outlives_a_dead_battery_a_closed_tab_and_a_session(
    wired: tuple[Person, Wire],  # noqa: F811
    address: str,
    tmp_path: Path,
) -> None:
    person, wire = wired
    where = stuck(person, 7)
    trial = int(where.rsplit("/", 1)[1])
    with begun_browser(str(tmp_path)) as first:
        other = Person(first, wire.address)
        other.sign_in("Ines")
        other.go(f"{where}/tend")
        wire.cut()
        other.fill("note_text", "the lamp is out")
        other.click("Keep the note")
        other.wait_until(lambda: other.driver.execute_script(WAITING) == 1)
        os.kill(first.capabilities["goog:processID"], signal.SIGKILL)
    wire.mend()
    with begun_browser(str(tmp_path)) as again:
        other = Person(again, wire.address)
        other.sign_in("Ines")
        other.wait_until(lambda: other.driver.execute_script(WAITING) == 0)
    assert rows("select text from note where trial_id = :trial", trial=trial) == [("the lamp is out",)]


def test_a_full_device_says_so_of_a_note_too_and_the_note_stays_typed(wired: tuple[Person, Wire]) -> None:  # noqa: F811
    person, wire = wired
    where = stuck(person, 7)
    person.go(f"{where}/tend")
    person.driver.execute_script(FULL)
    wire.cut()
    person.fill("note_text", "the fan stands still")
    person.click("Keep the note")
    person.wait_until(lambda: "This device keeps nothing more" in person.find("#problem").text)
    assert person.find("[name='note_text']").get_attribute("value") == "the fan stands still"
    assert person.driver.execute_script(WAITING) == 0


def test_a_session_that_ends_while_a_note_waits_asks_to_sign_in(wired: tuple[Person, Wire]) -> None:  # noqa: F811
    person, wire = wired
    where = stuck(person, 7)
    trial = int(where.rsplit("/", 1)[1])
    person.go(f"{where}/tend")
    wire.cut()
    person.fill("note_text", "a slug on tray 1")
    person.click("Keep the note")
    person.wait_until(lambda: person.driver.execute_script(WAITING) == 1)
    person.driver.delete_all_cookies()
    wire.mend()
    person.wait_until(lambda: "Sign in again" in person.find("#problem").text)
    assert rows("select count(*) from note where trial_id = :trial", trial=trial) == [(0,)]
    person.sign_in("Ines")
    person.wait_until(lambda: person.driver.execute_script(WAITING) == 0)
    assert rows("select text from note where trial_id = :trial", trial=trial) == [("a slug on tray 1",)]
