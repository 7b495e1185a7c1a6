"""The day as it is shown: lanes, blocks with their reasons, who leaves when, and a verdict over it."""

from datetime import datetime
from decimal import Decimal
from typing import Literal

from offsetter.core.compute.cost import cents, hour_money
from offsetter.core.compute.day import Day, Hands, Heats, Plan
from offsetter.core.compute.day.platen import heats_of
from offsetter.core.compute.day.told import reasons_of, spell
from offsetter.core.compute.day.what_if import WayOut, first_deliveries
from offsetter.core.facts import Shop
from offsetter.core.learned import STAGE, Pace
from offsetter.core.sentences import a_day, say, say_many
from offsetter.core.values import Frozen
from offsetter.core.wording import several
from offsetter.core.working_day import CARE, DAY_MIN, Days, Hand, Notes, OpenJob, PersonHours, Pin, Started

SHOWN_AHEAD = 6
Station = Literal["care", "print", "cut", "prepare", "press", "inspect"]


class Block(Frozen):
    job: str
    title: str
    step: str
    name: str
    station: Station
    machine: str
    start_min: int
    end_min: int
    hands: tuple[Hands, ...]
    hands_all: bool
    """Hands are at it all the while."""
    celsius: float | None
    is_pinned: bool
    why: str
    """What it waited for."""


class MachineLane(Frozen):
    id: str
    name: str
    kind: str
    away_since: datetime | None
    heats: tuple[Heats, ...]


class PaceView(Frozen):
    press: str
    name: str
    pace: Pace
    is_refused: bool


class PersonLane(Frozen):
    id: str
    name: str
    here: tuple[tuple[int, int], ...]
    is_away: bool
    hours: PersonHours
    is_set: bool
    """The hours were set by somebody; otherwise they are the usual ones."""


class JobLane(Frozen):
    id: str
    title: str
    customer: str
    due_min: int
    end_min: int
    late_min: int
    likely: tuple[int, int, int] | None
    """Minutes by which one in ten, half, and nine in ten such days have it done; None until that is worked out."""


class Left(Frozen):
    """An open job that is not in the plan, and why."""

    id: str
    title: str
    due_min: int
    why: str


class Out(Frozen):
    """A way out of being late, worked through: what it leaves late, and what it costs."""

    name: str
    said: str
    price: Decimal | None
    """Less than nothing: it costs less so. None: not known before its plates are measured."""


class PromiseView(Frozen):
    title: str
    pieces: int
    quietly: datetime
    """Done by then without moving anything that is planned."""
    soonest: datetime
    pushes: tuple[str, ...]
    """What would leave late, or later, if it came first; in sentences."""


class PinTried(Frozen):
    """What a stage pinned to a time would do to the day."""

    refused: str = ""
    """Why it cannot begin then; empty: it can."""
    more_min: int = 0
    """That the whole takes longer."""
    late: tuple[str, ...] = ()
    """Who would leave late, or later."""


class TodayView(Frozen):
    midnight: datetime
    """Minutes are counted from it."""
    now_min: int
    verdict: str
    sub: str
    blocks: tuple[Block, ...]
    machines: tuple[MachineLane, ...]
    people: tuple[PersonLane, ...]
    jobs: tuple[JobLane, ...]
    left: tuple[Left, ...]
    pins: tuple[Pin, ...]
    said: tuple[str, ...]
    """What changed by what was just done, or since the plan before."""
    waiting: tuple[str, ...]
    """What lies half finished for longer than its next stage allows."""
    outs: tuple[Out, ...]
    learned: tuple[PaceView, ...]
    """Presses, printers and stages whose minutes are planned by what they really took."""
    currency: str
    closed: tuple[Days, ...]
    is_better: bool
    """The search behind the screen is over."""


class Made(Frozen):
    day: Day
    plan: Plan
    dropped: tuple[tuple[str, str], ...] = ()
    """Jobs that fit nowhere, and why."""
    lost_pins: tuple[tuple[str, str], ...] = ()
    """Pins that could not be kept: job and stage."""


class Planned(Frozen):
    """Everything that a look at the day is made from."""

    shop: Shop
    jobs: tuple[OpenJob, ...]
    hands: tuple[Hand, ...]
    notes: Notes
    begin: Started
    made: Made
    plan: Plan
    """The best so far."""
    outs: tuple[WayOut, ...]
    pace: dict[str, Pace]

    @property
    def ends(self) -> dict[str, int]:
        """Job to the minute at which it is done."""
        found: dict[str, int] = {}
        for p in self.plan.places:
            found[p.job] = max(found.get(p.job, 0), p.end_min)
        return found


