"""A check opened in a drawn order brings up its units in it, keeps it, and prints it."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import AuditEntry, CheckVisit, Trial
from orderly_bench.trial.progress import progress_around, progress_of
from tests.factories import DAY_ZERO, TODAY, create_person, create_stuck
from tests.web.conftest import SignIn

OPEN = {"day": str(TODAY), "way": "lifted and counted"}


def opened(session: Session, sign_in: SignIn, **more: str) -> tuple[Trial, CheckVisit]:
    trial = create_stuck(session, create_person(session), cuttings_per_arm=8, columns=8, rows=4)
    session.commit()
    check = checks_of(session, trial)[-1]
    assert sign_in().post(f"/checks/{check.id}/open", data=OPEN | more).status_code == 303
    session.expire_all()
    return trial, check


def test_units_come_up_as_drawn_and_all_of_them(session: Session, sign_in: SignIn) -> None:
    trial, check = opened(session, sign_in, scrambled="yes")
    bench = [unit.id for unit in trial.units]
    assert check.lift_order is not None and sorted(check.lift_order) == sorted(bench) and check.lift_order != bench
    found = progress_of(session, check)
    assert [found.spot(site).unit for site in found.order] == check.lift_order
    assert [spot.unit for spot in found.spots] == bench, "the map stays the bench"
    first = found.order[0]
    page = sign_in("scorer").get(f"/trials/{trial.id}/score?check={check.id}").text
    code = found.spot(first).code
    assert f"{code[:3]} {code[3:]}" in page[page.index('id="pad-code"') :][:400]
    answered = sign_in("scorer").post(
        f"/checks/{check.id}/scores",
        data={"cutting": str(first[0]), "state": "alive", "roots": "none", "revision": "0", "fit": "not judged"},
    )
    assert answered.status_code == 303
    session.expire_all()
    around = progress_around(session, check, first)
    assert list(around.order) == found.order and set(around.kept) == {first}
    act = session.scalars(select(AuditEntry).where(AuditEntry.action == "opened a check")).one()
    assert isinstance(act.new["order drawn from"], int)


def test_without_it_the_bench_is_walked(session: Session, sign_in: SignIn) -> None:
    trial, check = opened(session, sign_in)
    assert check.lift_order is None
    found = progress_of(session, check)
    assert [found.spot(site).unit for site in found.order] == [unit.id for unit in trial.units]


def test_the_sheet_has_every_code_and_no_arm(session: Session, sign_in: SignIn) -> None:
    trial, check = opened(session, sign_in, scrambled="yes")
    answered = sign_in("scorer").get(f"/checks/{check.id}/sheet.pdf")
    assert answered.status_code == 200 and answered.data.startswith(b"%PDF")
    assert DAY_ZERO < TODAY
    from flask import render_template

    found = progress_of(session, check)
    with sign_in("scorer").application.test_request_context():
        html = render_template("sheet_pdf.html", trial=trial, check=check, spots=[found.spot(s) for s in found.order])
    places = [
        html.index(f"{unit.code[:3]} {unit.code[3:]}")
        for unit in sorted(trial.units, key=lambda u: check.lift_order.index(u.id))
    ]
    assert places == sorted(places)
    assert not any(arm.name in html for arm in trial.arms)
