"""The row of figures along the bottom, always the same ones in the same order."""

from typing import Literal

from offsetter.core.compute.cost import PieceCost, ink_of
from offsetter.core.compute.sheet import RunLayout
from offsetter.core.context import Context
from offsetter.core.costing import costed
from offsetter.core.facts import Feed, Method
from offsetter.core.sentences import say
from offsetter.core.values import Quality, Reading


def readings_for(ctx: Context) -> tuple[tuple[Reading, ...], PieceCost | None]:
    """Readings as far as they are known, and the cost of a piece once all of it is."""
    if not ctx.has_picture or ctx.variant is None:
        return (), None
    spec, measure, method, order, currency = ctx.spec, ctx.measured, ctx.method, ctx.order, ctx.shop.prices.currency
    quality: Quality = measure.quality
    ink = ink_of(spec, measure, method)
    ppi = ctx.picture.ppi_at(spec.width_um / 1000, spec.crop_px)
    row = [
        Reading(key="resolution", label=say("Resolution"), value=spec.dpi if ppi is None else ppi, unit="ppi",
                decimals=0, note=say("a drawing: as the printer") if ppi is None else say("target {target}", target=300)),
        Reading(key="white", label=say("White"), value=measure.coverage_pct.get("W", 0), unit="%", quality=quality,
                note=say("of the print's area")) if spec.white else
        Reading(key="covered", label=say("Covered"), value=max((v for c, v in measure.coverage_pct.items() if c != "W"), default=0), unit="%", quality=quality,
                note=say("by its fullest colour, no white")),
        Reading(key="most-ink", label=say("Most {colorant}", colorant=method.colorant), value=measure.total_max_pct, unit="%", decimals=0, quality=quality,
                note=say("limit {ink_limit}", ink_limit=f'{spec.colour.ink_limit_pct:.0f}'), is_over=measure.over_limit_share > 0),
    ]  # fmt: skip
    if ink:
        said = f"{'colours' if spec.colour.inks or spec.colour.light else 'CMYK'} {sum(v for c, v in ink.items() if c != 'W'):.2f}"
        row.append(Reading(key="ink", label=say("Ink"), value=sum(ink.values()), unit="mL", decimals=2, quality=quality,
                           note=f"W {ink['W']:.2f}, {said}" if "W" in ink else said))  # fmt: skip
    else:
        area = max((v for c, v in measure.area_mm2.items() if c != "W"), default=0.0)
        row.append(
            Reading(
                key="toner",
                label=say("Toner"),
                value=area / 100,
                unit="cm²",
                decimals=1,
                quality=quality,
                note=say("covered, a print"),
            )
        )
    found, layout = costed(ctx), ctx.planned
    if found is None or layout is None:
        return tuple(row), None
    cost, minutes, pieces = found.parts, found.minutes, order.pieces
    alone = len(order.prints) == 1
    scope: Literal["the order", "this print"] = "the order" if alone else "this print"
    told = (
        say("quoted {quoted}", quoted=f"{order.quoted:.2f}")
        if order.quoted
        else say("{without_blank} without blank", without_blank=f"{cost.without_blank:.2f}")
    )
    row += [
        _media(ctx.feed, method, layout, scope),
        Reading(key="cost", label=say("Cost"), value=float(cost.whole), unit=currency, decimals=2, quality=quality,
                scope="a piece" if alone else "this print", note=told if alone else say("with the blank"),
                is_over=bool(order.quoted and float(cost.whole) > order.quoted)),
        Reading(key="hands", label=say("Hands"), value=minutes.hands, unit="min", decimals=0, scope=scope,
                note=say("{hands} a piece", hands=f'{minutes.hands / pieces:.1f}')),
        Reading(key="machines", label=say("Machines"), value=minutes.machines, unit="min", decimals=0, scope=scope,
                note=say("{printing} print, {pressing} press", printing=f'{minutes.printing:.0f}', pressing=f'{minutes.pressing:.0f}')),
    ]  # fmt: skip
    return tuple(row), cost


def _media(feed: Feed, method: Method, layout: RunLayout, scope: Literal["the order", "this print"]) -> Reading:
    """How much of the medium the run takes; garments where nothing else carries the print."""
    if layout.sheet_um:
        count = len(layout.cut_lengths_um)
        return Reading(key="film", label=say("Garments") if feed.kind == "garment" else say("Sheets"), value=count, unit="", decimals=0, scope=scope,
                       note=say("printed one by one") if feed.kind == "garment" else say("waste {waste_share}", waste_share=f'{layout.waste_share:.0%}'))  # fmt: skip
    return Reading(key="film", label=say(method.medium.capitalize()), value=layout.length_um / 1e6, unit="m", decimals=2, scope=scope,
                   note=say("waste {waste_share}", waste_share=f'{layout.waste_share:.0%}'))  # fmt: skip
