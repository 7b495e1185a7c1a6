"""Before it is decided: every way for a piece, and what it costs at other quantities."""

from collections.abc import Callable
from decimal import Decimal
from functools import cached_property

from offsetter.core import derive
from offsetter.core import facts as shipped
from offsetter.core.compute.advice import Advice, Priced, advise
from offsetter.core.compute.fit import AdviceJob
from offsetter.core.context import Context
from offsetter.core.costing import Costed, costed
from offsetter.core.decisions import Way
from offsetter.core.prints import advice_here
from offsetter.core.quote import PriceRow, price_rows
from offsetter.core.remaining import WorkLeft
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.kept_jobs import Stored

LONG_H = 1000.0


class OtherWay(Frozen):
    """A job made another way than it was decided. more: money over the whole job; None: not known before its plates are measured."""

    name: str
    work: WorkLeft
    more: Decimal | None


class Weighed:
    """A piece with every way that this shop could go with it, each worked out when it is asked for."""

    def __init__(self, jobs: Jobs, stored: Stored) -> None:
        self._jobs, self._stored = jobs, stored
        self._known: dict[str, Context | None] = {}

    @cached_property
    def now(self) -> Context:
        return self._jobs.context(self._jobs.inputs(self._stored))

    @cached_property
    def ways(self) -> dict[str, Way]:
        """Method to its way; the one the job goes now as it is, methods that the shop cannot do left out."""
        ctx = self.now
        found = {
            m: derive.proposed_way(ctx.shop, self._jobs.profile, m, ctx.blank, ctx.facts) for m in ctx.shop.methods
        }
        usable = {m: w for m, w in found.items() if w is not None}
        return usable | ({ctx.way.method: ctx.way} if ctx.way else {})

    def priced(self, method: str, quantity: int) -> Priced | None:
        """By the one costing, on plates measured for that way; None where the shop cannot do it or nothing is measured yet."""
        ctx = self._gone(method)
        found = costed(ctx, quantity) if ctx else None
        if found is None:
            return None
        return Priced(cost=found.parts.without_blank, with_blank=found.parts.whole,
                      hands_min=found.minutes.hands / quantity, machines_min=found.minutes.machines / quantity)  # fmt: skip

    def cost_by(self, way: Way, quantity: int) -> Costed | None:
        ctx = self._by(way)
        return costed(ctx, quantity) if ctx else None

    def _gone(self, method: str) -> Context | None:
        """The same piece gone another way."""
        if method not in self._known:
            self._known[method] = self._other(method)
        return self._known[method]

    def _other(self, method: str) -> Context | None:
        way = self.ways.get(method)
        if way is None or not self.now.has_picture:
            return None
        if self.now.way is not None and self.now.way.method == method:
            return self.now
        return self._by(way)

    def _by(self, way: Way) -> Context | None:
        given = self.now.given
        prints = tuple(
            p.model_copy(update={"decisions": p.decisions.model_copy(update={"method": way})}) if p.id == self.now.here.id else p
            for p in given.prints
        )  # fmt: skip
        if any(s.missing for s in derive.stages_of(self.now.shop, way)):
            return None
        return self._jobs.context(given.model_copy(update={"prints": prints, "measured": None}))


class Ways:
    def __init__(self, base: Base, jobs: Jobs) -> None:
        self._base, self._jobs = base, jobs

    def advise(self, job_id: str, print_id: str = "", kind: str = "") -> tuple[Advice, AdviceJob, dict[str, Way]]:
        """Every method for the piece that is looked at, as far as the order and the artwork say, and the shop's way for each."""
        weighed = self._weighed(job_id, print_id, kind)
        ctx = weighed.now
        hours = (ctx.order.due - self._base.now()).total_seconds() / 3600
        owned = advice_here(ctx.shop, ctx.given.levels, hours)
        priced: Callable[[str, int], Priced | None] = weighed.priced
        told = advise(ctx.asked, ctx.shop.methods, ctx.shop.recipes, shipped.advice_facts(), owned, priced)
        return told, ctx.asked, weighed.ways

    def others(self, job_id: str, most: int) -> tuple[OtherWay, ...]:
        """Ways that suit a job as well as any, and what they would take: of a job that nobody has begun to make."""
        weighed = self._weighed(job_id, "", "")
        ctx, pieces = weighed.now, weighed.now.order.pieces
        if ctx.way is None or len(ctx.order.prints) > 1 or ctx.given.acts:
            return ()
        ways = weighed.ways
        # Whether there is time for it is what the plan is asked.
        owned = advice_here(ctx.shop, ctx.given.levels, LONG_H)
        told = advise(ctx.asked, ctx.shop.methods, ctx.shop.recipes, shipped.advice_facts(), owned)
        good = [
            a.method for a in told.ranked if a.verdict == "good" and a.method in ways and a.method != ctx.way.method
        ]
        tried = (*derive.on_other_printers(ctx.shop, ctx.way), *(ways[m] for m in good))
        now, found = costed(ctx, pieces), []
        for way in tried[:most]:
            try:
                work = self._jobs.work_by(job_id, way)
            except Refusal:
                continue
            if not work.steps:
                continue
            then = weighed.cost_by(way, pieces)
            more = (then.parts.whole - now.parts.whole) * pieces if now and then else None
            method = ctx.shop.methods[way.method].name
            name = say(
                "{method}{method2} on {name}",
                method=method[0].lower(),
                method2=method[1:],
                name=ctx.shop.printers[way.printer].name,
            )
            found.append(OtherWay(name=name, work=work, more=more))
        return tuple(found)

    def price(self, job_id: str, print_id: str = "", kind: str = "") -> tuple[PriceRow, ...]:
        """Cost and price of a piece at this quantity and at round ones; nothing while the plates are not measured."""
        return price_rows(self._weighed(job_id, print_id, kind).now)

    def _weighed(self, job_id: str, print_id: str, kind: str) -> Weighed:
        return Weighed(self._jobs, self._jobs.kept.read(job_id, "", print_id, kind))
