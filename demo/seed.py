"""Fills an empty database with the demo shop: its machines, its stores, and a week's film jobs.

Everything goes through the desk's own use cases, so nothing here can be in a state that hands could not reach.
"""

import sys
import tomllib
import uuid
from datetime import UTC, datetime, timedelta
from pathlib import Path
from time import sleep
from zoneinfo import ZoneInfo

from offsetter.core.acts import Act, ActBody, Closed, Passed, Prepared, Pressed, Printed, RanStage, Spoiled
from offsetter.core.decisions import BlankLine, OrderDoc
from offsetter.desk.base import Base
from offsetter.store.engine import engine_for
from offsetter.store.files import FileStore
from offsetter.store.shop import ShopStore
from offsetter.web.services import Services
from offsetter.work.local import LocalWork

HERE = Path(__file__).parent
PRESS_STAGES = (("pre-press", 160.0, 4), ("transfer", 160.0, 15), ("finish", 160.0, 12))


class Clock:
    """The time as the seeding sees it: past days can be lived through."""

    def __init__(self) -> None:
        self.shift = timedelta(0)

    def __call__(self) -> datetime:
        return datetime.now(UTC) + self.shift


class Seeding:
    def __init__(self, url: str, data: Path) -> None:
        self.clock = Clock()
        self.work = LocalWork()
        self.base = Base(engine_for(url), FileStore(data), self.work, self.clock)
        self.desk = Services(self.base)

    def shop(self) -> bool:
        """The shop's rows; False when there is a shop already."""
        rows = tomllib.loads((HERE / "shop.toml").read_text())
        with self.base.session() as session, session.begin():
            store = ShopStore(session)
            if store.has_shop():
                return False
            for kind, facts in rows.items():
                for fact_id, body in facts.items():
                    store.put(kind, fact_id, body)
        return True

    def order(self, title: str, customer: str, blank: str, counts: dict[str, int], due: datetime, quoted: float,
              art: str, width_mm: float, below_mm: float) -> str:  # fmt: skip
        order = OrderDoc(
            title=title, customer=customer, due=due, line=BlankLine(blank=blank, counts=counts), quoted=quoted
        )
        job = self.desk.jobs.create(order, "Ada")
        facts = self.desk.artworks.receive(f"{art}.png", (HERE / "artwork" / f"{art}.png").read_bytes())
        place = {"file": facts.file, "width_um": round(width_mm * 1000), "below_collar_um": round(below_mm * 1000)}
        self.desk.jobs.decide(job, "place", place, 0, "Ada")
        return job

    def settle(self, job: str) -> None:
        """Say yes at every station that decides, as the line proposes."""
        seen = self.desk.jobs.look(job)
        documents = {
            s: getattr(seen.job.decisions, s) for s in ("order", "place", "artwork", "colour", "white", "sheet")
        }
        documents["method"] = seen.line.way
        for station, document in documents.items():
            body = document.model_dump(mode="json") | {"settled": True}
            self.desk.jobs.decide(job, station, body, seen.job.revisions.get(station, 0), "Ada")

    def release(self, job: str) -> str:
        key = self.desk.work_done.make_plates(job)
        while not (now := self.desk.work_done.progress(key)) or not now.is_last:
            sleep(0.05)
        run = self.desk.work_done.release(job, "Ada")
        while not (now := self.work.latest(f"run-{run.id}")) or not now.is_last:
            sleep(0.05)
        return run.id

    def act(self, job: str, body: ActBody, actor: str = "Noor") -> None:
        self.desk.work_done.record(
            Act(id=str(uuid.uuid4()), job=job, at=self.clock(), actor=actor, signature="", body=body)
        )

    def cured(self, job: str, run: str, count: int) -> None:
        self.act(job, Printed(run=run, count=count))
        for stage in ("powder", "cure-oven"):
            self.act(job, Prepared(run=run, stage=stage, count=count))

    def pressed(self, job: str, run: str, sizes: dict[str, int]) -> None:
        stages = tuple(RanStage(stage=s, temperature_c=t, planned_s=n, ran_s=n + 0.4) for s, t, n in PRESS_STAGES)
        for size, count in sizes.items():
            for _ in range(count):
                self.act(job, Pressed(run=run, size=size, stages=stages))


def next_weekday(now: datetime, weekday: int, hour: int, days_ahead: int = 2) -> datetime:
    """The next such weekday at this hour of the shop's day, at least days_ahead away."""
    day = now + timedelta(days=days_ahead)
    day += timedelta(days=(weekday - day.weekday()) % 7)
    return day.replace(hour=hour, minute=0, second=0, microsecond=0)


def main(url: str, data: Path) -> None:
    seeding = Seeding(url, data)
    if not seeding.shop():
        return
    now = datetime.now(ZoneInfo("Europe/London"))
    observatory = "Kestrel Point Observatory"
    seeding.clock.shift = -timedelta(days=6)
    badges = seeding.order(
        "Orbit crew tees",
        observatory,
        "tee-black",
        {"S": 2, "M": 4, "L": 2},
        seeding.clock() + timedelta(days=2),
        9.80,
        "orbit",
        105,
        85,
    )
    seeding.settle(badges)
    run = seeding.release(badges)
    seeding.cured(badges, run, 9)
    seeding.pressed(badges, run, {"S": 2, "M": 4, "L": 2})
    for size, count in (("S", 2), ("M", 3), ("L", 2)):
        seeding.act(badges, Passed(size=size, count=count))
    seeding.act(
        badges, Spoiled(what="piece", size="M", count=1, stage="transfer", cause="film lay 8 mm off the crease")
    )
    seeding.pressed(badges, run, {"M": 1})
    seeding.act(badges, Passed(size="M", count=1))
    seeding.act(badges, Closed(short=False, note="Fold the crease first, then lay the film."), "Ada")
    seeding.clock.shift = -timedelta(days=1)
    dome = seeding.order(
        "Open-late tees", observatory, "tee-navy", {"M": 6, "L": 6}, next_weekday(now, 3, 12), 10.50, "dome", 230, 90
    )
    seeding.settle(dome)
    run = seeding.release(dome)
    seeding.cured(dome, run, 13)
    seeding.pressed(dome, run, {"M": 3})
    seeding.act(dome, Passed(size="M", count=2))
    seeding.clock.shift = timedelta(0)
    seeding.order(
        "Comet tees",
        observatory,
        "tee-black",
        {"S": 6, "M": 12, "L": 12, "XL": 6},
        next_weekday(now, 4, 15),
        9.50,
        "comet",
        210,
        85,
    )
    seeding.work.close()


if __name__ == "__main__":
    main(sys.argv[1], Path(sys.argv[2]))
