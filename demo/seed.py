"""Fills an empty database with the demo shop: its machines, its stores, a week's jobs and the eight weeks before them.

Everything goes through the desk's own use cases, so nothing here can be in a state that hands could not reach.
"""

import argparse
import sys
import uuid
from datetime import UTC, datetime, timedelta
from pathlib import Path
from time import sleep
from zoneinfo import ZoneInfo

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))
from standins.probe import measured

from demo import at_work
from demo.shop import count_shelves, fill, lay
from offsetter.core.acts import (
    Act,
    ActBody,
    Closed,
    Passed,
    Prepared,
    Pressed,
    Printed,
    RanStage,
    SetUp,
    Spoiled,
    Stored,
)
from offsetter.core.decisions import BlankLine, OrderDoc
from offsetter.core.facts import Measurement
from offsetter.desk.base import Base
from offsetter.store.engine import engine_for
from offsetter.store.files import FileStore
from offsetter.web.services import Services

HERE = Path(__file__).parent
WEEKS_SINCE_CORRECTION = 7
PRESS_STAGES = (
    ("pre-press", 160.0, 4),
    ("transfer", 160.0, 15),
    ("cool", None, 75),
    ("peel", None, 0),
    ("finish", 160.0, 12),
)
NAMES = """name,size,colour
Orla,M,black
Tomas,M,black
Ines,M,black
Bea,L,black
Rafi,L,black
Wren,L,black
Kit,S,navy
Suli,S,navy
Marte,M,navy
Jun,M,navy
"""


class Clock:
    """The time as the seeding sees it: past days can be lived through."""

    def __init__(self) -> None:
        self.shift = timedelta(0)

    def __call__(self) -> datetime:
        return datetime.now(UTC) + self.shift


class Seeding:
    def __init__(self, url: str, data: Path, machines: int = 0) -> None:
        self.clock = Clock()
        self.base = Base(engine_for(url), FileStore(data), self.clock)
        self.desk = Services(self.base, loopback_ports=frozenset({machines}))
        self.touches = 0

    def shop(self) -> bool:
        """The shop, what an earlier demo lacks added to its own; False when there was a shop already."""
        return not fill(self.desk, self.base)

    def people(self) -> None:
        """Who works here; their PINs are said in docs/running.md, the demo signs in by one click."""
        if not self.desk.people.is_empty():
            return
        for name, role, pin in (("Ada", "owner", "1357"), ("Noor", "technician", "2468"), ("Visitor", "viewer", "")):
            self.desk.people.add(name, role, "lantern quay demo", pin)

    def titles(self) -> set[str]:
        """Of the jobs that are there."""
        found = {c.standing.title for c in self.desk.standings.page("all").cards}
        return found

    def at(self, moment: datetime, now: datetime) -> None:
        """From here on it is that moment."""
        self.clock.shift = moment - now

    def order(
        self, title: str, blanks: dict[str, dict[str, int]], due: datetime, quoted: float, customer: str = "Kestrel Point Observatory"
    ) -> str:  # fmt: skip
        """An order of pieces by blank and size."""
        lines = tuple(BlankLine(id="abc"[i], blank=b, counts=counts) for i, (b, counts) in enumerate(blanks.items()))
        order = OrderDoc(title=title, customer=customer, due=due, lines=lines, quoted=quoted)
        return self.desk.jobs.create(order, "Ada")

    def place(
        self, job: str, art: str, width_mm: float, below_mm: float, *, print: str = "front", **more: object
    ) -> None:
        facts = self.desk.artworks.receive(f"{art}.png", (HERE / "artwork" / f"{art}.png").read_bytes())
        self.decide(
            job,
            "place",
            print,
            file=facts.file,
            width_um=round(width_mm * 1000),
            below_collar_um=round(below_mm * 1000),
            **more,
        )

    def decide(self, job: str, station: str, print: str = "front", **changes: object) -> None:
        seen = self.desk.jobs.look(job, "Ada", print)
        document = getattr(seen.job.decisions, station) or seen.line.way
        body = document.model_dump(mode="json") | changes
        self.desk.jobs.decide(job, station, body, seen.job.revisions.get(station, 0), "Ada", print)

    def settle(self, job: str, print: str = "front") -> None:
        """Say yes at every station that decides, as the line proposes."""
        for station in ("order", "place", "artwork", "colour", "white", "sheet", "method"):
            self.decide(job, station, print, settled=True)

    def release(self, job: str) -> str:
        key = self.desk.runs.make_plates(job)
        while not (now := self.desk.runs.progress(key)) or not now.is_last:
            sleep(0.05)
        run = self.desk.runs.release(job, "Ada")
        while not (now := self.base.work.latest(f"run-{run.id}")) or not now.is_last:
            sleep(0.05)
        return run.id

    def act(self, job: str, body: ActBody, actor: str = "Noor") -> None:
        self.desk.acts.record(Act(id=str(uuid.uuid4()), job=job, at=self.clock(), actor=actor, signature="", body=body))

    def cured(self, job: str, run: str, count: int) -> None:
        self.act(job, Printed(run=run, count=count))
        for stage in ("powder", "cure-oven"):
            self.act(job, Prepared(run=run, stage=stage, count=count))

    def pressed(self, job: str, run: str, sizes: dict[str, int], *, line: str = "a", print: str = "front") -> None:
        for size, count in sizes.items():
            for _ in range(count):
                self.touches += 1
                cold = 62.0 + 7 * self.touches % 9
                stages = tuple(
                    RanStage(
                        stage=s, temperature_c=t, planned_s=n, ran_s=n + 0.4 if t else cold if s == "cool" else 0.0
                    )
                    for s, t, n in PRESS_STAGES
                )
                self.act(job, Pressed(run=run, size=size, line=line, print=print, press="gannet", stages=stages))


