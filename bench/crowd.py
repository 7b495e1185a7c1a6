"""People at a working pace on one server: everybody drags a slider for two seconds of every ten, opens a station every ten, and
records an act every thirty. One alone, then more, against the demo's shop."""

import asyncio
import os
import random
import shutil
import tempfile
import time
import uuid
from collections import defaultdict
from datetime import UTC, datetime
from pathlib import Path

import httpx
from shop import close_shop, open_shop, signed_in

CROWDS, LASTS_S = (1, 20, 50), 60
LONG, LONG_S = 6, int(os.environ.get("OFFSETTER_CROWD_S", "0"))
"""So many people for so long, to see whether memory grows; 0: left out. An hour is 3600."""
DRAG_S, EVERY_S, ACT_EVERY_S = 2.0, 10.0, 30.0
BOUND_TRY, BOUND_ACT_MS = 3.0, 500


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
    client = signed_in(address)
    jobs = [c["id"] for c in client.get("/api/jobs").json()["cards"]]
    cookie = client.cookies["offsetter"]
    print(f"crowd: people at a working pace for {LASTS_S} s each, p95 in ms")
    alone = None
    for people in CROWDS:
        times, failed = asyncio.run(_crowd(address, cookie, jobs, people))
        p95 = {what: sorted(t)[int(0.95 * (len(t) - 1))] * 1000 for what, t in times.items() if t}
        alone = alone or p95["try"]
        said = "   ".join(f"{what} {p95[what]:6.0f}" for what in ("try", "station", "act") if what in p95)
        print(f"  {people:3} people   {said}   try against one alone {p95['try'] / alone:.2f} of {BOUND_TRY}   "
              f"act of bound {p95.get('act', 0) / BOUND_ACT_MS:.2f}   failed {failed} of {sum(len(t) for t in times.values())}")  # fmt: skip


def _long(address: str, demo: int) -> None:
    """Memory of the server and its processes for previews, tenth by tenth of a long while; the first tenth fills the caches."""
    client = signed_in(address)
    jobs, cookie = [c["id"] for c in client.get("/api/jobs").json()["cards"]], client.cookies["offsetter"]
    kept, failed = [], 0
    for _ in range(10):
        _, wrong = asyncio.run(_crowd(address, cookie, jobs, LONG, LONG_S / 10))
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


async def _crowd(
    address: str, cookie: str, jobs: list[str], people: int, lasts_s: float = LASTS_S
) -> tuple[dict[str, list[float]], int]:
    times: dict[str, list[float]] = defaultdict(list)
    failed = [0]
    async with httpx.AsyncClient(base_url=address, headers={"cookie": f"offsetter={cookie}"}, timeout=60,
                                 limits=httpx.Limits(max_connections=200, keepalive_expiry=3)) as client:  # fmt: skip
        await asyncio.gather(*(_person(client, jobs[n % len(jobs)], n, times, failed, lasts_s) for n in range(people)))
    return times, failed[0]


async def _person(
    client: httpx.AsyncClient, job: str, n: int, times: dict[str, list[float]], failed: list[int], lasts_s: float
) -> None:
    dice = random.Random(n)
    end = time.monotonic() + lasts_s
    await asyncio.sleep(dice.uniform(0, EVERY_S))
    place = (await client.get(f"/api/jobs/{job}")).json()["line"]["decisions"]["place"]
    next_act = time.monotonic() + dice.uniform(0, ACT_EVERY_S)

    async def timed(what: str, asked: "asyncio.Future[httpx.Response]") -> None:
        began = time.monotonic()
        answer = await asked
        times[what].append(time.monotonic() - began)
        failed[0] += answer.status_code >= 400

    while time.monotonic() < end:
        begins = time.monotonic()
        while time.monotonic() < begins + DRAG_S:
            # One question at a time, as a browser asks.
            width = place["width_um"] + dice.randrange(-20, 20) * 1000
            await timed(
                "try",
                client.post(f"/api/jobs/{job}/try", json={"station": "place", "body": {**place, "width_um": width}}),
            )
        await timed("station", client.get(f"/api/jobs/{job}"))
        if time.monotonic() >= next_act:
            next_act += ACT_EVERY_S
            act = {"id": uuid.uuid4().hex, "job": job, "at": datetime.now(UTC).isoformat(),
                   "body": {"kind": "renewed", "press": "gannet", "cover": "parchment"}}  # fmt: skip
            await timed("act", client.post("/api/acts", json=act))
        await asyncio.sleep(max(0.0, begins + EVERY_S - time.monotonic()))
