"""A quotation: the money by quantity of every blank in an order, all its prints together, with what the customer gets to see."""

from datetime import date, datetime, timedelta
from decimal import Decimal

from offsetter.core.quote import PriceRow
from offsetter.core.sentences import say
from offsetter.core.values import Refusal
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.proofs import Proofs
from offsetter.desk.today import Today
from offsetter.desk.ways import Ways
from offsetter.formats.quotation_pdf import Quotation, QuotedRow, QuotedThing, write_quotation

CENTS = Decimal("0.01")
MOST_PICTURES = 4


class Quotations:
    def __init__(self, base: Base, jobs: Jobs, ways: Ways, proofs: Proofs, today: Today) -> None:
        self._base, self._jobs, self._ways, self._proofs, self._today = base, jobs, ways, proofs, today

    def pdf(self, job_id: str, days: int) -> bytes:
        """Valid for so many days from today. Raises Refusal while a print has no price yet."""
        stored, (shop, _) = self._jobs.kept.read(job_id), self._jobs.shop()
        order, today = stored.order, self._base.now().date()
        shown = self._proofs.read(job_id).prints
        things = []
        for line in order.lines:
            kind = f"{line.id}/{next(iter(line.counts))}"
            of_print = [self._ways.price(job_id, p, kind) for p in order.prints]
            if not all(of_print):
                raise Refusal("no-price", say("A print of this order cannot be priced yet."), say("Nothing was made."),
                              say("Decide its artwork and method first; it is priced as soon as its plates are measured."))  # fmt: skip
            blank, share = shop.blanks[line.blank], shop.prices.margin_share
            quoted = Decimal(str(order.quoted)) if order.quoted is not None else None
            things.append(QuotedThing(
                what=f"{blank.name}, {blank.colour_name}", prints=tuple(dict.fromkeys(f"{v.place}, {v.placing}" for v in shown)),
                rows=_rows(of_print, line.pieces, share, quoted),
            ))  # fmt: skip
        pictures = tuple(
            (self._jobs.picture(v.picture_key, "cloth"), v.garment.box.width_mm, v.garment.box.height_mm) for v in shown if v.garment.box
        )[:MOST_PICTURES]  # fmt: skip
        return write_quotation(Quotation(
            shop=shop.name, title=order.title, customer=order.customer, made=today, until=today + timedelta(days=days), due=self._ready_by(job_id, order.due),
            currency=shop.prices.currency, things=tuple(things), pictures=pictures,
        ))  # fmt: skip

    def _ready_by(self, job_id: str, due: datetime) -> date:
        """The day that is asked for, or the first honest one where the plan cannot keep that."""
        try:
            honest = self._today.promise_of(job_id).quietly
        except Refusal:  # what it takes is not known yet: the day that is asked for stands
            return due.date()
        return max(due, honest).date()


def _rows(
    of_print: list[tuple[PriceRow, ...]], asked: int, margin: Decimal, quoted: Decimal | None
) -> tuple[QuotedRow, ...]:
    """Quantities that every print can be made in. A piece carries all its prints and one blank."""
    by = [{r.quantity: r for r in rows} for rows in of_print]
    found = []
    for quantity in sorted(set.intersection(*(set(b) for b in by))):
        blank = by[0][quantity].parts.blank
        cost = blank + sum((b[quantity].parts.without_blank for b in by), Decimal(0))
        is_asked = quantity == asked
        each = (quoted if is_asked and quoted is not None else cost / (1 - margin)).quantize(CENTS)
        found.append(
            QuotedRow(quantity=quantity, is_ordered=is_asked, each=each, whole=(each * quantity).quantize(CENTS))
        )
    return tuple(found)