def next_weekday(now: datetime, weekday: int, hour: int, days_ahead: int = 2) -> datetime:
    """The next such weekday at this hour of the shop's day, at least days_ahead away."""
    day = now + timedelta(days=days_ahead)
    day += timedelta(days=(weekday - day.weekday()) % 7)
    return day.replace(hour=hour, minute=0, second=0, microsecond=0)


def main(url: str, data: Path, *, only_shop: bool = False, note: Path | None = None, machines: int = 0) -> None:
    """machines: the port that its printers answer at; 0: none do. only_shop: what the first page needs. note: where it is told how far the rest is."""

    def tell(said: str) -> None:
        if note is not None:
            note.write_text(said)

    seeding = Seeding(url, data, machines)
    seeding.people()
    is_new = seeding.shop()
    if machines:
        at_work.link(seeding.desk, machines)
    if only_shop:
        seeding.base.work.close()
        return
    now = datetime.now(ZoneInfo("Europe/London"))
    titles = seeding.titles()
    if "Comet tees" not in titles and "Open-late tees" not in titles:
        is_new = True
    if is_new:
        tell("this week's orders")
        comet = seeding.order(
            "Comet tees", {"tee-black": {"S": 6, "M": 12, "L": 12, "XL": 6}}, next_weekday(now, 4, 15), 9.50
        )
        seeding.place(comet, "comet", 210, 85)
    tell("colours that are watched")
    colour(seeding)
    if "Star-map scarves" not in titles:
        tell("orders on the counter")
        four_orders(seeding, now)
    if "Harbour swimmers" not in titles:
        tell("small orders for one roll of film")
        for_one_roll(seeding, now)
    if is_new:
        tell("what lies on the press and what was made last week")
        orbit = orbit_tees(seeding)
        seeding.clock.shift = -timedelta(days=1)
        open_late_tees(seeding, next_weekday(now, 3, 12))
        guides_tees(seeding, next_weekday(now, 2, 16))
        seeding.clock.shift = timedelta(0)
        seeding.desk.orders.again(orbit, next_weekday(now, 0, 12, 4), "Ada")
        for number, told in enumerate(PAST, 1):
            tell(f"the last eight weeks: {number} of {len(PAST)} jobs")
            past_job(seeding, now, *told)
        seeding.clock.shift = timedelta(0)
        count_shelves(seeding.desk)
    if machines and not any(c.done_at for c in seeding.desk.at_work.look("petrel").care):
        tell("what its machines hold")
        at_work.lived(seeding.desk, seeding.base, seeding.clock)
    seeding.base.work.close()


