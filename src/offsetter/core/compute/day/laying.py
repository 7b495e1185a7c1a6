"""Laying a day: jobs one after the other, each stage at the first moment that has its machine, its heat and a pair of hands.

A stage may fall into a gap that an earlier one left. Where a stage comes too late for what is still wet, the stages before it are
taken up and laid later. The same order always gives the same plan.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Sequence
from typing import NamedTuple

from offsetter.core.compute.day.model import MOST_MIN, Day, Hands, Machine, Person, Placed, Step, Wait
from offsetter.core.sentences import listed, say, say_many
from offsetter.core.values import Refusal

ENDLESS = MOST_MIN
GONE_MIN = 7 * 24 * 60
"""Away for so long, a machine is not counted on."""
MOST_PUSHES = 4_000
"""How often the stages of one job are taken up again before it is said that they cannot be laid."""


class Unplaceable(Refusal):
    """Names the job, and the stage where it is pinned, that leaves no plan."""

    def __init__(self, job: str, step: Step, code: str, happened: str, to_do: str) -> None:
        super().__init__(code, happened, say("The last plan is as it was."), to_do)
        self.job, self.step, self.is_pin = job, step.id, step.pinned_min is not None


class Laid(NamedTuple):
    """A stage while it is laid and taken up again: as a plan has it, but light."""

    job: str
    step: str
    machine: str
    start_min: int
    end_min: int
    hands: tuple[tuple[int, int, int], ...]
    """Person by number, from, to."""


class Strip:
    """What a machine does, by time; with the heat it wants before and leaves after each."""

    __slots__ = ("_changes", "_ends", "_first", "_from", "_machine", "_starts", "_to")

    def __init__(self, machine: Machine, changes: dict[tuple[float | None, float | None], int]) -> None:
        self._machine, self._changes, self._first = machine, changes, machine.celsius
        self._starts: list[int] = []
        self._ends: list[int] = []
        self._from: list[float | None] = []
        self._to: list[float | None] = []
        cold = machine.heat.room_c if machine.heat else None
        for start, end in machine.away:
            self.add(start, end, None, cold)

    def change(self, from_c: float | None, to_c: float | None) -> int:
        if from_c == to_c or from_c is None or to_c is None:
            return 0
        found = self._changes.get((from_c, to_c))
        if found is None:
            found = self._changes[(from_c, to_c)] = self._machine.change_min(from_c, to_c)
        return found

    def left(self, at: int) -> float | None:
        """The heat that the stage before a place leaves; what takes none leaves what it found."""
        for i in range(at - 1, -1, -1):
            if self._to[i] is not None:
                return self._to[i]
        return self._first

    def wanted(self, at: int) -> tuple[float | None, int]:
        """The heat that the next stage from a place on wants, and where that is."""
        for i in range(at, len(self._from)):
            if self._from[i] is not None:
                return self._from[i], i
            if self._to[i] is not None:
                break
        return None, at

    def earliest(self, begin: int, minutes: int, from_c: float | None, to_c: float | None) -> int:
        """The first moment from begin on that the stage fits, with the changes of heat before and after it."""
        starts, ends = self._starts, self._ends
        at = bisect_right(ends, begin) if minutes else bisect_left(ends, begin)
        if minutes == 0 and from_c is None:
            return begin
        while True:
            ready = max(begin, (ends[at - 1] if at else 0))
            if from_c is not None:
                ready = max(ready, (ends[at - 1] if at else 0) + self.change(self.left(at), from_c))
            if at == len(starts):
                return ready
            room = starts[at]
            if to_c is not None:
                wants, i = self.wanted(at)
                if wants is not None:
                    room = min(room, starts[i] - self.change(to_c, wants))
            if ready + minutes <= room:
                return ready
            at += 1

    def add(self, start: int, end: int, from_c: float | None, to_c: float | None) -> None:
        at = bisect_left(self._starts, start)
        self._starts.insert(at, start)
        self._ends.insert(at, end)
        self._from.insert(at, from_c)
        self._to.insert(at, to_c)

    def drop(self, start: int) -> None:
        at = bisect_left(self._starts, start)
        for row in (self._starts, self._ends, self._from, self._to):
            row.pop(at)


class HandsStrip:
    """One person: when the hands are taken, absences among them."""

    __slots__ = ("_ends", "_starts", "person")

    def __init__(self, person: Person) -> None:
        self.person = person
        self._starts: list[int] = []
        self._ends: list[int] = []
        at = 0
        for start, end in person.here:
            if start > at:
                self.add(at, start)
            at = end
        self.add(at, ENDLESS * 2)

    def earliest(self, begin: int, minutes: int) -> int:
        starts, ends = self._starts, self._ends
        at = bisect_right(ends, begin)
        while at < len(starts):
            if begin + minutes <= starts[at]:
                return begin
            begin = max(begin, ends[at])
            at += 1
        return begin

    def add(self, start: int, end: int) -> None:
        at = bisect_left(self._starts, start)
        self._starts.insert(at, start)
        self._ends.insert(at, end)

    def drop(self, start: int, end: int) -> None:
        at = bisect_left(self._starts, start)
        while self._ends[at] != end:
            at += 1
        self._starts.pop(at)
        self._ends.pop(at)


class Bench:
    """The day as it is laid. Everything that does not depend on the order is worked out once."""

    def __init__(self, day: Day) -> None:
        self.day = day
        self._machines = {m.id: m for m in day.machines}
        self._changes: dict[str, dict[tuple[float | None, float | None], int]] = {m.id: {} for m in day.machines}
        self._can = {
            skill: [i for i, p in enumerate(day.people) if not p.skills or not skill or skill in p.skills]
            for skill in {s.skill for j in day.jobs for s in j.steps}
        }
        self._rows = {
            j.id: [(s, j.waits[s.id], s.held, tuple(w.step for w in j.waits[s.id])) for s in _sorted(j.steps, j.waits)]
            for j in day.jobs
        }
        self._pinned = [(j.id, s) for j in day.jobs for s in j.steps if s.pinned_min is not None]

    def lay(self, order: Iterable[str]) -> tuple[Laid, ...]:
        """Every stage of the jobs, in this order. Raises Refusal where one fits nowhere."""
        strips = {m.id: Strip(m, self._changes[m.id]) for m in self.day.machines}
        hands = [HandsStrip(p) for p in self.day.people]
        found: dict[tuple[str, str], Laid] = {}
        for job, step in self._pinned:
            placed = self._at_pin(job, step, strips, hands)
            found[(job, step.id)] = placed
            self._take(placed, step, strips, hands)
        for job in order:
            self._lay_job(job, strips, hands, found)
        return tuple(found.values())

    def _lay_job(
        self,
        job: str,
        strips: dict[str, Strip],
        hands: list[HandsStrip],
        found: dict[tuple[str, str], Laid],
    ) -> None:
        rows = self._rows[job]
        not_before = {row[0].id: row[0].not_before for row in rows}
        at, pushes = 0, 0
        while at < len(rows):
            step, waits, held, _ = rows[at]
            if step.pinned_min is not None:
                placed = found[(job, step.id)]
                if any(placed.start_min < found[(job, w.step)].end_min + w.at_least for w in waits):
                    raise _too_early(job, step)
                late = self._too_late(placed, waits, job, found)
            else:
                begin = not_before[step.id]
                for w in waits:
                    begin = max(begin, found[(job, w.step)].end_min + w.at_least)
                placed = self._first(job, step, held, begin, strips, hands)
                late = self._too_late(placed, waits, job, found)
            if late is None:
                if step.pinned_min is None:
                    found[(job, step.id)] = placed
                    self._take(placed, step, strips, hands)
                at += 1
                continue
            pushes += 1
            before, end = late
            earlier = found[(job, before)]
            if pushes > MOST_PUSHES or rows[_at(rows, before)][0].pinned_min is not None:
                raise _nowhere(self.day, job, step)
            # What came before ends too early: it, and all since, is taken up and laid later.
            back = _at(rows, before)
            for row in rows[back:at]:
                if row[0].pinned_min is None:
                    self._give_back(found.pop((job, row[0].id)), row[0], strips, hands)
            not_before[before] = max(earlier.start_min + 1, end - rows[back][0].minutes)
            at = back

    def _too_late(
        self, placed: Laid, waits: tuple[Wait, ...], job: str, found: dict[tuple[str, str], Laid]
    ) -> tuple[str, int] | None:
        """A stage before it that ended too early, and when it may end at the earliest."""
        for w in waits:
            if w.at_most is not None and placed.start_min > found[(job, w.step)].end_min + w.at_most:
                return w.step, placed.start_min - w.at_most
        return None

    def _first(
        self,
        job: str,
        step: Step,
        held: tuple[tuple[int, int], ...],
        begin: int,
        strips: dict[str, Strip],
        hands: list[HandsStrip],
    ) -> Laid:
        best: tuple[int, str, list[int]] | None = None
        for machine in step.machines or ("",):
            start, who = self._fit(step, held, begin, strips.get(machine), hands)
            if best is None or start < best[0]:
                best = (start, machine, who)
        assert best is not None
        start, machine, who = best
        if start + step.minutes >= ENDLESS:
            raise _nowhere(self.day, job, step)
        taken = tuple((i, start + a, start + b) for (a, b), i in zip(held, who, strict=True))
        return Laid(job, step.id, machine, start, start + step.minutes, taken)

    def _fit(
        self, step: Step, held: tuple[tuple[int, int], ...], begin: int, strip: Strip | None, hands: list[HandsStrip]
    ) -> tuple[int, list[int]]:
        """The first start from begin on, and whose hands: of each stretch the person who is free first."""
        can, start = self._can[step.skill], begin
        while start < ENDLESS:
            if strip is not None:
                start = strip.earliest(start, step.minutes, step.celsius, step.heat_after)
            who: list[int] = []
            moved = start
            for a, b in held:
                wanted, best, chosen = start + a, ENDLESS * 2, -1
                for i in can:
                    free = hands[i].earliest(wanted, b - a)
                    if free < best:
                        best, chosen = free, i
                        if free == wanted:
                            break
                who.append(chosen)
                if best > wanted:
                    moved = start + best - wanted
                    break
            if moved == start:
                return start, who
            start = moved
        return ENDLESS, []

    def _at_pin(self, job: str, step: Step, strips: dict[str, Strip], hands: list[HandsStrip]) -> Laid:
        assert step.pinned_min is not None
        placed = self._first(job, step, step.held, step.pinned_min, strips, hands)
        if placed.start_min != step.pinned_min:
            raise Unplaceable(job, step, "pin-collides", say("“{name}” cannot begin then: its machine, its heat or every pair of hands is taken.", name=step.name or step.id),
                              say("Take the pin out, or pin it elsewhere."))  # fmt: skip
        return placed

    def _take(self, placed: Laid, step: Step, strips: dict[str, Strip], hands: list[HandsStrip]) -> None:
        if placed.machine and step.minutes:
            strips[placed.machine].add(placed.start_min, placed.end_min, step.celsius, step.heat_after)
        for h in placed.hands:
            hands[h[0]].add(h[1], h[2])

    def _give_back(self, placed: Laid, step: Step, strips: dict[str, Strip], hands: list[HandsStrip]) -> None:
        if placed.machine and step.minutes:
            strips[placed.machine].drop(placed.start_min)
        for h in placed.hands:
            hands[h[0]].drop(h[1], h[2])

    def told(self, laid: Iterable[Laid]) -> tuple[Placed, ...]:
        """As a plan has it, by time."""
        people = self.day.people
        return tuple(
            Placed(
                job=p.job, step=p.step, machine=p.machine, start_min=p.start_min, end_min=p.end_min,
                hands=tuple(Hands(person=people[i].id, start_min=a, end_min=b) for i, a, b in p.hands),
            )
            for p in sorted(laid, key=lambda p: (p.start_min, p.job, p.step))
        )  # fmt: skip


Row = tuple[Step, tuple[Wait, ...], tuple[tuple[int, int], ...], tuple[str, ...]]


def _at(rows: Sequence[Row], step: str) -> int:
    return next(i for i, row in enumerate(rows) if row[0].id == step)


def _sorted(steps: tuple[Step, ...], waits: dict[str, tuple[Wait, ...]]) -> list[Step]:
    """So that what comes before stands before; otherwise as listed."""
    done: set[str] = set()
    left, found = list(steps), []
    while left:
        step = next(s for s in left if all(w.step in done for w in waits[s.id]))
        left.remove(step)
        done.add(step.id)
        found.append(step)
    return found


def _too_early(job: str, step: Step) -> Unplaceable:
    return Unplaceable(job, step, "pin-too-early", say("“{name}” cannot begin then: what it needs is not ready by that time.", name=step.name or step.id),
                       say("Take the pin out, or pin it later."))  # fmt: skip


def _nowhere(day: Day, job: str, step: Step) -> Unplaceable:
    name = next(j.name or j.id for j in day.jobs if j.id == job)
    longest = max((b - a for p in day.people for a, b in p.here), default=0)
    why = say("no moment has its machine, its heat and hands together")
    known = {m.id: m for m in day.machines}
    gone = [
        known[m].name or m
        for m in step.machines
        if known[m].away and known[m].away[-1][1] - known[m].away[-1][0] > GONE_MIN
    ]
    if step.machines and len(gone) == len(step.machines):
        why = say_many(len(gone), "{gone} is away", "{gone} are away", gone=listed(gone))
    elif step.hands == "all" and step.minutes > longest:
        why = say(
            "it wants {minutes} min of hands in one go, and nobody is here for longer than {longest}",
            minutes=step.minutes,
            longest=longest,
        )
    return Unplaceable(job, step, "fits-nowhere", say("“{name}” of {name2} fits nowhere: {why}.", name=step.name or step.id, name2=name, why=why), say("Split it into lots, or add hours."))  # fmt: skip
