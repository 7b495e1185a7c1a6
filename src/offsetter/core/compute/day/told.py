"""A plan in words: why each stage lies where it lies, and what a change costs."""

from offsetter.core.compute.day.model import Day, Job, Machine, Placed, Plan, Step
from offsetter.core.sentences import say

Key = tuple[str, str]


def spell(minutes: int) -> str:
    hours, rest = divmod(minutes, 60)
    if hours >= 24:
        days, hours = divmod(hours, 24)
        return f"{days} d {hours} h" if hours else f"{days} d"
    return (
        say("{hours} h {rest} min", hours=hours, rest=rest)
        if hours and rest
        else f"{hours} h"
        if hours
        else say("{rest} min", rest=rest)
    )


def difference(day: Day, plan: Plan, after_day: Day, after: Plan) -> tuple[str, ...]:
    """What came of a change, in sentences."""
    names = {j.id: j.name or j.id for j in (*day.jobs, *after_day.jobs)}
    found = []
    for job, late in after.late.items():
        was = plan.late.get(job, 0)
        if late > was:
            found.append(
                say("{names} leaves {spell} late", names=names[job], spell=spell(late))
                + (say(" ({spell} before).", spell=spell(was)) if was else ".")
            )
    kept = {j.id for j in after_day.jobs}
    found += [say("{names} is in time again.", names=names[j]) for j in plan.late if j not in after.late and j in kept]
    gone = [names[j.id] for j in day.jobs if j.id not in kept]
    if gone:
        found.append(
            say("{gone} fits nowhere any more.", gone=gone[0])
            if len(gone) == 1
            else say("{gone} jobs fit nowhere any more, {gone2} among them.", gone=len(gone), gone2=gone[0])
        )
    found += [
        say("{name} is planned again.", name=j.name or j.id)
        for j in after_day.jobs
        if j.id not in {x.id for x in day.jobs}
    ][:3]
    more = after.ends_min - plan.ends_min
    if more and kept == {j.id for j in day.jobs}:
        found.append(
            say(
                "All is done {spell} {which}.",
                spell=spell(abs(more)),
                which=say("later") if more > 0 else say("earlier"),
            )
        )
    return tuple(found)


def reasons_of(day: Day, plan: Plan) -> dict[Key, str]:
    """Of each stage, what kept it from beginning sooner; nothing where no one thing did."""
    at = {(p.job, p.step): p for p in plan.places}
    why = _Why(day, plan, at)
    return {(j.id, s.id): said for j in day.jobs for s in j.steps if (said := why.of(j, s, at[(j.id, s.id)]))}


class _Why:
    def __init__(self, day: Day, plan: Plan, at: dict[Key, Placed]) -> None:
        self._at = at
        self._names = {j.id: j.name or j.id for j in day.jobs}
        self._machines = {m.id: m for m in day.machines}
        self._steps = {(j.id, s.id): s for j in day.jobs for s in j.steps}
        self._opens = {a for x in day.people for a, _ in x.here}
        self._on: dict[str, list[Placed]] = {}
        for p in sorted(plan.places, key=lambda p: p.start_min):
            self._on.setdefault(p.machine, []).append(p)

    def of(self, job: Job, step: Step, p: Placed) -> str:
        if step.pinned_min is not None:
            return say("Pinned here.")
        waits = job.waits[step.id]
        ready = max((self._at[(job.id, w.step)].end_min + w.at_least for w in waits), default=step.not_before)
        if p.start_min <= ready:
            wait = next((w for w in waits if self._at[(job.id, w.step)].end_min + w.at_least == ready), None)
            if wait is None:
                return say("Can begin at once.")
            name = self._steps[(job.id, wait.step)].name
            cooling = say(" and {at_least} min of cooling", at_least=wait.at_least) if wait.at_least else ""
            return say("Follows “{name}”{cooling}.", name=name, cooling=cooling)
        return self._on_its_machine(step, p) or self._of_hands(step, p)

    def _on_its_machine(self, step: Step, p: Placed) -> str:
        machine = self._machines.get(p.machine)
        if machine is None:
            return ""
        before = max((x for x in self._on[p.machine] if x.end_min <= p.start_min and x is not p), key=lambda x: x.end_min, default=None)  # fmt: skip
        cold = max((end for _, end in machine.away if end <= p.start_min), default=0)
        if before is None or cold >= before.end_min:
            warm = machine.change_min(_room(machine) if cold else machine.celsius, step.celsius)
            return say("The platen warms up until then.") if warm and p.start_min - cold <= warm + 1 else ""
        left = self._steps[(before.job, before.step)].heat_after
        change = machine.change_min(left, step.celsius)
        if change and p.start_min - before.end_min <= change + 1:
            return say("The platen changes its heat after {names}.", names=self._names[before.job])
        return (
            say("The machine is taken by {names} until then.", names=self._names[before.job])
            if before.end_min == p.start_min
            else ""
        )

    def _of_hands(self, step: Step, p: Placed) -> str:
        if p.start_min in self._opens:
            return say("As soon as somebody is here.")
        return say("Waits for a pair of hands.") if step.held else ""


def _room(machine: Machine) -> float | None:
    return machine.heat.room_c if machine.heat else machine.celsius