PAST = (
    (54, "Opening-night tees", "Harbour Lights Theatre", "tee-black", "orbit", 105, {"M": 5, "L": 4}, 9.80, ()),
    (51, "Ring nebula tees", "Kestrel Point Observatory", "tee-navy", "dome", 230, {"S": 2, "M": 4}, 10.50, ("edge",)),
    (47, "Ferry crew tees", "Sound Ferries", "tee-black", "orbit", 105, {"L": 6}, 9.60, ()),
    (44, "Dome volunteers", "Kestrel Point Observatory", "tee-navy", "dome", 230, {"M": 5, "L": 3}, 10.50, ()),
    (40, "Choir tees", "Quayside Choir", "tee-black", "orbit", 105, {"S": 4, "M": 4}, 9.80, ("blank",)),
    (37, "Night swim tees", "Tide Club", "tee-navy", "dome", 230, {"M": 4, "L": 2}, 10.80, ("peel", "peel")),
    (33, "Regatta tees", "Sound Ferries", "tee-black", "orbit", 105, {"M": 6, "L": 4}, 9.60, ()),
    (30, "School visit tees", "Kestrel Point Observatory", "tee-navy", "dome", 230, {"S": 5}, 10.20, ()),
    (26, "Lamp-lighters", "Harbour Lights Theatre", "tee-black", "orbit", 105, {"M": 3, "L": 3}, 9.80, ("edge",)),
    (23, "Rowers' tees", "Tide Club", "tee-navy", "dome", 230, {"M": 6}, 10.80, ()),
    (19, "Star party tees", "Kestrel Point Observatory", "tee-black", "orbit", 105, {"S": 2, "M": 5, "L": 3}, 9.50, ()),
    (16, "Quay market tees", "Quayside Choir", "tee-navy", "dome", 230, {"L": 5}, 10.50, ("blank",)),
    (12, "Late-opening crew", "Harbour Lights Theatre", "tee-black", "orbit", 105, {"M": 4, "L": 4}, 9.80, ()),
    (9, "Winter swim tees", "Tide Club", "tee-navy", "dome", 230, {"M": 3, "L": 2}, 10.80, ("peel",)),
)
"""Closed jobs of the last eight weeks: days ago, title, customer, blank, artwork, width, pieces, price, and what was spoiled."""
SPOILED = {
    "edge": Spoiled(what="piece", size="M", count=1, stage="transfer", cause="an edge that lifted"),
    "peel": Spoiled(what="piece", size="M", count=1, stage="peel", cause="peeled while it was warm"),
    "blank": Spoiled(what="blank", size="M", count=1, stage="pre-press", cause="hole in the seam"),
}


def past_job(
    seeding: Seeding, now: datetime, days: int, title: str, customer: str, blank: str, art: str, width: float, pieces: dict[str, int], price: float,
    spoiled: tuple[str, ...],
) -> None:  # fmt: skip
    """Ordered on a morning, printed and pressed the next one, closed in the afternoon."""
    ordered = (now - timedelta(days=days)).replace(hour=9, minute=30)
    seeding.at(ordered, now)
    for size, count in pieces.items():
        lay(seeding.desk, f"blank/{blank}/{size}", "received", count + 1, "the week's delivery")
    job = seeding.order(title, {blank: pieces}, ordered + timedelta(days=3), price, customer)
    seeding.place(job, art, width, 85 if art == "orbit" else 90)
    seeding.decide(job, "sheet", spares=len(spoiled))
    seeding.settle(job)
    seeding.at(ordered + timedelta(days=1), now)
    run = seeding.release(job)
    seeding.cured(job, run, sum(pieces.values()) + len(spoiled))
    seeding.at(ordered + timedelta(days=1, hours=2), now)
    seeding.pressed(job, run, pieces)
    for cause in spoiled:
        size = next(iter(pieces))
        act = SPOILED[cause].model_copy(update={"size": size})
        seeding.act(job, act)
        if act.what == "piece":
            seeding.pressed(job, run, {size: 1})
    seeding.at(ordered + timedelta(days=1, hours=5), now)
    for size, count in pieces.items():
        seeding.act(job, Passed(size=size, count=count))
    seeding.act(job, Closed(short=False, note=""), "Ada")


