"""Every main page in both themes: no accessibility violation, no error, nothing from outside."""

from __future__ import annotations

import time
import urllib.request
from pathlib import Path

import pytest

from tests.browser.conftest import DESK, PHONE, Person, of_demo

pytestmark = pytest.mark.browser
AXE = (Path(__file__).parent / "lib" / "axe.min.js").read_text()
CHAPTERS = ("question", "design", "prepare", "stick", "tend", "score", "compare", "conclude")
PAGES = [
    "/account",
    "/benches",
    "/benches/1",
    "/today", "/trials", "/people", "/lab", "/parts", "/trials/1/report", *[f"/trials/1/{c}" for c in CHAPTERS],
    *[f"/trials/2/{c}" for c in CHAPTERS], "/trials/3/question", "/trials/3/design", "/trials/1/compare/more",
    "/trials/4/compare", "/trials/4/compare/more", "/genera", "/media", "/cards", "/words", "/stick-first", "/sums",
    "/containers", "/supplies", "/covers", "/zones", "/plants", "/benches", "/shelf/plants/file", "/along", "/certificate", "/old-trial", "/away", "/weather", "/together?taxon=Lavandula+angustifolia", "/what-went-wrong?seen=grey+mould+on+leaves&taxon=Olea",
    *[f"/trials/1/{page}" for page in ("hormones", "water", "photos", "plants", "cost?hour=30&minutes=2&bought=3")], "/checks/1/second",
]  # fmt: skip
RUN = "const done = arguments[0]; axe.run({preload: false, resultTypes: ['violations']}).then(r => done(r.violations.map(v => v.id + ': ' + v.nodes.slice(0, 3).map(n => n.html.slice(0, 160)).join(' | '))))"


@pytest.mark.parametrize(
    ("theme", "size"),
    [
        pytest.param("light", DESK, id="light"),
        pytest.param("dark", PHONE, id="phone, dark"),
        pytest.param("dark", DESK, id="dark", marks=pytest.mark.long),
        pytest.param("light", PHONE, id="phone, light", marks=pytest.mark.long),
    ],
)
def test_no_accessibility_violation_nothing_from_outside_and_no_error(
    person: Person, theme: str, size: tuple[int, int]
) -> None:
    person.resize(size)
    person.driver.execute_cdp_cmd(
        "Emulation.setEmulatedMedia", {"features": [{"name": "prefers-color-scheme", "value": theme}]}
    )
    person.go("/sign-in")
    person.driver.delete_all_cookies()
    found = {}
    person.driver.get_log("browser")
    for page in ["/sign-in", *PAGES]:
        if page == PAGES[0]:
            person.sign_in("Ines")
        person.go(of_demo(page))
        loaded = person.driver.execute_script("return performance.getEntriesByType('resource').map(e => e.name)")
        assert all(name.startswith(person.address) for name in loaded), f"{page} loads from outside"
        person.wait_until(lambda: all(heading.text != "Being worked out" for heading in person.all("h1")))
        person.driver.execute_script(AXE)
        violations = person.driver.execute_async_script(RUN)
        if violations:
            found[page] = violations
    assert not found
    errors = [
        entry["message"]
        for entry in person.driver.get_log("browser")
        if entry["level"] == "SEVERE" and "favicon" not in entry["message"]
    ]
    assert errors == []


def test_the_theme_is_chosen_and_kept(person: Person) -> None:
    person.sign_in("Ines")
    person.find("//button[normalize-space(.)='Dark']").click()
    person.wait_until(lambda: person.find("html").get_attribute("data-theme") == "dark")
    person.go("/trials")
    assert person.find("html").get_attribute("data-theme") == "dark"
    person.find("//button[normalize-space(.)='Light']").click()
    person.wait_until(lambda: person.find("html").get_attribute("data-theme") == "light")
    person.driver.delete_all_cookies()


@pytest.mark.parametrize("size", [DESK, PHONE], ids=["desk", "phone"])
@pytest.mark.parametrize("chapter", ["question", "design"])
def test_what_needs_doing_is_in_sight_before_the_trial(person: Person, chapter: str, size: tuple[int, int]) -> None:
    person.resize(size)
    person.sign_in("Ines")
    person.go(of_demo(f"/trials/3/{chapter}"))
    seen = person.driver.execute_script(
        "const r = document.querySelector('main .main-act').getBoundingClientRect(); return [r.top, r.bottom, innerHeight]"
    )
    assert 0 <= seen[0] and seen[1] <= seen[2] and seen[1] - seen[0] >= 44


def test_a_page_exchanged_between_finding_and_reading_is_read_anew(person: Person) -> None:
    person.sign_in("Ines")
    heading = person.find("h1")
    person.go("/trials")
    assert heading.text == "Trials"
    assert heading.get_attribute("localName") == "h1" and heading.is_displayed()


def test_an_element_that_is_gone_for_good_lets_who_waits_look_at_the_condition_again(person: Person) -> None:
    person.sign_in("Ines")
    heading = person.find("h1")
    person.driver.execute_script("document.querySelector('h1').remove()")
    looked = []

    def gone() -> bool:
        looked.append(1)
        return len(looked) > 1 or heading.text == "never"

    assert person.wait_until(gone) and len(looked) == 2


def test_pages_of_the_demo_lab_are_quick(person: Person) -> None:
    """Processor time of this process, which serves the pages: a busy machine does not blur it."""
    person.sign_in("Ines")
    cookies = "; ".join(f"{c['name']}={c['value']}" for c in person.driver.get_cookies())
    slow = {}
    for page in PAGES:
        times = []
        for _ in range(3):
            request = urllib.request.Request(person.address + of_demo(page), headers={"Cookie": cookies})
            start = time.process_time()
            with urllib.request.urlopen(request) as answer:
                assert answer.status == 200 and answer.read()
            times.append(time.process_time() - start)
        if min(times) > 0.6:
            slow[page] = min(times)
    assert not slow
