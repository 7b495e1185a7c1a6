"""A shop that begins with nothing: filled by general kinds, changed where its facts live, and the demo made the same way."""

import pytest
from demo.shop import TOLD, count_shelves, fill
from fastapi.testclient import TestClient
from sqlalchemy.orm import Session

from offsetter.desk.base import Base
from offsetter.store.engine import engine_for
from offsetter.store.files import FileStore
from offsetter.store.shop import ShopStore
from offsetter.store.stock import StockStore
from offsetter.web.app import create_app
from offsetter.web.services import Services
from tests.conftest import stocked
from tests.web.conftest import PASSWORD, Counter, welcome_people


@pytest.fixture(scope="module")
def empty(database, tmp_path_factory):
    """A server over a shop that nobody has filled."""
    folder = tmp_path_factory.mktemp("empty")
    app = create_app(stocked(database, "empty", {}), folder / "files", folder, is_demo=True)
    with TestClient(app, "http://127.0.0.1", raise_server_exceptions=False) as client:
        yield client


@pytest.fixture(scope="module")
def founder(empty):
    first = {"name": "Ann", "password": PASSWORD, "shop": "North Wall Prints"}
    assert empty.post("/api/welcome/owner", json=first).status_code == 200
    return Counter(empty, "Ann")


def test_every_area_of_an_empty_shop_opens_and_an_order_says_what_is_missing(founder):
    assert founder.get("/api/shop").json()["name"] == "North Wall Prints"
    for area in ("shop", "jobs", "logbook", "recipes", "leftovers", "kinds", "prices", "conditions", "brands"):
        assert founder.get(f"/api/{area}").status_code in (200, 404), area
    assert founder.get("/api/prices").json()["prices"]["sources"]["hands_hour"] == "from memory: check"
    made = founder.post("/api/blanks/starter", json={"kind": "tee", "colours": ["black", "navy"]}).json()
    assert [b["colour_name"] for b in made] == ["black", "navy"]
    again = founder.post("/api/blanks/starter", json={"kind": "tee", "colours": ["black"]}).json()
    assert again[0]["id"] == made[0]["id"], "the same blank is not made twice"
    job = founder.order(lines=[{"blank": made[0]["id"], "counts": {"M": 2}}])
    founder.place(job)
    method = founder.job(job)["line"]["stations"][1]
    assert "waits for a printer" in method["verdict"]
    founder.post("/api/machines/printers", json={"kind": "film-roll", "name": "Dora"})
    assert "waits for a press" in founder.job(job)["line"]["stations"][1]["verdict"]
    founder.post("/api/machines/presses", json={"kind": "swing-away-38x38", "name": "The press"})
    line = founder.job(job)["line"]
    assert line["way"]["printer"], line["way"]["press"] == ("dora", "the-press")
    assert line["stations"][1]["state"] == "ready"


@pytest.mark.parametrize(("sort", "kind", "name", "said"), [
    ("printers", "film-roll", "dora", "There is a machine called Dora"), ("printers", "press", "Else", "no general kind"),
    ("ovens", "curing-a3", "x", "name"), ("presses", "film-roll", "Wrong", "no general kind"),
])  # fmt: skip
def test_a_machine_that_cannot_be_is_refused_and_nothing_changes(founder, sort, kind, name, said):
    founder.post("/api/machines/printers", json={"kind": "film-roll", "name": "Dora"})
    before = founder.get("/api/shop").json()[sort]
    answer = founder.post(f"/api/machines/{sort}", json={"kind": kind, "name": name})
    assert answer.status_code == 409, answer.text
    assert said in answer.json()["happened"]
    assert founder.get("/api/shop").json()[sort] == before


@pytest.mark.parametrize(("sort", "machine", "change", "said"), [
    ("presses", "gannet", {"platen_width_mm": 0}, "platen_width_mm"), ("presses", "gannet", {"highest_c": 9000}, "highest_c"),
    ("printers", "petrel", {"modes": []}, "modes"), ("printers", "petrel", {"feeds": []}, "feeds"), ("printers", "petrel", {"name": "Gannet"}, "called Gannet"),
    ("printers", "puffin", {"modes": [{"id": "other", "name": "other", "dpi": 600, "m2_per_h": 1, "white_passes": 1}]}, "Jobs may have been decided"),
    ("ovens", "fulmar", {"sparkle": 1}, "sparkle"), ("ovens", "none", {"name": "New"}, "no such oven"),
])  # fmt: skip
def test_a_change_that_cannot_be_is_refused_in_three_parts(counter, sort, machine, change, said):
    before = counter.get("/api/shop").json()[sort]
    answer = counter.client.put(f"/api/machines/{sort}/{machine}", json=change, headers=counter.headers)
    assert answer.status_code == 409, answer.text
    assert said in answer.json()["happened"]
    assert answer.json()["kept"] == "Nothing was saved."
    assert counter.get("/api/shop").json()[sort] == before


