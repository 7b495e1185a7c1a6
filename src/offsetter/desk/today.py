"""Today: the plan of all open work, as it stands now; what people pin, who is away, and the hours they keep.

A first plan is found while it is waited for; a child process makes it better, and the next look shows what it found. Nothing is shown
that the checker does not pass.
"""

import json
from collections.abc import Callable
from contextlib import suppress
from datetime import datetime

from pydantic import ValidationError
from sqlalchemy.orm import Session

from offsetter.core.compute.day import Day, Job, Plan, Step, plan_day
from offsetter.core.compute.day.check import faults_of
from offsetter.core.compute.day.laying import Unplaceable
from offsetter.core.compute.day.model import MOST_STEPS
from offsetter.core.compute.day.told import difference, spell
from offsetter.core.compute.day.what_if import Other, Promised, WayOut, promise, ways_out
from offsetter.core.facts import Shop
from offsetter.core.learned import Pace, pace_of, printing_pace, stage_paces
from offsetter.core.remaining import WorkLeft
from offsetter.core.sentences import say
from offsetter.core.values import Refusal, digest
from offsetter.core.working_day import (
    CARE,
    DAY_MIN,
    AtPrinter,
    Away,
    Days,
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
from offsetter.desk.at_work import MachinesAtWork
from offsetter.desk.base import Base
from offsetter.desk.bounded import Bounded
from offsetter.desk.day_papers import calendar_of, sheet_of
from offsetter.desk.day_view import Made, PinTried, Planned, PromiseView, TodayView, view_of
from offsetter.desk.jobs import Jobs
from offsetter.desk.press import GONE_AFTER
from offsetter.desk.standings import Standings
from offsetter.desk.ways import OtherWay, Ways
from offsetter.store.acts import ActStore
from offsetter.store.day import DayStore
from offsetter.store.people import PeopleStore
from offsetter.store.press import PressStore
from offsetter.store.sends import SendStore
from offsetter.store.standings import StandingStore
from offsetter.work.runner import SO_FAR

MOST_JOBS = 200
PACE_S, PACE_WINDOW = 300, 200
WARM_MIN = 60
"""A press read back within this time still has its heat: from memory."""
MOST_LATE, MOST_WAYS = 2, 2
"""Jobs that are late, the latest first, and ways of each that are tried as a way out."""
FIRST_STEPS = 4_000
"""Stages laid for the first plan, over all tries: about a tenth of a second."""


class Today:
    def __init__(
        self, base: Base, jobs: Jobs, standings: Standings, at_work: MachinesAtWork, ways: Ways, local: Callable[[datetime], datetime]
    ) -> None:  # fmt: skip
        """local: into the shop's own time zone."""
        self._base, self._jobs, self._standings, self._at_work, self._ways = base, jobs, standings, at_work, ways
        self._local = local
        self._made: Bounded[Made] = Bounded(24)
        self._found_outs: Bounded[tuple[WayOut, ...]] = Bounded(8)
        self._paces: Bounded[dict[str, Pace]] = Bounded(2)

    def look(self, said: tuple[str, ...] = ()) -> TodayView:
        self._bring_up()
        begin = started(self._local(self._base.now()))
        with self._base.session() as session:
            jobs, notes, hands, stands, order = self._read(session, begin)
        shop, _ = self._jobs.shop()
        made = self._plan(self._day(shop, jobs, hands, notes, begin, stands), order)
        better, is_over = self._better(made)
        self._keep_order(better, order)

        def others() -> tuple[Other, ...]:
            dropped = {j for j, _ in made.dropped}
            left = [j.told.id for j in sorted(jobs, key=lambda j: j.told.due) if j.told.id in dropped]
            late = sorted(better.late, key=lambda j: -better.late[j])
            names = {j.told.id: j.told.title for j in jobs}
            found = []
            for job in (*left, *late)[:MOST_LATE]:
                goes = {*(j.id for j in made.day.jobs), job}
                ways: tuple[OtherWay, ...] = ()
                with suppress(Refusal):  # a job that cannot be read takes no more than itself
                    ways = self._ways.others(job, MOST_WAYS)
                for way in ways:
                    day = self._day(shop, _instead(jobs, job, way.work), hands, notes, begin, stands)
                    day = day.model_copy(update={"jobs": tuple(j for j in day.jobs if j.id in goes)})
                    found.append(Other(name=say("{names} by {name}", names=names[job], name=way.name), more=way.more, day=day, brings=job if job in left else ""))  # fmt: skip
            return tuple(found)

        return view_of(
            Planned(
                shop=shop, jobs=jobs, hands=hands, notes=notes, begin=begin, made=made, plan=better, outs=self._outs(made, better, begin, others),
                pace=self._pace(shop),
            ),
            is_over=is_over, said=said, waiting=self._too_long(shop, jobs),
        )  # fmt: skip

    def pin(self, pin: Pin, *, out: bool, person: str) -> TodayView:
        """Pin a stage to a time, or take the pin out. Raises Refusal where the day cannot be planned so; then nothing is kept."""
        self._bring_up()
        with self._base.session() as session, session.begin():
            kept, before, tried = self._pinned(session, pin, out=out, person=person, locked=True)
            DayStore(session).write("pins", [p.model_dump(mode="json") for p in kept.pins], self._base.now())
        return self.look(difference(before.day, before.plan, tried.day, tried.plan))

    def try_pin(self, pin: Pin) -> PinTried:
        """What a pin would do, while it is still moved; nothing is kept. What would be refused is said, not raised."""
        with self._base.session() as session:
            try:
                _, before, tried = self._pinned(session, pin, out=False, person="", locked=False)
            except Refusal as no:
                return PinTried(refused=no.happened)
        more = tried.plan.ends_min - before.plan.ends_min
        late = {j: m for j, m in tried.plan.late.items() if m > before.plan.late.get(j, 0)}
        names = {j.id: j.name for j in tried.day.jobs}
        return PinTried(
            more_min=more,
            late=tuple(say("{names} {spell} late", names=names[j], spell=spell(m)) for j, m in late.items()),
        )

    def _pinned(self, session: Session, pin: Pin, *, out: bool, person: str, locked: bool) -> tuple[Notes, Made, Made]:  # fmt: skip
        """The notes with a pin more (or less), and the plan before and after. Raises Refusal where the day cannot be planned so."""
        begin = started(self._local(self._base.now()))
        if not out and begin.minute(pin.at) < begin.now_min:
            raise Refusal(
                "pin-past", say("That time is over."), say("The plan is as it was."), say("Pin it to a time to come.")
            )
        shop, _ = self._jobs.shop()
        jobs, notes, hands, stands, order = self._read(session, begin, locked=locked)
        before = self._plan(self._day(shop, jobs, hands, notes, begin, stands), order)
        known = {(j.id, s.id) for j in before.day.jobs for s in j.steps if not j.id.startswith(CARE)}
        if not out and (pin.job, pin.step) not in known:
            raise Refusal("no-such-stage", say("That stage is done, or is not planned any more."), say("The plan is as it was."), say("Look at the plan as it is now."))  # fmt: skip
        others = tuple(
            p for p in notes.pins if (p.job, p.step) != (pin.job, pin.step) and begin.minute(p.at) >= begin.now_min
        )
        kept = notes.model_copy(update={"pins": others if out else (*others, pin.model_copy(update={"by": person}))})
        day = self._day(shop, jobs, hands, kept, begin, stands)
        tried = self._plan(day, order)
        if (pin.job, pin.step) in tried.lost_pins and not out:
            plan_day(day, share=lambda _: 1.0)  # says why, in its own words
            raise Refusal(
                "pin-refused", say("It cannot begin then."), say("The plan is as it was."), say("Pin it elsewhere.")
            )
        return kept, before, tried

    def away(self, away: Away, *, back: bool) -> TodayView:
        """A machine failed or a person left; or is back."""
        begin = started(self._local(self._base.now()))
        shop, _ = self._jobs.shop()
        with self._base.session() as session, session.begin():
            jobs, notes, hands, stands, order = self._read(session, begin, locked=True)
            known = {h.id for h in hands} if away.what == "person" else set(shop.machines)
            if away.id not in known:
                raise Refusal("nobody-so", say("There is no such {what} here.", what=away.what), say("The plan is as it was."), say("Choose one of the list."))  # fmt: skip
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
                raise Refusal("nobody-so", say("There is no such person here."), say("Nothing was changed."), say("Choose one of the list."))  # fmt: skip
            store = DayStore(session)
            known = store.read("hours", locked=True) or {}
            store.write("hours", {**known, person: hours.model_dump(mode="json")}, self._base.now())
        return self.look()

    def set_closed(self, closed: tuple[Days, ...]) -> TodayView:
        """Days that the whole shop is closed; what is over is forgotten."""
        today = self._local(self._base.now()).date()
        kept = [d.model_dump(mode="json") for d in sorted(closed, key=lambda d: d.first) if d.last >= today]
        with self._base.session() as session, session.begin():
            DayStore(session).write("closed", kept, self._base.now())
        return self.look()

    def calendar(self) -> bytes:
        return calendar_of(self.look(), self._jobs.shop()[0].name, self._base.now())

    def sheet(self) -> bytes:
        return sheet_of(self.look(), self._jobs.shop()[0].name, self._local(self._base.now()))

    def refuse_pace(self, press: str, *, refused: bool) -> TodayView:
        """Plan a machine, or a stage, by its recipes' minutes after all, or again by what it really took."""
        shop, _ = self._jobs.shop()
        if press not in shop.machines and press not in self._pace(shop):
            raise Refusal("no-such-press", say("The shop has no such machine."), say("The plan is as it was."), say("Choose one of its own."))  # fmt: skip
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
                prepared = ActStore(session).newest("prepared", PACE_WINDOW)
                printed = {p: printing_pace(SendStore(session).newest(p, PACE_WINDOW)) for p in shop.printers}
            found = pace_of(pressed, shop.recipes) | stage_paces(prepared, shop.recipes)
            self._paces[key] = found | {p: pace for p, pace in printed.items() if pace}
        return self._paces[key]

    def _too_long(self, shop: Shop, jobs: tuple[OpenJob, ...]) -> tuple[str, ...]:
        """Work that lies half finished for longer than its next stage allows."""
        stages = {s.id: s for r in shop.recipes.values() for s in r.stages if s.window_s}
        found, now = [], self._base.now()
        for job in jobs:
            waits = next((s.id.split(":")[1] for s in job.work.steps if s.id.startswith("prepare:")), "")
            stage = stages.get(waits)
            if stage is None or stage.window_s is None or any(s.id.startswith("print:") for s in job.work.steps):
                continue
            printed: list[datetime] = []
            with self._base.session() as session, suppress(ValidationError):  # its own page says what is wrong with it
                printed = [a.at for a in ActStore(session).of_job(job.told.id) if a.body.kind == "printed"]
            waited_s = (now - max(printed)).total_seconds() if printed else 0.0
            if waited_s > stage.window_s:
                found.append(say("{title} was printed {spell} ago and waits for “{name}”. {window}", title=job.told.title, spell=spell(round(waited_s / 60)), name=stage.name, window=stage.window))  # fmt: skip
        return tuple(found)

    def _bring_up(self) -> None:
        self._standings.open_work(MOST_JOBS)

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
        stands: dict[str, float] = {}
        running: dict[str, str] = {}
        shop, _ = self._jobs.shop()
        for oven in shop.ovens_in_use:
            running |= _led(session, oven.id, now)
        for press in shop.presses_in_use:
            running |= _led(session, press.id, now)
            last = next(iter(ActStore(session).newest("set-up", 1, press.id)), None)
            if last is not None and (now - last.at).total_seconds() < WARM_MIN * 60:
                celsius = getattr(last.body, "temperature_c", None)
                if celsius is not None:
                    stands[press.id] = celsius
        printing = {
            s.job: AtPrinter(printer=s.machine, share_left=1 - s.sheets_done / s.sheets)
            for s in SendStore(session).open() if s.state in ("handing over", "waiting", "printing", "held up")
        }  # fmt: skip
        care = self._at_work.first_of_day(session, shop)
        return (
            tuple(OpenJob(told=told, work=work or WorkLeft()) for told, work in rows),
            notes.model_copy(update={"running": running, "printing": printing, "care": care}),
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
        key = digest("plan", 3, made.day)
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
        if not is_over and (latest is None or latest.stage == "cancelled"):
            self._base.work.submit(f"plan-{key}", "plan", {
                "day": made.day.model_dump_json(), "plan": made.plan.model_dump_json(), "out": str(path),
                "spread": json.dumps({i: p.spread for i, p in self._pace(self._jobs.shop()[0]).items()}),
            }, alone=True)  # fmt: skip
            return found, False
        return found, latest is None or latest.is_last

    def _outs(
        self, made: Made, plan: Plan, begin: Started, others: Callable[[], tuple[Other, ...]]
    ) -> tuple[WayOut, ...]:
        key = digest("outs", 2, made.day, made.dropped, plan.order, plan.cost)
        if key not in self._found_outs:
            end = (begin.now_min // DAY_MIN + 1) * DAY_MIN
            self._found_outs[key] = ways_out(made.day, plan, end, others() if plan.late or made.dropped else ())
        return self._found_outs[key]

    def promise_of(self, job_id: str) -> PromiseView:
        """When an order that is on the line could be done, tried against all else that is planned. Raises Refusal while what it takes
        is not known."""
        self._bring_up()
        begin = started(self._local(self._base.now()))
        shop, _ = self._jobs.shop()
        with self._base.session() as session:
            jobs, notes, hands, stands, order = self._read(session, begin)
        mine = next((j for j in jobs if j.told.id == job_id), None)
        if mine is None or not mine.work.steps:
            why = mine.work.why if mine else ""
            raise Refusal("not-known-yet", say("What this job takes is not known yet{which}.", which=f': {why}' if why else ''), say("Nothing was promised."), say("Finish its line first."))  # fmt: skip
        others = tuple(j for j in jobs if j.told.id != job_id)
        made = self._plan(self._day(shop, others, hands, notes, begin, stands), order)
        machines = machines_of(shop, notes, begin, stands, made.day.people)
        steps = tuple(s.model_copy(update={"not_before": begin.now_min}) for s in mine.work.steps)
        day = made.day.model_copy(update={"machines": machines})
        found = promise(day, made.plan, Job(id=job_id, name=mine.told.title, steps=steps))
        return _promised(found, made.plan, others, begin, mine.told.title, mine.told.pieces)

    def promise(self, job_id: str, pieces: int) -> PromiseView:
        """When so many more of what a job makes could be done, tried against the plan as it stands."""
        self._bring_up()
        begin = started(self._local(self._base.now()))
        shop, _ = self._jobs.shop()
        title, work = self._jobs.work_of_another(job_id, pieces)
        if not work.steps:
            raise Refusal("not-known-yet", say("What this job takes is not known yet. {why}.", why=work.why or say('Nothing is left to do')), say("Nothing was promised."),
                          say("Finish its line first, or choose another job like it."))  # fmt: skip
        with self._base.session() as session:
            jobs, notes, hands, stands, order = self._read(session, begin)
        made = self._plan(self._day(shop, jobs, hands, notes, begin, stands), order)
        plan, _ = self._better(made)
        steps = tuple(s.model_copy(update={"not_before": begin.now_min}) for s in work.steps)
        machines = machines_of(shop, notes, begin, stands, made.day.people)
        day = made.day.model_copy(update={"machines": machines})
        found = promise(day, plan, Job(id="another", name=title, steps=steps))
        return _promised(found, plan, jobs, begin, title, pieces)

    def _keep_order(self, plan: Plan, order: tuple[str, ...]) -> None:
        """So that the next plan begins from this one, and work is not shuffled for nothing."""
        if plan.order != order:
            with self._base.session() as session, session.begin():
                DayStore(session).write("order", list(plan.order), self._base.now())


def _led(session: Session, machine: str, now: datetime) -> dict[str, str]:
    """The job that is led at a machine now, to that machine."""
    with suppress(ValidationError):  # left by another version: nobody leads it now
        led = PressStore(session).find(machine)
        if led is not None and now - led.seen_at < GONE_AFTER:
            return {led.job: machine}
    return {}


def _instead(jobs: tuple[OpenJob, ...], job: str, work: WorkLeft) -> tuple[OpenJob, ...]:
    return tuple(j.model_copy(update={"work": work}) if j.told.id == job else j for j in jobs)


def _promised(found: Promised, plan: Plan, jobs: tuple[OpenJob, ...], begin: Started, title: str, pieces: int) -> PromiseView:  # fmt: skip
    names = {j.told.id: j.told.title for j in jobs}
    return PromiseView(
        title=title, pieces=pieces, quietly=begin.at(found.quietly_min), soonest=begin.at(found.soonest_min),
        pushes=tuple(say("{names} leaves {spell} {which}.", names=names[j], spell=spell(m), which=say('later') if j in plan.late else say('late')) for j, m in found.pushes.items() if j in names),
    )  # fmt: skip


def _notes(store: DayStore, *, locked: bool, today: Started) -> Notes:
    """A note that another version wrote otherwise counts as none; who left is back the next day."""
    try:
        notes = Notes.model_validate({
            "hours": store.read("hours") or {}, "closed": store.read("closed") or (), "as_in_recipe": store.read("as_in_recipe") or (), "away": store.read("away", locked=locked) or (), "pins": store.read("pins", locked=locked) or (),
        })  # fmt: skip
    except ValidationError:
        return Notes()
    return notes.model_copy(
        update={"away": tuple(a for a in notes.away if a.what == "machine" or a.since >= today.midnight)}
    )


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
            dropped.append(
                (
                    job.id,
                    say(
                        "More is due before it than the {most_steps} stages that are planned at once.",
                        most_steps=MOST_STEPS,
                    ),
                )
            )
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
