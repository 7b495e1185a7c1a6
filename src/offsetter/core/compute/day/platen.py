"""A platen's heat over the planned day, as it is drawn: changed just in time, let cool where nothing comes for long."""

import math

from offsetter.core.compute.day.model import Day, Heats, Machine, Plan, Step

IDLE_MIN = 30
"""Longer than this nobody leaves a platen hot that nothing lies under: from memory."""


def heats_of(day: Day, plan: Plan, machine: Machine) -> tuple[Heats, ...]:
    """Stretches without a gap, from the start to the last stage that wants its heat; none where nothing does."""
    steps = {(j.id, s.id): s for j in day.jobs for s in j.steps}
    rows: list[tuple[int, int, Step | None]] = [
        (p.start_min, p.end_min, steps[(p.job, p.step)])
        for p in plan.places
        if p.machine == machine.id and steps[(p.job, p.step)].celsius is not None
    ]
    if not rows or machine.celsius is None:
        return ()
    rows = sorted([*rows, *((a, b, None) for a, b in machine.away)], key=lambda r: (r[0], r[1]))
    while rows and rows[-1][2] is None:
        rows.pop()
    found: list[Heats] = []
    cold = machine.heat.room_c if machine.heat else machine.celsius
    at, stands = 0, machine.celsius

    def add(until: int, to_c: float) -> None:
        nonlocal at, stands
        if until > at:
            found.append(Heats(machine=machine.id, start_min=at, end_min=until, from_c=stands, to_c=to_c))
        at, stands = max(at, until), to_c

    for start, end, step in rows:
        if step is None:
            add(start, stands)
            add(end, _cooled(machine, stands, end - start, cold))
            stands = cold
            continue
        assert step.celsius is not None
        from_cold = machine.change_min(cold, step.celsius)
        if start - at > from_cold + IDLE_MIN and stands > cold:
            add(start - from_cold, _cooled(machine, stands, start - from_cold - at, cold))
            add(start, step.celsius)
        else:
            add(start - machine.change_min(stands, step.celsius), stands)
            add(start, step.celsius)
        add(end, step.heat_after if step.heat_after is not None else step.celsius)
    return tuple(found)


def _cooled(machine: Machine, from_c: float, minutes: int, room_c: float) -> float:
    if machine.heat is None:
        return from_c
    return round(room_c + (from_c - room_c) * math.exp(-machine.heat.k_per_min * minutes), 1)
