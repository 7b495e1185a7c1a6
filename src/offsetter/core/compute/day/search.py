"""A day's order of work: due dates first, and always kept as the floor; then searched for a better one."""

import math
from collections.abc import Callable

import numpy as np

from offsetter.core.compute.day.laying import Bench, Laid
from offsetter.core.compute.day.model import Day, Plan, cost_of
from offsetter.core.values import Refusal

FEW_TRIES = 60
"""Enough for a first plan; quick enough to be waited for."""
WARM = 0.03
"""Of the cost: how much worse a step may be at the beginning of a search."""


def _tries(most: int) -> Callable[[int], float]:
    return lambda done: done / most


def plan_day(
    day: Day,
    *,
    seed: int = 1,
    share: Callable[[int], float] | None = None,
    begin: tuple[str, ...] = (),
    better: Callable[[Plan], None] | None = None,
) -> Plan:
    """The best plan that was found; with a count of tries alone, the same day gives the same plan.

    share: from tries made to the share of the search that is over; from 1 on it ends. begin: jobs in the order of the plan before,
    kept where it is as good. better: told of each plan that beats the one before.
    Raises Refusal for a day that cannot be planned at all.
    """
    share = share or _tries(FEW_TRIES)
    bench = Bench(day.checked())
    ids = [j.id for j in day.jobs]
    due = {j.id: math.inf if j.due_min is None else j.due_min for j in day.jobs}
    by_due = sorted(ids, key=lambda j: (due[j], ids.index(j)))
    pinned = {j.id for j in day.jobs if any(s.pinned_min is not None for s in j.steps)}
    # What somebody pinned has to find its place before what may lie anywhere.
    orders = [by_due, *([sorted(by_due, key=lambda j: j not in pinned)] if pinned else [])]
    best, tries = None, 0
    for order in orders:
        try:
            best = _Best(bench, tuple(order), bench.lay(order), better)
            break
        except Refusal:
            if order is orders[-1]:
                raise
    assert best is not None
    for order in (_kept(begin, by_due), _by_slack(day, by_due), _by_heat(day, by_due), _by_work(day, by_due)):
        tries += 1
        if order != list(best.order) and share(tries) < 1:
            best.try_out(order)
    _anneal(best, np.random.default_rng(seed), share, tries)
    return best.plan


class _Best:
    def __init__(
        self, bench: Bench, order: tuple[str, ...], laid: tuple[Laid, ...], told: Callable[[Plan], None] | None
    ) -> None:  # fmt: skip
        self._bench, self._told = bench, told
        self.order = order
        self.cost, ends, late = cost_of(bench.day, laid)
        self.plan = Plan(
            places=bench.told(laid), cost=self.cost, ends_min=ends, late=late, order=order, floor=self.cost
        )

    def try_out(self, order: list[str]) -> float:
        """What the order costs; infinite where something pinned leaves no room in it."""
        try:
            laid = self._bench.lay(order)
        except Refusal:
            return math.inf
        cost, ends, late = cost_of(self._bench.day, laid)
        if cost < self.cost:
            self.order, self.cost = tuple(order), cost
            self.plan = self.plan.model_copy(update={
                "places": self._bench.told(laid), "cost": cost, "ends_min": ends, "late": late, "order": self.order, "found_by": "search",
            })  # fmt: skip
            if self._told:
                self._told(self.plan)
        return cost


def _anneal(best: _Best, chance: np.random.Generator, share: Callable[[int], float], tries: int) -> None:
    order, cost = list(best.order), best.cost
    count = len(order)
    if count < 2:
        return
    while (over := share(tries)) < 1:
        tries += 1
        tried = order.copy()
        # Mostly a late job is moved, since it is what costs; at times any.
        late = [i for i, j in enumerate(tried) if j in best.plan.late]
        at = int(chance.choice(late)) if late and chance.random() < 0.5 else int(chance.integers(count))
        job = tried.pop(at)
        reach = max(2, round(count * (1 - over)))
        to = min(count - 1, max(0, at + int(chance.integers(-reach, reach + 1))))
        tried.insert(to if to != at else (at + 1) % count, job)
        found = best.try_out(tried)
        warm = max(1.0, WARM * cost * (1 - over) ** 2)
        if found <= cost or chance.random() < math.exp((cost - found) / warm):
            order, cost = tried, int(found)


def _kept(begin: tuple[str, ...], by_due: list[str]) -> list[str]:
    """The order of the plan before; what is new goes before the first that is due later."""
    found = [j for j in begin if j in set(by_due)]
    for at, job in enumerate(by_due):
        if job not in found:
            later = next((j for j in by_due[at + 1 :] if j in found), None)
            found.insert(found.index(later) if later else len(found), job)
    return found


def _by_slack(day: Day, by_due: list[str]) -> list[str]:
    work = {j.id: sum(s.minutes for s in j.steps) for j in day.jobs}
    due = {j.id: math.inf if j.due_min is None else j.due_min for j in day.jobs}
    return sorted(by_due, key=lambda j: due[j] - work[j])


def _by_work(day: Day, by_due: list[str]) -> list[str]:
    work = {j.id: sum(s.minutes for s in j.steps) for j in day.jobs}
    return sorted(by_due, key=lambda j: work[j])


def _by_heat(day: Day, by_due: list[str]) -> list[str]:
    """Jobs of one heat together, the heat that is due first to begin with."""
    heat = {j.id: next((s.celsius for s in j.steps if s.celsius is not None), None) for j in day.jobs}
    first = {h: i for i, h in reversed(list(enumerate(heat[j] for j in by_due)))}
    return sorted(by_due, key=lambda j: first[heat[j]])
