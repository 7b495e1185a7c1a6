"""Whether years of work cost anything: the same requests in a shop of 20 jobs and in one of 20,000 with a million acts."""

import json
import tempfile
import time
import uuid
from datetime import UTC, datetime, timedelta
from pathlib import Path

import httpx
from shop import close_shop, job_called, open_shop, signed_in
from sqlalchemy import Engine, insert, select, text

from offsetter.store.engine import engine_for
from offsetter.store.tables import ActRow, DecisionRow, JobRow, JobWordRow, LogbookRow, LotRow, RunRow, StandingRow

PORT = 8951
ADDRESS = f"http://127.0.0.1:{PORT}"
JOBS, ACTS = 20_000, 1_000_000
TIMES = 25
AT_MOST = 1.5
OPENING_MS = 150


def bench_growth() -> None:
    print(f"growth: a shop of 20 jobs against {JOBS} jobs and {ACTS} acts, p95 of {TIMES}")
    with tempfile.TemporaryDirectory(prefix="offsetter-bench-") as folder:
        demo = open_shop(Path(folder), PORT, ADDRESS)
        try:
            engine = engine_for((Path(folder) / "url").read_text())
            template = closed_job(engine)
            grow(engine, template, 12, 12 * ACTS // JOBS)
            young, young_start = _measured(), 0.0
        finally:
            close_shop(demo)
        young_start, demo = _started(folder)
        try:
            engine = engine_for((Path(folder) / "url").read_text())
            grow(engine, template, JOBS - 20, ACTS)
            close_shop(demo)
            old_start, demo = _started(folder)
            old = _measured()
        finally:
            close_shop(demo)
    for name, before in young.items():
        _row(name, before, old[name])
    _row("warm start", [young_start], [old_start])


def _row(name: str, young: list[float], old: list[float]) -> None:
    before, now = _p95(young), _p95(old)
    bound = f", {now / OPENING_MS:.2f} of {OPENING_MS} ms" if name == "one job" else ""
    print(f"  {name:16} {before:7.1f} ms   {now:7.1f} ms   ratio {now / before:.2f} of {AT_MOST}{bound}")


def _p95(times: list[float]) -> float:
    return sorted(times)[int(0.95 * (len(times) - 1))]


def _started(folder: str) -> tuple[float, "object"]:
    began = time.perf_counter()
    demo = open_shop(Path(folder), PORT, ADDRESS)
    return (time.perf_counter() - began) * 1000, demo


def _measured() -> dict[str, list[float]]:
    client = signed_in(ADDRESS)
    open_job = job_called(client, "Open-late tees")
    closed = client.get("/api/jobs", params={"which": "closed"}).json()["cards"][0]["id"]
    asked = {
        "Jobs": "/api/jobs", "Jobs, closed": "/api/jobs?which=closed", "Jobs, found": "/api/jobs?which=all&words=comet",
        "Logbook": "/api/logbook", "Logbook, found": "/api/logbook?words=orbit", "one job": f"/api/jobs/{open_job}",
        "one closed job": f"/api/jobs/{closed}", "press card": f"/api/jobs/{open_job}/press-card", "left-overs": "/api/leftovers",
        "Today": "/api/today", "found anywhere": "/api/find?words=comet",
        "Sheets": "/api/sheets", "shared runs": "/api/shared-runs", "Machines": "/api/at-work/petrel", "brought before": f"/api/jobs/{open_job}/their-pictures",
        "customers": "/api/customers", "Stores": "/api/stock",
    }  # fmt: skip
    return {name: [_timed(client, path) for _ in range(TIMES)][1:] for name, path in asked.items()}


def _timed(client: httpx.Client, path: str) -> float:
    began = time.perf_counter()
    client.get(path).raise_for_status()
    return (time.perf_counter() - began) * 1000


def closed_job(engine: Engine) -> dict:
    """The demo's closed job as rows: what the others are copied from."""
    with engine.connect() as connection:
        job = connection.scalar(select(LogbookRow.job_id).limit(1))
        rows = {}
        for table in (DecisionRow, RunRow, ActRow, StandingRow, JobWordRow, LogbookRow):
            found = connection.execute(select(table.__table__).where(table.__table__.c.job_id == job)).mappings().all()
            rows[table] = [dict(r) for r in found]
    return {"job": job, "rows": rows}


def grow(engine: Engine, template: dict, jobs: int, acts: int) -> None:
    """Closed jobs copied from the demo's own, through the tables: hands would need years."""
    each = max(1, acts // jobs)
    rows, now = template["rows"], datetime.now(UTC)
    with engine.connect() as connection:
        number = connection.scalar(text("SELECT MAX(number) FROM runs"))
    for start in range(0, jobs, 500):
        made: dict = {table: [] for table in (JobRow, *rows, LotRow)}
        for at in range(start, min(jobs, start + 500)):
            job, ago = uuid.uuid4().hex[:12], timedelta(hours=1 + at)
            number += 1
            run = uuid.uuid4().hex[:12]
            made[JobRow].append({"id": job, "created_at": now - ago})
            for row in rows[DecisionRow]:
                made[DecisionRow].append({**row, "job_id": job, "seq": None})
            for row in rows[RunRow][:1]:
                made[RunRow].append({**row, "job_id": job, "id": run, "number": number})
            own = rows[ActRow]
            for n in range(each):
                act = own[n] if n < len(own) else next(a for a in own if a["kind"] == "pressed")
                made[ActRow].append({**act, "seq": None, "id": uuid.uuid4().hex, "job_id": job, "at": now - ago,
                                     "body": _of_run(act["body"], run)})  # fmt: skip
            ended = now - ago
            for row in rows[StandingRow]:
                body = {**row["body"], "id": job, "ended_at": ended.isoformat(), "title": f"Orbit crew tees {at}"}
                made[StandingRow].append({**row, "job_id": job, "ended_at": ended, "body": body})
            made[JobWordRow] += [{"word": w, "job_id": job} for w in ("orbit", "crew", "tees", f"r{number}", str(at))]
            for row in rows[LogbookRow]:
                made[LogbookRow].append({**row, "job_id": job, "closed_at": ended, "body": {**row["body"], "job": job}})
            made[LotRow].append({"id": uuid.uuid4().hex, "job_id": job, "run_id": run, "signature": "none", "count": 2,
                                 "left": 0, "note": "", "stored_at": ended})  # fmt: skip
        with engine.begin() as connection:
            for table, values in made.items():
                if values:
                    connection.execute(insert(table), values)


def _of_run(body: dict, run: str) -> dict:
    return json.loads(json.dumps({**body, "run": run} if "run" in body else body))
