"""A run sent to a printer that speaks IPP over loopback: once, whatever happens on the way."""

import time
import uuid
from datetime import timedelta

import httpx
import pytest
from icalendar import Calendar
from standins.serving import Machines

from tests.conftest import ROOT
from tests.web.conftest import Counter, shop_of_its_own
from tests.web.test_shared_sheets import made, ready
from tests.web.test_shared_sheets import released as released_together

CARE = [{"task": t, "reason": "done on paper"} for t in ("stir-white", "nozzle-check")]


@pytest.fixture(scope="module")
def machines():
    made = Machines(speed=2000, names=("petrel", "puffin", "plover"))
    yield made
    made.close()


@pytest.fixture(scope="module")
def shop(database, shop_rows, machines, tmp_path_factory):
    ports = frozenset({machines.port})
    with shop_of_its_own(database, "sending", shop_rows, tmp_path_factory, loopback_ports=ports) as own:
        yield own


@pytest.fixture
def ada(shop, machines) -> Counter:
    for engine in machines.engines.values():
        for fault in list(engine.faults):
            engine.fail(fault, on=False)
        engine.load("main-roll")
        engine.fill("W")
    ada = Counter(shop[1])
    answer = ada.client.put("/api/links/petrel", json={"address": machines.uri("petrel")}, headers=ada.headers)
    assert answer.status_code == 200, answer.text
    shop[0].watch.once()
    return ada


def released(ada: Counter, counts: dict[str, int] | None = None) -> tuple[str, dict]:
    job = ada.order(counts or {"S": 2, "M": 4})
    ada.place(job)
    ada.plates(job)
    return job, ada.release(job).json()["runs"][-1]


def send(ada: Counter, run: dict, **more):
    return ada.post(f"/api/runs/{run['id']}/sends", json={"tray": "main-roll", "passed": CARE, **more})


def until(shop, ada: Counter, job: str, *states: str) -> dict:
    """The newest send, once it stands so."""
    end = time.monotonic() + 60
    while time.monotonic() < end:
        shop[0].watch.once()
        newest = ada.get(f"/api/jobs/{job}/printer").json()["sends"][0]
        if newest["state"] in states:
            return newest
        time.sleep(0.05)
    raise AssertionError(newest)


def test_a_sent_run_is_followed_to_its_end_and_counted_as_printed_once(shop, ada, machines):
    job, run = released(ada)
    before = ada.get(f"/api/jobs/{job}/printer").json()
    assert (before["way"], before["tray"], before["said"]) == ("network", "main-roll", "ready")
    assert {c["task"]["id"] for c in before["care"]} == {"stir-white", "nozzle-check"}
    file = ada.follow(f"run-{run['id']}")
    assert file
    assert ada.post(f"/api/runs/{run['id']}/sends", json={"tray": "main-roll"}).json()["code"] == "care-first"
    assert send(ada, run).status_code == 202
    again = send(ada, run)
    assert again.json()["code"] in ("sent-already", "all-printed")
    sent = until(shop, ada, job, "done")
    assert sent["sheets_done"] == sent["sheets"]
    seen = ada.job(job)
    assert [r["printed"] for r in seen["runs"]] == [run["copies"]]
    for _ in range(3):
        shop[0].watch.once()
    assert ada.job(job)["runs"][0]["printed"] == run["copies"]
    assert [j.name for j in machines.engines["petrel"].jobs.values()].count(sent["name"]) == 1
    assert send(ada, run).json()["code"] == "all-printed"
    took = ada.get("/api/at-work/petrel").json()
    assert took["totals"]["prints"] == run["copies"]
    assert took["supplies"][-1]["channel"] == "W"
    assert took["supplies"][-1]["pct"] == pytest.approx(99, abs=2)


def test_after_a_swallowed_answer_the_printer_is_asked_by_name_and_nothing_is_sent_twice(shop, ada, machines, monkeypatch):  # fmt: skip
    monkeypatch.setattr("offsetter.devices.printer.SENDS_WITHIN_S", 1.0)
    job, run = released(ada)
    ada.follow(f"run-{run['id']}")
    engine = machines.engines["petrel"]
    engine.fail("swallows-answers", on=True)
    begun = len(engine.jobs)
    assert send(ada, run).status_code == 202
    sent = until(shop, ada, job, "done")
    assert len(engine.jobs) == begun + 1
    assert sent["number"] == max(engine.jobs)


