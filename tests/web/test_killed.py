"""The server killed in mid-stage and in mid-release, again and again: what it had said it holds is there afterwards, once."""

import os
import random
import threading
import time
import uuid
from collections import Counter as Count
from datetime import UTC, datetime

import httpx
import psutil
import pytest

from tests.conftest import stocked
from tests.served import Server

# Twenty by `./offsetter soak`, which has the time.
ROUNDS, PIECES = 20 if os.environ.get("OFFSETTER_FUZZ") else 1, 600


@pytest.fixture
def server(database, shop_rows, tmp_path):
    made = Server(stocked(database, "killed", shop_rows), tmp_path)
    made.start()
    yield made
    made.kill()


@pytest.mark.timeout(480)
def test_nothing_acknowledged_is_lost_and_nothing_is_doubled(server):
    counter = server.counter()
    pressing = counter.order({"S": PIECES})
    run = counter.printed(pressing)
    releasing = counter.order({"S": 1})
    counter.place(releasing, 40)
    counter.plates(releasing)
    sent: list[dict] = []
    acknowledged: set[str] = set()
    led, runs, chance = [0], set(), random.Random(20)

    def until_it_dies(act) -> None:
        try:
            while True:
                act()
        except httpx.HTTPError:
            return

    def press() -> None:
        body = {"kind": "pressed", "run": run, "size": "S", "stages": []}
        sent.append({"id": uuid.uuid4().hex, "job": pressing, "at": datetime.now(UTC).isoformat(), "body": body})
        answer = counter.post("/api/acts", json=sent[-1])
        assert answer.status_code == 200, answer.text
        acknowledged.add(sent[-1]["id"])

    def stand_at_the_press() -> None:
        seq = led[0] + 1
        state = {"dial_c": 160, "pieces": [], "started_at": float(seq), "done": seq}
        body = {"job": pressing, "print": "front", "holder": "one-screen", "seq": seq, "state": state}
        assert counter.client.put("/api/presses/gannet/session", json=body, headers=counter.headers).status_code == 200
        led[0] = seq

    def release() -> None:
        answer = counter.release(releasing)
        assert answer.status_code == 201, answer.text
        runs.add(answer.json()["runs"][-1]["id"])

    for round_ in range(ROUNDS):
        before = len(acknowledged), led[0], len(runs)
        hands = [threading.Thread(target=until_it_dies, args=(act,)) for act in (press, stand_at_the_press, release)]
        for hand in hands:
            hand.start()
        # Killed while all three are at it: after each was answered once, at any moment of what comes next.
        end = time.monotonic() + 30
        while any(now == then for now, then in zip((len(acknowledged), led[0], len(runs)), before, strict=True)):
            assert time.monotonic() < end
            time.sleep(0.01)
        time.sleep(0.3 * chance.random())
        children = psutil.Process(server.process.pid).children(recursive=True)
        server.kill()
        assert psutil.wait_procs(children, timeout=10)[1] == [], "a child outlives its server"
        for hand in hands:
            hand.join(20)
        server.start()
        seen = counter.job(pressing)
        held = Count(a["id"] for a in seen["acts"] if a["body"]["kind"] == "pressed")
        assert acknowledged <= set(held), f"round {round_}: lost"
        assert set(held.values()) <= {1}
        session = counter.get("/api/presses/gannet/session").json()
        assert session["seq"] >= led[0]
        assert session["state"]["done"] == session["seq"]
        released = counter.job(releasing)["runs"]
        assert runs <= {r["id"] for r in released}, f"round {round_}: a released run is gone"
        assert sum(r["state"] == "released" for r in released) == 1
    assert len(acknowledged) >= ROUNDS
    assert len(runs) >= ROUNDS
    # The sheet of the last run, cut short or not, is there when it is asked for.
    last, end = counter.job(releasing)["runs"][-1]["id"], time.monotonic() + 60
    while (sheet := counter.get(f"/api/runs/{last}/run.pdf")).status_code != 200:
        assert sheet.json()["code"] == "being-made"
        assert time.monotonic() < end
        time.sleep(0.2)
    assert sheet.content.startswith(b"%PDF")
    # A browser sends again what it got no answer to: each act counts once.
    for act in [a for a in sent if a["id"] not in acknowledged] + chance.sample(sent, min(20, len(sent))):
        assert counter.post("/api/acts", json=act).status_code == 200
    assert counter.job(pressing)["ledger"]["pressed"] == {"front": len(sent)}
