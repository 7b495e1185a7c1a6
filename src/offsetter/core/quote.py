"""What a piece costs at other quantities, and what it must be sold at to leave the shop its margin."""

from decimal import Decimal

from offsetter.core.compute import cost as money
from offsetter.core.context import Context
from offsetter.core.costing import costed
from offsetter.core.values import Frozen

BREAKS = (1, 5, 10, 25, 50, 100, 250)


class PriceRow(Frozen):
    """Of one piece, at one quantity."""

    quantity: int
    is_ordered: bool
    parts: money.PieceCost
    cost: Decimal
    without_blank: Decimal
    price: Decimal
    """That leaves the wanted margin."""
    margin_share: Decimal | None
    """Of the price quoted, when one is."""


def price_rows(ctx: Context) -> tuple[PriceRow, ...]:
    """The quantity ordered among round ones; quantities that fit on no sheet are left out."""
    found = (_row(ctx, q) for q in sorted({*BREAKS, ctx.order.pieces}))
    return tuple(r for r in found if r is not None)


def _row(ctx: Context, quantity: int) -> PriceRow | None:
    found = costed(ctx, quantity)
    if found is None:
        return None
    parts, order = found.parts, ctx.order
    quoted = None if order.quoted is None else Decimal(str(order.quoted))
    margin = None if not quoted else (1 - parts.whole / quoted).quantize(Decimal("0.001"))
    return PriceRow(
        quantity=quantity, is_ordered=quantity == order.pieces, parts=parts, cost=money.cents(parts.whole),
        without_blank=money.cents(parts.without_blank), price=money.cents(parts.whole / (1 - ctx.shop.prices.margin_share)),
        margin_share=margin,
    )  # fmt: skip
