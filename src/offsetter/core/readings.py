"""The row of figures along the bottom, always the same ones in the same order."""

from typing import Literal

from offsetter.core.compute import cost as money
from offsetter.core.compute.plate_spec import PlateMeasure, PlateSpec
from offsetter.core.compute.sheet import RunLayout
from offsetter.core.decisions import OrderDoc, Way
from offsetter.core.derive import feed_of
from offsetter.core.facts import Blank, Feed, Method, Shop, Stage
from offsetter.core.prints import Variant
from offsetter.core.units import ppi_of
from offsetter.core.values import Quality, Reading


def ink_of(spec: PlateSpec, measure: PlateMeasure, method: Method) -> dict[str, float]:
    """Millilitres a channel for one print; empty where the method's laydown is not known."""
    if not method.laydown_ml_m2:
        return {}
    return money.ink_ml(measure.coverage_pct, spec.width_um / 1000, spec.height_um / 1000,
                        {str(c): v for c, v in method.laydown_ml_m2.items()})  # fmt: skip


def readings_for(
    shop: Shop, order: OrderDoc, blank: Blank, variant: Variant | None, measure: PlateMeasure | None,
    layout: RunLayout | None, stages: tuple[Stage, ...], way: Way,
) -> tuple[tuple[Reading, ...], money.PieceCost | None]:  # fmt: skip
    """Readings as far as they are known, and the cost of a piece once all of it is."""
    if variant is None or measure is None:
        return (), None
    spec = variant.spec
    method, printer = shop.methods[way.method], shop.printers[way.printer]
    quality: Quality = measure.quality
    left, _, right, _ = spec.crop_px
    ink = ink_of(spec, measure, method)
    row = [
        Reading(key="resolution", label="Resolution", value=spec.dpi if variant.is_vector else ppi_of(right - left, spec.width_um / 1000), unit="ppi",
                decimals=0, note="a drawing: as the printer" if variant.is_vector else "target 300"),
        Reading(key="white", label="White", value=measure.coverage_pct.get("W", 0), unit="%", quality=quality,
                note="of the print's area") if spec.white else
        Reading(key="covered", label="Covered", value=max((v for c, v in measure.coverage_pct.items() if c != "W"), default=0), unit="%", quality=quality,
                note="by its fullest colour, no white"),
        Reading(key="most-ink", label="Most ink", value=measure.total_max_pct, unit="%", decimals=0, quality=quality,
                note=f"limit {spec.colour.ink_limit_pct:.0f}", is_over=measure.over_limit_share > 0),
    ]  # fmt: skip
    if ink:
        said = f"CMYK {sum(v for c, v in ink.items() if c != 'W'):.2f}"
        row.append(Reading(key="ink", label="Ink", value=sum(ink.values()), unit="mL", decimals=2, quality=quality,
                           note=f"W {ink['W']:.2f}, {said}" if "W" in ink else said))  # fmt: skip
    else:
        area = max((v for c, v in measure.area_mm2.items() if c != "W"), default=0.0)
        row.append(
            Reading(
                key="toner",
                label="Toner",
                value=area / 100,
                unit="cm²",
                decimals=1,
                quality=quality,
                note="covered, a print",
            )
        )
    if layout is None:
        return tuple(row), None
    pieces = order.pieces
    mode = next(m for m in printer.modes if m.id == way.mode)
    minutes = money.minutes_for(stages, pieces, layout, mode)
    feed = feed_of(shop, way)
    cost = money.piece_cost(
        shop.prices, blank, pieces, layout, used_of(spec, measure, ink), stages, minutes, method, feed
    )
    quoted = order.quoted
    alone = len(order.prints) == 1
    scope: Literal["the order", "this print"] = "the order" if alone else "this print"
    told = f"quoted {quoted:.2f}" if quoted else "not quoted yet"
    row += [
        _media(feed, method, layout, scope),
        Reading(key="cost", label="Cost", value=float(cost.whole), unit=shop.prices.currency, decimals=2, quality=quality,
                scope="a piece" if alone else "this print", note=told if alone else "with the blank",
                is_over=bool(quoted and float(cost.whole) > quoted)),
        Reading(key="hands", label="Hands", value=minutes.hands, unit="min", decimals=0, scope=scope,
                note=f"{minutes.hands / pieces:.1f} a piece"),
        Reading(key="machines", label="Machines", value=minutes.machines, unit="min", decimals=0, scope=scope,
                note=f"{minutes.printing:.0f} print, {minutes.pressing:.0f} press"),
    ]  # fmt: skip
    return tuple(row), cost


def used_of(spec: PlateSpec, measure: PlateMeasure, ink: dict[str, float]) -> money.Used:
    """What one print takes, for its money."""
    whole_m2 = spec.width_um * spec.height_um / 1e12
    colour = max((v for c, v in measure.coverage_pct.items() if c != "W"), default=0.0)
    return money.Used(
        ink_ml=ink, colour_m2=colour / 100 * whole_m2, white_m2=measure.coverage_pct.get("W", 0) / 100 * whole_m2
    )


def _media(feed: Feed, method: Method, layout: RunLayout, scope: Literal["the order", "this print"]) -> Reading:
    """How much of the medium the run takes; garments where nothing else carries the print."""
    if layout.sheet_um:
        count = len(layout.cut_lengths_um)
        return Reading(key="film", label="Garments" if feed.kind == "garment" else "Sheets", value=count, unit="", decimals=0, scope=scope,
                       note="printed one by one" if feed.kind == "garment" else f"waste {layout.waste_share:.0%}")  # fmt: skip
    return Reading(key="film", label=method.medium.capitalize(), value=layout.length_um / 1e6, unit="m", decimals=2, scope=scope,
                   note=f"waste {layout.waste_share:.0%}")  # fmt: skip
