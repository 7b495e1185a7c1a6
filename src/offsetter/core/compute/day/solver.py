"""A plan made better by constraint programming: the whole day where it is small, a window of jobs at a time where it is not.

The plan that was found is the hint and stays the answer where nothing better comes. People who are alike are a pool, told apart
afterwards; a change of heat is a pair of stages of which one waits for the other.
"""

from bisect import insort
from collections import defaultdict
from collections.abc import Callable
from typing import Any

import numpy as np

from offsetter.core.compute.day.model import (
    LATE_WEIGHS,
    Day,
    Hands,
    Job,
    Machine,
    Person,
    Placed,
    Plan,
    Step,
    Windows,
    cost_of,
)
from offsetter.core.values import Frozen

MOST_AT_ONCE = 130
"""Stages that are solved as one: more are taken in windows."""
WINDOW = 60
"""Stages of a window."""
WINDOW_WORK = 0.04
"""The solver's own count of work, not seconds: the same day gives the same plan."""
Group = tuple[Windows, tuple[str, ...]]


class Effort(Frozen):
    """How long to try. seconds: by the clock, a window at most a fifth of it; None: by the solver's own count of work."""

    seconds: float | None = None
    work: float = 1.0
    windows: int = 4
    workers: int = 2


def improve(
    day: Day,
    plan: Plan,
    *,
    seed: int = 1,
    effort: Effort | None = None,
    better: Callable[[Plan], None] | None = None,
    spent: Callable[[], float] | None = None,
) -> Plan:
    """The plan, or one that costs less. spent: seconds since the start, where the effort is by the clock."""
    effort = effort or Effort()
    if day.steps <= MOST_AT_ONCE:
        left = None if effort.seconds is None else max(0.1, effort.seconds - (spent() if spent else 0.0))
        return _solved(day, plan, {j.id for j in day.jobs}, seed, effort, effort.work, left, better)
    chance = np.random.default_rng(seed)
    rounds = 0
    while rounds < effort.windows if effort.seconds is None else spent is not None and spent() < effort.seconds - 0.2:
        left = None if effort.seconds is None else min(effort.seconds / 5, effort.seconds - (spent() if spent else 0.0))
        plan = _solved(day, plan, _window(day, plan, chance, rounds), seed + rounds, effort, WINDOW_WORK, left, better)
        rounds += 1
    return plan


def _window(day: Day, plan: Plan, chance: np.random.Generator, turn: int) -> set[str]:
    """Jobs that lie close together in time, round a late one every second turn."""
    begins: dict[str, int] = {}
    for p in plan.places:
        begins[p.job] = min(begins.get(p.job, p.start_min), p.start_min)
    late = sorted(plan.late)
    centre = str(chance.choice(late) if late and turn % 2 == 0 else chance.choice(sorted(begins)))
    size = {j.id: len(j.steps) for j in day.jobs}
    found, steps = set[str](), 0
    for job in sorted(begins, key=lambda j: (abs(begins[j] - begins[centre]) * chance.uniform(0.6, 1.0), j)):
        if steps + size[job] > WINDOW:
            break
        found.add(job)
        steps += size[job]
    return found


def _solved(
    day: Day, plan: Plan, free: set[str], seed: int, effort: Effort, work: float, seconds: float | None,
    better: Callable[[Plan], None] | None,
) -> Plan:  # fmt: skip
    from ortools.sat.python import cp_model

    made = _Model(day, plan, free)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = effort.workers
    solver.parameters.random_seed = seed
    if seconds is None:
        solver.parameters.interleave_search = True
        solver.parameters.max_deterministic_time = work
    else:
        solver.parameters.max_time_in_seconds = seconds

    class Told(cp_model.CpSolverSolutionCallback):
        def on_solution_callback(self) -> None:
            found = made.read(self.value, plan)
            if better and found.cost < plan.cost:
                better(found)

    status = solver.solve(made.model, Told() if better else None)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return plan
    found = made.read(solver.value, plan)
    whole = len(free) == len(day.jobs)
    known: dict[str, Any] = {"proven": status == cp_model.OPTIMAL, "bound": round(solver.best_objective_bound)} if whole else {}  # fmt: skip
    return (found if found.cost < plan.cost else plan).model_copy(update=known)


class _Laid:
    """A stage in the model: its start, and the machine or the people that may have it."""

    def __init__(self, job: Job, step: Step, start: Any, now: Placed) -> None:
        self.job, self.step, self.start, self.now = job, step, start, now
        self.end = start + step.minutes
        self.on: list[tuple[str, Any]] = []
        """Machine to whether it lies there; a lone one always does."""
        self.by: list[list[tuple[Group, Any]]] = []
        """Of each stretch of hands, the group of people to whether it is theirs."""


