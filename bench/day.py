"""The day's plan: cost against plain due-date order, published job-shop optima, and what a look, a pin and a new plan take."""

import json
import resource
import time
from pathlib import Path

import numpy as np

from offsetter.core.compute.day import Day, Job, Machine, Person, Plan, Step, Wait, plan_day
from offsetter.core.compute.day.check import faults_of
from offsetter.core.compute.day.solver import Effort, improve
from offsetter.core.compute.heat import PressHeat

KNOWN = Path(__file__).parent.parent / "tests" / "outside" / "data" / "job_shop.json"
SIZES = ((12, 10.0, None), (30, 10.0, 0.25), (60, 15.0, 0.40))
"""Jobs, seconds, and the share by which due-date order has to be beaten."""
SEARCHED = 0.4
DUE_MIN = 26
"""A job is due so often: a little sooner than one can be made."""


def made(jobs: int, seed: int = 1) -> Day:
    """Printed, cured, weeded, pressed (60 % twice, at another heat), checked (30 %), packed; two people with a break every 270 min."""
    chance = np.random.default_rng(seed)

    def between(a: int, b: int) -> int:
        return int(chance.integers(a, b + 1))

    def job(i: int) -> Job:
        n, heat = between(4, 30), float(chance.choice([140, 150, 160, 180, 200]))
        steps = [
            Step(id="print", minutes=between(8, 40), machines=("printer",), hands="ends", hands_before=3, hands_after=1),
            Step(id="cure", minutes=between(4, 15), machines=("oven",), hands="ends", hands_before=2, hands_after=1, after=(Wait(step="print", at_most=90),)),
            Step(id="weed", minutes=between(3, 12), hands="all"),
            Step(id="press", minutes=3 + n // 2, machines=("press",), hands="all", celsius=heat),
        ]  # fmt: skip
        if chance.random() < 0.6:
            second = float(chance.choice([heat, 140]))
            steps.append(Step(id="again", minutes=2 + n // 4, machines=("press",), hands="all", celsius=second, after=(Wait(step="press", at_least=4, at_most=60),)))  # fmt: skip
        if chance.random() < 0.3:
            steps.append(Step(id="check", minutes=n // 3 + 1, hands="all"))
        steps.append(Step(id="pack", minutes=between(2, 8), hands="all"))
        return Job(id=f"j{i}", due_min=between(60, jobs * DUE_MIN), weight=int(chance.choice([1, 1, 2, 3])), steps=tuple(steps))  # fmt: skip

    here = tuple((t, t + 270) for t in range(0, 60 * 24 * 55, 300))
    heat = PressHeat(q_c_per_min=14, k_per_min=0.045, room_c=22)
    return Day(
        machines=(Machine(id="printer"), Machine(id="oven"), Machine(id="press", celsius=22, heat=heat)),
        people=(Person(id="a", here=here), Person(id="b", here=here)),
        jobs=tuple(job(i) for i in range(jobs)),
    )


def planned(day: Day, seconds: float) -> Plan:
    began = time.monotonic()

    def spent() -> float:
        return time.monotonic() - began

    first = plan_day(day, share=lambda _: spent() / (seconds * SEARCHED))
    plan = improve(day, first, effort=Effort(seconds=seconds), spent=spent)
    wrong = faults_of(day, plan)
    if wrong:
        raise SystemExit(f"a plan does not hold: {wrong[0]}")
    return plan


def bench_day() -> None:
    from ortools.sat.python import cp_model  # noqa: F401  its import is no part of a plan's time

    for jobs, seconds, bar in SIZES:
        day = made(jobs)
        plan = planned(day, seconds)
        better = 1 - plan.cost / plan.floor
        said = f"{jobs} jobs, {day.steps} stages: cost {plan.cost} against {plan.floor} by due dates in {seconds:.0f} s"
        if bar is None:
            best = improve(day, plan, effort=Effort(seconds=90.0), spent=lambda: 0.0)
            print(f"{said}; {plan.cost / best.cost - 1:.1%} over the best of 90 s more ({'proven' if best.proven else f'bound {best.bound}'}), bar 3 %")  # fmt: skip
        else:
            print(f"{said}: {better:.0%} below (bar {bar:.0%})")
        began = time.perf_counter()
        plan_day(day, share=lambda done: done / 4)
        first = time.perf_counter() - began
        spent = time.process_time()
        plan_day(day, begin=plan.order, share=lambda done, n=4_000 // day.steps: done / n)
        again = time.process_time() - spent
        print(
            f"  first plan {first * 1000:.0f} ms (bar 300), planned anew {again * 1000:.0f} ms of a processor (bar 1000)"
        )
    for name, rows in json.loads(KNOWN.read_text()).items():
        day = Day(
            machines=tuple(Machine(id=str(m)) for m in range(len(rows["machines"][0]))),
            jobs=tuple(
                Job(id=f"j{i}", steps=tuple(Step(id=str(k), minutes=t, machines=(str(m),)) for k, (m, t) in enumerate(zip(machines, minutes, strict=True))))
                for i, (machines, minutes) in enumerate(zip(rows["machines"], rows["minutes"], strict=True))
            ),
        )  # fmt: skip
        began = time.monotonic()
        plan = improve(day, plan_day(day), effort=Effort(seconds=60.0), spent=lambda: 0.0)
        print(f"{name}: {plan.cost}, optimum {rows['optimum']}, {'proven' if plan.proven else f'bound {plan.bound}'}, {time.monotonic() - began:.1f} s")  # fmt: skip
    print(f"most memory {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB (bar 400)")
