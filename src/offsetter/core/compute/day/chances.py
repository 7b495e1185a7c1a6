"""How sure a plan is: the same plan carried out many times over, its stages a little longer or shorter each time.

Machines and hands take their work in the plan's order; what is ready sooner begins sooner, what runs over pushes what comes after it.
"""

import math

import numpy as np

from offsetter.core.compute.day.laying import HandsStrip
from offsetter.core.compute.day.model import Day, Machine, Placed, Plan, Step

RUNS = 100
USUAL_SPREAD = 0.2
"""Standard deviation of a stage's time, as a share of it, where the shop has not clocked enough: from memory."""
EARLY, LATE = 0.1, 0.9
Finish = tuple[int, int, int]
"""Minutes by which one in ten, half, and nine in ten are done."""


def finishes(
    day: Day, plan: Plan, *, spread: dict[str, float] | None = None, runs: int = RUNS, seed: int = 1
) -> dict[str, Finish]:
    """Job to its early, likely and late finish.

    spread: machine to the standard deviation of its stages' time, as a share; "" for hands alone. A pin is the earliest moment of its
    stage, since the one before it may run over; how long something wet may wait is not looked at.
    """
    chance, known = np.random.default_rng(seed), spread or {}
    steps = {(j.id, s.id): (s, j.waits[s.id]) for j in day.jobs for s in j.steps}
    rows = [(p, *steps[(p.job, p.step)]) for p in sorted(plan.places, key=lambda p: (p.start_min, p.end_min))]
    times = np.array([_log_spread(known.get(p.machine, USUAL_SPREAD)) for p, _, _ in rows])
    ends: dict[str, list[int]] = {j.id: [] for j in day.jobs}
    machines, people = {m.id: m for m in day.machines}, {p.id: p for p in day.people}
    for _ in range(runs):
        # Log-normal, its mean the planned time: no stage takes less than nothing, and some take much longer.
        factors = np.exp(chance.normal(-(times**2) / 2, times))
        hands = {i: HandsStrip(p) for i, p in people.items()}
        free: dict[str, tuple[int, float | None]] = {i: (0, m.celsius) for i, m in machines.items()}
        done: dict[tuple[str, str], int] = {}
        for (p, step, waits), factor in zip(rows, factors, strict=True):
            minutes = max(1, round(step.minutes * float(factor))) if step.minutes else 0
            begin = max(step.not_before, step.pinned_min or 0, *(done[(p.job, w.step)] + w.at_least for w in waits), 0)
            # Hands that come back to end a stage are counted on: it is not begun before its time, and all else may be.
            begin = max(begin, p.start_min) if step.hands == "ends" else begin
            done[(p.job, p.step)] = _carried_out(p, step, minutes, begin, machines.get(p.machine), free, hands)
        last: dict[str, int] = {}
        for (job, _), end in done.items():
            last[job] = max(last.get(job, 0), end)
        for job, end in last.items():
            ends[job].append(end)
    return {
        job: (round(float(np.quantile(seen, EARLY))), round(float(np.median(seen))), round(float(np.quantile(seen, LATE))))
        for job, seen in ends.items()
    }  # fmt: skip


def _log_spread(share: float) -> float:
    return math.sqrt(math.log1p(share**2))


def _carried_out(
    p: Placed, step: Step, minutes: int, begin: int, machine: Machine | None, free: dict[str, tuple[int, float | None]],
    hands: dict[str, HandsStrip],
) -> int:  # fmt: skip
    """Begins as soon as its machine, its heat and the hands that were planned are there; gives its end."""
    held = step.model_copy(update={"minutes": minutes}).held if step.held else ()
    if machine is not None:
        begin = max(begin, _ready(machine, step, free[machine.id]))
    while True:
        moved = _off(machine, step, begin, minutes)
        for (a, b), h in zip(held, p.hands, strict=False):
            moved = max(moved, hands[h.person].earliest(moved + a, b - a) - a)
        if moved == begin:
            break
        begin = moved
    for (a, b), h in zip(held, p.hands, strict=False):
        hands[h.person].add(begin + a, begin + b)
    if machine is not None:
        stands = step.heat_after if step.heat_after is not None else free[machine.id][1]
        free[machine.id] = (begin + minutes, stands)
    return begin + minutes


def _ready(machine: Machine, step: Step, free: tuple[int, float | None]) -> int:
    since, stands = free
    cold = max((end for _, end in machine.away if end <= since), default=-1)
    if cold == since and machine.heat is not None:
        stands = machine.heat.room_c
    return since + machine.change_min(stands, step.celsius)


def _off(machine: Machine | None, step: Step, begin: int, minutes: int) -> int:
    """The first moment from begin on at which the machine stays on for so long; warm again after it was off."""
    if machine is None:
        return begin
    for start, end in machine.away:
        warm = machine.change_min(machine.heat.room_c, step.celsius) if machine.heat and step.celsius is not None else 0
        if begin < end + warm and begin + minutes > start:
            begin = end + warm
    return begin
