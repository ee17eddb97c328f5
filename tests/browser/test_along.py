"""A check taken along opens on its device without a network, also after the page was closed, and comes back whole."""

from __future__ import annotations

import contextlib
import shutil
import ssl
import subprocess
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

import pytest
from selenium import webdriver
from selenium.common.exceptions import WebDriverException
from sqlalchemy import text

from orderly_bench.cli import certificate
from orderly_bench.database.engine import make_engine
from tests.browser.conftest import PHONE, Person, begun_browser
from tests.browser.test_offline import WAITING, keep, scores
from tests.browser.wire import Wire
from tests.conftest import database_url

pytestmark = pytest.mark.browser


def out() -> int:
    """Devices that have a check along."""
    engine = make_engine(database_url("orderly_browser"))
    with engine.connect() as connection:
        n = connection.scalar(text("select count(*) from taken_along where back_at is null and released = ''"))
    engine.dispose()
    return int(n or 0)


def unfolded(person: Person) -> None:
    person.find("[data-along]")
    person.driver.execute_script("document.querySelector('[data-along]').closest('details').open = true")


@pytest.fixture
def wire(address: str) -> Iterator[Wire]:
    made = Wire(int(address.rsplit(":", 1)[1]))
    yield made
    made.close()


def test_a_check_is_taken_along_scored_without_a_network_and_brought_back(
    driver: webdriver.Chrome, wire: Wire, olive_check: str
) -> None:
    person = Person(driver, wire.address)
    person.resize(PHONE)
    person.sign_in("Tomas")
    person.go(olive_check)
    before, number = scores(), olive_check.split("check=")[1].split("&")[0]
    unfolded(person)
    person.find("[data-along] [data-act=take]").click()
    person.wait_until(lambda: "On this device" in person.find("[data-said]").text)
    assert out() == 1
    person.go(f"/checks/{number}/along")
    wire.cut()
    first = keep(person, "21")
    # The page is closed and opened again, the battery was dead: still no network.
    person.driver.get("about:blank")
    person.go(f"/checks/{number}/along")
    person.wait_until(lambda: "1 score is on this device" in person.find("#queue").text)
    assert person.find(".unit-code").text != first, "what waits here is not asked for again"
    second = keep(person, "22")
    assert second != first and person.driver.execute_script(WAITING) == 2 and scores() == before
    # Any page that is not kept leads to what is.
    person.driver.get("about:blank")
    person.go("/today")
    person.wait_until(lambda: "On this device" in person.find("h1").text)
    person.find("[data-along] [data-list] a").click()
    person.wait_until(lambda: "2 scores are on this device" in person.find("#queue").text)
    unfolded(person)
    person.find("[data-along] [data-act=back]").click()
    person.wait_until(lambda: "2 on this device are not sent" in person.find("[data-said]").text)
    wire.mend()
    person.wait_until(lambda: person.driver.execute_script(WAITING) == 0)
    assert [n for _, n in scores()[len(before) :]] == [21, 22]
    person.go(f"/checks/{number}/along")
    unfolded(person)
    person.find("[data-along] [data-act=back]").click()
    person.wait_until(lambda: "Brought back" in person.find("[data-said]").text)
    assert out() == 0
    wire.cut()
    person.go(f"/checks/{number}/along")
    person.wait_until(lambda: "Nothing is taken along" in person.find("main").text)


def test_a_phone_that_installed_the_authority_may_keep_pages_and_one_that_did_not_may_not(
    address: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Over TLS with the lab's own authority in the browser's store; no certificate error is passed over."""
    certificate.make(tmp_path / "tls", "localhost", datetime.now(UTC))
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.load_cert_chain(tmp_path / "tls" / "cert.pem", tmp_path / "tls" / "key.pem")
    wire = Wire(int(address.rsplit(":", 1)[1]), context)
    monkeypatch.setenv("HOME", str(tmp_path))
    store, certutil = f"sql:{tmp_path / '.pki' / 'nssdb'}", shutil.which("certutil")
    assert certutil, "run the tests with ./bench test, which installs it"
    (tmp_path / ".pki" / "nssdb").mkdir(parents=True)
    subprocess.run([certutil, "-N", "-d", store, "--empty-password"], check=True)
    there = wire.address.replace("http://127.0.0.1", "https://localhost") + "/sign-in"
    try:
        with begun_browser() as stranger:
            with contextlib.suppress(WebDriverException):
                stranger.get(there)
            assert "ERR_CERT_AUTHORITY_INVALID" in stranger.page_source, stranger.title
        authority = str(tmp_path / "tls" / "authority.pem")
        subprocess.run([certutil, "-A", "-d", store, "-n", "lab", "-t", "C,,", "-i", authority], check=True)
        with begun_browser() as phone:
            phone.get(there)
            registered = phone.execute_async_script(
                "const done = arguments[0]; navigator.serviceWorker.register('/worker.js').then(() => navigator.serviceWorker.ready).then(() => done('kept'), (why) => done(String(why)))"
            )
            assert "Orderly Bench" in phone.title and registered == "kept"
    finally:
        wire.close()
