"""The store: on hand is what acts at the shelf make of it less what jobs took, in whatever order and however often they come."""

import csv
import io
import random
import uuid
from datetime import UTC, date, datetime

import pytest
from sqlalchemy.orm import Session

from offsetter.core.stock import StockAct, Supply, outlook
from offsetter.store.engine import engine_for
from offsetter.store.stock import StockStore
from tests.conftest import stocked


def at_shelf(counter, item, kind, amount, **more):
    return counter.post(
        "/api/stock/acts", json={"id": uuid.uuid4().hex, "item": item, "kind": kind, "amount": amount, **more}
    )


def shelf(counter, item) -> dict:
    return next(s for s in counter.get("/api/stock").json()["shelves"] if s["item"] == item)


def test_a_job_takes_from_the_shelf_what_its_acts_say_and_gives_it_back_with_them(app, counter):
    items = ("blank/tee-black/M", "roll/film-460-matte", "ink/petrel/K", "powder/adhesive")
    for item in items:
        at_shelf(counter, item, "received", 500)
    before = {i: shelf(counter, i) for i in items}
    job = counter.order({"M": 3})
    counter.place(job, 60)
    counter.decide(job, "order", settled=True)
    assert shelf(counter, items[0])["wanted"] == before[items[0]]["wanted"] + 3
    counter.plates(job)
    metres = app.state.services.jobs.look(job).line.layout.length_um / 1e6
    run = counter.release(job).json()["runs"][-1]
    wanted = {i: shelf(counter, i)["wanted"] - before[i]["wanted"] for i in items[1:]}
    assert wanted["roll/film-460-matte"] == pytest.approx(metres, abs=0.002)
    assert wanted["ink/petrel/K"] > 0
    white_ml = sum(
        i["ink_ml"]["W"]
        for i in app.state.services.runs.find(run["id"]).plan.model_dump()["items"]
        for _ in range(run["copies"])
    )
    # 20 mL of white a square metre and 85 g of powder on it (from memory): the powder follows from the ink.
    assert wanted["powder/adhesive"] == pytest.approx(white_ml / 20 * 85, rel=0.01)
    assert {i: shelf(counter, i)["on_hand"] for i in items} == {i: before[i]["on_hand"] for i in items}, (
        "nothing is taken by asking"
    )

    counter.act(job, kind="printed", run=run["id"], count=run["copies"])
    for i in items[1:]:
        now = shelf(counter, i)
        assert before[i]["on_hand"] - now["on_hand"] == pytest.approx(wanted[i], abs=0.002)
        assert now["wanted"] == pytest.approx(before[i]["wanted"], abs=0.002)
    for stage in ("powder", "cure-oven"):
        counter.act(job, kind="prepared", run=run["id"], stage=stage, count=run["copies"])
    at_shelf(counter, "cover/parchment", "counted", 10)
    counter.act(job, kind="renewed", press="gannet", cover="parchment")
    assert shelf(counter, "cover/parchment")["on_hand"] == 9, "a new one was laid on the press"
    pressed = uuid.uuid4().hex
    counter.act(job, pressed, kind="pressed", run=run["id"], size="M", press="gannet", stages=[])
    counter.act(job, pressed, kind="pressed", run=run["id"], size="M", press="gannet", stages=[])
    assert before[items[0]]["on_hand"] - shelf(counter, items[0])["on_hand"] == 1, "one piece, sent twice"
    assert shelf(counter, items[0])["wanted"] == before[items[0]]["wanted"] + 2
    counter.act(job, kind="spoiled", what="blank", size="M", count=1, stage="pre-press", cause="hole")
    assert before[items[0]]["on_hand"] - shelf(counter, items[0])["on_hand"] == 2
    counter.act(job, kind="voided", voids=pressed, reason="pressed the wrong one")
    assert before[items[0]]["on_hand"] - shelf(counter, items[0])["on_hand"] == 1
    counter.act(job, kind="cancelled", reason="customer gave it up")
    assert shelf(counter, items[0])["wanted"] == before[items[0]]["wanted"]
    assert app.state.services.standings._fold_stock() == []


def test_a_look_sees_at_once_what_moved_at_a_shelf(counter):
    """The shelves are read again whenever any of them changed: by hand, or by what another job took."""

    def lacking(job) -> str:
        order = next(s for s in counter.job(job)["line"]["stations"] if s["station"] == "order")
        return next((f["message"] for f in order["findings"] if f["code"] == "blanks-short"), "")

    mine, other = counter.order({"L": 3}), counter.order({"L": 1}, title="Another's")
    at_shelf(counter, "blank/tee-black/L", "counted", 3, reason="counted")
    assert lacking(mine) == ""
    at_shelf(counter, "blank/tee-black/L", "counted", 1, reason="counted again")
    assert lacking(mine) == "The store lacks 2 of size L"
    at_shelf(counter, "blank/tee-black/L", "received", 2)
    assert lacking(mine) == ""
    spoiled = counter.act(other, kind="spoiled", what="blank", size="L", count=1, stage="pre-press", cause="hole")
    assert spoiled.status_code == 200, spoiled.text
    assert lacking(mine) == "The store lacks 1 of size L"


