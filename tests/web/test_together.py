"""Many hands at once, and work that goes wrong: nothing lost, nothing doubled, nothing hidden."""

import json
import multiprocessing
import os
import signal
import time
import uuid
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime

import pytest

from offsetter.core.quantities import METRIC, told
from offsetter.web.jobs import _line_out
from offsetter.work.local import LocalWork
from tests.web.conftest import Counter, shop_of_its_own


def test_acts_from_two_screens_at_once_are_each_recorded_once(counter):
    job = counter.order({"S": 30})
    run = counter.printed(job)
    acts = [
        {
            "id": uuid.uuid4().hex,
            "job": job,
            "at": datetime.now(UTC).isoformat(),
            "body": {"kind": "prepared", "run": run, "stage": "powder", "count": 1},
        }
        for _ in range(30)
    ]

    def send(act):
        return counter.client.post("/api/acts", json=act, headers=counter.headers).status_code

    # Every act is sent twice, from four threads: a lost answer makes a browser send again.
    with ThreadPoolExecutor(4) as hands:
        assert set(hands.map(send, acts + acts)) == {200}
    assert counter.job(job)["ledger"]["prepared"] == {"powder": 30}
    assert len([a for a in counter.job(job)["acts"] if a["body"]["kind"] == "prepared"]) == 30


def test_of_two_saves_in_the_same_moment_exactly_one_wins(counter):
    job = counter.order()
    counter.place(job)
    people = [counter.as_person(name) for name in ("Ada", "Noor", "Mika", "Sami")]
    for base in range(4):
        body = {"settled": False, "knock_out": True, "faint": "cut", "guard": True, "accepted": []}

        def save(person, base=base, body=body):
            level = {**body, "level_pct": 10 + people.index(person) + 5 * base}
            return person.client.put(
                f"/api/jobs/{job}/decisions/white", json={"base": base, "body": level}, headers=person.headers
            )

        with ThreadPoolExecutor(4) as hands:
            answers = list(hands.map(save, people))
        assert sorted(a.status_code for a in answers) == [200, 409, 409, 409]
        told = [a.json() for a in answers if a.status_code == 409]
        assert all(t["theirs"]["level_pct"] != t["mine"]["level_pct"] for t in told)
    assert counter.job(job)["revisions"]["white"] == 4


def wait(work: LocalWork, key: str, seconds: float = 40):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        latest = work.latest(key)
        if latest is not None and latest.is_last:
            return latest
        time.sleep(0.05)
    raise AssertionError("the work never ended")


@pytest.fixture
def work():
    made = LocalWork()
    yield made
    made.close()


def test_a_file_that_cannot_be_read_fails_with_three_parts_and_can_be_tried_again(work, tmp_path):
    (tmp_path / "bad.png").write_bytes(b"nothing of a picture")
    from offsetter.core.compute.plate_spec import ColourSpec, PlateSpec
    from offsetter.core.facts import profile_bytes

    (tmp_path / "p.icc").write_bytes(profile_bytes())
    spec = PlateSpec(
        artwork="a",
        crop_px=(0, 0, 10, 10),
        width_um=50_000,
        dpi=300,
        mirrored=True,
        colour=ColourSpec(profile="p"),
        white=None,
    )
    arguments = {"spec": spec.model_dump_json(), "profile": str(tmp_path / "p.icc"), "original": str(tmp_path / "bad.png"),
                 "name": "bad.png", "out": str(tmp_path / "out")}  # fmt: skip
    for _ in range(2):
        work.submit("key", "full_plates", arguments)
        failed = wait(work, "key")
        assert failed.stage == "failed"
        assert set(failed.problem) == {"code", "happened", "kept", "to_do"}
        assert not (tmp_path / "out").exists()


def test_a_fault_of_ours_is_told_apart_from_a_limit_of_the_machine(work, tmp_path):
    work.submit("key", "no-such-task", {})
    crashed = wait(work, "key")
    assert (crashed.stage, crashed.problem["code"]) == ("failed", "work-crashed")
    os.mkfifo(never := tmp_path / "never")  # opened and never read from: it waits until it is killed
    work.submit(
        "killed",
        "take_in",
        {"source": str(never), "name": "x", "file": "x", "folder": str(tmp_path / "out"), "asked": "{}"},
    )
    while (process := work._tasks["killed"].process) is None:
        time.sleep(0.01)
    os.kill(process.pid, signal.SIGKILL)
    died = wait(work, "killed")
    assert (died.stage, died.problem["code"]) == ("failed", "work-died")


def test_what_waits_its_turn_can_be_cancelled_too(work):
    for key in ("first", "second"):
        work.submit(key, "no-such-task", {})
    assert work.cancel("second")
    assert wait(work, "second").stage in ("cancelled", "failed")
    assert not work.cancel("second"), "it is over"
    assert [e.number for e in work._tasks["first"].events] == list(range(1, len(work._tasks["first"].events) + 1))


def test_previews_from_processes_of_their_own_are_those_of_the_server(database, shop_rows, tmp_path_factory):
    with shop_of_its_own(database, "lookers", shop_rows, tmp_path_factory, lookers=2) as (services, client):
        counter = Counter(client)
        job = counter.order()
        counter.place(job)
        place = counter.job(job)["line"]["decisions"]["place"]

        def tried(width_mm: int, **more):
            body = {**place, "width_um": width_mm * 1000, **more}
            return counter.post(f"/api/jobs/{job}/try", json={"station": "place", "body": body})

        answers = [tried(w) for w in (50, 80, 110)]
        for width, answer in zip((50, 80, 110), answers, strict=True):
            seen = services.jobs.attempt(job, "place", {**place, "width_um": width * 1000})
            assert answer.json() == json.loads(told(_line_out(services, seen).model_dump_json(), METRIC))
        with ThreadPoolExecutor(4) as hands:
            assert [a.status_code for a in hands.map(tried, range(40, 120, 10))] == [200] * 8
        picture = answers[0].json()["pictures"]["cloth"]
        assert counter.get(picture).content[:4] == b"\x89PNG"

        assert counter.decide(job, "white", level_pct=35).status_code == 200
        assert tried(90).json()["decisions"]["white"]["level_pct"] == 35, "they read what was saved a moment ago"
        refused = tried(90, place="left sleeve 9")
        assert refused.status_code == 409
        assert set(refused.json()) >= {"code", "happened", "kept", "to_do"}
        assert tried(90, width_um="wide").status_code == 422

        for one in multiprocessing.active_children():
            os.kill(one.pid, signal.SIGKILL)
        assert [tried(w).status_code for w in (55, 65, 75)] == [200] * 3, "the server answers itself, and starts others"
