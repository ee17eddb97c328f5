"""A trial carried to another lab in its zip, in the browser: what it says there is what it said here."""

from __future__ import annotations

import base64
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
from sqlalchemy.orm import Session
from werkzeug.serving import make_server

from orderly_bench.app import create_app
from orderly_bench.database.engine import make_engine
from orderly_bench.database.migrate import migrate
from orderly_bench.trial.models import Lab
from tests.browser.conftest import Person, of_demo
from tests.conftest import database_url, emptied
from tests.factories import create_person
from tests.web.conftest import folder_of_photos

pytestmark = pytest.mark.browser
#: Gives a file that the page's own session may read, as text.
FETCH = """
const done = arguments[arguments.length - 1];
fetch(arguments[0]).then((r) => r.blob()).then((blob) => {
  const reader = new FileReader();
  reader.onload = () => done(reader.result.split(",")[1]);
  reader.readAsDataURL(blob);
}).catch((error) => done("failed: " + error));
"""


@pytest.fixture
def another_lab(driver) -> Iterator[Person]:
    """A second lab on a database of its own, with one researcher."""
    url = database_url("orderly_browser_too")
    engine = emptied(make_engine(url))
    migrate(engine)
    with Session(engine) as session:
        session.add(Lab(name="Crag Foot", time_zone="Europe/London", is_demo=True))
        create_person(session, name="Rowan")
        session.commit()
    app = create_app(
        {
            "ENGINE": engine,
            "DATABASE_URL": url,
            "SECRET_KEY": "another",
            "DEMO": True,
            "WARM": False,
            "PHOTOS": str(folder_of_photos()),
        }
    )
    server = make_server("127.0.0.1", 0, app, threaded=True)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield Person(driver, f"http://127.0.0.1:{server.server_port}")
    server.shutdown()
    engine.dispose()


def test_a_trial_goes_to_another_lab_by_its_zip(person: Person, another_lab: Person, tmp_path: Path) -> None:
    person.sign_in("Ines")
    verdict = "//main//h1 | //main//*[@class='verdict']"
    person.read(of_demo("/trials/1/compare"))
    said = person.wait_for(verdict).text
    assert said
    person.driver.set_script_timeout(60)
    taken = person.driver.execute_async_script(FETCH, of_demo("/trials/1/package.zip"))
    assert not taken.startswith("failed")
    zipped = tmp_path / "trial.zip"
    zipped.write_bytes(base64.b64decode(taken))
    there = another_lab
    there.sign_in("Rowan")
    there.go("/old-trial")
    there.find("[name='package']").send_keys(str(zipped))
    there.click("Take it in")
    there.wait_until(lambda: "/question" in there.driver.current_url)
    assert "from Tarn Head field station, there 26-01" in there.text()
    where = there.driver.current_url.removeprefix(there.address).removesuffix("/question")
    there.read(f"{where}/compare")
    assert there.wait_for(verdict).text == said
