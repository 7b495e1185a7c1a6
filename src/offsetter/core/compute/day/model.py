"""What a day is made of. Minutes are whole, counted from the day's own start; windows are [from, to)."""

import math
from collections.abc import Iterable
from functools import cached_property
from typing import Annotated, Literal, Protocol

from pydantic import AfterValidator, Field

from offsetter.core.compute.heat import PressHeat
from offsetter.core.quantities import a_heat
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal

MOST_STEPS = 1_000
MOST_MIN = 60 * 24 * 60
"""Sixty days: nobody plans further by the minute."""
LATE_WEIGHS = 10
"""A minute that a job is late against a minute that the whole takes longer."""

Id = Annotated[str, Field(min_length=1, max_length=120)]
Name = Annotated[str, Field(max_length=160)]
Minute = Annotated[int, Field(ge=0, le=MOST_MIN)]
Minutes = Annotated[int, Field(ge=0, le=MOST_MIN)]
Celsius = Annotated[float, Field(ge=-10, le=400)]
Kind = Literal["printer", "oven", "press", "cutter", "other"]


def _in_order(windows: tuple[tuple[int, int], ...]) -> tuple[tuple[int, int], ...]:
    """Sorted, overlapping ones joined. Raises ValueError for one that ends before it begins."""
    joined: list[tuple[int, int]] = []
    for start, end in sorted(windows):
        if end <= start:
            raise ValueError(say("the window from {start} to {end} holds no minute", start=start, end=end))
        if joined and start <= joined[-1][1]:
            joined[-1] = (joined[-1][0], max(end, joined[-1][1]))
        else:
            joined.append((start, end))
    return tuple(joined)


Windows = Annotated[tuple[tuple[Minute, Minute], ...], AfterValidator(_in_order)]


class Machine(Frozen):
    id: Id
    name: Name = ""
    kind: Kind = "other"
    celsius: Celsius | None = None
    """How hot it stands at the start; None: it has no heat to change."""
    heat: PressHeat | None = None
    """How it heats and cools; with none, a change of heat takes no time."""
    settle_min: float = Field(0.0, ge=0, le=60)
    """From the set temperature reached to even heat."""
    away: Windows = ()
    """When it does not run: broken, or switched off. It is cold afterwards."""

    def change_min(self, from_c: float | None, to_c: float | None) -> int:
        """Whole minutes between two heats; Refusal-free: what it never reaches takes longer than any day."""
        if self.heat is None or from_c is None or to_c is None or from_c == to_c:
            return 0
        took = self.heat.minutes(from_c, to_c) + self.settle_min
        return MOST_MIN if math.isinf(took) else math.ceil(took - 1e-9)


class Person(Frozen):
    id: Id
    name: Name = ""
    here: Windows
    """Breaks are what lies between."""
    skills: tuple[Id, ...] = ()
    """Empty: everything."""


class Wait(Frozen):
    """A stage that has to be over first, and how long before: at_least for what cools or dries, at_most for what is wet."""

    step: Id
    at_least: Minutes = 0
    at_most: Minutes | None = None


class Step(Frozen):
    id: Id
    name: Name = ""
    minutes: Minutes
    machines: tuple[Id, ...] = ()
    """Any one of these; none: hands, or time, alone."""
    celsius: Celsius | None = None
    """What the machine stands at when it begins."""
    ends_c: Celsius | None = None
    """And when it ends, where that is another heat."""
    hands: Literal["all", "ends", "none"] = "none"
    """All the while by one person; at its begin and end alone; not at all."""
    hands_before: Minutes = 0
    hands_after: Minutes = 0
    skill: str = Field("", max_length=120)
    after: tuple[Wait, ...] | None = None
    """None: after the stage before it in the list."""
    pieces: int = Field(0, ge=0, le=1_000_000)
    """That are pressed by it; 0: it presses none, or nobody said."""
    pinned_min: Minute | None = None
    """Begins then and at no other time: pinned by a person, or running already."""
    not_before: Minute = 0

    @property
    def heat_after(self) -> float | None:
        return self.celsius if self.ends_c is None else self.ends_c

    @property
    def held(self) -> tuple[tuple[int, int], ...]:
        """Stretches of it that want one person, from its own start."""
        if self.hands == "none" or self.minutes == 0:
            return ()
        before, after = min(self.hands_before, self.minutes), min(self.hands_after, self.minutes)
        if self.hands == "all" or before + after >= self.minutes:
            return ((0, self.minutes),) if self.hands == "all" or before + after else ()
        found = [(0, before)] if before else []
        return (*found, (self.minutes - after, self.minutes)) if after else tuple(found)


class Job(Frozen):
    id: Id
    name: Name = ""
    due_min: int | None = Field(None, ge=-MOST_MIN, le=MOST_MIN)
    weight: int = Field(1, ge=0, le=1000)
    steps: tuple[Step, ...] = Field(min_length=1)

    @cached_property
    def waits(self) -> dict[str, tuple[Wait, ...]]:
        """Step to what comes before it."""
        found: dict[str, tuple[Wait, ...]] = {}
        for at, step in enumerate(self.steps):
            before = (Wait(step=self.steps[at - 1].id),) if at and step.after is None else step.after or ()
            found[step.id] = before
        return found


