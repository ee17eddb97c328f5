"""A real browser against the application on its own database with the demo lab."""

from __future__ import annotations

import contextlib
import re
import shutil
import tempfile
import threading
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from selenium import webdriver
from selenium.common.exceptions import (
    NoSuchElementException,
    StaleElementReferenceException,
    TimeoutException,
    WebDriverException,
)
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait
from sqlalchemy import select
from sqlalchemy.orm import Session
from werkzeug.serving import make_server

from orderly_bench.app import create_app
from orderly_bench.database.engine import make_engine
from orderly_bench.database.migrate import migrate
from orderly_bench.demo.tarn_head import load_demo
from orderly_bench.stock.models import StockBench
from orderly_bench.trial.models import CheckVisit, Trial
from tests.conftest import database_url, emptied
from tests.web.conftest import folder_of_photos

FLAGS = (
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--hide-scrollbars",
)  # fmt: skip
#: Ids of the demo lab, in order.
DEMO: dict[str, list[int]] = {}
DESK, PHONE = (1280, 800), (360, 740)


@pytest.fixture(scope="session")
def address() -> Iterator[str]:
    """The demo lab, served from a thread."""
    url = database_url("orderly_browser")
    engine = emptied(make_engine(url))
    migrate(engine)
    with Session(engine) as session:
        load_demo(session)
        session.commit()
        for name, numbers in (("trials", Trial.id), ("benches", StockBench.id), ("checks", CheckVisit.id)):
            DEMO[name] = sorted(session.scalars(select(numbers)))
    app = create_app(
        {
            "ENGINE": engine,
            "DATABASE_URL": url,
            "SECRET_KEY": "browser tests",
            "DEMO": True,
            "DEVELOPMENT": True,
            "WARM": False,
            "PHOTOS": str(folder_of_photos()),
        }
    )
    server = make_server("127.0.0.1", 0, app, threaded=True)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()
    thread.join()
    engine.dispose()


def of_demo(path: str) -> str:
    """A path in which trials, benches and checks of the demo lab are counted, with their own ids: those of a cluster do not follow each other."""
    return re.sub(r"/(trials|benches|checks)/(\d+)", lambda at: f"/{at[1]}/{DEMO[at[1]][int(at[2]) - 1]}", path)


class Browser(webdriver.Chrome):
    """The driver. An element whose page has just gone is stale, in whichever words the driver says it."""

    def execute(self, driver_command: str, params: dict[str, Any] | None = None) -> dict[str, Any]:
        try:
            return super().execute(driver_command, params)
        except WebDriverException as error:
            if "does not belong to the document" in str(error.msg):
                raise StaleElementReferenceException(error.msg) from error
            raise


class Found(WebElement):
    """An element that is looked for again when its page was exchanged between finding and using it."""

    def __init__(self, element: WebElement, again: Callable[[], WebElement | None]) -> None:
        super().__init__(element.parent, element.id)
        self._again = again

    def _retried(self, use: Callable[[], Any]) -> Any:
        try:
            return use()
        except StaleElementReferenceException as gone:
            try:
                self._id = WebDriverWait(self.parent, 10, poll_frequency=0.1).until(lambda _driver: self._again()).id
            except TimeoutException:
                raise gone from None  # gone for good: who waits for a condition looks at it again
            return use()

    def _execute(self, command: str, params: dict[str, Any] | None = None) -> Any:
        return self._retried(lambda: super(Found, self)._execute(command, params))

    def get_attribute(self, name: str) -> str | None:
        return self._retried(lambda: super(Found, self).get_attribute(name))

    def is_displayed(self) -> bool:
        return self._retried(lambda: super(Found, self).is_displayed())


#: A click that lands beside its button, for something moved, is made once more.
HEARD = "window.heard = false; arguments[0].addEventListener('click', () => { window.heard = true; }, {once: true, capture: true})"


