"""One row that cannot be read takes no more than itself with it, and its last good version comes back by one touch."""

import json
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import text

from offsetter.store.engine import engine_for
from tests.web.conftest import Counter, shop_of_its_own


@pytest.fixture(scope="module")
def client(database, shop_rows, tmp_path_factory):
    with shop_of_its_own(database, "bad_rows", shop_rows, tmp_path_factory) as (_, made):
        yield made


@pytest.fixture
def spoil(client, database):
    """Change a row as no program of ours does, and forget what is remembered of it."""

    def changed(sql: str, **values) -> None:
        engine = engine_for(database.url("bad_rows", "owner"))
        with engine.begin() as connection:
            assert connection.execute(text(sql), values).rowcount >= 1
        engine.dispose()
        jobs = client.app.state.services.jobs
        jobs.kept._held.clear()
        jobs.shops._known.clear()

    return changed


def test_a_decision_that_cannot_be_read_closes_its_own_job_alone(counter: Counter, spoil):
    bad, good = counter.order(title="Bad row"), counter.order(title="Good row")
    assert counter.decide(bad, "order", customer="Somebody else").status_code == 200
    spoil("UPDATE decisions SET body = JSON_SET(body, '$.lines[0].counts', JSON_OBJECT('M', -5)) WHERE job_id = :job AND station = 'order' AND revision = 2",
          job=bad)  # fmt: skip
    # Another fact of the shop changes: every open job is worked out anew.
    assert counter.client.put("/api/shop/proof", json={"wanted": False}, headers=counter.headers).status_code == 200
    page = counter.get("/api/jobs").json()
    assert good in [c["id"] for c in page["cards"]]
    assert [b["id"] for b in page["broken"]] == [bad]
    answer = counter.get(f"/api/jobs/{bad}")
    assert (answer.status_code, answer.json()["code"]) == (409, "job-unreadable")
    assert "at least one piece" in answer.json()["happened"]
    assert counter.as_person("Noor").post(f"/api/jobs/{bad}/mend").status_code == 403
    mended = counter.post(f"/api/jobs/{bad}/mend").json()
    assert mended["line"]["decisions"]["order"]["customer"] == "Someone"
    assert counter.get("/api/jobs").json()["broken"] == []


def test_a_late_job_that_cannot_be_read_leaves_today_open(counter: Counter, spoil):
    """Its kept work is still planned; what else it could be made by is not looked for any more."""
    bad = counter.order({"S": 4}, title="Late and bad", due=(datetime.now(UTC) + timedelta(minutes=5)).isoformat())
    counter.place(bad)
    assert counter.decide(bad, "order", customer="Somebody else").status_code == 200
    gone = {"away": {"what": "machine", "id": "petrel", "since": datetime.now(UTC).isoformat()}, "back": False}
    seen = counter.client.post("/api/today/away", json=gone, headers=counter.headers).json()
    assert bad in [x["id"] for x in seen["left"]]
    # The day is another one by this: nothing of it is remembered.
    counter.client.post("/api/today/away", json={**gone, "back": True}, headers=counter.headers)
    spoil("UPDATE decisions SET body = JSON_SET(body, '$.lines[0].counts', JSON_OBJECT('M', -5)) WHERE job_id = :job AND station = 'order' AND revision = 2",
          job=bad)  # fmt: skip
    counter.client.app.state.services.today._found_outs.clear()
    answer = counter.client.post("/api/today/away", json=gone, headers=counter.headers)
    assert answer.status_code == 200, answer.text
    assert bad in [x["id"] for x in answer.json()["left"]]
    assert (
        counter.client.post("/api/today/away", json={**gone, "back": True}, headers=counter.headers).status_code == 200
    )
    assert counter.post(f"/api/jobs/{bad}/mend").status_code == 200