def test_where_nobody_can_know_a_person_is_asked(shop, ada, machines, monkeypatch):
    monkeypatch.setattr("offsetter.devices.printer.SENDS_WITHIN_S", 1.0)
    job, run = released(ada)
    ada.follow(f"run-{run['id']}")
    engine = machines.engines["petrel"]
    engine.fail("swallows-answers", on=True)
    # It forgets what it was told: its power was cut.
    monkeypatch.setattr(engine, "give", lambda job, *_: engine.jobs.pop(job.id))
    assert send(ada, run).status_code == 202
    sent = until(shop, ada, job, "unknown")
    assert "not known whether it came out" in sent["said"]
    assert ada.post(f"/api/sends/{sent['id']}/cancel").json()["code"] == "not-there-yet"
    engine.fail("swallows-answers", on=False)
    assert send(ada, run).json()["code"] == "sent-already"
    assert ada.post(f"/api/sends/{sent['id']}/seen", json={"came_out": False}).json()["state"] == "not sent"
    assert ada.job(job)["runs"][0]["printed"] == 0
    monkeypatch.undo()
    assert send(ada, run).status_code == 202
    assert until(shop, ada, job, "done")["state"] == "done"


def test_paper_that_ends_holds_it_up_and_what_came_out_before_a_stop_is_counted(shop, ada, machines):
    job, run = released(ada, {"S": 40, "M": 40})
    ada.follow(f"run-{run['id']}")
    engine = machines.engines["petrel"]
    engine.kind.papers[0].left = run["length_um"] / 1e6 * 0.4
    assert send(ada, run).status_code == 202
    held = until(shop, ada, job, "held up")
    now = ada.get("/api/at-work/petrel").json()
    assert now["is_hindered"]
    assert "out of paper" in now["said"]
    engine.fail("silent", on=True)
    assert ada.post(f"/api/sends/{held['id']}/cancel").json()["code"] == "printer-silent"
    engine.fail("silent", on=False)
    assert ada.post(f"/api/sends/{held['id']}/cancel").status_code == 200
    ended = until(shop, ada, job, "cancelled")
    seen = ada.job(job)["runs"][0]
    assert 0 < ended["sheets_done"] < ended["sheets"]
    assert seen["printed"] == sum(run["copies_per_cut"][: ended["sheets_done"]])
    engine.load("main-roll")
    shop[0].watch.once()
    assert send(ada, run).status_code == 202
    rest = until(shop, ada, job, "done")
    assert (rest["first_sheet"], rest["sheets"]) == (ended["sheets_done"] + 1, ended["sheets"] - ended["sheets_done"])
    assert ada.job(job)["runs"][0]["printed"] == run["copies"]


def test_a_busy_printer_and_one_that_is_off_are_said_and_nothing_is_sent(shop, ada, machines):
    job, run = released(ada)
    ada.follow(f"run-{run['id']}")
    engine = machines.engines["petrel"]
    engine.fail("busy", on=True)
    assert send(ada, run).status_code == 202
    assert "busy with another job" in until(shop, ada, job, "not sent")["said"]
    engine.fail("busy", on=False)
    engine.fail("cover-open", on=True)
    shop[0].watch.once()
    assert send(ada, run).json()["code"] == "printer-hindered"


def test_a_printer_that_lies_is_not_believed(shop, ada, machines):
    machines.engines["petrel"].fail("lies", on=True)
    shop[0].watch.once()
    told = shop[0].at_work.look("petrel")
    by_name = {s.name: s for s in told.others} | {s.channel: s for s in told.supplies}
    assert all(s.pct is None or 0 <= s.pct <= 100 for s in told.supplies)
    assert by_name["C"].pct == pytest.approx(62, abs=3), "what it said before stays"