class Person:
    """Someone at the browser."""

    def __init__(self, driver: webdriver.Chrome, address: str) -> None:
        self.driver, self.address = driver, address

    def resize(self, size: tuple[int, int]) -> None:
        width, height = size
        self.driver.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride",
            {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": width < 500},
        )

    def sign_in(self, name: str) -> None:
        self.driver.delete_all_cookies()
        self.go("/sign-in")
        self.find(f"//button[contains(., '{name}')]").click()
        self.wait_for("//h1[contains(., 'Today')]")

    def go(self, path: str) -> None:
        """Open a page; where the answer to a form sent just before took its place, open it once more."""
        for _ in range(2):
            self.driver.get(self.address + path)
            if self.driver.current_url.removeprefix(self.address).startswith(path):
                return

    def read(self, path: str) -> str:
        """A page's words; where its results are still worked out it comes by itself once they are there."""
        self.go(path)
        self.wait_until(lambda: "They are done once and kept" not in self.text(), seconds=120)
        return self.text()

    def find(self, path: str):
        """An element; a page that is still coming is waited for."""
        try:
            return WebDriverWait(
                self.driver, 10, poll_frequency=0.1, ignored_exceptions=(StaleElementReferenceException,)
            ).until(lambda _driver: self.find_or_none(path))
        except TimeoutException:
            raise NoSuchElementException(path) from None

    def all(self, selector: str):
        return self.driver.find_elements(By.CSS_SELECTOR, selector)

    def wait_for(self, path: str):
        return self.wait_until(lambda: self.find_or_none(path))

    def wait_until(self, condition, seconds: int = 40):
        """Wait for a condition and give what it found; a part exchanged while looking is looked at again."""
        return WebDriverWait(
            self.driver,
            seconds,
            poll_frequency=0.05,
            ignored_exceptions=(StaleElementReferenceException, NoSuchElementException),
        ).until(lambda _driver: condition())

    def find_or_none(self, path: str):
        by = By.XPATH if path.startswith(("/", "(")) else By.CSS_SELECTOR
        found = self.driver.find_elements(by, path)
        return Found(found[0], lambda: self.find_or_none(path)) if found else None

    def fill(self, name: str, value: str) -> None:
        def filled() -> bool:
            field = self.find(f"[name='{name}']")
            self.driver.execute_script(
                "arguments[0].value = arguments[1]; arguments[0].dispatchEvent(new Event('input', {bubbles: true}))",
                field,
                value,
            )
            return True

        self.wait_until(filled)

    def click(self, text: str) -> None:
        path = f"//main//button[contains(normalize-space(.), '{text}')] | //main//a[contains(normalize-space(.), '{text}')]"

        def clicked() -> bool:
            button = self.find(path)
            # On a page that is still coming the button may move away from under the click.
            script = "arguments[0].scrollIntoView({block: 'center'}); return document.readyState === 'complete'"
            if not self.driver.execute_script(script, button):
                return False
            self.driver.execute_script(HEARD, button)
            button.click()
            return bool(self.driver.execute_script("return window.heard !== false"))

        self.wait_until(clicked)

    def click_through(self, text: str) -> None:
        """Click what brings a page, and wait until that one is there: the one before may have the same parts."""
        self.driver.execute_script("window.before = true")
        self.click(text)
        self.wait_until(
            lambda: self.driver.execute_script("return !window.before && document.readyState === 'complete'")
        )

    def press(self, keys: str) -> None:
        from selenium.webdriver.common.action_chains import ActionChains

        ActionChains(self.driver).send_keys(keys).perform()

    def text(self) -> str:
        return self.wait_until(lambda: " ".join(self.find("body").text.split()))


@contextlib.contextmanager
def begun_browser(profile: str = "", *flags: str) -> Iterator[webdriver.Chrome]:
    """A browser of its own; with a profile it keeps what it holds there."""
    binary, service = shutil.which("chromium"), shutil.which("chromedriver")
    assert binary and service, "run the tests with ./bench test, which installs the browser"
    own = profile or tempfile.mkdtemp(prefix="bench-browser-")
    options = webdriver.ChromeOptions()
    options.binary_location = binary
    for flag in (*FLAGS, *flags, f"--user-data-dir={own}", "--window-size=1280,800"):
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    made = Browser(options=options, service=webdriver.ChromeService(service))
    try:
        yield made
    finally:
        made.quit()
        if not profile:
            shutil.rmtree(Path(own), ignore_errors=True)


@pytest.fixture(scope="session")
def driver() -> Iterator[webdriver.Chrome]:
    with begun_browser() as made:
        yield made


@pytest.fixture
def person(driver: webdriver.Chrome, address: str) -> Person:
    made = Person(driver, address)
    made.resize(DESK)
    driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": []})
    return made


def score_with_keys(person: Person, keys: str) -> None:
    """Enter one score by keyboard and wait for the next cutting."""
    before = person.find("[data-pad] [name='cutting']").get_attribute("value")
    person.press(keys)
    person.press(Keys.ENTER)
    person.wait_until(
        lambda: (f := person.find_or_none("[data-pad] [name='cutting']")) is None or f.get_attribute("value") != before
    )


@pytest.fixture(scope="session")
def olive_check(driver, address: str) -> str:
    """Opens the demo's due check once, through the page; whatever walks come after it score in it."""
    ines = Person(driver, address)
    ines.resize(DESK)
    ines.sign_in("Ines")
    ines.press("o")
    ines.wait_for("//h1[contains(., 'Score')]")
    ines.click("Open the check")
    ines.wait_for("[data-pad]")
    return ines.driver.current_url.removeprefix(address)