def test_acts_at_the_shelf_fold_the_same_from_any_order_and_repetition(database):
    moves = [("received", 40.0), ("received", 12.5), ("spoiled", 3.0), ("taken", 8.25), ("returned", 2.0)]
    acts = [
        StockAct(id=f"act-{n:08}", item="roll/film", kind=k, amount=a, reason="any") for n, (k, a) in enumerate(moves)
    ]
    engine, chance, found = engine_for(stocked(database, "folds", {})), random.Random(4), set()
    with Session(engine) as session, session.begin():
        store = StockStore(session)
        for n in range(6):
            some = [a.model_copy(update={"id": f"{a.id}-{n}", "item": f"roll/film-{n}"}) for a in acts]
            for act in chance.sample(some, len(some)) + some[:2]:
                if store.find(act.id) is None:
                    store.record(act, "Ada", datetime.now(UTC))
            found.add(store.on_hand()[f"roll/film-{n}"])
    engine.dispose()
    assert found == {43.25}, "40 + 12.5 - 3 - 8.25 + 2, by hand"


@pytest.mark.parametrize(("item", "kind", "amount", "more", "status", "said"), [
    ("blank/none/M", "counted", 3, {}, 409, "no such thing"), ("blank/tee-black/XXL", "counted", 3, {}, 409, "no such thing"),
    ("blank/mug/one", "taken", 900_000, {}, 409, "less than nothing"), ("blank/mug/one", "counted", 1e400, {}, 422, ""), ("blank/mug/one", "counted", -1, {}, 422, ""),
    ("../x", "counted", 3, {}, 422, ""), ("blank/mug/one", "stolen", 3, {}, 422, ""), ("blank/mug/one", "received", 3, {"expires": "soon"}, 422, ""),
])  # fmt: skip
def test_what_cannot_be_is_refused_and_the_shelf_stays(counter, item, kind, amount, more, status, said):
    before = shelf(counter, "blank/mug/one")["on_hand"]
    body = f'{{"id": "{uuid.uuid4().hex}", "item": "{item}", "kind": "{kind}", "amount": {amount!r}'.replace(
        "inf", "1e400"
    )
    body += "".join(f', "{k}": "{v}"' for k, v in more.items()) + "}"
    answer = counter.client.post(
        "/api/stock/acts", content=body, headers={**counter.headers, "content-type": "application/json"}
    )
    assert answer.status_code == status, answer.text
    assert said in answer.text
    assert shelf(counter, "blank/mug/one")["on_hand"] == before


def test_less_than_nothing_wants_a_reason_and_an_id_means_one_thing(counter):
    told = at_shelf(counter, "sheet/hard-surface-paper", "taken", 500, reason="counted wrong last week")
    assert told.json()["on_hand"] < 0
    act = {"id": uuid.uuid4().hex, "item": "sheet/hard-surface-paper", "kind": "counted", "amount": 30}
    assert [counter.post("/api/stock/acts", json=act).json()["on_hand"] for _ in range(2)] == [30, 30]
    assert counter.post("/api/stock/acts", json=act | {"amount": 31}).json()["code"] == "id-used"
    history = counter.get("/api/stock/acts", params={"item": "sheet/hard-surface-paper"}).json()
    assert [(h["kind"], h["reason"], h["actor"]) for h in history[:2]] == [
        ("counted", "", "Ada"),
        ("taken", "counted wrong last week", "Ada"),
    ]
    assert counter.as_person("Visitor").post("/api/stock/acts", json=act).status_code == 403


def test_what_to_order_is_said_by_supplier_and_no_cell_is_a_formula(counter):
    at_shelf(counter, "sheet/opaque-sheet-inkjet", "counted", 4)
    supply = {"supplier": "=cmd()", "lead_days": 5, "least": 20, "pack": 10}
    given = {"item": "sheet/opaque-sheet-inkjet", "supply": supply}
    assert counter.client.put("/api/stock/supply", json=given, headers=counter.headers).status_code == 200
    rows = list(csv.DictReader(io.StringIO(counter.get("/api/stock/orders.csv").text)))
    mine = next(r for r in rows if r["item"] == "opaque sheet inkjet")
    assert (mine["supplier"], mine["order"], mine["on hand"]) == ("'=cmd()", "20", "4")


@pytest.mark.parametrize(("on_hand", "wanted", "lately", "supply", "known", "lasts", "order_by", "order"), [
    # 30 left at 2 a day last 15 days; five days' delivery: by the eleventh day from the first of March.
    (30, 0, 56, Supply(lead_days=5), 28, 15, date(2026, 3, 11), 0), (30, 20, 56, Supply(lead_days=5), 28, 5, date(2026, 3, 1), 1),
    (3, 0, 0, Supply(least=10, pack=25), 0, 0, date(2026, 3, 1), 25), (30, 0, 0, Supply(), 28, None, None, 0),
    # What lasts for ages has no day.
    (1e6, 0, 0.001, Supply(), 28, None, None, 0),
    # A week of history alone: 14 in 7 days are 2 a day.
    (30, 0, 14, Supply(lead_days=5), 7, 15, date(2026, 3, 11), 0),
])  # fmt: skip
def test_how_long_it_lasts_by_hand(on_hand, wanted, lately, supply, known, lasts, order_by, order):
    told = outlook(on_hand, wanted, lately, supply, date(2026, 3, 1), days_known=known)
    assert (told.lasts_days, told.order_by, told.order) == (lasts, order_by, order)
