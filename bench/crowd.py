"""People at a working pace on one server: everybody drags a slider for two seconds of every ten, opens a station every ten, and
records an act every thirty. One alone, then more, in turn, several times over, against the demo's shop."""

import gzip
import json
import os
import random
import shutil
import tempfile
import threading
import time
import uuid
from collections import defaultdict
from datetime import UTC, datetime
from http.client import HTTPConnection, HTTPException
from pathlib import Path
from statistics import median
from typing import Any

from shop import close_shop, open_shop, signed_in

CROWDS, LASTS_S, ROUNDS = (1, 20, 50), 30, 4
"""In turn, because a machine that others share is not as quick in one minute as in the next."""
LONG, LONG_S = 6, int(os.environ.get("OFFSETTER_CROWD_S", "0"))
"""So many people for so long, to see whether memory grows; 0: left out. An hour is 3600."""
DRAG_S, EVERY_S, ACT_EVERY_S = 2.0, 10.0, 30.0
TIMES, LONGEST_S = 2, 0.5
"""What a page leaves the others of what it waited itself: frontend/src/api/client.ts."""
BOUND_TRY, BOUND_FOR, BOUND_ACT_MS = 3.0, 20, 500
Times = dict[str, list[float]]


def bench_crowd() -> None:
    from database import free_port

    folder, port = Path(tempfile.mkdtemp(prefix="offsetter-bench-")), free_port()
    address = f"http://127.0.0.1:{port}"
    try:
        demo = open_shop(folder, port, address)
        try:
            _measure(address)
            if LONG_S:
                _long(address, demo.pid)
        finally:
            close_shop(demo)
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _measure(address: str) -> None:
    shop = _Shop(address)
    print(f"crowd: people at a working pace, {ROUNDS} times {LASTS_S} s each in turn, p95 in ms")
    found: dict[int, list[dict[str, float]]] = defaultdict(list)
    asked, failed = 0, 0
    _crowd(shop, max(CROWDS), LASTS_S)  # each process has met each job
    for turn in range(ROUNDS):
        speed = _speed()
        for people in CROWDS:
            times, wrong = _crowd(shop, people, LASTS_S, turn)
            found[people].append({what: _p95(t) for what, t in times.items()} | {"rate": len(times["try"]) / LASTS_S})
            asked, failed = asked + sum(len(t) for t in times.values()), failed + wrong
        alone = found[CROWDS[0]][-1]["try"]
        said = "   ".join(f"{n}: {' '.join(f'{what} {ms:.0f}' for what, ms in sorted(r[-1].items()) if what != 'rate')}, of one {r[-1]['try'] / alone:.2f}"
                          for n, r in found.items())  # fmt: skip
        print(f"  {said}   a fixed sum took {speed:.0f} ms", flush=True)
    for people in CROWDS:
        rounds = found[people]
        against = median(r["try"] / one["try"] for r, one in zip(rounds, found[CROWDS[0]], strict=True))
        act = median(r["act"] for r in rounds if "act" in r) if any("act" in r for r in rounds) else 0.0
        bound = f" of {BOUND_TRY}" if people == BOUND_FOR else ""
        print(f"  {people:3} people   try {median(r['try'] for r in rounds):.0f}, against one alone {against:.2f}{bound}, "
              f"{median(r['rate'] for r in rounds):.0f} a second   act {act:.0f}, of bound {act / BOUND_ACT_MS:.2f}")  # fmt: skip
    print(f"  failed {failed} of {asked}")


def _p95(times: list[float]) -> float:
    return sorted(times)[int(0.95 * (len(times) - 1))] * 1000


def _speed() -> float:
    """ms of a sum that never changes: how quick the machine is just now."""
    began = time.process_time()
    sum(n * n % 7 for n in range(1_000_000))
    return (time.process_time() - began) * 1000


def _long(address: str, demo: int) -> None:
    """Memory of the server and its processes for previews, tenth by tenth of a long while; the first tenth fills the caches."""
    shop, kept, failed = _Shop(address), [], 0
    for _ in range(10):
        _, wrong = _crowd(shop, LONG, LONG_S / 10)
        kept.append(_used_mb(demo))
        failed += wrong
        print(f"    {kept[-1]:.0f} MB", flush=True)
    print(f"  {LONG} people for {LONG_S} s: memory of all processes {' '.join(f'{mb:.0f}' for mb in kept)} MB, "
          f"last against second tenth {kept[-1] / kept[1]:.3f}   failed {failed}")  # fmt: skip


