"""The one costing: what a piece costs this way at a quantity; readings, advice, quotation and logbook all go by it."""

from offsetter.core import derive, runs_ahead
from offsetter.core.compute.cost import Minutes, PieceCost, minutes_for, piece_cost, used_of
from offsetter.core.compute.sheet import RunLayout, Want, lay_out
from offsetter.core.context import Context
from offsetter.core.values import Frozen


class Costed(Frozen):
    quantity: int
    parts: PieceCost
    """Of one piece."""
    minutes: Minutes
    """Of the whole order."""


def costed(ctx: Context, quantity: int | None = None) -> Costed | None:
    """At the quantity ordered, or another one; None while the plates are not measured, and where they fit on nothing."""
    if not ctx.has_picture:
        return None
    pieces = quantity or ctx.order.pieces
    layout = ctx.planned if pieces == ctx.order.pieces else _layout_at(ctx, pieces)
    if layout is None:
        return None
    mode = next(m for m in ctx.printer.modes if m.id == ctx.gone.mode)
    minutes = minutes_for(ctx.stages, pieces, layout, mode, ctx.laying)
    used = used_of(ctx.spec, ctx.measured, ctx.method)
    parts = piece_cost(
        ctx.shop.prices, ctx.blank, pieces, layout, used, ctx.stages, minutes, ctx.method, ctx.feed, ctx.laying
    )
    return Costed(quantity=pieces, parts=parts, minutes=minutes)


def _layout_at(ctx: Context, pieces: int) -> RunLayout | None:
    """So many of the print that is looked at, with the spares that such an order would have."""
    variant = ctx.variant
    assert variant is not None
    spares = 0
    if ctx.feed.kind != "garment":
        decided = ctx.decisions.sheet.spares
        share = decided * pieces // ctx.order.pieces if decided is not None else None
        spares = runs_ahead.spares_for(pieces, share, ctx.given.spoil, ctx.shop.prices.spoil_share).count
    wide, high = variant.spec.printed_um
    want = Want(width_um=wide, height_um=high, copies=ctx.laying.things(pieces) + spares)
    return lay_out(derive.layout_ask(ctx.shop, ctx.decisions, ctx.gone, (want,)))
