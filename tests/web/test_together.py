"""Many hands at once, and work that goes wrong: nothing lost, nothing doubled, nothing hidden."""

import asyncio
import json
import multiprocessing
import os
import signal
import subprocess
import sys
import time
import uuid
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from datetime import UTC, datetime

import httpx
import psutil
import pytest

from offsetter.core.quantities import METRIC, told
from offsetter.store.engine import engine_for
from offsetter.store.long_work import LongWorkBoard
from offsetter.web.jobs import _line_out
from offsetter.work.local import LocalWork
from tests.conftest import stocked
from tests.served import Server
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
def board(database):
    stocked(database, "work", {})
    return LongWorkBoard(engine_for(database.url("work")))


@pytest.fixture
def work(board, tmp_path):
    made = LocalWork(board, tmp_path)
    yield made
    made.close()


@pytest.fixture
def endless(tmp_path):
    """Arguments of a work that waits until it is killed."""
    os.mkfifo(never := tmp_path / "never")  # opened and never read from
    return {"source": str(never), "name": "x", "file": "x", "folder": str(tmp_path / "out"), "asked": "{}"}


def begun(work: LocalWork, key: str, but: int = 0) -> int:
    """The process that does it, once it runs and is not another."""
    end = time.monotonic() + 40
    while time.monotonic() < end:
        task = work._tasks.get(key)
        if task is not None and task.process is not None and task.process.pid not in (None, but):
            return task.process.pid
        time.sleep(0.01)
    raise AssertionError("the work was never begun")


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


def test_a_fault_of_ours_is_told_apart_from_a_limit_of_the_machine(work, endless):
    work.submit("key", "no-such-task", {})
    crashed = wait(work, "key")
    assert (crashed.stage, crashed.problem["code"]) == ("failed", "work-crashed")
    work.submit("killed", "take_in", endless)
    os.kill(first := begun(work, "killed"), signal.SIGKILL)
    os.kill(begun(work, "killed", but=first), signal.SIGKILL)  # it was begun once more by itself
    died = wait(work, "killed")
    assert (died.stage, died.problem["code"]) == ("failed", "work-died")


def test_what_waits_its_turn_can_be_cancelled_too(work):
    for key in ("first", "second"):
        work.submit(key, "no-such-task", {})
    assert work.cancel("second")
    assert wait(work, "second").stage in ("cancelled", "failed")
    assert not work.cancel("second"), "it is over"


def test_work_of_one_process_is_followed_and_stopped_from_another(work, board, endless, tmp_path):
    other = LocalWork(board, tmp_path)
    other.warm()
    work.submit("shared", "take_in", endless)
    pid = begun(work, "shared")
    other.submit("shared", "take_in", endless)
    assert not other._tasks, "it is begun once"

    async def followed():
        heard = []
        async for event in other.follow("shared", 0):
            if not heard:
                assert await asyncio.to_thread(other.cancel, "shared")
            heard.append(event)
        return heard

    # In a thread of its own: a browser of another test may run a loop in this one.
    with ThreadPoolExecutor(1) as aside:
        heard = aside.submit(asyncio.run, followed()).result(30)
    assert heard[-1].stage == "cancelled"
    assert [e.number for e in heard] == sorted({e.number for e in heard})
    assert not psutil.pid_exists(pid)
    assert wait(work, "shared").stage == "cancelled"
    assert not other.cancel("shared"), "it is over"
    # One of a task alone: another process's search gives way to the newer one.
    work.submit("search-1", "take_in", endless, alone=True)
    begun(work, "search-1")
    other.submit("search-2", "take_in", endless, alone=True)
    assert wait(work, "search-1").stage == "cancelled"
    # What a process does when it is stopped, the next one does.
    pid = begun(other, "search-2")
    other.close()
    assert not psutil.pid_exists(pid)
    assert begun(work, "search-2") != pid
    assert work.cancel("search-2")


BEGINS = """
import json, sys, time
from pathlib import Path
from offsetter.store.engine import engine_for
from offsetter.store.long_work import LongWorkBoard
from offsetter.work.local import LocalWork

if __name__ == "__main__":
    url, lanes, arguments = sys.argv[1:]
    LocalWork(LongWorkBoard(engine_for(url)), Path(lanes)).submit("left", "take_in", json.loads(arguments))
    time.sleep(100)
"""


def test_work_of_a_killed_process_is_taken_over_twice_at_most(work, board, database, endless, tmp_path):
    (tmp_path / "begins.py").write_text(BEGINS)
    told = [sys.executable, str(tmp_path / "begins.py"), database.url("work"), str(tmp_path), json.dumps(endless)]
    killed = subprocess.Popen(told)
    while work.latest("left") is None:
        time.sleep(0.05)
    killed.kill()
    killed.wait()
    work.warm()
    pid = begun(work, "left")
    assert work.latest("left").stage == "queued"
    os.kill(pid, signal.SIGKILL)
    assert wait(work, "left").problem["code"] == "work-died", (
        "what ends every process that does it is not begun for ever"
    )


@pytest.mark.timeout(240)
def test_two_web_processes_behind_one_port_lose_one_and_go_on(database, shop_rows, tmp_path):
    server = Server(stocked(database, "two", shop_rows), tmp_path, processes=2)
    server.start()
    try:
        counter = server.counter()
        job = counter.order({"S": 30})
        run = counter.printed(job)

        def ours():
            """The web processes, by their numbers."""
            found = set()
            for child in psutil.Process(server.process.pid).children():
                with suppress(psutil.ZombieProcess, psutil.NoSuchProcess):
                    found |= {child.pid} if "spawn_main" in " ".join(child.cmdline()) else set()
            return found

        def press(_):
            body = {"kind": "prepared", "run": run, "stage": "powder", "count": 1}
            act = {"id": uuid.uuid4().hex, "job": job, "at": datetime.now(UTC).isoformat(), "body": body}
            with httpx.Client(base_url=server.address, timeout=60, cookies=counter.client.cookies) as another:
                for _ in range(50):
                    try:
                        return another.post("/api/acts", json=act, headers=counter.headers).status_code
                    except httpx.HTTPError:  # it was that process that was killed: a browser sends it again
                        time.sleep(0.1)
            raise AssertionError("nobody answered")

        before = ours()
        assert len(before) == 2
        with ThreadPoolExecutor(4) as hands:
            answers = hands.map(press, range(24))
            os.kill(min(before), signal.SIGKILL)
            assert set(answers) == {200}
        assert counter.job(job)["ledger"]["prepared"] == {"powder": 24}
        end = time.monotonic() + 60
        while len(ours()) < 2 or ours() == before:
            assert time.monotonic() < end, "another is started"
            time.sleep(0.1)
        children = psutil.Process(server.process.pid).children(recursive=True)
    finally:
        server.kill()
    assert psutil.wait_procs(children, timeout=15)[1] == [], "a child outlives its server"


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