def colour(seeding: Seeding) -> None:
    """Profiles where they were made, the film's tones corrected seven weeks ago and watched since: it has wandered too far."""
    room, conditions, now = seeding.desk.measuring, seeding.desk.conditions, seeding.clock.shift
    if room.measurements():
        return
    film = ("petrel", "film-460-matte", seeding.desk.jobs.shop()[0].printers["petrel"].modes[0].id)
    seeding.clock.shift = -timedelta(days=WEEKS_SINCE_CORRECTION * 7 + 1)
    conditions.assign(*film, seeding.desk.jobs.profile, "Ada")
    dye = conditions.add_profile("dye.icc", (HERE / "profile" / "dye.icc").read_bytes(), "Ada")
    for printer, media in (("razorbill", "plain-office-paper"), ("plover", "light-transfer-paper")):
        conditions.assign(printer, media, "best", dye.id, "Ada")

    def read(chart: str) -> Measurement:
        weeks = WEEKS_SINCE_CORRECTION + seeding.clock.shift.days / 7
        return room.measured_by_hand(chart, "Kittiwake", measured(room.chart_text(chart), weeks).encode(), "Noor")

    before = read(room.make_chart(*film).id)
    room.correct(before.id, "Noor")
    chart = room.make_chart(*film)
    for days in (0, 10, 21, 33, 45, 49):
        seeding.clock.shift = -timedelta(days=WEEKS_SINCE_CORRECTION * 7 - days)
        read(chart.id)
    seeding.clock.shift = now
    for brand, name, lab in (
        ("comet-gold", "Comet gold", (80, 8, 66)), ("night-blue", "Night blue", (22, 8, -34)), ("signal-green", "Signal green", (72, -62, 50)),
    ):  # fmt: skip
        seeding.desk.brands.put(
            brand, {"customer": "Kestrel Point Observatory", "name": name, "lab": lab, "within_delta_e": 3}, "Ada"
        )


def four_orders(seeding: Seeding, now: datetime) -> None:
    """On the counter: which way is open for all of them."""
    due = next_weekday(now, 4, 12, 3)
    scarves = seeding.order("Star-map scarves", {"scarf": {"one": 12}}, due, 13.00)
    seeding.place(scarves, "starmap", 240, 60)
    aprons = seeding.order("Lab aprons", {"apron-navy": {"one": 8}}, due, 16.00)
    seeding.place(aprons, "lab", 220, 70)
    coasters = seeding.order("Moon coasters", {"coaster": {"one": 24}}, due, 4.20)
    seeding.place(coasters, "moon", 102, -3)
    waistcoats = seeding.order("Night-watch waistcoats", {"waistcoat": {"S": 2, "M": 4, "L": 3}}, due, 32.00)
    seeding.place(waistcoats, "watch", 260, 95)


def for_one_roll(seeding: Seeding, now: datetime) -> None:
    """Three small orders for film that are looked through: together they make a sheet."""
    due = next_weekday(now, 3, 16, 3)
    for title, customer, blank, art, width, pieces, price in (
        ("Harbour swimmers", "Tide Club", "tee-navy", "dome", 180, {"S": 2, "M": 3}, 10.80),
        ("Ferry crew badges", "Sound Ferries", "tee-black", "orbit", 85, {"M": 4, "L": 3}, 8.90),
        ("Ushers' tees", "Harbour Lights Theatre", "tee-black", "orbit", 150, {"S": 2, "M": 2}, 9.80),
    ):  # fmt: skip
        for size, count in pieces.items():
            lay(seeding.desk, f"blank/{blank}/{size}", "received", count, "for this order")
        job = seeding.order(title, {blank: pieces}, due, price, customer)
        seeding.place(job, art, width, 85)
        seeding.settle(job)