@pytest.mark.parametrize(
    ("typed", "code"),
    [
        ("ipp://169.254.169.254/", "foreign-address"), ("ipp://127.0.0.1:3306/ipp/print", "foreign-address"), ("ipp://8.8.8.8", "foreign-address"),
        ("http://10.0.0.1/", "bad-address"), ("ipp://user@10.0.0.1/", "bad-address"), ("ipp://[::1]:9/", "foreign-address"), ("ipp://0.0.0.0/", "foreign-address"),
        ("ipps://10.0.0.1/", "no-tls-printer"), ("ipp://10.0.0.1/a?b", "bad-address"), ("not a name", "bad-address"), ("ipp://2130706433/", "foreign-address"),
    ],
)  # fmt: skip
def test_only_the_shops_own_network_is_spoken_to(ada, typed, code):
    assert ada.post("/api/links/ask", json={"address": typed}).json()["code"] == code


def test_what_is_no_printer_is_said(ada, machines):
    wrong = ada.post("/api/links/ask", json={"address": f"ipp://127.0.0.1:{machines.port}/nothing"}).json()
    assert wrong["code"] == "printer-refuses"
    taken = ada.client.put("/api/links/shearwater", json={"address": machines.uri("petrel")}, headers=ada.headers)
    assert taken.json()["code"] == "address-taken"
    told = ada.post("/api/links/ask", json={"address": machines.uri("puffin")}).json()
    assert (told["kind"], told["told"]["model"]) == ("white-toner-a4", "Simulated white-toner printer")
    noor = ada.as_person("Noor")
    assert noor.post("/api/links/ask", json={"address": machines.uri("puffin")}).status_code == 403


def test_a_machine_that_takes_files_gets_them_whole_with_a_card_and_says_when_they_are_gone(shop, ada, tmp_path):
    put = lambda folder: ada.client.put("/api/links/petrel", json={"folder": folder}, headers=ada.headers)  # noqa: E731
    assert put("/etc").json()["code"] == "folder-kept-out"
    assert put("relative").json()["code"] == "no-such-folder"
    assert put(str(shop[0].base.files.folder)).json()["code"] == "folder-kept-out"
    assert put(str(tmp_path)).status_code == 200
    job, run = released(ada)
    ada.follow(f"run-{run['id']}")
    assert send(ada, run).status_code == 202
    there = until(shop, ada, job, "in its folder")
    names = sorted(p.name for p in tmp_path.iterdir())
    assert names == sorted(there["files"])
    assert not any(n.startswith(".") for n in names)
    card = next(p for p in tmp_path.iterdir() if p.suffix == ".txt").read_text()
    assert "never fitted to the page" in card
    assert "mirrored already" in card
    pdf = next(p for p in tmp_path.iterdir() if p.suffix == ".pdf")
    assert pdf.read_bytes()[:5] == b"%PDF-"
    moved = tmp_path.with_name("moved")
    tmp_path.rename(moved)
    assert ada.post(f"/api/sends/{there['id']}/cancel").json()["code"] == "folder-gone"
    moved.rename(tmp_path)
    for path in tmp_path.iterdir():
        path.unlink()
    assert ada.post(f"/api/sends/{there['id']}/cancel").json()["code"] == "taken-already"
    assert "took the files" in until(shop, ada, job, "taken")["said"]
    assert ada.act(job, kind="printed", run=run["id"], count=run["copies"]).status_code == 200
    done = until(shop, ada, job, "done")
    assert ada.post(f"/api/sends/{done['id']}/seen", json={"came_out": True}).json()["code"] == "known-already"