class Day(Frozen):
    machines: tuple[Machine, ...] = Field((), max_length=200)
    people: tuple[Person, ...] = Field((), max_length=200)
    jobs: tuple[Job, ...]

    @property
    def steps(self) -> int:
        return sum(len(j.steps) for j in self.jobs)

    def checked(self) -> "Day":
        """Itself. Raises Refusal, three parts, for what can never be planned."""
        _check_names(self)
        known, skills = {m.id: m for m in self.machines}, [set(p.skills) for p in self.people]
        for job in self.jobs:
            _check_order(job)
            for step in job.steps:
                said = say("“{name}” of {name2}", name=step.name or step.id, name2=job.name or job.id)
                if lost := [m for m in step.machines if m not in known]:
                    raise _no(
                        "unknown-machine",
                        say("{said} wants “{lost}”, which is no machine of this day.", said=said, lost=lost[0]),
                        say("Name one that is listed."),
                    )
                if step.held and not any(not s or not step.skill or step.skill in s for s in skills):
                    raise _no(
                        "nobody-can",
                        say("{said} wants hands, and nobody here can do it.", said=said),
                        say("Add a person who can."),
                    )
                hot = [known[m] for m in step.machines if step.celsius is not None and known[m].heat is not None]
                if hot and all(
                    m.heat is not None and max(step.celsius or 0, step.heat_after or 0) >= m.heat.ceiling_c for m in hot
                ):
                    raise _no("never-so-hot", say("{said} wants {celsius}, which {name} never reaches.", said=said, celsius=a_heat(step.celsius or 0), name=hot[0].name or hot[0].id), say("Choose another press, or another recipe."))  # fmt: skip
        return self


def _no(code: str, happened: str, to_do: str) -> Refusal:
    return Refusal(code, happened, say("The last plan is as it was."), to_do)


def _check_names(day: Day) -> None:
    if day.steps > MOST_STEPS:
        raise _no(
            "too-much",
            say(
                "{steps} stages are more than the {most_steps} that are planned at once.",
                steps=day.steps,
                most_steps=MOST_STEPS,
            ),
            say("Leave out what is due last."),
        )
    for what, ids in (("machines", [m.id for m in day.machines]), ("people", [p.id for p in day.people]), ("jobs", [j.id for j in day.jobs])):  # fmt: skip
        if len(set(ids)) < len(ids):
            raise _no("twice", say("Two {what} have one id.", what=what), say("Give each its own."))


def _check_order(job: Job) -> None:
    """Its stages name each other, and none waits for itself round a ring."""
    name, ids = job.name or job.id, [s.id for s in job.steps]
    if len(set(ids)) < len(ids):
        raise _no("twice", say("Two stages of {name} have one id.", name=name), say("Give each its own."))
    done: set[str] = set()
    left = dict(job.waits)
    while left:
        free = [s for s, waits in left.items() if all(w.step in done for w in waits)]
        if not free:
            lost = next((w.step for waits in left.values() for w in waits if w.step not in ids), None)
            told = (
                say("waits for “{lost}”, which it does not have", lost=lost)
                if lost
                else say("waits for itself, round a ring")
            )
            raise _no(
                "no-order",
                say("A stage of {name} {told}.", name=name, told=told),
                say("Name the stages that come before it."),
            )
        done.update(free)
        for s in free:
            del left[s]


class Hands(Frozen):
    person: str
    start_min: int
    end_min: int


class Placed(Frozen):
    job: str
    step: str
    machine: str
    """Empty: none."""
    start_min: int
    end_min: int
    hands: tuple[Hands, ...] = ()


class Heats(Frozen):
    """A stretch of a platen: held at a heat, or on the way to another."""

    machine: str
    start_min: int
    end_min: int
    from_c: float
    to_c: float


class Plan(Frozen):
    places: tuple[Placed, ...]
    cost: int
    """LATE_WEIGHS times weighted minutes late, and the minute at which all is done."""
    ends_min: int
    late: dict[str, int] = {}
    """Job to minutes."""
    order: tuple[str, ...] = ()
    """Jobs in the order they were laid: where the next plan may begin."""
    found_by: Literal["due dates", "search", "solver"] = "due dates"
    floor: int = 0
    """Cost of plain due-date order, laid the same way."""
    proven: bool = False
    """Nothing costs less."""
    bound: int | None = None
    """Nothing costs less than this."""
    likely: dict[str, tuple[int, int, int]] = {}
    """Job to minutes by which one in ten, half, and nine in ten are done; empty until it was worked out."""


class Ends(Protocol):
    @property
    def job(self) -> str: ...
    @property
    def end_min(self) -> int: ...


def cost_of(day: Day, places: Iterable[Ends]) -> tuple[int, int, dict[str, int]]:
    """Cost, the end of the last stage, and who is late by how much."""
    ends: dict[str, int] = {}
    for p in places:
        ends[p.job] = max(ends.get(p.job, 0), p.end_min)
    late = {j.id: ends[j.id] - j.due_min for j in day.jobs if j.due_min is not None and ends[j.id] > j.due_min}
    whole = max(ends.values(), default=0)
    weighed = sum(late[j.id] * j.weight for j in day.jobs if j.id in late)
    return LATE_WEIGHS * weighed + whole, whole, late
