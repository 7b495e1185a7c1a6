"""Today over the API: what is left of real jobs, planned; acts, pins, failures and hours move the plan."""

import time
import uuid
from datetime import UTC, datetime, timedelta

import pypdfium2
import pytest
from icalendar import Calendar

from tests.web.conftest import Counter, shop_of_its_own


def soon() -> str:
    return (datetime.now(UTC) + timedelta(hours=1)).isoformat()


@pytest.fixture(scope="module")
def client(database, shop_rows, tmp_path_factory):
    """Of a shop with these orders alone: what is planned is what stands here."""
    with shop_of_its_own(database, "today", shop_rows, tmp_path_factory) as own:
        yield own[1]


@pytest.fixture
def job(counter: Counter) -> str:
    """Due before everything else here, so that it is planned whatever other tests have left."""
    made = counter.order({"S": 4}, title="Due first", due=soon())
    counter.place(made)
    return made


def today(counter: Counter) -> dict:
    answer = counter.get("/api/today")
    assert answer.status_code == 200, answer.text
    return answer.json()


def blocks(seen: dict, job: str) -> dict[str, dict]:
    return {b["step"]: b for b in seen["blocks"] if b["job"] == job}


def at(seen: dict, minute: int) -> str:
    return (datetime.fromisoformat(seen["midnight"]) + timedelta(minutes=minute)).isoformat()


def test_what_is_left_of_a_job_is_planned_and_goes_as_hands_do_it(counter: Counter, job: str):
    seen = today(counter)
    mine = blocks(seen, job)
    stations = [b["station"] for b in sorted(mine.values(), key=lambda b: b["start_min"])]
    assert stations == ["print", "prepare", "prepare", "press", "inspect"]
    printing, powder, cure, press, _ = sorted(mine.values(), key=lambda b: b["start_min"])
    # The powder takes on wet ink alone: its window is the recipe's.
    assert 0 <= powder["start_min"] - printing["end_min"] <= 5
    assert (cure["machine"], press["machine"], press["celsius"]) == ("fulmar", "gannet", 160)
    assert {h["person"] for b in mine.values() for h in b["hands"]} <= {p["id"] for p in seen["people"]}
    heat = next(m for m in seen["machines"] if m["id"] == "gannet")["heats"]
    assert any(h["start_min"] <= press["start_min"] < h["end_min"] and h["from_c"] == 160 for h in heat)
    lane = next(j for j in seen["jobs"] if j["id"] == job)
    assert lane["end_min"] == max(b["end_min"] for b in mine.values())
    assert lane["late_min"] == max(0, lane["end_min"] - lane["due_min"])
    counter.plates(job)
    run = counter.release(job).json()["runs"][-1]
    counter.act(job, kind="printed", run=run["id"], count=run["copies"])
    assert "print" not in {b["station"] for b in blocks(today(counter), job).values()}
    for stage in ("powder", "cure-oven"):
        counter.act(job, kind="prepared", run=run["id"], stage=stage, count=run["copies"])
    (press, pack) = sorted(blocks(today(counter), job).values(), key=lambda b: b["start_min"])
    assert (press["name"], pack["name"]) == ("Press 4 pieces", "Inspect and pack 4 pieces")
    counter.act(job, kind="pressed", run=run["id"], size="S", stages=[])
    assert sorted(b["name"] for b in blocks(today(counter), job).values()) == ["Inspect and pack 4 pieces", "Press 3 pieces"]  # fmt: skip
    assert counter.act(job, kind="held", reason="the customer thinks it over").status_code == 200
    seen = today(counter)
    assert blocks(seen, job) == {}
    assert next(x["why"] for x in seen["left"] if x["id"] == job) == "held: the customer thinks it over"
    counter.act(job, kind="resumed")
    assert blocks(today(counter), job)