def test_care_is_done_or_skipped_with_a_reason_and_comes_back(shop, ada):
    seen = ada.get("/api/at-work/petrel").json()
    assert next(c for c in seen["care"] if c["task"]["id"] == "stir-white")["state"] == "due"
    act = lambda **body: ada.post("/api/at-work/petrel/acts", json={"id": uuid.uuid4().hex, "body": body})  # noqa: E731
    assert act(kind="cared", task="stir-white", outcome="skipped").json()["code"] == "reason-needed"
    done = act(kind="cared", task="stir-white").json()
    mine = next(c for c in done["care"] if c["task"]["id"] == "stir-white")
    assert (mine["state"], mine["done_by"]) == ("fine", "Ada")
    skipped = act(kind="cared", task="nozzle-check", outcome="skipped", reason="no time").json()
    assert next(c for c in skipped["care"] if c["task"]["id"] == "nozzle-check")["skipped_today"]
    assert ada.get(f"/api/jobs/{released(ada)[0]}/printer").json()["care"] == []
    now = shop[0].base.now
    shop[0].base.now = lambda: now() + timedelta(days=3)
    try:
        again = {c["task"]["id"]: c for c in ada.get("/api/at-work/petrel").json()["care"]}
        assert again["stir-white"]["state"] == again["nozzle-check"]["state"] == "due"
    finally:
        shop[0].base.now = now


def test_a_filling_begins_a_new_count_and_a_changed_cartridge_throws_its_rest_away(shop, ada):
    act = lambda **body: ada.post("/api/at-work/petrel/acts", json={"id": uuid.uuid4().hex, "body": body})  # noqa: E731
    act(kind="levels", pct={"W": 20})
    had = {s["item"]: s["on_hand"] for s in ada.get("/api/stock").json()["shelves"]}
    after = act(kind="filled", channel="W", way="changed", lot="L77").json()
    white = next(s for s in after["supplies"] if s["channel"] == "W")
    assert (white["pct"], white["lot"], white["said"]) == (100, "L77", "")
    has = {s["item"]: s["on_hand"] for s in ada.get("/api/stock").json()["shelves"]}
    assert had["ink/petrel/W"] - has["ink/petrel/W"] == pytest.approx(50)
    act(kind="levels", pct={"W": 60})
    risen = act(kind="levels", pct={"W": 90}).json()
    assert "nobody noted a filling" in next(s for s in risen["supplies"] if s["channel"] == "W")["said"]


def test_the_nozzle_sheet_goes_to_the_printer_and_its_scan_shows_what_is_really_out(shop, ada, machines):
    engine = machines.engines["petrel"]
    done = len(engine.jobs)
    assert ada.post("/api/nozzles/petrel/prints", json={}).status_code == 202
    assert len(engine.jobs) == done + 1
    while engine.under_way():
        time.sleep(0.02)
    engine.last_printed -= 4 * 86_400
    scan = httpx.get(f"http://127.0.0.1:{machines.port}/scan/petrel.png").content
    read = ada.client.post("/api/nozzles/petrel/scans", files={"file": ("scan.png", scan)}, headers=ada.headers).json()
    missing = {c: n for c, n in read["history"][-1]["missing"].items() if n}
    assert missing == engine.dropouts()
    assert set(missing) == set("CMYKW")
    job, _ = released(ada)
    assert "stripes would show" in ada.get(f"/api/jobs/{job}/printer").json()["nozzles"]
    assert ada.post("/api/links/petrel/face-tests", json={"tray": "main-roll"}).status_code == 202
    assert ada.post("/api/links/dunlin/face-tests", json={}).json()["code"] == "by-hand"


def test_a_power_cut_in_a_run_is_said_and_only_what_came_out_is_counted(shop, ada, machines):
    job, run = released(ada, {"S": 40, "M": 40})
    ada.follow(f"run-{run['id']}")
    engine = machines.engines["petrel"]
    engine.kind.papers[0].left = run["length_um"] / 1e6 * 0.4
    assert send(ada, run).status_code == 202
    until(shop, ada, job, "held up")
    done = next(j for j in engine.jobs.values() if j.state < 7).done
    engine.fail("power-cut", on=True)
    engine.fail("silent", on=True)
    time.sleep(0.3)
    engine.fail("power-cut", on=False)
    engine.fail("silent", on=False)
    failed = until(shop, ada, job, "failed")
    assert (failed["sheets_done"], failed["said"]) == (done, "The printer gave it up.")
    assert ada.job(job)["runs"][0]["printed"] == sum(run["copies_per_cut"][:done])


