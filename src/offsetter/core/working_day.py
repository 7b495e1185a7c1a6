"""The shop's day: what is left of its open jobs, its machines and the hours of its people, as the planner reads them."""

from collections.abc import Iterator
from datetime import date, datetime, timedelta
from math import ceil
from typing import Annotated, Literal, get_args

from pydantic import AwareDatetime, Field, model_validator

from offsetter.core.compute.day.model import Day, Job, Machine, Person, Step
from offsetter.core.compute.press_model import heat_of
from offsetter.core.facts import Shop
from offsetter.core.learned import STAGE
from offsetter.core.remaining import WorkLeft
from offsetter.core.sentences import say
from offsetter.core.standing import JobStanding
from offsetter.core.values import Frozen

DAYS_AHEAD = 21
DAY_MIN = 24 * 60
STEP_MIN = 5
"""Plans begin at the next five minutes, so that a look a moment later shows the same one."""
LONGEST_BREAK_MIN = 60
"""Longer than this and whoever leaves last turns the press off: from memory."""
TimeOfDay = Annotated[int, Field(ge=0, le=DAY_MIN)]
"""Minutes after midnight, by the shop's clock."""
Window = tuple[TimeOfDay, TimeOfDay]
DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
USUAL: tuple[Window | None, ...] = (*(((8 * 60, 17 * 60),) * 5), None, None)
USUAL_BREAK: Window = (12 * 60 + 30, 13 * 60)


Skill = Literal["print", "prepare", "cut", "press", "inspect"]
"""What a stage asks of hands, by the station that it belongs to."""


class Days(Frozen):
    """From one day to another, both with it."""

    first: date
    last: date

    @model_validator(mode="after")
    def ends_after_it_begins(self) -> "Days":
        if self.last < self.first:
            raise ValueError(say("the last day comes after the first"))
        return self

    def has(self, day: date) -> bool:
        return self.first <= day <= self.last


MOST_DAYS_OFF = 60


class PersonHours(Frozen):
    """When somebody is here, Monday first; None: not that day. From memory until it is set."""

    week: tuple[Window | None, ...] = Field(USUAL, min_length=7, max_length=7)
    rest: Window | None = USUAL_BREAK
    plans: bool = True
    """Whether work is planned for these hands at all."""
    off: Annotated[tuple[Days, ...], Field(max_length=MOST_DAYS_OFF)] = ()
    """Days that they are not here."""
    does: frozenset[Skill] = frozenset()
    """What they do; empty: everything."""

    @model_validator(mode="after")
    def ends_after_it_begins(self) -> "PersonHours":
        for window in (*self.week, self.rest):
            if window is not None and window[1] <= window[0]:
                raise ValueError(say("a day ends after it begins"))
        return self

    def on(self, day: date) -> tuple[Window, ...]:
        window, rest = self.week[day.weekday()], self.rest
        if window is None or any(d.has(day) for d in self.off):
            return ()
        if rest is None or rest[0] >= window[1] or rest[1] <= window[0]:
            return (window,)
        return tuple(w for w in ((window[0], rest[0]), (rest[1], window[1])) if w[1] > w[0])


class Away(Frozen):
    """A machine that failed, or a person who left: until it is said that they are back."""

    what: Literal["machine", "person"]
    id: str = Field(min_length=1, max_length=60)
    since: AwareDatetime


class Pin(Frozen):
    """A stage that begins then and at no other time."""

    job: str = Field(min_length=1, max_length=60)
    step: str = Field(min_length=1, max_length=120)
    at: AwareDatetime
    by: str = ""


class Hand(Frozen):
    id: str
    name: str
    hours: PersonHours


class CareFirst(Frozen):
    """What a machine wants done before its first job of the day."""

    machine: str
    name: str
    minutes: int = Field(ge=1, le=DAY_MIN)


class AtPrinter(Frozen):
    """A run that a printer is at now."""

    printer: str
    share_left: float = Field(1.0, ge=0, le=1)


class OpenJob(Frozen):
    told: JobStanding
    work: WorkLeft


