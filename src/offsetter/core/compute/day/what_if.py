"""The same day with something changed: ways out when work is late, and when one more order could be done."""

from decimal import Decimal

from offsetter.core.compute.day.check import faults_of
from offsetter.core.compute.day.laying import Bench, Laid
from offsetter.core.compute.day.model import Day, Job, Person, Plan, cost_of
from offsetter.core.compute.day.search import plan_day
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal

FEW = 8
LONGER_MIN = 60
MORE_HANDS = say("one more pair of hands")


class Other(Frozen):
    """The same day with a job made another way. more: money that this costs; None: not known."""

    name: str
    day: Day
    more: Decimal | None
    brings: str = ""
    """The job, where it has no place in the day as it is."""


class WayOut(Frozen):
    name: str
    late: dict[str, int]
    """Who is late then, by how many minutes."""
    hands_min: int
    """Minutes of hands that are paid for besides."""
    more: Decimal | None = Decimal(0)
    """Money besides that; None: not known."""


class Promised(Frozen):
    """Minutes of the day at which one more job is done."""

    quietly_min: int
    """Without moving anything that is planned."""
    soonest_min: int
    """Before everything that is planned."""
    pushes: dict[str, int]
    """Jobs that would then be late, or later than they are, by how many minutes more."""


def ways_out(day: Day, plan: Plan, today_ends_min: int, others: tuple[Other, ...] = ()) -> tuple[WayOut, ...]:
    """Changes that leave less of the day late, the best first; each planned and checked as the day itself is.

    today_ends_min: the minute at which this day is over; later windows are other days'. others: jobs made other ways.
    """
    if not day.people:
        return ()
    same = (
        (MORE_HANDS, _with_more_hands(day)), (say("everybody an hour longer today"), _longer(day, today_ends_min)), (say("no pins"), _without_pins(day)),
    ) if plan.late else ()  # fmt: skip
    tried = [*(Other(name=n, day=d, more=Decimal(0)) for n, d in same if d is not None), *others]
    found = []
    for out in tried:
        other = out.day
        try:
            made = plan_day(other, begin=plan.order, share=lambda done: done / FEW)
        except Refusal:
            continue
        is_better = bool(out.brings) or sum(made.late.values()) < sum(plan.late.values())
        if faults_of(other, made) or not is_better:
            continue
        found.append(WayOut(name=out.name, late=made.late, hands_min=_paid(day, other, made), more=out.more))
    return tuple(sorted(found, key=lambda w: (sum(w.late.values()), w.hands_min)))


class FirstDelivery(Frozen):
    """What of a late job could leave when it is due."""

    job: str
    pieces: int
    of: int


def first_deliveries(day: Day, plan: Plan) -> tuple[FirstDelivery, ...]:
    """Of late jobs of which some pieces are pressed early enough: looked at and packed at the pace of their own last stages."""
    steps = {(j.id, s.id): s for j in day.jobs for s in j.steps}
    due = {j.id: j.due_min for j in day.jobs}
    found = []
    for job in plan.late:
        pressed = sorted((p.end_min, steps[(p.job, p.step)].pieces) for p in plan.places if p.job == job and steps[(p.job, p.step)].pieces)  # fmt: skip
        whole = sum(n for _, n in pressed)
        packing = sum(s.minutes for (j, _), s in steps.items() if j == job and s.hands == "all" and not s.machines)
        done, at = 0, due[job]
        for end, pieces in pressed:
            if whole and at is not None and end + packing * (done + pieces) / whole <= at:
                done += pieces
        if 0 < done < whole:
            found.append(FirstDelivery(job=job, pieces=done, of=whole))
    return tuple(found)


def promise(day: Day, plan: Plan, job: Job) -> Promised:
    """When one more job could be done, after and before all else. Raises Refusal where it fits nowhere."""
    more = day.model_copy(update={"jobs": (*day.jobs, job)}).checked()
    bench = Bench(more)
    others = [j for j in plan.order if j != job.id]
    quiet, soon = bench.lay([*others, job.id]), bench.lay([job.id, *others])

    def done(laid: tuple[Laid, ...]) -> int:
        return max(p.end_min for p in laid if p.job == job.id)

    late = cost_of(more, soon)[2]
    pushes = {j: m - plan.late.get(j, 0) for j, m in late.items() if j != job.id and m > plan.late.get(j, 0)}
    return Promised(quietly_min=done(quiet), soonest_min=min(done(soon), done(quiet)), pushes=pushes)


def _with_more_hands(day: Day) -> Day:
    longest = max(day.people, key=lambda p: sum(b - a for a, b in p.here))
    return day.model_copy(update={"people": (*day.people, Person(id=MORE_HANDS, here=longest.here))})


def _longer(day: Day, today_ends_min: int) -> Day | None:
    people = []
    for p in day.people:
        last = max((w for w in p.here if w[1] <= today_ends_min), default=None)
        here = [(a, min(b + LONGER_MIN, today_ends_min)) if (a, b) == last else (a, b) for a, b in p.here]
        people.append(Person(id=p.id, name=p.name, here=tuple(here), skills=p.skills))
    if [p.here for p in people] == [p.here for p in day.people]:
        return None
    # A machine that is off because nobody is here stays on with them.
    open_until = max(b for p in people for a, b in p.here if b <= today_ends_min)
    machines = tuple(
        m.model_copy(update={"away": tuple((max(a, open_until) if a < open_until < b else a, b) for a, b in m.away)})
        for m in day.machines
    )
    return day.model_copy(update={"people": tuple(people), "machines": machines})


def _without_pins(day: Day) -> Day | None:
    if not any(s.pinned_min is not None for j in day.jobs for s in j.steps):
        return None
    jobs = tuple(
        Job(id=j.id, name=j.name, due_min=j.due_min, weight=j.weight, steps=tuple(s.model_copy(update={"pinned_min": None}) for s in j.steps))
        for j in day.jobs
    )  # fmt: skip
    return day.model_copy(update={"jobs": jobs})


def _paid(day: Day, other: Day, made: Plan) -> int:
    """Hands that are there besides, as long as they are at work; hours that are added, whole."""
    before = sum(b - a for p in day.people for a, b in p.here)
    known = {p.id for p in day.people}
    after = sum(b - a for p in other.people if p.id in known for a, b in p.here)
    new = sum(h.end_min - h.start_min for p in made.places for h in p.hands if h.person not in known)
    return after - before + new
