"""Containers and supplies on the shelf, put right in their place; Design and Prepare take from them."""

from __future__ import annotations

import csv
import io

from sqlalchemy.orm import Session

from orderly_bench.stock.models import StockContainer, Supply
from tests.factories import create_locked, create_person, create_trial
from tests.web.conftest import SignIn, flat

TRAY = {
    "name": "20-cell tray",
    "shape": "tray of cells",
    "rows": "4",
    "columns": "5",
    "volume_ml": "90",
    "across_cm": "5",
    "wall": "dark",
    "drained": "yes",
    "outline": "square",
}
PUMICE = {
    "name": "pumice",
    "amount": "5",
    "unit": "L",
    "lot": "b2",
    "use_by": "2031-01-01",
    "price": "0,4",
    "currency": "EUR",
}


def test_a_container_is_kept_put_right_and_offered_on_design(session: Session, sign_in: SignIn) -> None:
    client = sign_in()
    refused = client.post("/containers", data=TRAY | {"volume_ml": "0"})
    assert refused.status_code == 422 and 'value="20-cell tray"' in refused.text
    assert client.post("/containers", data=TRAY).status_code == 303
    assert 'value="90"' in client.get("/containers?name=20-cell tray").text
    assert client.post("/containers", data=TRAY | {"volume_ml": "100"}).status_code == 303
    (kept,) = session.query(StockContainer).all()
    assert (kept.volume_ml, kept.across_cm, kept.outline, kept.drained) == (100.0, 5.0, "square", True)
    trial = create_trial(session, create_person(session))
    session.commit()
    page = client.get(f"/trials/{trial.id}/design").text
    assert "20-cell tray" in page and "&#34;volume_ml&#34;: &#34;100&#34;" in page
    assert sign_in("scorer").post("/containers", data=TRAY).status_code == 403


def test_a_supply_is_kept_by_lot_and_prepare_holds_its_list_against_it(session: Session, sign_in: SignIn) -> None:
    client = sign_in()
    assert client.post("/supplies", data=PUMICE | {"amount": ""}).status_code == 422
    for _ in range(2):
        assert client.post("/supplies", data=PUMICE).status_code == 303
    assert client.post("/supplies", data=PUMICE | {"lot": "b1", "use_by": "2020-01-01"}).status_code == 303
    assert [row.lot for row in session.query(Supply).order_by(Supply.lot)] == ["b1", "b2"]
    page = flat(client.get("/supplies").text)
    assert page.index("lot b1") < page.index("lot b2") and "past its day" in page
    assert 'value="0.4"' in client.get("/supplies?name=pumice&lot=b2").text
    rows = list(csv.DictReader(io.StringIO(client.get("/shelf/supplies.csv").text)))
    assert {row["lot"]: row["amount"] for row in rows} == {"b1": "5", "b2": "5"}
    trial = create_locked(session, create_person(session))
    session.commit()
    assert "5 L on the shelf" in flat(client.get(f"/trials/{trial.id}/prepare").text)
