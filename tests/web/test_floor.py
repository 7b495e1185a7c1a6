"""From plates to logbook: the gate, acts that arrive twice, and what cannot be true."""

import json

import pytest
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError

from offsetter.store.engine import engine_for
from tests.web.test_decisions import parts


def station(job: dict, name: str) -> dict:
    return next(s for s in job["line"]["stations"] if s["station"] == name)


def test_the_gate_takes_device_size_values_alone(counter):
    job = counter.order()
    assert counter.release(job).json()["code"] == "blocked"
    counter.place(job, width_mm=47)  # plates that no other test makes
    assert {r["quality"] for r in counter.job(job)["line"]["readings"] if r["key"] == "white"} == {"preview"}
    told = counter.release(job)
    assert (told.status_code, told.json()["code"]) == (409, "preview-only")
    parts(told)
    counter.plates(job)
    assert {r["quality"] for r in counter.job(job)["line"]["readings"] if r["key"] == "white"} == {"device"}
    assert counter.release(job).status_code == 201


def test_the_same_plates_are_found_again_by_their_hash(counter):
    job, again = counter.order(), counter.order()
    counter.place(job)
    key = counter.plates(job)
    counter.place(again)
    assert counter.job(again)["line"]["plates_ready"]
    made = counter.post(f"/api/jobs/{again}/plates").json()
    assert (made["key"], made["progress"]["stage"]) == (key, "done")
    counter.decide(again, "white", level_pct=91)
    assert not counter.job(again)["line"]["plates_ready"]


def test_progress_is_told_in_real_units_and_the_files_are_there(counter):
    job = counter.order()
    counter.place(job, width_mm=75)
    key = counter.post(f"/api/jobs/{job}/plates").json()["key"]
    with counter.client.stream("GET", f"/api/long-work/{key}/events", headers=counter.headers) as events:
        told = [json.loads(line[5:]) for line in events.iter_lines() if line.startswith("data:")]
    assert told[-1]["stage"] == "done"
    rows = [t for t in told if t["unit"] == "rows of dots"]
    assert all(0 < t["done"] <= t["whole"] for t in rows)
    run = counter.release(job).json()["runs"][-1]
    for name, magic in (("print.tif", (b"II*\0", b"MM\0*")), ("print.pdf", (b"%PDF",))):
        data = counter.get(f"/api/runs/{run['id']}/{name}").content
        assert data.startswith(magic)
    assert counter.get(f"/api/runs/{run['id']}/passwd").status_code == 404


def test_work_can_be_cancelled_and_leaves_nothing(app, counter):
    job = counter.order()
    counter.place(job, width_mm=400)
    key = counter.post(f"/api/jobs/{job}/plates").json()["key"]
    counter.client.delete(f"/api/long-work/{key}", headers=counter.headers)
    with counter.client.stream("GET", f"/api/long-work/{key}/events", headers=counter.headers) as events:
        last = [json.loads(line[5:]) for line in events.iter_lines() if line.startswith("data:")][-1]
    assert last["stage"] == "cancelled"
    assert not app.state.services.base.files.derived("plates", key).exists()


def test_an_act_sent_twice_is_one_act(counter):
    job = counter.order()
    run = counter.printed(job)
    for _ in range(3):
        answer = counter.act(job, "the-same-act-0001", kind="pressed", run=run, size="S", stages=[])
        assert answer.status_code == 200
    assert counter.job(job)["ledger"]["pressed"] == {"front": 1}
    assert len([a for a in counter.job(job)["acts"] if a["body"]["kind"] == "pressed"]) == 1


def test_a_voided_act_does_not_count_and_stays_on_record(counter):
    job = counter.order()
    run = counter.printed(job)
    counter.act(job, "to-be-voided-01", kind="pressed", run=run, size="S", stages=[])
    counter.act(job, kind="voided", voids="to-be-voided-01", reason="wrong size")
    seen = counter.job(job)
    assert seen["ledger"]["pressed"] == {"front": 0}
    assert {a["body"]["kind"] for a in seen["acts"]} == {"printed", "pressed", "voided"}


@pytest.mark.parametrize(
    ("body", "code"),
    [
        ({"kind": "good", "size": "S", "count": 1}, "more-than-pressed"),
        ({"kind": "prepared", "stage": "powder", "count": 99}, "more-than-printed"),
        ({"kind": "printed", "count": 1}, "more-than-laid"),
        ({"kind": "pressed", "size": "XXL", "stages": []}, "no-such-size"),
        ({"kind": "spoiled", "what": "transfer", "count": 99, "stage": "peel", "cause": "x"}, "more-than-in-hand"),
        ({"kind": "voided", "voids": "nothing-like-it"}, "nothing-to-void"),
    ],
)
def test_what_cannot_be_true_is_refused(counter, body, code):
    job = counter.order()
    run = counter.printed(job)
    if body["kind"] in ("prepared", "printed", "pressed"):
        body = {**body, "run": run}
    told = counter.act(job, **body)
    assert (told.status_code, told.json()["code"]) == (409, code)
    parts(told)


