"""Before it is decided: every way for a piece, and what it costs at other quantities."""

from offsetter.core import derive
from offsetter.core import facts as shipped
from offsetter.core.compute.advice import Advice, AdviceJob, advise
from offsetter.core.decisions import Way
from offsetter.core.prints import advice_here, advice_job, shown_slot
from offsetter.core.quote import PriceRow, price_rows
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs


class Weighing:
    def __init__(self, base: Base, jobs: Jobs) -> None:
        self._base, self._jobs = base, jobs

    def advise(self, job_id: str, print_id: str = "", kind: str = "") -> tuple[Advice, AdviceJob]:
        """Every method for the piece that is looked at, as far as the order and the artwork say."""
        stored = self._jobs.read(job_id, "", print_id, kind)
        here = next(p for p in stored.prints if p.id == stored.print)
        shop, store_levels = self._jobs.shop()
        asked = advice_job(shop, here, stored.kind)
        owned = advice_here(shop, store_levels, (stored.order.due - self._base.now()).total_seconds() / 3600)
        return advise(asked, shop.methods, shop.recipes, shipped.advice_facts(), owned), asked

    def ways(self, job_id: str, print_id: str = "", kind: str = "") -> dict[str, Way]:
        """Method to the way that this shop would go with it for the piece that is looked at; methods it cannot do are left out."""
        stored = self._jobs.read(job_id, "", print_id, kind)
        here = next(p for p in stored.prints if p.id == stored.print)
        shop, _ = self._jobs.shop()
        blank = derive.blank_of(
            shop, here.decisions, shown_slot(here.decisions.order, here.decisions.place, stored.kind)
        )
        found = {m: derive.proposed_way(shop, self._jobs.profile, m, blank) for m in shop.methods}
        return {m: w for m, w in found.items() if w is not None}

    def price(self, job_id: str, print_id: str = "", kind: str = "") -> tuple[PriceRow, ...]:
        """Cost and price of a piece at this quantity and at round ones; nothing while the plates are not measured."""
        seen = self._jobs.look(job_id, "", print_id, kind)
        line, shop = seen.line, self._jobs.shop()[0]
        if line.way is None or line.variant is None:
            return ()
        measure = self._jobs.measure(line.variant.spec)
        return price_rows(
            shop,
            seen.job.decisions,
            line.way,
            line.variant,
            measure,
            derive.blank_of(shop, seen.job.decisions, line.kind),
        )
