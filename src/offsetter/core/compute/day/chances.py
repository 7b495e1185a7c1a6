"""How sure a plan is: the same day many times over, its stages a little longer or shorter each time, laid in the plan's order."""

import math

import numpy as np

from offsetter.core.compute.day.laying import Bench
from offsetter.core.compute.day.model import Day, Job, Plan, Step
from offsetter.core.values import Refusal

RUNS = 60
USUAL_SPREAD = 0.2
"""Standard deviation of a stage's time, as a share of it, where the shop has not clocked enough: from memory."""
EARLY, LATE = 0.1, 0.9
Finish = tuple[int, int, int]
"""Minutes by which one in ten, half, and nine in ten are done."""


def finishes(
    day: Day, plan: Plan, *, spread: dict[str, float] | None = None, runs: int = RUNS, seed: int = 1
) -> dict[str, Finish]:
    """Job to its early, likely and late finish. spread: machine to the standard deviation of its stages' time, as a share.

    A pin is kept as the earliest moment, since a stage before it may run over. Jobs that found no place in half of the runs are left out.
    """
    chance = np.random.default_rng(seed)
    known = spread or {}
    ends: dict[str, list[int]] = {j.id: [] for j in day.jobs}
    for _ in range(runs):
        jobs = tuple(_varied(j, known, chance) for j in day.jobs)
        try:
            laid = Bench(day.model_copy(update={"jobs": jobs})).lay(plan.order)
        except Refusal:
            continue
        done: dict[str, int] = {}
        for p in laid:
            done[p.job] = max(done.get(p.job, 0), p.end_min)
        for job, end in done.items():
            ends[job].append(end)
    return {
        job: (round(float(np.quantile(seen, EARLY))), round(float(np.median(seen))), round(float(np.quantile(seen, LATE))))
        for job, seen in ends.items()
        if len(seen) * 2 > runs
    }  # fmt: skip


def _varied(job: Job, spread: dict[str, float], chance: np.random.Generator) -> Job:
    return job.model_copy(update={"steps": tuple(_one(s, spread, chance) for s in job.steps)})


def _one(step: Step, spread: dict[str, float], chance: np.random.Generator) -> Step:
    sigma = spread.get(step.machines[0], USUAL_SPREAD) if step.machines else USUAL_SPREAD
    # Log-normal, its mean the planned time: no stage takes less than nothing, and some take much longer.
    log_sigma = math.sqrt(math.log1p(sigma**2))
    times = math.exp(chance.normal(-(log_sigma**2) / 2, log_sigma))
    at = step.pinned_min
    return step.model_copy(update={
        "minutes": max(1, round(step.minutes * times)) if step.minutes else 0, "pinned_min": None,
        "not_before": step.not_before if at is None else max(step.not_before, at),
    })  # fmt: skip
