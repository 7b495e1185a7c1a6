"""What a piece costs at other quantities, and what it must be sold at to leave the shop its margin."""

from decimal import Decimal

from offsetter.core import derive, readings
from offsetter.core.compute import cost as money
from offsetter.core.compute.plate_spec import PlateMeasure
from offsetter.core.compute.sheet import Want, lay_out
from offsetter.core.decisions import Decisions, Way
from offsetter.core.facts import Blank, Shop
from offsetter.core.prints import Variant
from offsetter.core.values import Frozen

BREAKS = (1, 5, 10, 25, 50, 100, 250)


class PriceRow(Frozen):
    """Of one piece, at one quantity."""

    quantity: int
    is_ordered: bool
    parts: money.PieceCost
    cost: Decimal
    price: Decimal
    """That leaves the wanted margin."""
    margin_share: Decimal | None
    """Of the price quoted, when one is."""


def price_rows(
    shop: Shop, decisions: Decisions, way: Way, variant: Variant, measure: PlateMeasure, blank: Blank
) -> tuple[PriceRow, ...]:
    """The quantity ordered among round ones; quantities that fit on no sheet are left out."""
    ordered = decisions.order.pieces
    found = (_row(shop, decisions, way, variant, measure, blank, q, q == ordered) for q in sorted({*BREAKS, ordered}))
    return tuple(r for r in found if r is not None)


def _row(
    shop: Shop, decisions: Decisions, way: Way, variant: Variant, measure: PlateMeasure, blank: Blank, quantity: int, is_ordered: bool
) -> PriceRow | None:  # fmt: skip
    method, stages = shop.methods[way.method], derive.stages_of(shop, way)
    want = Want(width_um=variant.spec.width_um, height_um=variant.height_um, copies=quantity)
    layout = lay_out(derive.layout_ask(shop, decisions, way, (want,)))
    if layout is None:
        return None
    mode = next(m for m in shop.printers[way.printer].modes if m.id == way.mode)
    used = readings.used_of(variant.spec, measure, readings.ink_of(variant.spec, measure, method))
    parts = money.piece_cost(shop.prices, blank, quantity, layout, used, stages, money.minutes_for(stages, quantity, layout, mode), method,
                             derive.feed_of(shop, way))  # fmt: skip
    quoted = None if decisions.order.quoted is None else Decimal(str(decisions.order.quoted))
    margin = None if not quoted else (1 - parts.whole / quoted).quantize(Decimal("0.001"))
    return PriceRow(
        quantity=quantity, is_ordered=is_ordered, parts=parts, cost=money.cents(parts.whole),
        price=money.cents(parts.whole / (1 - shop.prices.margin_share)), margin_share=margin,
    )  # fmt: skip
