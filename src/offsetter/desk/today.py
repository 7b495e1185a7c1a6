"""Today: the plan of all open work, as it stands now; what people pin, who is away, and the hours they keep.

A first plan is found while it is waited for; a child process makes it better, and the next look shows what it found. Nothing is shown
that the checker does not pass.
"""

import json
from collections.abc import Callable
from datetime import UTC, datetime
from decimal import Decimal
from typing import Literal

from pydantic import ValidationError
from sqlalchemy.orm import Session

from offsetter.core.compute.cost import cents, hour_money
from offsetter.core.compute.day import Day, Hands, Heats, Job, Plan, Step, plan_day
from offsetter.core.compute.day.check import faults_of
from offsetter.core.compute.day.laying import Unplaceable
from offsetter.core.compute.day.model import MOST_STEPS
from offsetter.core.compute.day.platen import heats_of
from offsetter.core.compute.day.told import difference, reasons_of, spell
from offsetter.core.compute.day.what_if import WayOut, promise, ways_out
from offsetter.core.facts import Shop
from offsetter.core.learned import Pace, pace_of
from offsetter.core.remaining import WorkLeft
from offsetter.core.values import Frozen, Refusal, digest
from offsetter.core.working_day import (
    DAY_MIN,
    Away,
    Hand,
    Notes,
    OpenJob,
    PersonHours,
    Pin,
    Started,
    day_of,
    machines_of,
    started,
)
from offsetter.desk.base import Base
from offsetter.desk.bounded import Bounded
from offsetter.desk.jobs import Jobs
from offsetter.desk.standings import Standings
from offsetter.formats.calendar import Entry, write_calendar
from offsetter.store.acts import ActStore
from offsetter.store.day import DayStore
from offsetter.store.people import PeopleStore
from offsetter.store.standings import StandingStore
from offsetter.work.runner import SO_FAR

MOST_JOBS = 200
PACE_S, PACE_WINDOW = 300, 200
WARM_MIN = 60
"""A press read back within this time still has its heat: from memory."""
FIRST_STEPS = 4_000
"""Stages laid for the first plan, over all tries: about a tenth of a second."""
SHOWN_AHEAD = 6
Station = Literal["print", "prepare", "press", "inspect"]


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
    price: Decimal


class PromiseView(Frozen):
    title: str
    pieces: int
    quietly: datetime
    """Done by then without moving anything that is planned."""
    soonest: datetime
    pushes: tuple[str, ...]
    """What would leave late, or later, if it came first; in sentences."""


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
    outs: tuple[Out, ...]
    learned: tuple[PaceView, ...]
    """Presses whose minutes are planned by what they really took."""
    currency: str
    is_better: bool
    """The search behind the screen is over."""


class Made(Frozen):
    day: Day
    plan: Plan
    dropped: tuple[tuple[str, str], ...] = ()
    """Jobs that fit nowhere, and why."""
    lost_pins: tuple[tuple[str, str], ...] = ()
    """Pins that could not be kept: job and stage."""