def test_a_value_put_right_is_the_shops_own_and_the_rest_stays_to_check(founder):
    made = founder.post("/api/machines/printers", json={"kind": "dye-desktop-a4", "name": "Little blue"}).json()
    path = f"/api/machines/printers/{made['id']}"
    assert set(made["sources"]) >= {"plate_shift_mm", "modes", "feeds.sub-ink-hard"}
    feeds = [{**f, "media_mm": 216, "printable_mm": 208} if f["method"] == "sub-ink-hard" else f for f in made["feeds"]]
    left = founder.client.put(path, json={"feeds": feeds}, headers=founder.headers).json()["sources"]
    assert set(made["sources"]) - set(left) == {"feeds.sub-ink-hard"}
    assert founder.post(f"{path}/checked").json()["sources"] == {}


def test_a_retired_machine_is_offered_to_nothing_and_old_jobs_still_read_it(founder):
    founder.post("/api/machines/printers", json={"kind": "white-toner-a4", "name": "Tim"})
    founder.post("/api/machines/presses", json={"kind": "drawer-40x50", "name": "The drawer"})
    blank = founder.post("/api/blanks/starter", json={"kind": "tee", "colours": ["red"]}).json()[0]["id"]
    job = founder.order(lines=[{"blank": blank, "counts": {"M": 2}}])
    founder.place(job)
    way = founder.get(f"/api/jobs/{job}/advice").json()["ways"]["toner-two-sheet"]
    assert founder.decide(job, "method", 0, **way).status_code == 200
    founder.client.put("/api/machines/printers/tim", json={"retired": True}, headers=founder.headers)
    line = founder.job(job)["line"]
    assert line["way"]["printer"] == "tim"
    assert "machine-retired" in {f["code"] for f in line["stations"][1]["findings"]}
    other = founder.order(lines=[{"blank": blank, "counts": {"M": 2}}])
    founder.place(other)
    assert "toner-two-sheet" not in founder.get(f"/api/jobs/{other}/advice").json()["ways"]


def test_prices_are_the_owners_and_say_what_a_plain_piece_makes_of_them(counter):
    before = counter.get("/api/prices").json()
    noor = counter.as_person("Noor")
    assert noor.client.put("/api/prices", json={"hands_hour": "1"}, headers=noor.headers).status_code == 403
    for wrong in ({"hands_hour": "-1"}, {"margin_share": "1"}, {"currency": "euro"}, {"ink_ml": {"C": "1e400"}}):
        answer = counter.client.put("/api/prices", json=wrong, headers=counter.headers)
        assert answer.status_code == 409, wrong
    # By hand: 3 min at 30 an hour, 2 min at 3 an hour, 2.00 and 0.80; 5 % spoiled; 55 % of the price kept.
    tried = counter.post(
        "/api/prices/try", json={"hands_hour": "30", "machine_hour": "3", "spoil_share": "0.05", "margin_share": "0.55"}
    ).json()
    assert (tried["hands"], tried["machines"], tried["cost"], tried["price"]) == ("1.50", "0.10", "4.62", "10.27")
    assert counter.get("/api/prices").json() == before


def test_the_demos_shop_made_through_the_use_cases_equals_its_rows(database, tmp_path, shop_rows):
    base = Base(engine_for(stocked(database, "made", {})), FileStore(tmp_path))
    desk = Services(base)
    welcome_people(desk.people)
    assert fill(desk, base) is False
    assert fill(desk, base) is True, "what is there already is left as it is"
    count_shelves(desk)
    with Session(base.engine) as session:
        made, stock = ShopStore(session).read(), StockStore(session).on_hand()
    rows = Base(engine_for(stocked(database, "rows", shop_rows)), FileStore(tmp_path))
    with Session(rows.engine) as session:
        as_rows = ShopStore(session).read()
        assert made.model_copy(update={"versions": {}}) == as_rows.model_copy(
            update={"versions": {}}
        )  # saved more than once
    assert stock == {item: float(amount) for item, amount in TOLD["stock"].items()}
    for each in (base, rows):
        each.work.close()
        each.engine.dispose()
