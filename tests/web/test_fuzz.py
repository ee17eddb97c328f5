"""Anything in any field of any form: an answer of 2xx to 4xx, never a fault. Seeded; what it finds it finds again."""

from __future__ import annotations

import io
import random

import pytest
from bs4 import BeautifulSoup
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy.orm import Session

from orderly_bench.chapters.people.operations import add_person
from orderly_bench.chapters.shelf.lists import LISTS
from orderly_bench.trial.models import Trial
from tests.factories import NOW, create_drawn, create_person, create_stuck, open_endpoint
from tests.web.conftest import SignIn
from tests.web.test_access import path_of, rules

ADDRESSES = 200
OTHERS = ("/trials", "/people", "/lab", "/account", "/today", "/old-trial", "/stick-first", "/weather", "/away")
PASSWORD = "long enough to keep"
NASTY = (
    "", " ", "--5", "-1", "0", "1e999", "NaN", "inf", "9" * 5_000, "5.5.5", "1,5", "two\r\nlines", "null\0byte", "\x07\x1b[31m", "🌱" * 30,
    "ä" * 300, "<script>alert(1)</script>", "'; DROP TABLE trial; --", "=HYPERLINK(1)", "2026-13-45", "0001-01-01", "9999-12-31", "on", "yes",
    "A", "medium-1|hormone-1", "|||", "%00", "../../etc/passwd", "{{ 7 * 7 }}", "\u202eright to left", "2147483648", "١٢", "½",
)  # fmt: skip


def forms_of(client: FlaskClient, trial: Trial) -> dict[str, list[dict[str, str]]]:
    """Every form that the pages offer, by the path it goes to, with what stands in it."""
    found: dict[str, list[dict[str, str]]] = {}
    pages = [
        f"/trials/{trial.id}/{page}"
        for page in ("question", "design", "prepare", "stick", "tend", "score", "compare", "conclude")
    ]
    shelf = [f"/{name}" for name in LISTS] + [f"/shelf/{name}/file" for name in LISTS]
    for page in [*pages, *shelf, *OTHERS]:
        answer = client.get(page)
        if answer.status_code != 200:
            continue
        for form in BeautifulSoup(answer.text, "html.parser").select("form"):
            values = {field["name"]: field.get("value", "") for field in form.select("[name]")}
            found.setdefault(form.get("action") or page, []).append(values)
    return found


def a_file(rng: random.Random) -> tuple[io.BytesIO, str]:
    """What may be sent as a file: nothing, letters, a table, a picture that is none, half a zip, and a name that points elsewhere."""
    content = rng.choice(
        (b"", b"\x00\xff" * 99, rng.randbytes(3_000), b"\x89PNG\r\n\x1a\n" + rng.randbytes(60), b"PK\x03\x04half", "arm;ä\n1;2".encode("latin-1"),
         b"cutting,roots\nXXXX,4\n", b"time,air_c\n2026-13-45,99\n", b'"' * 5_000, b"unit,row,column,arm\n1,1,1,A\n" * 40)
    )  # fmt: skip
    name = rng.choice(("a.csv", "../../etc/passwd", "a\0b.png", "", "x" * 300 + ".jpg", "zip.jpg", "ä.csv"))
    return io.BytesIO(content), name


def odd_requests(session: Session, app: Flask, sign_in: SignIn, seed: int, many: int) -> None:
    """So many of them; none may find a fault."""
    rng = random.Random(seed)
    lead = add_person(session, None, NOW, "Ada Wick", "ada", "lead", PASSWORD)
    stuck, drawn = create_stuck(session, lead), create_drawn(session, lead)
    open_endpoint(session, stuck, create_person(session))
    session.commit()
    client = sign_in(person=lead)
    offered = {path: forms for trial in (stuck, drawn) for path, forms in forms_of(client, trial).items()}
    known = sorted({name for forms in offered.values() for form in forms for name in form})
    ends_a_session = ("/sign-out", "/sign-in", "/account/password", "/account/sessions")
    paths = sorted({path_of(rule, stuck, session) for rule in rules(app, "POST")} | set(offered))
    paths = [path for path in paths if not path.startswith(ends_a_session) and "<" not in path]
    faults, answered, files = [], {2: 0, 3: 0, 4: 0}, 0
    for number in range(many):
        path = rng.choice(paths)
        form: dict[str, object] = dict(rng.choice(offered[path])) if path in offered and rng.random() < 0.8 else {}
        for name in rng.sample(sorted(form) or known, k=min(len(form) or 4, rng.randint(1, 3))):
            if rng.random() < 0.15:
                form.pop(name, None)
            else:
                form[name] = rng.choice(NASTY)
        if rng.random() < 0.2:
            form[rng.choice(known)] = rng.choice(NASTY)
        # Wrong, so that no account changes; mostly blank, for weighing a password takes its time.
        form["own_password"] = "wrong" if rng.random() < 0.1 else ""
        if rng.random() < 0.15:
            form[rng.choice(("file", "photo", rng.choice(known)))] = a_file(rng)
            files += 1
        answer = client.post(path, data=form, headers={"HX-Request": "true"} if rng.random() < 0.3 else {})
        answered[answer.status_code // 100] = answered.get(answer.status_code // 100, 0) + 1
        if answer.status_code >= 500:
            faults.append((number, answer.status_code, path, {k: str(v)[:40] for k, v in form.items()}))
    assert faults == []
    assert len(paths) > 30 and answered[3] > many / 40 and answered[4] > many / 4 and files > many / 10, answered


def test_seven_hundred_odd_requests_find_no_fault(app: Flask, session: Session, sign_in: SignIn) -> None:
    odd_requests(session, app, sign_in, 77, 700)


@pytest.mark.long
@pytest.mark.parametrize("seed", range(10))
def test_twenty_thousand_find_none_either(app: Flask, session: Session, sign_in: SignIn, seed: int) -> None:
    odd_requests(session, app, sign_in, seed, 2_000)


#: What pages read from an address.
ASKED = ("step", "size", "a", "b", "margin", "again", "nothing", "trial", "person", "first", "last", "cutting", "tray", "wave", "check", "named", "next")  # fmt: skip


def test_odd_addresses_find_no_fault(app: Flask, session: Session, sign_in: SignIn) -> None:
    rng = random.Random(78)
    lead = create_person(session, "lead")
    stuck = create_stuck(session, lead)
    session.commit()
    client = sign_in(person=lead)
    paths = sorted({path_of(rule, stuck, session) for rule in rules(app, "GET") if "static" not in rule.rule})
    faults, met = [], 0
    for number in range(ADDRESSES):
        path = rng.choice([p for p in paths if "<" not in p and ".pdf" not in p])
        asked = {name: rng.choice(NASTY) for name in rng.sample(ASKED, k=3)}
        answer = client.get(path, query_string=asked)
        met += answer.status_code < 500
        if answer.status_code >= 500:
            faults.append((number, answer.status_code, path, {k: v[:40] for k, v in asked.items()}))
    assert faults == [] and met == ADDRESSES