def test_the_applications_user_can_append_acts_and_never_change_them(counter, app_url):
    counter.printed(counter.order())
    engine = engine_for(app_url)
    for statement in ("UPDATE acts SET actor = 'nobody'", "DELETE FROM acts"):
        with engine.connect() as connection, pytest.raises(DBAPIError, match="denied"):
            connection.execute(text(statement))
    engine.dispose()


def test_a_changed_width_after_printing_offers_three_ways_out(counter):
    job = counter.order({"S": 3})
    run = counter.printed(job)
    counter.act(job, kind="pressed", run=run, size="S", stages=[])
    counter.act(job, kind="good", size="S", count=1)
    seen = counter.decide(job, "place", width_um=66_000).json()
    assert station(seen, "print")["state"] == "out of date"
    assert "out-of-date" in {f["code"] for f in station(seen, "print")["findings"]}
    (stale,) = seen["ledger"]["stale"]
    assert (stale["transfers"], stale["pieces"]) == (3, 1)
    choice = {"id": "choice-000001", "old": stale["signature"], "way": "rest", "reason": "customer wants it wider"}
    seen = counter.client.post(f"/api/jobs/{job}/resolve", json=choice, headers=counter.headers).json()
    assert station(seen, "print")["state"] != "out of date"
    assert (seen["ledger"]["to_print"], seen["ledger"]["good"]) == (2, 1)
    # The next run carries only what is still to print; the first stays as it was released.
    counter.plates(job)
    runs = counter.release(job).json()["runs"]
    assert [r["copies"] for r in runs] == [4, 2]
    assert runs[0]["widths_um"] == [60_000]


def test_a_run_nobody_printed_is_superseded_and_its_plan_untouched(counter):
    job = counter.order()
    counter.place(job)
    counter.plates(job)
    first = counter.release(job).json()["runs"][0]
    counter.decide(job, "sheet", gap_um=15_000)
    runs = counter.release(job).json()["runs"]
    assert [r["state"] for r in runs] == ["superseded", "released"]
    assert runs[0]["length_um"] == first["length_um"] < runs[1]["length_um"]


def test_the_logbook_says_what_it_took(counter):
    job = counter.order({"S": 2})
    run = counter.printed(job)
    ran = [{"stage": "transfer", "temperature_c": 160, "planned_s": 15, "ran_s": 30.0, "ended_early": False}]
    for _ in range(3):
        counter.act(job, kind="pressed", run=run, size="S", stages=ran)
    counter.act(job, kind="good", size="S", count=2)
    counter.act(job, kind="spoiled", what="piece", size="S", count=1, stage="peel", cause="peeled warm")
    counter.act(job, kind="closed", short=False, note="")
    entry = next(e for e in counter.get("/api/logbook").json()["entries"] if e["job"] == job)
    figures = {f["label"]: f for f in entry["figures"]}
    assert (entry["good"], entry["ordered"]) == (2, 2)
    assert (figures["Blanks used"]["planned"], figures["Blanks used"]["actual"]) == (2, 3)
    assert figures["Stages under heat"]["actual"] == pytest.approx(1.5)
    assert figures["Film"]["actual"] == pytest.approx(figures["Film"]["planned"], rel=0.01)
    money = {f["label"]: f for f in entry["money"]}
    assert money["Blanks"]["actual"] == pytest.approx(money["Blanks"]["planned"] * 3 / 2)
    assert [(s["what"], s["cause"]) for s in entry["spoiled"]] == [("piece", "peeled warm")]


def test_pictures_have_addresses_that_change_with_what_they_show(counter):
    job = counter.order()
    seen = counter.place(job)["line"]["pictures"]
    other = counter.decide(job, "white", level_pct=12).json()["line"]["pictures"]
    assert seen["white"] != other["white"]
    for kind in ("cloth", "pressed", "carrier", "white", "over", "vanish", "lens_colour", "lens_white", "art"):
        answer = counter.get(other[kind])
        assert answer.status_code == 200, kind
        assert answer.content.startswith(b"\x89PNG")
        assert "immutable" in answer.headers["cache-control"]


def test_derived_files_may_be_deleted_at_any_time(app, counter):
    import shutil

    job = counter.order()
    counter.place(job)
    counter.plates(job)
    shutil.rmtree(app.state.services.base.files.derived("art", "x").parents[2])
    seen = counter.job(job)
    assert not seen["line"]["plates_ready"]
    assert counter.get(seen["line"]["pictures"]["lens_white"]).status_code == 200
    counter.plates(job)
    assert counter.release(job).status_code == 201


def test_one_lost_file_does_not_close_the_shop(app, counter):
    job = counter.order({"S": 1}, title="Lost file")
    seen = counter.place(job)
    app.state.services.base.files.original(seen["line"]["decisions"]["place"]["file"]).unlink()
    order = station(counter.job(job), "order")
    assert "file-lost" in {f["code"] for f in order["findings"]}
    assert "Lost file" in {j["title"] for j in counter.get("/api/jobs", params={"words": "lost file"}).json()["cards"]}
    assert counter.get("/api/logbook").status_code == 200
    counter.place(job)  # the same file again puts it right
    assert station(counter.job(job), "order")["state"] != "blocked"