def view_of(day: Planned, *, is_over: bool, said: tuple[str, ...], waiting: tuple[str, ...] = ()) -> TodayView:
    """is_over: the search behind the screen has ended. said: what was just done made of it. waiting: what lies half finished too long."""
    titles = {j.told.id: j.told.title for j in day.jobs} | _cared_for(day.shop)
    names = {(j.id, s.id): s.name for j in day.made.day.jobs for s in j.steps}
    lanes, left, machines = _jobs(day), _left(day), _machines(day)
    verdict, sub = _verdict(day.begin, lanes, left, day.plan, len(machines), len(day.made.day.people))
    if lanes and (nowhere := len(day.made.dropped)):
        verdict += say_many(nowhere, "; {count} more fits nowhere", "; {count} more fit nowhere")
    lost = tuple(
        say("The pin of “{names}” could not be kept.", names=names[k])
        for k in day.made.lost_pins
        if k in names and k in {(p.job, p.step) for p in day.notes.pins}
    )
    return TodayView(
        midnight=day.begin.midnight, now_min=day.begin.now_min, verdict=verdict, sub=sub, blocks=_blocks(day, titles), machines=machines,
        people=_people(day), jobs=lanes, left=left, pins=day.notes.pins, said=(*said, *lost), is_better=is_over, waiting=waiting,
        outs=(*(_out(w, titles, day.shop) for w in day.outs), *_first(day, titles)), currency=day.shop.prices.currency, closed=day.notes.closed,
        learned=tuple(
            PaceView(press=i, name=name, pace=p, is_refused=i in day.notes.as_in_recipe)
            for i, p in day.pace.items() if (name := _learner(day.shop, i))
        ),
    )  # fmt: skip


def _learner(shop: Shop, key: str) -> str:
    """What teaches: a machine, or a stage; empty where the shop has it no more."""
    if key in shop.machines:
        return shop.machines[key].name
    stage = key.removeprefix(STAGE)
    return next((s.name for r in shop.recipes.values() for s in r.stages if s.id == stage), "")


def _cared_for(shop: Shop) -> dict[str, str]:
    return {f"{CARE}{m.id}": m.name for m in shop.in_use}


def _blocks(day: Planned, titles: dict[str, str]) -> tuple[Block, ...]:
    steps = {(j.id, s.id): s for j in day.made.day.jobs for s in j.steps}
    pinned = {(p.job, p.step) for p in day.notes.pins} - set(day.made.lost_pins)
    reasons = reasons_of(day.made.day, day.plan)
    return tuple(
        Block(
            job=p.job, title=titles[p.job], step=p.step, name=steps[(p.job, p.step)].name, station=_station(p.step), machine=p.machine,
            start_min=p.start_min, end_min=p.end_min, hands=p.hands, hands_all=steps[(p.job, p.step)].hands == "all",
            celsius=steps[(p.job, p.step)].celsius, is_pinned=(p.job, p.step) in pinned, why=reasons.get((p.job, p.step), ""),
        )
        for p in day.plan.places
    )  # fmt: skip


def _jobs(day: Planned) -> tuple[JobLane, ...]:
    ends, plan = day.ends, day.plan
    return tuple(
        JobLane(id=j.id, title=j.title, customer=j.customer, due_min=day.begin.minute(j.due), end_min=ends[j.id],
                late_min=plan.late.get(j.id, 0), likely=plan.likely.get(j.id))
        for j in (o.told for o in day.jobs)
        if j.id in ends
    )  # fmt: skip


def _left(day: Planned) -> tuple[Left, ...]:
    ends, dropped = day.ends, dict(day.made.dropped)
    why = {j.told.id: dropped.get(j.told.id) or _waits(j) for j in day.jobs if j.told.id not in ends}
    return tuple(
        Left(id=j.id, title=j.title, due_min=day.begin.minute(j.due), why=why[j.id])
        for j in (o.told for o in day.jobs)
        if why.get(j.id)
    )