def test_an_act_that_cannot_be_read_leaves_today_open(counter: Counter, spoil):
    """Where paces are learnt from it, and where a job waits half finished after it."""
    jobs = [counter.order({"S": 2}, title="Bad act") for _ in range(2)]
    runs = [counter.printed(job) for job in jobs]
    assert counter.act(jobs[0], kind="prepared", run=runs[0], stage="powder", count=1).status_code == 200
    assert counter.get("/api/today").status_code == 200
    spoil("UPDATE acts SET body = JSON_SET(body, '$.count', -3) WHERE job_id IN (:one, :two)", one=jobs[0], two=jobs[1])
    counter.client.app.state.services.today._paces.clear()
    answer = counter.get("/api/today")
    assert answer.status_code == 200, answer.text
    spoil("UPDATE acts SET body = JSON_SET(body, '$.count', 2) WHERE job_id IN (:one, :two)", one=jobs[0], two=jobs[1])


def test_a_fact_that_cannot_be_read_is_stood_in_for_by_the_version_before_it(counter: Counter, spoil):
    job = counter.order()
    whole = next(b for b in counter.get("/api/shop").json()["blanks"] if b["id"] == "tee-black")
    assert (
        counter.client.put(
            "/api/blanks/tee-black", json={**whole, "price": "2.50"}, headers=counter.headers
        ).status_code
        == 200
    )
    newest = "SELECT MAX(version) FROM (SELECT version FROM shop_facts WHERE kind = 'blanks' AND id = 'tee-black') AS v"
    spoil(
        f"UPDATE shop_facts SET body = JSON_SET(body, '$.price', '1e306') WHERE kind = 'blanks' AND id = 'tee-black' AND version = ({newest})",
    )
    spoil("UPDATE counters SET value = value + 1 WHERE name = 'shop'")
    page = counter.get("/api/jobs").json()
    assert [(b["kind"], b["id"]) for b in page["broken_facts"]] == [("blanks", "tee-black")]
    assert page["broken_facts"][0]["why"].startswith("price")
    seen = next(b for b in counter.get("/api/shop").json()["blanks"] if b["id"] == "tee-black")
    assert seen["price"] == whole["price"]
    assert counter.job(job)["line"]["stations"]
    for where in ("/api/logbook", "/api/recipes", "/api/leftovers"):
        assert counter.get(where).status_code == 200, where
    assert counter.post("/api/shop/mend", json={"kind": "blanks", "id": "tee-black"}).status_code == 204
    assert counter.get("/api/jobs").json()["broken_facts"] == []


def test_a_kept_row_that_cannot_be_read_is_worked_out_anew(counter: Counter, spoil):
    job = counter.order(title="Kept badly")
    spoil("UPDATE standings SET body = :body WHERE job_id = :job", body=json.dumps({"nothing": True}), job=job)
    page = counter.get("/api/jobs", params={"words": "kept badly"}).json()
    assert [c["title"] for c in page["cards"]] == ["Kept badly"]


def test_a_job_whose_machine_cannot_be_read_is_refused_alone(counter: Counter, spoil, shop_rows):
    """The only version of it, so that none stands in for it."""
    job, other = counter.order(title="Machine gone"), counter.order(title="Stays open", lines=[{"blank": "scarf", "counts": {"one": 2}}])  # fmt: skip
    counter.place(job)
    way = counter.get(f"/api/jobs/{job}/advice").json()["ways"]["film"]
    assert counter.decide(job, "method", **way).status_code == 200
    printer = way["printer"]
    spoil("UPDATE shop_facts SET body = JSON_SET(body, '$.modes', 7) WHERE kind = 'printers' AND id = :printer", printer=printer)  # fmt: skip
    try:
        answer = counter.get(f"/api/jobs/{job}")
        assert (answer.status_code, answer.json()["code"]) == (409, "fact-missing"), answer.text
        assert printer in answer.json()["happened"]
        assert counter.get(f"/api/jobs/{other}").status_code == 200
        assert {job, other} <= {c["id"] for c in counter.get("/api/jobs").json()["cards"]}
    finally:
        spoil("UPDATE shop_facts SET body = :body WHERE kind = 'printers' AND id = :printer", body=json.dumps(shop_rows["printers"][printer]), printer=printer)  # fmt: skip
    assert counter.get(f"/api/jobs/{job}").status_code == 200