class Today:
    def __init__(self, base: Base, jobs: Jobs, standings: Standings, local: Callable[[datetime], datetime] | None = None) -> None:  # fmt: skip
        """local: into the shop's own time zone; the computer's where none is given."""
        self._base, self._jobs, self._standings = base, jobs, standings
        self._local = local or (lambda at: at.astimezone())
        self._made: Bounded[Made] = Bounded(8)
        self._found_outs: Bounded[tuple[WayOut, ...]] = Bounded(8)
        self._paces: Bounded[dict[str, Pace]] = Bounded(2)
        self._searched = ""

    def look(self, said: tuple[str, ...] = ()) -> TodayView:
        self._bring_up()
        begin = started(self._local(self._base.now()))
        with self._base.session() as session:
            jobs, notes, hands, stands, order = self._read(session, begin)
        shop, _ = self._jobs.shop()
        made = self._plan(self._day(shop, jobs, hands, notes, begin, stands), order)
        better, is_over = self._better(made)
        self._keep_order(better, order)
        return self._view(shop, jobs, hands, notes, begin, made, better, is_over, said)

    def pin(self, pin: Pin, *, out: bool, person: str) -> TodayView:
        """Pin a stage to a time, or take the pin out. Raises Refusal where the day cannot be planned so; then nothing is kept."""
        begin = started(self._local(self._base.now()))
        if not out and begin.minute(pin.at) < begin.now_min:
            raise Refusal("pin-past", "That time is over.", "The plan is as it was.", "Pin it to a time to come.")
        self._bring_up()
        shop, _ = self._jobs.shop()
        with self._base.session() as session, session.begin():
            jobs, notes, hands, stands, order = self._read(session, begin, locked=True)
            before = self._plan(self._day(shop, jobs, hands, notes, begin, stands), order)
            known = {(j.id, s.id) for j in before.day.jobs for s in j.steps}
            if not out and (pin.job, pin.step) not in known:
                raise Refusal("no-such-stage", "That stage is done, or is not planned any more.", "The plan is as it was.", "Look at the plan as it is now.")  # fmt: skip
            others = tuple(
                p for p in notes.pins if (p.job, p.step) != (pin.job, pin.step) and begin.minute(p.at) >= begin.now_min
            )
            kept = notes.model_copy(
                update={"pins": others if out else (*others, pin.model_copy(update={"by": person}))}
            )
            day = self._day(shop, jobs, hands, kept, begin, stands)
            tried = self._plan(day, order)
            if (pin.job, pin.step) in tried.lost_pins and not out:
                plan_day(day, share=lambda _: 1.0)  # says why, in its own words
                raise Refusal("pin-refused", "It cannot begin then.", "The plan is as it was.", "Pin it elsewhere.")
            DayStore(session).write("pins", [p.model_dump(mode="json") for p in kept.pins], self._base.now())
        return self.look(difference(before.day, before.plan, tried.day, tried.plan))

    def away(self, away: Away, *, back: bool) -> TodayView:
        """A machine failed or a person left; or is back."""
        begin = started(self._local(self._base.now()))
        shop, _ = self._jobs.shop()
        with self._base.session() as session, session.begin():
            jobs, notes, hands, stands, order = self._read(session, begin, locked=True)
            known = {h.id for h in hands} if away.what == "person" else {*shop.printers, *shop.presses, *shop.ovens}
            if away.id not in known:
                raise Refusal("nobody-so", f"There is no such {away.what} here.", "The plan is as it was.", "Choose one of the list.")  # fmt: skip
            before = self._plan(self._day(shop, jobs, hands, notes, begin, stands), order)
            others = tuple(a for a in notes.away if (a.what, a.id) != (away.what, away.id))
            now = away.model_copy(update={"since": self._base.now()})
            kept = notes.model_copy(update={"away": others if back else (*others, now)})
            DayStore(session).write("away", [a.model_dump(mode="json") for a in kept.away], self._base.now())
            tried = self._plan(self._day(shop, jobs, hands, kept, begin, stands), order)
        return self.look(difference(before.day, before.plan, tried.day, tried.plan))

    def set_hours(self, person: str, hours: PersonHours) -> TodayView:
        with self._base.session() as session, session.begin():
            if person not in {u.id for u in PeopleStore(session).all()}:
                raise Refusal("nobody-so", "There is no such person here.", "Nothing was changed.", "Choose one of the list.")  # fmt: skip
            store = DayStore(session)
            known = store.read("hours", locked=True) or {}
            store.write("hours", {**known, person: hours.model_dump(mode="json")}, self._base.now())
        return self.look()

    def calendar(self) -> bytes:
        """Every stretch of hands, as an entry each."""
        seen = self.look()
        begin = Started(midnight=seen.midnight, now_min=seen.now_min)
        people, machines = {p.id: p.name for p in seen.people}, {m.id: m.name for m in seen.machines}
        entries = tuple(
            Entry(
                uid=f"{b.job}-{b.step}-{at}@offsetter", begins=begin.at(h.start_min).astimezone(UTC), ends=begin.at(h.end_min).astimezone(UTC),
                title=f"{b.name}: {b.title}", where=machines.get(b.machine, ""), text=people.get(h.person, ""),
            )
            for b in seen.blocks
            for at, h in enumerate(b.hands)
        )  # fmt: skip
        return write_calendar(self._jobs.shop()[0].name, entries, self._base.now())

    def refuse_pace(self, press: str, *, refused: bool) -> TodayView:
        """Plan a press by its recipes' minutes after all, or again by what it really took."""
        if press not in self._jobs.shop()[0].presses:
            raise Refusal("no-such-press", "The shop has no such press.", "The plan is as it was.", "Choose one of its presses.")  # fmt: skip
        with self._base.session() as session, session.begin():
            store = DayStore(session)
            known = set(store.read("as_in_recipe", locked=True) or ())
            kept = known | {press} if refused else known - {press}
            store.write("as_in_recipe", sorted(kept), self._base.now())
        return self.look()

    def _day(
        self, shop: Shop, jobs: tuple[OpenJob, ...], hands: tuple[Hand, ...], notes: Notes, begin: Started, stands: dict[str, float]
    ) -> Day:  # fmt: skip
        pace = {press: p.factor for press, p in self._pace(shop).items()}
        return day_of(shop, jobs, hands, notes, begin, stands, pace)

    def _pace(self, shop: Shop) -> dict[str, Pace]:
        """Read anew every few minutes: a round more or less moves a middle by nothing."""
        key = f"{int(self._base.now().timestamp()) // PACE_S}"
        if key not in self._paces:
            with self._base.session() as session:
                pressed = ActStore(session).newest("pressed", PACE_WINDOW)
            self._paces[key] = pace_of(pressed, shop.recipes)
        return self._paces[key]

    def _bring_up(self) -> None:
        self._standings.catch_up()
        self._standings.bring_up()
        with self._base.session() as session:
            rows = StandingStore(session).work(MOST_JOBS)
        for told, work in rows:
            # An earlier version kept it, which planned no day.
            if work is None:
                self._standings.again(told.id)

    def _read(
        self, session: Session, begin: Started, *, locked: bool = False
    ) -> tuple[tuple[OpenJob, ...], Notes, tuple[Hand, ...], dict[str, float], tuple[str, ...]]:
        now = self._base.now()
        rows = StandingStore(session).work(MOST_JOBS)
        store = DayStore(session)
        notes = _notes(store, locked=locked, today=begin)
        hands = tuple(
            Hand(id=u.id, name=u.name, hours=notes.hours.get(u.id, PersonHours()))
            for u in PeopleStore(session).all()
            if u.is_active and u.role != "viewer"
        )
        stands = {}
        for press in self._jobs.shop()[0].presses_in_use:
            last = next(iter(ActStore(session).newest("set-up", 1, press.id)), None)
            if last is not None and (now - last.at).total_seconds() < WARM_MIN * 60:
                celsius = getattr(last.body, "temperature_c", None)
                if celsius is not None:
                    stands[press.id] = celsius
        return (
            tuple(OpenJob(told=told, work=work or WorkLeft()) for told, work in rows),
            notes,
            hands,
            stands,
            tuple(store.read("order") or ()),
        )

    def _plan(self, day: Day, order: tuple[str, ...]) -> Made:
        """A first plan; what fits nowhere is left out, with the reason, and a pin that cannot be kept is let go."""
        key = digest("day", 1, day)
        known = self._made.get(key)
        if known is not None:
            return known
        day, dropped = _as_many_as_go(day)
        lost: list[tuple[str, str]] = []
        while True:
            try:
                plan = plan_day(day, begin=order, share=_tries(max(2, min(40, FIRST_STEPS // max(1, day.steps)))))
                break
            except Unplaceable as no:
                if no.is_pin:
                    lost.append((no.job, no.step))
                    day = _without_pin(day, no.job, no.step)
                else:
                    dropped.append((no.job, no.happened))
                    day = day.model_copy(update={"jobs": tuple(j for j in day.jobs if j.id != no.job)})
        made = self._made[key] = Made(day=day, plan=_proved(day, plan), dropped=tuple(dropped), lost_pins=tuple(lost))
        return made

    def _better(self, made: Made) -> tuple[Plan, bool]:
        """What the search behind the screen has found so far for this very day; it is begun where nobody did."""
        if len(made.day.jobs) < 2:
            return made.plan, True
        key = digest("plan", 2, made.day)
        path = self._base.files.derived("plans", key)
        found, is_over = made.plan, False
        for file in (path.with_suffix(SO_FAR), path):
            try:
                told = Plan.model_validate_json(file.read_bytes())
            except (OSError, ValidationError):
                continue
            is_over = file == path
            if told.cost <= found.cost and not faults_of(made.day, told):
                found = told.model_copy(update={"floor": made.plan.floor})
        latest = None if is_over else self._base.work.latest(f"plan-{key}")
        if not is_over and (latest is None or not latest.is_last):
            if self._searched and self._searched != f"plan-{key}":
                self._base.work.cancel(self._searched)
            self._searched = f"plan-{key}"
            self._base.work.submit(self._searched, "plan", {
                "day": made.day.model_dump_json(), "plan": made.plan.model_dump_json(), "out": str(path),
                "spread": json.dumps({i: p.spread for i, p in self._pace(self._jobs.shop()[0]).items()}),
            })  # fmt: skip
            return found, False
        return found, True

    def _outs(self, made: Made, plan: Plan, begin: Started) -> tuple[WayOut, ...]:
        key = digest("outs", 1, made.day, plan.order, plan.cost)
        if key not in self._found_outs:
            end = (begin.now_min // DAY_MIN + 1) * DAY_MIN
            self._found_outs[key] = ways_out(made.day, plan, end)
        return self._found_outs[key]

    def promise(self, job_id: str, pieces: int) -> PromiseView:
        """When so many more of what a job makes could be done, tried against the plan as it stands."""
        self._bring_up()
        begin = started(self._local(self._base.now()))
        shop, _ = self._jobs.shop()
        title, work = self._jobs.work_of_another(job_id, pieces)
        if not work.steps:
            raise Refusal("not-known-yet", f"What this job takes is not known yet. {work.why or 'Nothing is left to do'}.", "Nothing was promised.",
                          "Finish its line first, or choose another job like it.")  # fmt: skip
        with self._base.session() as session:
            jobs, notes, hands, stands, order = self._read(session, begin)
        made = self._plan(self._day(shop, jobs, hands, notes, begin, stands), order)
        plan, _ = self._better(made)
        steps = tuple(s.model_copy(update={"not_before": begin.now_min}) for s in work.steps)
        machines = machines_of(shop, notes, begin, stands, made.day.people)
        day = made.day.model_copy(update={"machines": machines})
        found = promise(day, plan, Job(id="another", name=title, steps=steps))
        names = {j.told.id: j.told.title for j in jobs}
        return PromiseView(
            title=title, pieces=pieces, quietly=begin.at(found.quietly_min), soonest=begin.at(found.soonest_min),
            pushes=tuple(f"{names[j]} leaves {spell(m)} {'later' if j in plan.late else 'late'}." for j, m in found.pushes.items()),
        )  # fmt: skip

    def _keep_order(self, plan: Plan, order: tuple[str, ...]) -> None:
        """So that the next plan begins from this one, and work is not shuffled for nothing."""
        if plan.order != order:
            with self._base.session() as session, session.begin():
                DayStore(session).write("order", list(plan.order), self._base.now())

    def _view(
        self, shop: Shop, jobs: tuple[OpenJob, ...], hands: tuple[Hand, ...], notes: Notes, begin: Started, made: Made, plan: Plan,
        is_over: bool, said: tuple[str, ...],
    ) -> TodayView:  # fmt: skip
        steps = {(j.id, s.id): s for j in made.day.jobs for s in j.steps}
        titles = {j.told.id: j.told.title for j in jobs}
        machines = {m.id: m for m in made.day.machines}
        pinned = {(p.job, p.step) for p in notes.pins} - set(made.lost_pins)
        ends: dict[str, int] = {}
        for p in plan.places:
            ends[p.job] = max(ends.get(p.job, 0), p.end_min)
        reasons = reasons_of(made.day, plan)
        away = {(a.what, a.id): a.since for a in notes.away}
        called = {i: m.name for kind in (shop.printers, shop.presses, shop.ovens) for i, m in kind.items()}
        people = {p.id: p for p in made.day.people}
        blocks = tuple(
            Block(
                job=p.job, title=titles[p.job], step=p.step, name=steps[(p.job, p.step)].name, station=_station(p.step), machine=p.machine,
                start_min=p.start_min, end_min=p.end_min, hands=p.hands, hands_all=steps[(p.job, p.step)].hands == "all",
                celsius=steps[(p.job, p.step)].celsius, is_pinned=(p.job, p.step) in pinned, why=reasons.get((p.job, p.step), ""),
            )
            for p in plan.places
        )  # fmt: skip
        lanes = tuple(
            JobLane(
                id=j.id,
                title=j.title,
                customer=j.customer,
                due_min=begin.minute(j.due),
                end_min=ends[j.id],
                late_min=plan.late.get(j.id, 0),
                likely=plan.likely.get(j.id),
            )
            for j in (o.told for o in jobs)
            if j.id in ends
        )
        dropped = dict(made.dropped)
        left = tuple(
            Left(
                id=j.told.id,
                title=j.told.title,
                due_min=begin.minute(j.told.due),
                why=dropped.get(j.told.id) or _waits(j),
            )
            for j in jobs
            if j.told.id not in ends and (j.told.id in dropped or _waits(j))
        )
        shown = [
            m for m in made.day.machines if any(p.machine == m.id for p in plan.places) or ("machine", m.id) in away
        ]
        outs = tuple(_out(w, titles, shop) for w in self._outs(made, plan, begin))
        verdict, sub = _verdict(begin, lanes, left, plan, len(shown), len(people))
        lost = tuple(f"The pin of “{steps[k].name}” could not be kept." for k in made.lost_pins if k in steps)
        return TodayView(
            midnight=begin.midnight, now_min=begin.now_min, verdict=verdict, sub=sub, blocks=blocks, said=(*said, *lost), is_better=is_over, outs=outs, currency=shop.prices.currency,
            machines=tuple(
                MachineLane(id=m.id, name=called[m.id], kind=m.kind, away_since=away.get(("machine", m.id)), heats=heats_of(made.day, plan, machines[m.id]))
                for m in shown
            ) + tuple(
                # Failed, and nothing wants it now: it is shown, so that it can come back.
                MachineLane(id=i, name=called[i], kind=kind, away_since=away[("machine", i)], heats=())
                for kind, ids in (("printer", shop.printers), ("press", shop.presses), ("oven", shop.ovens))
                for i in ids
                if ("machine", i) in away and i not in machines
            ),
            people=tuple(
                PersonLane(id=h.id, name=h.name, here=people[h.id].here[: 2 * SHOWN_AHEAD] if h.id in people else (),
                           is_away=("person", h.id) in away, hours=h.hours, is_set=h.id in notes.hours)
                for h in hands
            ),
            jobs=lanes, left=left, pins=notes.pins,
            learned=tuple(
                PaceView(press=i, name=shop.presses[i].name, pace=p, is_refused=i in notes.as_in_recipe)
                for i, p in self._pace(shop).items() if i in shop.presses
            ),
        )  # fmt: skip


def _notes(store: DayStore, *, locked: bool, today: Started) -> Notes:
    """A note that another version wrote otherwise counts as none; who left is back the next day."""
    try:
        notes = Notes.model_validate({
            "hours": store.read("hours") or {}, "as_in_recipe": store.read("as_in_recipe") or (), "away": store.read("away", locked=locked) or (), "pins": store.read("pins", locked=locked) or (),
        })  # fmt: skip
    except ValidationError:
        return Notes()
    return notes.model_copy(
        update={"away": tuple(a for a in notes.away if a.what == "machine" or a.since >= today.midnight)}
    )


def _waits(job: OpenJob) -> str:
    if job.told.stands == "held":
        return f"held: {job.told.why}" if job.told.why else "held"
    return job.work.why


def _out(way: WayOut, titles: dict[str, str], shop: Shop) -> Out:
    late = ", ".join(f"{titles[j]} {spell(m)}" for j, m in way.late.items())
    price = cents(hour_money(way.hands_min, shop.prices.hands_hour))
    return Out(name=way.name, said=f"still late: {late}" if late else "all leave in time", price=price)


def _station(step: str) -> Station:
    found = step.split(":", 1)[0]
    return found if found in ("print", "prepare", "press") else "inspect"  # type: ignore[return-value]


def _proved(day: Day, plan: Plan) -> Plan:
    wrong = faults_of(day, plan)
    if wrong:
        raise RuntimeError(f"a plan does not hold: {wrong[0]}")
    return plan


def _as_many_as_go(day: Day) -> tuple[Day, list[tuple[str, str]]]:
    """The jobs that are due first, as many as are planned at once; the others, and why they are not."""
    kept, steps, dropped = [], 0, []
    for job in sorted(day.jobs, key=lambda j: j.due_min or 0):
        steps += len(job.steps)
        if steps > MOST_STEPS:
            dropped.append((job.id, f"More is due before it than the {MOST_STEPS} stages that are planned at once."))
        else:
            kept.append(job)
    return (day.model_copy(update={"jobs": tuple(kept)}) if dropped else day), dropped


def _tries(most: int) -> Callable[[int], float]:
    return lambda done: done / most


def _without_pin(day: Day, job: str, step: str) -> Day:
    def let_go(s: Step) -> Step:
        return s.model_copy(update={"pinned_min": None}) if s.id == step else s

    jobs = (j.model_copy(update={"steps": tuple(let_go(s) for s in j.steps)}) if j.id == job else j for j in day.jobs)
    # waits are kept beside a job: a copy must work them out for itself
    return day.model_copy(update={"jobs": tuple(type(j)(**{n: getattr(j, n) for n in type(j).model_fields}) for j in jobs)})  # fmt: skip


def _verdict(
    begin: Started, lanes: tuple[JobLane, ...], left: tuple[Left, ...], plan: Plan, machines: int, people: int
) -> tuple[str, str]:
    if not lanes:
        return ("Nothing is ready to be planned" if left else "Nothing is left to do"), "N on Jobs takes a new order"
    late = sorted((j for j in lanes if j.late_min), key=lambda j: -j.late_min)
    last = _when(begin, plan.ends_min)
    whole = len(lanes)
    if not late:
        verdict = f"All {whole} jobs leave in time; the last is done {last}" if whole > 1 else f"{lanes[0].title} leaves in time, {last}"  # fmt: skip
    elif len(late) == 1:
        verdict = f"{late[0].title} leaves {spell(late[0].late_min)} late" + (
            f"; the other {whole - 1} in time" if whole > 1 else ""
        )
    else:
        verdict = f"{len(late)} of {whole} jobs leave late: {late[0].title} by {spell(late[0].late_min)}"
    sub = f"{machines} machines, {people} pairs of hands · last piece {last}"
    return verdict, sub + (f" · {len(left)} not planned yet" if left else "")


def _when(begin: Started, minute: int) -> str:
    at = begin.at(minute)
    said = f"at {at:%H:%M}"
    if minute < DAY_MIN:
        return said
    return f"tomorrow {said}" if minute < 2 * DAY_MIN else f"on {at:%A} {said}" if minute < 7 * DAY_MIN else f"on {at:%A} {at.day} {at:%B} {said}"  # fmt: skip