class _Model:
    def __init__(self, day: Day, plan: Plan, free: set[str]) -> None:
        from ortools.sat.python import cp_model

        self.day, self.free, self.plan = day, free, plan
        self.model: cp_model.CpModel = cp_model.CpModel()
        self.until = min(plan.cost, round(1.5 * plan.ends_min) + 200) if plan.ends_min else 1
        self._now = {(p.job, p.step): p for p in plan.places}
        self._groups: dict[Group, list[Person]] = defaultdict(list)
        for person in day.people:
            self._groups[(person.here, person.skills)].append(person)
        self._on: dict[str, list[Any]] = defaultdict(list)
        self._by: dict[Group, list[Any]] = defaultdict(list)
        self.steps = [self._step(j, s) for j in day.jobs if j.id in free for s in j.steps]
        self._wait()
        for machine in day.machines:
            self._machine(machine)
        self._people()
        self._aim()

    def _flag(self, name: str, hint: bool) -> Any:
        flag = self.model.new_bool_var(name)
        self.model.add_hint(flag, hint)
        return flag

    def _step(self, job: Job, step: Step) -> _Laid:
        now = self._now[(job.id, step.id)]
        if step.pinned_min is not None:
            start = self.model.new_int_var(step.pinned_min, step.pinned_min, "")
        else:
            start = self.model.new_int_var(step.not_before, max(self.until, now.start_min), "")
        self.model.add_hint(start, now.start_min)
        laid = _Laid(job, step, start, now)
        for machine in step.machines:
            if len(step.machines) == 1:
                laid.on.append((machine, True))
                self._on[machine].append(self.model.new_fixed_size_interval_var(start, step.minutes, ""))
                continue
            flag = self._flag("", machine == now.machine)
            laid.on.append((machine, flag))
            self._on[machine].append(self.model.new_optional_fixed_size_interval_var(start, step.minutes, flag, ""))
        if len(laid.on) > 1:
            self.model.add_exactly_one(flag for _, flag in laid.on)
        for at, (a, b) in enumerate(step.held):
            can = [g for g in self._groups if not g[1] or not step.skill or step.skill in g[1]]
            row: list[tuple[Group, Any]] = []
            for group in can:
                mine = any(p.id == now.hands[at].person for p in self._groups[group])
                flag = True if len(can) == 1 else self._flag("", mine)
                row.append((group, flag))
                held = self.model.new_fixed_size_interval_var(start + a, b - a, "") if flag is True else (
                    self.model.new_optional_fixed_size_interval_var(start + a, b - a, flag, ""))  # fmt: skip
                self._by[group].append(held)
            if len(row) > 1:
                self.model.add_exactly_one(flag for _, flag in row)
            laid.by.append(row)
        return laid

    def _wait(self) -> None:
        of = {(x.job.id, x.step.id): x for x in self.steps}
        for x in self.steps:
            for w in x.job.waits[x.step.id]:
                before = of[(x.job.id, w.step)]
                self.model.add(x.start >= before.end + w.at_least)
                if w.at_most is not None:
                    self.model.add(x.start <= before.end + w.at_most)

    def _machine(self, machine: Machine) -> None:
        fixed = [
            (p.start_min, p.end_min) for p in self.plan.places if p.machine == machine.id and p.job not in self.free
        ]
        for start, end in (*fixed, *machine.away):
            if end > start:
                self._on[machine.id].append(self.model.new_fixed_size_interval_var(start, end - start, ""))
        if self._on[machine.id]:
            self.model.add_no_overlap(self._on[machine.id])
        if machine.heat is not None:
            self._heats(machine)

    def _heats(self, machine: Machine) -> None:
        steps = {(j.id, s.id): s for j in self.day.jobs for s in j.steps}
        mine = [(x, flag) for x in self.steps for m, flag in x.on if m == machine.id and x.step.celsius is not None]
        still: list[tuple[int, int, float | None, float | None]] = [
            (a, b, None, machine.heat.room_c if machine.heat else None) for a, b in machine.away
        ]
        for p in self.plan.places:
            step = steps[(p.job, p.step)]
            if p.machine == machine.id and p.job not in self.free and step.celsius is not None:
                still.append((p.start_min, p.end_min, step.celsius, step.heat_after))
        for at, (x, flag) in enumerate(mine):
            asked = [] if flag is True else [flag]
            warm = machine.change_min(machine.celsius, x.step.celsius)
            if warm:
                self.model.add(x.start >= warm).only_enforce_if(asked)
            for y, other in mine[at + 1 :]:
                there = machine.change_min(x.step.heat_after, y.step.celsius)
                back = machine.change_min(y.step.heat_after, x.step.celsius)
                if there or back:
                    first = self._flag("", x.now.start_min <= y.now.start_min)
                    both = [*asked, *([] if other is True else [other])]
                    self.model.add(y.start >= x.end + there).only_enforce_if(first, *both)
                    self.model.add(x.start >= y.end + back).only_enforce_if(~first, *both)
            for begins, ends, wants, leaves in still:
                there, back = machine.change_min(x.step.heat_after, wants), machine.change_min(leaves, x.step.celsius)
                if there or back:
                    first = self._flag("", x.now.start_min <= begins)
                    self.model.add(x.end + there <= begins).only_enforce_if(first, *asked)
                    self.model.add(x.start >= ends + back).only_enforce_if(~first, *asked)

    def _people(self) -> None:
        for group, people in self._groups.items():
            held: list[Any] = list(self._by[group])
            wants = [1] * len(held)
            ids = {p.id for p in people}
            for p in self.plan.places:
                for h in p.hands if p.job not in self.free else ():
                    if h.person in ids:
                        held.append(self.model.new_fixed_size_interval_var(h.start_min, h.end_min - h.start_min, ""))
                        wants.append(1)
            if not self._by[group]:
                continue
            at, longest = 0, self.until + max((s.minutes for j in self.day.jobs for s in j.steps), default=0)
            for start, end in (*group[0], (longest, longest)):
                if start > at:
                    held.append(self.model.new_fixed_size_interval_var(at, start - at, ""))
                    wants.append(len(people))
                at = max(at, end)
            self.model.add_cumulative(held, wants, len(people))

    def _aim(self) -> None:
        most = self.until + max((x.step.minutes for x in self.steps), default=0)
        rest = [p.end_min for p in self.plan.places if p.job not in self.free]
        whole = self.model.new_int_var(max(rest, default=0), max(most, self.plan.ends_min), "")
        self.model.add_hint(whole, self.plan.ends_min)
        costs: list[Any] = [whole]
        for x in self.steps:
            self.model.add(whole >= x.end)
        for job in self.day.jobs:
            if job.id not in self.free or job.due_min is None or not job.weight:
                continue
            late = self.model.new_int_var(0, max(most, self.plan.ends_min) + max(0, -job.due_min), "")
            self.model.add_hint(late, self.plan.late.get(job.id, 0))
            for x in self.steps:
                if x.job.id == job.id:
                    self.model.add(late >= x.end - job.due_min)
            costs.append(LATE_WEIGHS * job.weight * late)
        self.model.minimize(sum(costs))

    def read(self, value: Callable[[Any], int], plan: Plan) -> Plan:
        """The plan that the model's values mean, hands given to persons."""
        chosen: list[tuple[_Laid, int, str]] = []
        stretches: dict[Group, list[tuple[int, int, tuple[str, str], int]]] = defaultdict(list)
        for x in self.steps:
            start = value(x.start)
            chosen.append((x, start, next((m for m, flag in x.on if flag is True or value(flag)), "")))
            for at, ((a, b), row) in enumerate(zip(x.step.held, x.by, strict=True)):
                group = next(g for g, flag in row if flag is True or value(flag))
                stretches[group].append((start + a, start + b, (x.job.id, x.step.id), at))
        group_of = {p.id: g for g, people in self._groups.items() for p in people}
        for p in plan.places:
            for at, h in enumerate(p.hands if p.job not in self.free else ()):
                stretches[group_of[h.person]].append((h.start_min, h.end_min, (p.job, p.step), at))
        who = self._told_apart(stretches)
        places = [
            p.model_copy(update={"hands": tuple(h.model_copy(update={"person": who[(p.job, p.step), at]}) for at, h in enumerate(p.hands))})
            for p in plan.places
            if p.job not in self.free
        ]  # fmt: skip
        for x, start, machine in chosen:
            key = (x.job.id, x.step.id)
            hands = tuple(Hands(person=who[key, at], start_min=start + a, end_min=start + b) for at, (a, b) in enumerate(x.step.held))  # fmt: skip
            places.append(Placed(job=key[0], step=key[1], machine=machine, start_min=start, end_min=start + x.step.minutes, hands=hands))  # fmt: skip
        laid = tuple(sorted(places, key=lambda p: (p.start_min, p.job, p.step)))
        cost, ends, late = cost_of(self.day, laid)
        order = tuple(dict.fromkeys(p.job for p in laid))
        return plan.model_copy(update={"places": laid, "cost": cost, "ends_min": ends, "late": late, "order": order, "found_by": "solver"})  # fmt: skip

    def _told_apart(
        self, stretches: dict[Group, list[tuple[int, int, tuple[str, str], int]]]
    ) -> dict[tuple[tuple[str, str], int], str]:
        """Each stretch to a person of its group: whoever became free last takes it, so that others have longer rests."""
        found: dict[tuple[tuple[str, str], int], str] = {}
        for group, rows in stretches.items():
            free = [(0, p.id) for p in self._groups[group]]
            for start, end, key, at in sorted(rows):
                until, person = max(f for f in free if f[0] <= start)
                free.remove((until, person))
                insort(free, (end, person))
                found[key, at] = person
        return found