def _used_mb(pid: int) -> float:
    """Of the server's processes below pid, each shared page counted once among those who share it."""
    total, waiting = 0.0, [pid]
    while waiting:
        one = waiting.pop()
        try:
            told = Path(f"/proc/{one}/cmdline").read_bytes()
            waiting += [
                int(c) for t in Path(f"/proc/{one}/task").iterdir() for c in (t / "children").read_text().split()
            ]
            if b"offsetter.web" in told or b"forkserver" in told:
                pss = next(
                    r for r in Path(f"/proc/{one}/smaps_rollup").read_text().splitlines() if r.startswith("Pss:")
                )
                total += int(pss.split()[1]) / 1000
        except (OSError, StopIteration):  # it ended meanwhile
            continue
    return total


class _Shop:
    """Where it is, whose cookie opens it, and its jobs."""

    def __init__(self, address: str) -> None:
        client = signed_in(address)
        self.jobs = [c["id"] for c in client.get("/api/jobs").json()["cards"]]
        self.at = address.removeprefix("http://")
        self.headers = {"cookie": f"offsetter={client.cookies['offsetter']}", "content-type": "application/json", "accept-encoding": "gzip"}  # fmt: skip


class _Browser:
    """One connection, one question at a time. Python's own, as light as there is: it works on the cores that it measures."""

    def __init__(self, shop: _Shop, times: Times) -> None:
        self._headers, self._times = shop.headers, times
        self._line = HTTPConnection(shop.at, timeout=60)
        self.failed, self.waited_s = 0, 0.0

    def ask(self, what: str, path: str, sent: Any = None) -> bytes:
        """The answer's body; how long it took is kept under what."""
        began = time.monotonic()
        body = None if sent is None else json.dumps(sent)
        try:
            self._line.request("GET" if sent is None else "POST", path, body, self._headers)
            answer = self._line.getresponse()
            found = answer.read()
            is_wrong = answer.status >= 400
            self.waited_s = float((answer.headers["server-timing"] or "=0").rpartition("=")[2]) / 1000
        except (OSError, HTTPException):
            self._line.close()
            found, is_wrong = b"", True
        self._times[what].append(time.monotonic() - began)
        self.failed += is_wrong
        return found

    def rest(self) -> None:
        """The server lets go of a line on which nobody asks."""
        self._line.close()


def _crowd(shop: _Shop, people: int, lasts_s: float, first: int = 0) -> tuple[Times, int]:
    """first: the job that the first of them opens."""
    times: Times = defaultdict(list)
    browsers = [_Browser(shop, times) for _ in range(people)]
    threads = [threading.Thread(target=_person, args=(b, shop.jobs[(first + n) % len(shop.jobs)], n, lasts_s)) for n, b in enumerate(browsers)]  # fmt: skip
    for one in threads:
        one.start()
    for one in threads:
        one.join()
    return times, sum(b.failed for b in browsers)


def _person(browser: _Browser, job: str, n: int, lasts_s: float) -> None:
    dice = random.Random(n)
    end = time.monotonic() + lasts_s
    time.sleep(dice.uniform(0, EVERY_S))
    place = json.loads(gzip.decompress(browser.ask("station", f"/api/jobs/{job}")))["line"]["decisions"]["place"]
    next_act = time.monotonic() + dice.uniform(0, ACT_EVERY_S)
    while time.monotonic() < end:
        begins = time.monotonic()
        while time.monotonic() < begins + DRAG_S:
            width = place["width_um"] + dice.randrange(-20, 20) * 1000
            browser.ask("try", f"/api/jobs/{job}/try", {"station": "place", "body": {**place, "width_um": width}})
            time.sleep(min(TIMES * browser.waited_s, LONGEST_S))
        browser.ask("station", f"/api/jobs/{job}")
        if time.monotonic() >= next_act:
            next_act += ACT_EVERY_S
            act = {"id": uuid.uuid4().hex, "job": job, "at": datetime.now(UTC).isoformat(),
                   "body": {"kind": "renewed", "press": "gannet", "cover": "parchment"}}  # fmt: skip
            browser.ask("act", "/api/acts", act)
        browser.rest()
        time.sleep(max(0.0, begins + EVERY_S - time.monotonic()))