def orbit_tees(seeding: Seeding) -> str:
    """Made last week: one piece spoiled, two transfers left over and stored."""
    seeding.clock.shift = -timedelta(days=6)
    job = seeding.order(
        "Orbit crew tees", {"tee-black": {"S": 2, "M": 4, "L": 2}}, seeding.clock() + timedelta(days=2), 9.80
    )
    seeding.place(job, "orbit", 105, 85)
    seeding.decide(job, "sheet", spares=3)
    seeding.settle(job)
    run = seeding.release(job)
    seeding.cured(job, run, 11)
    seeding.pressed(job, run, {"S": 2, "M": 4, "L": 2})
    for size, count in (("S", 2), ("M", 3), ("L", 2)):
        seeding.act(job, Passed(size=size, count=count))
    seeding.act(job, Spoiled(what="piece", size="M", count=1, stage="transfer", cause="off the crease"))
    seeding.pressed(job, run, {"M": 1})
    seeding.act(job, Passed(size="M", count=1))
    (left,) = [t for t in seeding.desk.jobs.look(job).line.books.transfers if t.left_over]
    seeding.act(job, Stored(of=left.signature, run=run, count=left.left_over, note="top drawer"))
    seeding.act(job, Closed(short=False, note="Fold the crease first, then lay the film."), "Ada")
    return job


def open_late_tees(seeding: Seeding, due: datetime) -> None:
    """On the press today: three are done, one of them waits to be looked at."""
    job = seeding.order("Open-late tees", {"tee-navy": {"M": 6, "L": 6}}, due, 10.50)
    seeding.place(job, "dome", 230, 90)
    seeding.settle(job)
    run = seeding.release(job)
    seeding.cured(job, run, 13)
    seeding.pressed(job, run, {"M": 3})
    seeding.act(job, Passed(size="M", count=2))


def guides_tees(seeding: Seeding, due: datetime) -> None:
    """Two colours of tee, a picture in front, everyone's own name on the back; a blank spoiled on the way."""
    job = seeding.order("Night-walk guides", {"tee-black": {"M": 3, "L": 3}, "tee-navy": {"S": 2, "M": 2}}, due, 13.50)
    seeding.place(job, "orbit", 200, 85, widths_um={"S": 180_000})
    back = seeding.desk.orders.add_print(job, "back", "Ada")
    seeding.desk.orders.take_names(job, NAMES.encode(), "Ada")
    seeding.decide(job, "place", back, text={"height_um": 38_000, "colour": "#F4E7C5"}, below_collar_um=75_000)
    for print in ("front", back):
        seeding.settle(job, print)
    seeding.desk.acts.sign_proof(job, "E. Lindqvist, the observatory's shop", "by mail", str(uuid.uuid4()), "Ada")
    run = seeding.release(job)
    seeding.cured(job, run, seeding.desk.runs.find(run).copies)
    seeding.pressed(job, run, {"M": 3, "L": 2})
    seeding.act(job, Spoiled(what="blank", size="L", count=1, stage="pre-press", cause="hole in the seam"))
    seeding.act(
        job, SetUp(press="gannet", temperature_c=160, time_s=12, pressure="light", thickness_mm=0.42, pad="none")
    )


if __name__ == "__main__":
    parser = argparse.ArgumentParser()
    parser.add_argument("url")
    parser.add_argument("files", type=Path)
    parser.add_argument("--only-shop", action="store_true")
    parser.add_argument("--note", type=Path)
    parser.add_argument("--machines", type=int, default=0)
    asked = parser.parse_args()
    main(asked.url, asked.files, only_shop=asked.only_shop, note=asked.note, machines=asked.machines)