def test_a_pin_holds_is_refused_where_it_cannot_and_is_let_go(counter: Counter, job: str):
    seen = today(counter)
    press = next(b for b in blocks(seen, job).values() if b["station"] == "press")
    later = press["start_min"] + 5 if press["start_min"] % 1440 < 900 else press["start_min"]

    def pin(minute: int, *, out: bool = False, step: str = press["step"]):
        return counter.client.post("/api/today/pins", json={"pin": {"job": job, "step": step, "at": at(seen, minute)}, "out": out}, headers=counter.headers)  # fmt: skip

    def tried(minute: int) -> dict:
        body = {"pin": {"job": job, "step": press["step"], "at": at(seen, minute)}}
        return counter.post("/api/today/pins/try", json=body).json()

    assert tried(seen["now_min"] - 600)["refused"] == "That time is over."
    assert tried((seen["now_min"] // 1440 + 2) * 1440 + 180)["refused"]
    assert tried(later)["refused"] == ""
    assert not blocks(today(counter), job)[press["step"]]["is_pinned"], "a try keeps nothing"
    held = pin(later)
    assert held.status_code == 200, held.text
    assert blocks(held.json(), job)[press["step"]]["start_min"] == later
    assert blocks(today(counter), job)[press["step"]]["is_pinned"]
    night = pin((seen["now_min"] // 1440 + 2) * 1440 + 180)
    assert night.status_code == 409
    assert night.json()["code"] in ("pin-collides", "pin-too-early")
    assert pin(seen["now_min"] - 600).json()["code"] == "pin-past"
    assert pin(10**9).status_code in (409, 422)
    zoneless = {"pin": {"job": job, "step": press["step"], "at": "2026-12-01T09:00:00"}}
    assert counter.client.post("/api/today/pins", json=zoneless, headers=counter.headers).status_code == 422
    assert pin(later, step="press:nothing:0").json()["code"] == "no-such-stage"
    assert blocks(today(counter), job)[press["step"]]["start_min"] == later
    assert not blocks(pin(later, out=True).json(), job)[press["step"]]["is_pinned"]


def test_a_machine_fails_and_a_person_leaves_by_one_touch(counter: Counter, job: str):
    def away(what: str, who: str, *, back: bool = False) -> dict:
        body = {"away": {"what": what, "id": who, "since": soon()}, "back": back}
        answer = counter.client.post("/api/today/away", json=body, headers=counter.headers)
        assert answer.status_code == 200, answer.text
        return answer.json()

    failed = away("machine", "fulmar")
    try:
        assert blocks(failed, job) == {}
        assert "Fulmar is away" in next(x["why"] for x in failed["left"] if x["id"] == job)
        assert next(m for m in failed["machines"] if m["id"] == "fulmar")["away_since"]
    finally:
        back = away("machine", "fulmar", back=True)
    assert blocks(back, job)
    everybody = [p for p in back["people"] if p["here"]]
    gone = away("person", everybody[0]["id"])
    midnight = 1440
    assert not [h for b in gone["blocks"] for h in b["hands"] if h["person"] == everybody[0]["id"] and h["start_min"] < midnight]  # fmt: skip
    away("person", everybody[0]["id"], back=True)
    lost = {"away": {"what": "machine", "id": "no-such", "since": soon()}}
    assert counter.client.post("/api/today/away", json=lost, headers=counter.headers).json()["code"] == "nobody-so"


def test_hours_are_the_shops_own_and_a_plan_keeps_to_them(counter: Counter, job: str):
    seen = today(counter)
    people = [p for p in seen["people"] if p["here"]]
    short = {"week": [[540, 600]] * 7, "rest": None}
    try:
        for p in people:
            answer = counter.client.put(f"/api/today/hours/{p['id']}", json=short, headers=counter.headers)
            assert answer.status_code == 200, answer.text
        kept = today(counter)
        assert all(h["start_min"] % 1440 >= 540 and (h["end_min"] - 1) % 1440 < 600 for b in kept["blocks"] for h in b["hands"])  # fmt: skip
        assert blocks(kept, job)
    finally:
        for p in people:
            counter.client.put(f"/api/today/hours/{p['id']}", json=p["hours"], headers=counter.headers)
    wrong = {"week": [[600, 540]] * 7}
    assert counter.client.put(f"/api/today/hours/{people[0]['id']}", json=wrong, headers=counter.headers).status_code == 422  # fmt: skip


def test_days_off_closed_days_and_what_hands_do_are_kept_to(counter: Counter, job: str):
    people = [p for p in today(counter)["people"] if p["hours"]["plans"]]
    midnight = datetime.fromisoformat(today(counter)["midnight"])
    always = {**people[0]["hours"], "week": [[0, 24 * 60]] * 7, "rest": None}

    def put(person: dict, **hours) -> dict:
        answer = counter.client.put(
            f"/api/today/hours/{person['id']}", json={**always, **hours}, headers=counter.headers
        )
        assert answer.status_code == 200, answer.text
        return answer.json()

    def shut(*days: tuple[int, int]) -> dict:
        spans = [
            {"first": str((midnight + timedelta(days=a)).date()), "last": str((midnight + timedelta(days=b)).date())}
            for a, b in days
        ]
        answer = counter.client.put("/api/today/closed", json={"closed": spans}, headers=counter.headers)
        assert answer.status_code == 200, answer.text
        return answer.json()

    def hands_at(seen: dict) -> set[tuple[str, str, int]]:
        """Station, person and day of every stretch of hands of the job."""
        return {
            (b["station"], h["person"], h["start_min"] // 1440)
            for b in seen["blocks"]
            if b["job"] == job
            for h in b["hands"]
        }

    presser, others = people[0], people[1:]
    try:
        tomorrow = {
            "first": str((midnight + timedelta(days=1)).date()),
            "last": str((midnight + timedelta(days=1)).date()),
        }
        seen = put(presser, does=["press"], off=[tomorrow])
        for p in others:
            seen = put(p, does=["print", "prepare", "inspect"])
        seen = shut((0, 0), (2, 2))
        hands = hands_at(seen)
        assert hands
        assert {person for station, person, _ in hands if station == "press"} == {presser["id"]}
        assert presser["id"] not in {person for station, person, _ in hands if station != "press"}
        # Closed today and the day after tomorrow; whoever presses is off tomorrow.
        assert {day for _, _, day in hands} <= {1, *range(3, 21)}
        assert all(day >= 3 for station, _, day in hands if station == "press")
        wrong = {"closed": [{"first": "2026-05-02", "last": "2026-05-01"}]}
        assert counter.client.put("/api/today/closed", json=wrong, headers=counter.headers).status_code == 422
        # What nobody is said to do, anybody does.
        for p in others:
            seen = put(p, does=["print"])
        assert any(station == "inspect" for station, _, _ in hands_at(seen))
    finally:
        for p in people:
            counter.client.put(f"/api/today/hours/{p['id']}", json=p["hours"], headers=counter.headers)
        shut()


def test_the_search_behind_the_screen_ends_with_a_plan_that_is_no_worse_and_reads_as_a_calendar(
    counter: Counter, job: str
):
    first = today(counter)
    end = time.monotonic() + 120
    while not (seen := today(counter))["is_better"] and time.monotonic() < end:
        time.sleep(0.5)
    assert seen["is_better"]

    def late(told: dict) -> int:
        return sum(j["late_min"] for j in told["jobs"])

    paper = pypdfium2.PdfDocument(counter.get("/api/today/sheet.pdf").content)
    words = "".join(p.get_textpage().get_text_bounded() for p in paper)
    assert "Due first" in words
    # The first day that has work: late in the afternoon pressing comes on the next.
    day = min(b["start_min"] for b in seen["blocks"]) // 1440
    done = [b["name"] for b in seen["blocks"] if any(h["start_min"] // 1440 == day for h in b["hands"])]
    assert done
    assert all(name in words for name in done)
    early, likely, finish = next(j["likely"] for j in seen["jobs"] if j["id"] == job)
    assert seen["now_min"] < early <= likely <= finish
    assert late(seen) <= late(first) or seen["now_min"] != first["now_min"]
    calendar = Calendar.from_ical(counter.get("/api/today/plan.ics").content)
    entries = {str(e["uid"]): e for e in calendar.walk("VEVENT")}
    mine = [b for b in today(counter)["blocks"] if b["job"] == job]
    assert len(entries) == sum(len(b["hands"]) for b in today(counter)["blocks"])
    press = next(b for b in mine if b["station"] == "press")
    entry = entries[f"{job}-{press['step']}-0@offsetter"]
    assert entry["dtstart"].dt == datetime.fromisoformat(at(seen, press["start_min"]))
    assert str(entry["summary"]) == f"{press['name']}: Due first"


def test_another_dozen_is_promised_against_the_plan(counter: Counter, job: str):
    def promised(pieces: int):
        return counter.get("/api/today/promise", params={"job": job, "pieces": pieces})

    few, many = promised(12).json(), promised(300).json()
    seen = today(counter)
    assert few["title"] == "Due first"
    assert datetime.fromisoformat(few["soonest"]) <= datetime.fromisoformat(few["quietly"])
    assert datetime.fromisoformat(few["soonest"]) < datetime.fromisoformat(many["soonest"])
    assert datetime.fromisoformat(few["soonest"]) > datetime.fromisoformat(seen["midnight"])
    # Nothing was kept of it.
    assert len(today(counter)["jobs"]) == len(seen["jobs"])
    assert promised(100_000).status_code == 422
    empty = counter.order({"S": 2}, title="Nothing drawn yet", due=soon())
    refused = counter.get("/api/today/promise", params={"job": empty, "pieces": 5})
    assert (refused.status_code, refused.json()["code"]) == (409, "not-known-yet")


def test_anything_is_found_by_typing_whatever_it_is(counter: Counter, job: str):
    def found(words: str) -> list[tuple[str, str]]:
        answer = counter.get("/api/find", params={"words": words})
        assert answer.status_code == 200, answer.text
        return [(f["kind"], f["id"]) for f in answer.json()]

    assert ("machine", "gannet") in found("gann")
    assert ("machine", "gannet") in found("PRESS gannet")
    assert ("recipe", "film-house") in found("film")
    assert ("blank", "tee-black") in found("crew tee black")
    odd = counter.order({"S": 1}, title="Zyxwv éclair", customer="Quibble and Daughters", due=soon())
    assert found("zyx ECL") == [("job", odd)]
    assert [k for k, _ in found("Quibble and")] == ["job", "customer"]
    run = counter.printed(odd)
    number = next(r["number"] for r in counter.job(odd)["runs"] if r["id"] == run)
    assert found(f"r{number}-1")[0] == ("code", f"R{number}-1")
    assert found("") == found("   ") == found("%_") == []


def test_prints_that_dried_without_their_powder_are_said(counter: Counter, job: str):
    before = (datetime.now(UTC) - timedelta(minutes=50)).isoformat()
    counter.place(job)
    counter.plates(job)
    run = counter.release(job).json()["runs"][-1]
    act = {"id": uuid.uuid4().hex, "job": job, "at": before, "body": {"kind": "printed", "run": run["id"], "count": run["copies"]}}  # fmt: skip
    assert counter.post("/api/acts", json=act).status_code == 200
    (said,) = [w for w in today(counter)["waiting"] if w.startswith("Due first was printed 50 min ago")]
    assert "dry ink holds no powder" in said
    assert counter.act(job, kind="prepared", run=run["id"], stage="powder", count=run["copies"]).status_code == 200
    assert said not in today(counter)["waiting"]


def test_what_lies_in_the_oven_is_not_planned_elsewhere(counter: Counter, job: str):
    rival = counter.order({"S": 4}, title="Due sooner", due=(datetime.now(UTC) + timedelta(minutes=10)).isoformat())
    for one in (job, rival):
        run = counter.printed(one)
        counter.act(one, kind="prepared", run=run, stage="powder", count=counter.job(one)["runs"][-1]["copies"])
    people = [p for p in today(counter)["people"] if p["here"]]

    def cured(of: str) -> tuple[int, int]:
        seen = today(counter)
        return next(b["start_min"] for b in blocks(seen, of).values() if b["machine"] == "fulmar"), seen["now_min"]

    try:
        for p in people:
            always = {"week": [[0, 1440]] * 7, "rest": None}
            counter.client.put(f"/api/today/hours/{p['id']}", json=always, headers=counter.headers)
        assert cured(rival)[0] < cured(job)[0]
        lead = {"job": job, "print": "front", "holder": "screen-of-today", "seq": 1, "state": {}}
        assert counter.client.put("/api/presses/fulmar/session", json=lead, headers=counter.headers).status_code == 200
        at, now = cured(job)
        assert at == now
        assert cured(rival)[0] > at
    finally:
        counter.client.delete("/api/presses/fulmar/session/screen-of-today", headers=counter.headers)
        for p in people:
            counter.client.put(f"/api/today/hours/{p['id']}", json=p["hours"], headers=counter.headers)


def test_what_is_led_at_a_press_is_not_planned_elsewhere(counter: Counter, job: str):
    """Everybody is here all day and the press is hot, so that it can be under way now; another job is due sooner."""
    rival = counter.order({"S": 4}, title="Due sooner", due=(datetime.now(UTC) + timedelta(minutes=20)).isoformat())
    for one in (job, rival):
        run = counter.printed(one)
        for stage in ("powder", "cure-oven"):
            counter.act(one, kind="prepared", run=run, stage=stage, count=counter.job(one)["runs"][-1]["copies"])
    assert counter.act(rival, kind="set-up", press="gannet", temperature_c=160, time_s=15).status_code == 200
    people = [p for p in today(counter)["people"] if p["here"]]
    always = {"week": [[0, 1440]] * 7, "rest": None}

    def pressed(of: str) -> tuple[int, int]:
        seen = today(counter)
        return next(b["start_min"] for b in blocks(seen, of).values() if b["station"] == "press"), seen["now_min"]

    try:
        for p in people:
            counter.client.put(f"/api/today/hours/{p['id']}", json=always, headers=counter.headers)
        assert pressed(rival)[0] < pressed(job)[0]
        lead = {"job": job, "print": "front", "holder": "screen-of-today", "seq": 1, "state": {}}
        assert counter.client.put("/api/presses/gannet/session", json=lead, headers=counter.headers).status_code == 200
        at, now = pressed(job)
        assert at == now
        assert pressed(rival)[0] > at
    finally:
        counter.client.delete("/api/presses/gannet/session/screen-of-today", headers=counter.headers)
        for p in people:
            counter.client.put(f"/api/today/hours/{p['id']}", json=p["hours"], headers=counter.headers)


def test_care_comes_before_a_printers_first_run_and_goes_when_it_is_done(counter: Counter, job: str):
    seen = today(counter)
    care = blocks(seen, "care:petrel")["care:first"]
    printing = next(b for b in blocks(seen, job).values() if b["station"] == "print")
    assert (care["title"], care["station"], care["hands_all"]) == ("Petrel", "care", True)
    assert care["name"].startswith("Stir the white")
    assert care["end_min"] <= min(b["start_min"] for b in seen["blocks"] if b["machine"] == "petrel" and b["station"] == "print")  # fmt: skip
    assert care["end_min"] <= printing["start_min"]
    pin = {"pin": {"job": "care:petrel", "step": "care:first", "at": at(seen, care["start_min"] + 30), "by": ""}, "out": False}  # fmt: skip
    assert counter.post("/api/today/pins", json=pin).json()["code"] == "no-such-stage"
    for task in ("stir-white", "nozzle-check"):
        body = {"kind": "cared", "task": task, "outcome": "done", "reason": "", "totals": {}}
        counter.post("/api/at-work/petrel/acts", json={"id": uuid.uuid4().hex, "body": body})
    assert blocks(today(counter), "care:petrel") == {}


def test_an_order_on_the_line_has_an_honest_date_before_it_is_promised(counter: Counter, job: str):
    found = counter.get(f"/api/jobs/{job}/promise").json()["promise"]
    seen = today(counter)
    assert found["soonest"] <= found["quietly"]
    lane = next(j for j in seen["jobs"] if j["id"] == job)
    assert datetime.fromisoformat(found["soonest"]) <= datetime.fromisoformat(at(seen, lane["end_min"])) + timedelta(minutes=10)  # fmt: skip
    # What a customer gets in writing is no earlier than that.
    text = pypdfium2.PdfDocument(counter.get(f"/api/jobs/{job}/quotation.pdf").content)[0].get_textpage().get_text_range()  # fmt: skip
    ready = max(
        datetime.fromisoformat(found["quietly"]),
        datetime.fromisoformat(counter.job(job)["line"]["decisions"]["order"]["due"]),
    )
    assert f"{ready:%-d %B %Y}" in text
    bare = counter.order({"S": 1}, title="No picture yet")
    assert "not known yet" in counter.get(f"/api/jobs/{bare}/promise").json()["why"]


def test_a_late_job_is_tried_another_way_and_what_that_costs_is_said(counter: Counter):
    """Its own printer has failed: other ways that suit it as well leave in time, until somebody has begun it."""
    for other in counter.get("/api/jobs").json()["cards"]:  # late by the same machine, they would stand before it
        counter.act(other["id"], kind="cancelled", reason="of another test")
    due = (datetime.now(UTC) + timedelta(minutes=30)).isoformat()
    job = counter.order({"S": 6}, title="Another way", due=due)
    counter.place(job)
    people = today(counter)["people"]
    always = {"week": [[0, 1440]] * 7, "rest": None}
    for p in people:
        assert (
            counter.client.put(f"/api/today/hours/{p['id']}", json=always, headers=counter.headers).status_code == 200
        )
    failed = {"what": "machine", "id": "petrel", "since": datetime.now(UTC).isoformat()}
    try:
        seen = counter.client.post(
            "/api/today/away", json={"away": failed, "back": False}, headers=counter.headers
        ).json()
        assert blocks(seen, job) == {}
        mine = {o["name"]: o for o in seen["outs"] if o["name"].startswith("Another way by ")}
        cost = {a["name"].casefold(): float(a["cost_with_blank"]) for a in counter.get(f"/api/jobs/{job}/advice").json()["advice"]["ranked"] if a["cost_with_blank"]}  # fmt: skip
        assert mine, (seen["outs"], seen["left"])
        for name, out in mine.items():
            method = name.removeprefix("Another way by ").rsplit(" on ", 1)[0].casefold()
            assert float(out["price"]) == pytest.approx((cost[method] - cost["film"]) * 6, abs=0.07), name
            assert out["said"].startswith(("all leave in time", "still late"))
        counter.plates(job)
        run = counter.release(job).json()["runs"][-1]
        assert counter.act(job, kind="printed", run=run["id"], count=run["copies"]).status_code == 200
        assert not [o for o in today(counter)["outs"] if o["name"].startswith("Another way")]
    finally:
        counter.client.post("/api/today/away", json={"away": failed, "back": True}, headers=counter.headers)
        for p in people:
            counter.client.put(f"/api/today/hours/{p['id']}", json=p["hours"], headers=counter.headers)