class Notes(Frozen):
    """What people said of the day."""

    running: dict[str, str] = {}
    """Job to the press or oven that is led for it at this moment."""
    printing: dict[str, AtPrinter] = {}
    """Job to the printer that is at it."""
    care: tuple[CareFirst, ...] = ()
    as_in_recipe: frozenset[str] = frozenset()
    """Presses whose learnt pace is refused."""

    hours: dict[str, PersonHours] = {}
    closed: Annotated[tuple[Days, ...], Field(max_length=MOST_DAYS_OFF)] = ()
    """Days that the whole shop is closed."""
    away: tuple[Away, ...] = ()
    pins: tuple[Pin, ...] = ()


class Started(Frozen):
    """Where the day begins: local midnight, and now in minutes after it."""

    midnight: datetime
    now_min: int

    def minute(self, at: datetime) -> int:
        return round((at - self.midnight).total_seconds() / 60)

    def at(self, minute: int) -> datetime:
        return self.midnight + timedelta(minutes=minute)


def started(now: datetime) -> Started:
    """now: aware, in the shop's own zone."""
    midnight = now.replace(hour=0, minute=0, second=0, microsecond=0)
    minutes = (now - midnight).total_seconds() / 60
    return Started(midnight=midnight, now_min=int(-(-minutes // STEP_MIN) * STEP_MIN))


def day_of(
    shop: Shop, jobs: tuple[OpenJob, ...], hands: tuple[Hand, ...], notes: Notes, begin: Started, stands_c: dict[str, float],
    pace: dict[str, float] | None = None,
) -> Day:  # fmt: skip
    """stands_c: press to what it stands at now, where that is known; the others are cold. pace: press, printer, or a
    stage with its mark, to times its recipes' minutes."""
    times = {p: f for p, f in (pace or {}).items() if p not in notes.as_in_recipe}
    wanted = {m for j in jobs for s in j.work.steps for m in s.machines}
    pins = {(p.job, p.step): begin.minute(p.at) for p in notes.pins}
    people = tuple(p for h in hands if h.hours.plans and (p := _person(h, notes, begin)).here)
    failed = {a.id for a in notes.away if a.what == "machine"}
    care = tuple(c for c in notes.care if c.machine in wanted - failed)
    # What nobody here is said to do, anybody does.
    done = frozenset(s for p in people for s in p.skills) if all(p.skills for p in people) else frozenset(get_args(Skill))  # fmt: skip
    return Day(
        machines=tuple(m for m in machines_of(shop, notes, begin, stands_c, people) if m.id in wanted),
        people=people,
        jobs=(*_care(care, people, begin), *(
            Job(
                id=j.told.id, name=j.told.title, due_min=begin.minute(j.told.due),
                steps=_printing(_going_on(tuple(_step(j.told.id, s, pins, begin, times, done) for s in j.work.steps), notes.running.get(j.told.id), begin), notes.printing.get(j.told.id), begin),
            )
            for j in jobs
            if j.work.steps
        )),
    )  # fmt: skip


CARE = "care:"
"""Before a machine's id: a job of its own, so that it has its hands and its time."""


def _care(care: tuple[CareFirst, ...], people: tuple[Person, ...], begin: Started) -> Iterator[Job]:
    """Each at the first moment that somebody is here for it: whatever the machine does that day comes after."""
    free = [[list(w) for w in p.here] for p in people]
    for one in care:
        gaps = [(w[0], at, n) for at, windows in enumerate(free) for n, w in enumerate(windows) if w[1] - w[0] >= one.minutes]  # fmt: skip
        if not gaps:
            continue
        start, at, n = min(gaps)
        free[at][n][0] = start + one.minutes
        step = Step(id=f"{CARE}first", name=one.name, minutes=one.minutes, machines=(one.machine,), hands="all", pinned_min=start)  # fmt: skip
        yield Job(id=f"{CARE}{one.machine}", name=one.name, steps=(step.model_copy(update={"not_before": begin.now_min}),))  # fmt: skip


def _printing(steps: tuple[Step, ...], now: AtPrinter | None, begin: Started) -> tuple[Step, ...]:
    """What a printer is at stays there, and takes what is left of it."""
    at = next((i for i, s in enumerate(steps) if s.id.startswith("print:") and now and now.printer in s.machines), None)
    if now is None or at is None:
        return steps
    left = max(1, ceil(steps[at].minutes * now.share_left))
    here = steps[at].model_copy(update={"pinned_min": begin.now_min, "machines": (now.printer,), "minutes": left, "hands_before": 0})  # fmt: skip
    return (*steps[:at], here, *steps[at + 1 :])


def _going_on(steps: tuple[Step, ...], machine: str | None, begin: Started) -> tuple[Step, ...]:
    """What lies under a press or in an oven now is not planned elsewhere."""
    at = next(
        (i for i, s in enumerate(steps) if machine in s.machines and s.id.startswith(("press:", "prepare:"))), None
    )
    if machine is None or at is None:
        return steps
    now = steps[at].model_copy(update={"pinned_min": begin.now_min, "machines": (machine,)})
    return (*steps[:at], now, *steps[at + 1 :])


def _step(
    job: str,
    step: Step,
    pins: dict[tuple[str, str], int],
    begin: Started,
    times: dict[str, float],
    done: frozenset[str],
) -> Step:
    pin = pins.get((job, step.id))
    factor = 1.0
    if step.id.startswith("prepare:"):
        factor = times.get(STAGE + step.id.split(":")[1], 1.0)
    elif step.machines and step.id.startswith(("press:", "print:")):
        factor = times.get(step.machines[0], 1.0)
    skill = step.id.split(":")[0]
    # A pin in the past was kept or missed: it binds no more.
    return step.model_copy(update={
        "minutes": ceil(step.minutes * factor), "not_before": begin.now_min, "pinned_min": pin if pin is not None and pin >= begin.now_min else None,
        "skill": skill if skill in done else "",
    })  # fmt: skip


def machines_of(
    shop: Shop, notes: Notes, begin: Started, stands_c: dict[str, float], people: tuple[Person, ...]
) -> tuple[Machine, ...]:
    """Every machine of the shop, off while nobody is in the house."""
    shut = _nobody_here(people, begin)
    failed = {a.id for a in notes.away if a.what == "machine"}
    until = (DAYS_AHEAD + 30) * DAY_MIN

    def made(id: str, name: str, kind: str, **more: object) -> Machine:
        away = ((begin.now_min, until),) if id in failed else ()
        return Machine.model_validate({"id": id, "name": name, "kind": kind, "away": away, **more})

    presses = []
    for p in shop.presses.values():
        heat = heat_of(p)
        # No platen is left hot with nobody in the house: it warms up when the first one comes.
        away = made(p.id, p.name, "press").away or shut
        stands = stands_c.get(p.id, heat.room_c)
        presses.append(made(p.id, p.name, "press", heat=heat, celsius=stands, settle_min=p.settle_min, away=away))
    return (
        *(made(p.id, p.name, "printer") for p in shop.printers.values()),
        *(made(o.id, o.name, "oven") for o in shop.ovens.values()),
        *(made(c.id, c.name, "cutter") for c in shop.cutters.values()),
        *presses,
    )  # fmt: skip


def _nobody_here(people: tuple[Person, ...], begin: Started) -> tuple[Window, ...]:
    """Stretches without a soul, longer than a break."""
    found, at = [], begin.now_min
    for start, end in sorted(w for p in people for w in p.here):
        if start - at > LONGEST_BREAK_MIN:
            found.append((at, start))
        at = max(at, end)
    return tuple(found)


def _person(hand: Hand, notes: Notes, begin: Started) -> Person:
    gone = any(a.what == "person" and a.id == hand.id for a in notes.away)
    here = []
    for ahead in range(DAYS_AHEAD):
        if gone and ahead == 0:
            continue
        day = (begin.midnight + timedelta(days=ahead)).date()
        for start, end in () if any(c.has(day) for c in notes.closed) else hand.hours.on(day):
            a, b = max(start + ahead * DAY_MIN, begin.now_min), end + ahead * DAY_MIN
            if b > a:
                here.append((a, b))
    return Person(id=hand.id, name=hand.name, here=tuple(here), skills=tuple(sorted(hand.hours.does)))