def _machines(day: Planned) -> tuple[MachineLane, ...]:
    """Those that have work; what failed is shown in any case, so that it can come back."""
    shop, known = day.shop, {m.id: m for m in day.made.day.machines}
    away = {a.id: a.since for a in day.notes.away if a.what == "machine"}
    busy = {p.machine for p in day.plan.places}
    found = []
    for kind, ids in (
        ("printer", shop.printers),
        ("press", shop.presses),
        ("oven", shop.ovens),
        ("cutter", shop.cutters),
    ):
        for machine_id, machine in ids.items():
            if machine_id in busy or machine_id in away:
                heats = heats_of(day.made.day, day.plan, known[machine_id]) if machine_id in known else ()
                found.append(MachineLane(id=machine_id, name=machine.name, kind=kind, away_since=away.get(machine_id), heats=heats))  # fmt: skip
    return tuple(found)


def _people(day: Planned) -> tuple[PersonLane, ...]:
    here = {p.id: p.here for p in day.made.day.people}
    away = {a.id for a in day.notes.away if a.what == "person"}
    return tuple(
        PersonLane(id=h.id, name=h.name, here=here.get(h.id, ())[: 2 * SHOWN_AHEAD], is_away=h.id in away, hours=h.hours,
                   is_set=h.id in day.notes.hours)
        for h in day.hands
    )  # fmt: skip


def _waits(job: OpenJob) -> str:
    if job.told.stands == "held":
        return f"held: {job.told.why}" if job.told.why else "held"
    return job.work.why


def _out(way: WayOut, titles: dict[str, str], shop: Shop) -> Out:
    late = ", ".join(f"{titles[j]} {spell(m)}" for j, m in way.late.items())
    price = None if way.more is None else cents(hour_money(way.hands_min, shop.prices.hands_hour) + way.more)
    return Out(
        name=way.name, said=say("still late: {late}", late=late) if late else say("all leave in time"), price=price
    )


def _first(day: Planned, titles: dict[str, str]) -> tuple[Out, ...]:
    """A smaller first delivery: it costs nothing but a word with the customer."""
    return tuple(
        Out(
            name=say(
                "{pieces} of {of} pieces of {titles} in time, the rest after",
                pieces=f.pieces,
                of=f.of,
                titles=titles[f.job],
            ),
            said=say("a smaller first delivery: ask the customer"),
            price=Decimal(0),
        )
        for f in first_deliveries(day.made.day, day.plan)
    )


def _station(step: str) -> Station:
    found = step.split(":", 1)[0]
    return found if found in ("care", "print", "cut", "prepare", "press") else "inspect"  # type: ignore[return-value]


def _verdict(
    begin: Started, lanes: tuple[JobLane, ...], left: tuple[Left, ...], plan: Plan, machines: int, people: int
) -> tuple[str, str]:
    if not lanes:
        return (say("Nothing is ready to be planned") if left else say("Nothing is left to do")), say(
            "N on Jobs takes a new order"
        )
    late = sorted((j for j in lanes if j.late_min), key=lambda j: -j.late_min)
    last = _when(begin, plan.ends_min)
    whole = len(lanes)
    if not late:
        verdict = say("All {whole} jobs leave in time; the last is done {last}", whole=whole, last=last) if whole > 1 else say("{title} leaves in time, {last}", title=lanes[0].title, last=last)  # fmt: skip
    elif len(late) == 1:
        verdict = say("{title} leaves {spell} late", title=late[0].title, spell=spell(late[0].late_min)) + (
            say("; the other {whole} in time", whole=whole - 1) if whole > 1 else ""
        )
    else:
        verdict = say(
            "{late} of {whole} jobs leave late: {title} by {spell}",
            late=len(late),
            whole=whole,
            title=late[0].title,
            spell=spell(late[0].late_min),
        )
    hands = say_many(people, "{count} pair of hands", "{count} pairs of hands")
    sub = say("{machines}, {hands} · last piece {last}", machines=several(machines, "machine"), hands=hands, last=last)
    return verdict, sub + (say(" · {left} not planned yet", left=len(left)) if left else "")


def _when(begin: Started, minute: int) -> str:
    at = begin.at(minute)
    said = say("at {at}", at=f"{at:%H:%M}")
    if minute < DAY_MIN:
        return said
    if minute < 2 * DAY_MIN:
        return say("tomorrow {said}", said=said)
    weekday = a_day(at, "weekday")
    if minute < 7 * DAY_MIN:
        return say("on {weekday} {said}", weekday=weekday, said=said)
    return say("on {weekday} {day} {said}", weekday=weekday, day=a_day(at, "long"), said=said)
