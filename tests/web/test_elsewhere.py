"""Orders from another program: a token with named rights, each order once, held until somebody has looked; never straight at a printer."""

import tomllib
import uuid
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from offsetter.store.engine import engine_for
from offsetter.store.tables import TokenRow
from tests.conftest import ROOT
from tests.core.shapes import disc
from tests.web.conftest import Counter, png

DUE = (datetime.now(UTC) + timedelta(days=6)).isoformat()
BLANKS = tomllib.loads((ROOT / "demo" / "shop.toml").read_text())["blanks"]
EVERYTHING = [{"blank": b["code"], "size": next(iter(b["sizes"])), "count": 1} for b in BLANKS]


class Shop:
    """A web shop that has a token."""

    def __init__(self, counter: Counter, *rights: str) -> None:
        made = counter.post("/api/tokens", json={"name": "Quay web shop", "rights": rights or ("bring orders", "read orders")}).json()  # fmt: skip
        self.id, self.token, self._client = made["id"], made["token"], counter.client
        self._headers = {"authorization": f"Bearer {self.token}"}

    def order(self, reference: str, **more):
        body = {"reference": reference, "title": "Club tees", "customer": "Tide Club", "due": DUE, "pieces": [{"blank": "tee-black", "size": "M", "count": 3}], **more}  # fmt: skip
        return self._client.post("/api/elsewhere/orders", json=body, headers=self._headers)

    def send(self, path: str, name: str, data: bytes):
        return self._client.post(f"/api/elsewhere/orders/{path}", files={"file": (name, data)}, headers=self._headers)

    def get(self, path: str):
        return self._client.get(f"/api/elsewhere/{path}", headers=self._headers)


@pytest.fixture
def shop(counter: Counter) -> Shop:
    return Shop(counter)


def test_an_order_comes_in_once_with_its_picture_and_names_and_waits_for_a_look(counter: Counter, shop: Shop):
    ref = uuid.uuid4().hex[:8]
    pieces = [{"blank": "Crew tee", "colour": "black", "size": "M", "count": 2}, {"blank": "tee-black", "size": "S", "count": 1}]  # fmt: skip
    made = shop.order(ref, pieces=pieces)
    assert made.status_code == 201, made.text
    told = made.json()
    assert (told["stands"], told["pieces"], told["reference"]) == ("held", 3, ref)
    assert "Quay web shop" in told["why"]
    assert shop.order(ref).json()["id"] == told["id"], "sent again it is the same order"
    assert shop.send(f"{ref}/file", "comet.png", png(disc(300, 800, (40, 120, 200)))).status_code == 200
    assert shop.send(f"{ref}/names", "names.csv", b"name,size\nOrla,M\nBea,S\n").status_code == 200
    job = counter.job(told["id"])
    order = job["line"]["decisions"]["order"]
    assert job["line"]["decisions"]["place"]["file"]
    assert [n["text"] for n in order["names"]] == ["Orla", "Bea"]
    assert job["authors"]["order"] == "Quay web shop"
    # Nothing of it moves before a person has looked.
    run = counter.act(told["id"], kind="printed", run="x", count=1)
    assert run.json()["code"] == "job-held"
    assert counter.act(told["id"], kind="resumed").status_code == 200
    assert shop.get(f"orders/{ref}").json()["stands"] == "open"
    assert shop.send(f"{ref}/file", "other.png", png(disc(300, 800, (40, 120, 200)))).json()["code"] == "taken-up"


def test_rights_are_what_was_given_and_end_at_once(counter: Counter, shop: Shop, app_url: str):
    reads = Shop(counter, "read orders")
    assert reads.order("x1").json()["code"] == "no-right"
    assert shop.order("mine").status_code == 201
    assert reads.get("orders/mine").json()["code"] == "no-such-order", "another program's orders are not its own"
    assert shop.get("blanks").json()[0].keys() == {"blank", "name", "colour", "sizes"}
    with Session(engine_for(app_url)) as session:
        kept = session.scalar(select(TokenRow).where(TokenRow.id == shop.id))
        assert shop.token not in kept.token_hash
    listed = {t["id"]: t for t in counter.get("/api/tokens").json()}
    assert "token" not in listed[shop.id]
    assert listed[shop.id]["used_at"]
    counter.client.delete(f"/api/tokens/{shop.id}", headers=counter.headers)
    assert shop.order("later").status_code == 401
    noor = counter.as_person("Noor")
    assert noor.get("/api/tokens").status_code == 403
    # A token opens no other door, and a person's session not this one.
    other = counter.client.get("/api/jobs", headers={"authorization": f"Bearer {reads.token}"})
    assert other.status_code == 401
    assert counter.get("/api/elsewhere/blanks").status_code == 401


@pytest.mark.parametrize(
    ("more", "code"),
    [
        ({"pieces": [{"blank": "Crew tee", "size": "M", "count": 1}]}, "no-such-blank"), ({"pieces": [{"blank": "tee-black", "size": "XXS", "count": 1}]}, "no-such-size"),
        ({"due": "2020-01-01T00:00:00Z"}, "due-in-the-past"), ({"pieces": []}, "not-valid"), ({"due": "2030-01-01T00:00:00"}, "not-valid"), ({"quoted": -1}, "not-valid"),
        ({"surprise": 1}, "not-valid"), ({"pieces": EVERYTHING}, "too-many-blanks"), ({"pieces": [{"blank": "tee-black", "size": "M", "count": 10_001}]}, "not-valid"),
    ],
)  # fmt: skip
def test_an_order_that_cannot_be_is_said_and_not_taken(shop: Shop, more: dict, code: str):
    ref = uuid.uuid4().hex[:8]
    answer = shop.order(ref, **more)
    assert answer.status_code >= 400
    assert answer.json()["code"] == code, answer.text
    assert shop.get(f"orders/{ref}").json()["code"] == "no-such-order"


def test_a_file_that_is_no_picture_leaves_the_order_as_it_was(shop: Shop):
    ref = uuid.uuid4().hex[:8]
    shop.order(ref)
    assert shop.send(f"{ref}/file", "x.png", b"no picture").status_code == 409
    assert shop.send(f"{ref}/names", "x.csv", b"who\nx\n").json()["code"] == "names-no-head"
    assert shop.get(f"orders/{ref}").json()["stands"] == "held"
