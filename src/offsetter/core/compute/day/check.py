"""Judges a plan by the day alone, knowing nothing of how it was found: every plan that is shown went through here."""

from itertools import pairwise

from offsetter.core.compute.day.model import Day, Machine, Placed, Plan, Step, cost_of


def faults_of(day: Day, plan: Plan) -> list[str]:
    """What is wrong with a plan, in sentences; empty: it can be done."""
    steps = {(j.id, s.id): s for j in day.jobs for s in j.steps}
    placed = {(p.job, p.step): p for p in plan.places}
    if len(placed) < len(plan.places) or set(placed) != set(steps):
        return ["Not every stage is planned once."]
    found = [told for key, p in placed.items() for told in _of_step(day, steps[key], p)]
    found += _waits(day, placed)
    for machine in day.machines:
        found += _on(machine, [(steps[(p.job, p.step)], p) for p in plan.places if p.machine == machine.id])
    for person in day.people:
        taken = sorted((h.start_min, h.end_min) for p in plan.places for h in p.hands if h.person == person.id)
        found += [f"{person.id} is in two places at {b[0]}." for a, b in pairwise(taken) if b[0] < a[1]]
        found += [f"{person.id} is not here at {a}." for a, b in taken if not any(x <= a and b <= y for x, y in person.here)]  # fmt: skip
    cost, ends, late = cost_of(day, plan.places)
    if (cost, ends, late) != (plan.cost, plan.ends_min, plan.late):
        found.append(f"It costs {cost}, not {plan.cost}.")
    return found


def _of_step(day: Day, step: Step, p: Placed) -> list[str]:
    found = []
    if p.end_min - p.start_min != step.minutes:
        found.append(f"{p.job} {p.step} takes {step.minutes} min, not {p.end_min - p.start_min}.")
    if p.start_min < step.not_before or (step.pinned_min is not None and p.start_min != step.pinned_min):
        found.append(f"{p.job} {p.step} does not begin when it has to.")
    if (p.machine not in step.machines) if step.machines else p.machine:
        found.append(f"{p.job} {p.step} lies on “{p.machine}”.")
    wanted = [(p.start_min + a, p.start_min + b) for a, b in step.held]
    if [(h.start_min, h.end_min) for h in p.hands] != wanted:
        found.append(f"{p.job} {p.step} has no hands when it wants them.")
    skills = {x.id: x.skills for x in day.people}
    if any(step.skill and skills[h.person] and step.skill not in skills[h.person] for h in p.hands):
        found.append(f"{p.job} {p.step} is done by somebody who cannot.")
    return found


def _waits(day: Day, placed: dict[tuple[str, str], Placed]) -> list[str]:
    found = []
    for job in day.jobs:
        for step, waits in job.waits.items():
            for w in waits:
                waited = placed[(job.id, step)].start_min - placed[(job.id, w.step)].end_min
                if waited < w.at_least:
                    found.append(f"{job.id} {step} begins {waited} min after {w.step}, and wants {w.at_least}.")
                if w.at_most is not None and waited > w.at_most:
                    found.append(f"{job.id} {step} begins {waited} min after {w.step}: {w.at_most} is the most.")
    return found


def _on(machine: Machine, rows: list[tuple[Step, Placed]]) -> list[str]:
    """One thing at a time, never while it is away, and its heat reached in between."""
    found = []
    rows.sort(key=lambda r: (r[1].start_min, r[1].end_min))
    busy = [(p.start_min, p.end_min) for s, p in rows if s.minutes]
    whole = sorted([*busy, *machine.away])
    found += [f"{machine.id} does two things at {b[0]}." for a, b in pairwise(whole) if b[0] < a[1]]
    cold = machine.heat.room_c if machine.heat else None
    heated: list[tuple[int, int, float | None, float | None]] = [
        (p.start_min, p.end_min, s.celsius, s.heat_after) for s, p in rows if s.celsius is not None
    ]
    heated += [(a, b, None, cold) for a, b in machine.away]
    heated.sort(key=lambda r: (r[0], r[1]))
    stands, since = machine.celsius, 0
    for start, end, wanted, leaves in heated:
        needed = machine.change_min(stands, wanted) if wanted is not None else 0
        if start - since < needed:
            found.append(f"{machine.id} is not at {wanted} °C by {start}.")
        stands, since = leaves, end
    return found