def test_care_reads_as_a_calendar(ada):
    read = Calendar.from_ical(ada.get("/api/at-work/care.ics").content)
    events = {str(e["uid"]): e for e in read.walk("VEVENT")}
    wiped = events["care-petrel-wipe-cap@offsetter"]
    assert str(wiped["summary"]) == "Petrel: Wipe the capping station and the wiper"
    assert wiped["dtend"].dt - wiped["dtstart"].dt == timedelta(minutes=10)


def test_a_shop_does_its_care_as_often_as_it_likes(shop, ada):
    def put(task, **own):
        return ada.client.put(
            f"/api/at-work/petrel/care/{task}",
            json={"days": None, "every": None, "is_off": False, **own},
            headers=ada.headers,
        )

    seen = {c["task"]["id"]: c["task"] for c in put("wipe-cap", days=3, every=4.5).json()["care"]}
    assert (seen["wipe-cap"]["days"], seen["wipe-cap"]["m2"]) == (3, 4.5)
    off = put("roll-path", is_off=True).json()
    assert off["care_off"] == [["roll-path", "Dust the roll's path"]]
    assert "roll-path" not in {c["task"]["id"] for c in off["care"]}
    assert "roll-path" in {c["task"]["id"] for c in put("roll-path").json()["care"]}
    assert put("platen-wipe").json()["code"] == "no-such-task"
    assert put("wipe-cap", days=0).status_code == 422


def test_a_run_of_two_jobs_is_sent_once_and_counted_at_both(shop, ada):
    jobs = [ready(ada, "Lamp tees", {"S": 2}, 62), ready(ada, "Rope tees", {"L": 3}, 48)]
    run = released_together(ada, made(ada, *jobs))
    ada.follow(f"run-{run['id']}")
    assert ada.get(f"/api/jobs/{jobs[0]}/printer").json()["shared"] == run["number"]
    at = ada.get(f"/api/shared-runs/{run['id']}/printer").json()
    assert (at["run"], at["tray"]) == (run["id"], "main-roll")
    assert send(ada, run).status_code == 202
    assert send(ada, run).json()["code"] in ("sent-already", "all-printed")
    until(shop, ada, jobs[1], "done")
    assert [ada.job(j)["ledger"]["printed"] for j in jobs] == [2, 3]
    took = [ada.job(j)["acts"][-1] for j in jobs]
    assert {a["actor"] for a in took} == {"Petrel"}


def test_a_printer_that_takes_no_pdf_is_sent_pictures_dot_by_dot(shop, ada, machines):
    answer = ada.client.put("/api/links/plover", json={"address": machines.uri("plover")}, headers=ada.headers)
    assert answer.status_code == 200, answer.text
    shop[0].watch.once()
    dye = ada.post("/api/colour/profiles", files={"file": ("dye.icc", (ROOT / "demo" / "profile" / "dye.icc").read_bytes())}).json()["id"]  # fmt: skip
    where = {"printer": "plover", "media": "opaque-sheet-inkjet", "mode": "best", "profile": dye}
    assert ada.client.put("/api/colour/conditions", json=where, headers=ada.headers).status_code == 200
    job = ada.order({"one": 2}, lines=[{"blank": "cushion", "counts": {"one": 2}}])
    ada.place(job, 80)
    way = ada.get(f"/api/jobs/{job}/advice").json()["ways"]["inkjet-opaque"]
    assert ada.decide(job, "method", **way).status_code == 200
    ada.plates(job)
    made_run = ada.release(job)
    assert made_run.status_code == 201, made_run.text
    run = made_run.json()["runs"][-1]
    ada.follow(f"run-{run['id']}")
    at = ada.get(f"/api/jobs/{job}/printer").json()
    assert any("pictures and no PDF" in n for n in at["notes"])
    care = [{"task": d["task"]["id"], "reason": "done on paper"} for d in at["care"]]
    assert send(ada, run, tray="tray-1", passed=care).status_code == 202
    sent = until(shop, ada, job, "done")
    assert sent["sheets_done"] == at["sheets"][1]
    took = [j for j in machines.engines["plover"].jobs.values() if j.format == "image/pwg-raster"]
    assert [j.pages for j in took] == [at["sheets"][1]]
