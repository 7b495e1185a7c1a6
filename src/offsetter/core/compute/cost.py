"""Ink, minutes and money of one piece, from what was measured and what the shop pays."""

from collections.abc import Iterable
from decimal import ROUND_HALF_UP, Decimal

from offsetter.core.compute.plate_spec import PlateMeasure, PlateSpec
from offsetter.core.compute.platen import ONE_BY_ONE, Laying
from offsetter.core.compute.sheet import RunLayout
from offsetter.core.facts import Blank, Feed, Method, Prices, PrintMode, Stage
from offsetter.core.facts.inks import alike
from offsetter.core.values import Frozen

INSPECT_S = 20  # a look at both sides and a count: from memory
SET_UP_MIN = 8.0  # loading film, warming the press, reading it back: from memory
HEAT_UP_MIN = 13.0  # a press from cold to 160 C: until this press has been measured, from memory


class Minutes(Frozen):
    """Minutes of hands, and of machines, for the whole order. attended: machine time that hands stand by for."""

    hands: float
    printing: float
    curing: float
    pressing: float

    @property
    def machines(self) -> float:
        return self.printing + self.curing + self.pressing


class PieceCost(Frozen):
    """Money of one good piece, part by part; spoilage is the allowance for pieces that will not be."""

    blank: Decimal
    media: Decimal
    ink: Decimal
    powder: Decimal
    covers: Decimal
    hands: Decimal
    machines: Decimal
    spoilage: Decimal

    @property
    def whole(self) -> Decimal:
        return sum((Decimal(getattr(self, name)) for name in type(self).model_fields), Decimal(0))

    @property
    def without_blank(self) -> Decimal:
        """What the print costs on whatever piece the customer brings."""
        return self.whole - self.blank


def ink_ml(
    coverage_pct: dict[str, float], width_mm: float, height_mm: float, laydown: dict[str, float]
) -> dict[str, float]:
    """Millilitres a channel for one print: share x area x laydown (mL/m2 at 100 %)."""
    area_m2 = width_mm * height_mm / 1e6
    return {c: round(p / 100 * area_m2 * laydown.get(alike(c, laydown), 0.0), 4) for c, p in coverage_pct.items()}


A4_M2 = 0.210 * 0.297
YIELD_COVERAGE_PCT = 5.0
"""A toner cartridge's pages are told at this coverage of an A4 page (ISO/IEC 19798: 5 % a colour)."""


def pages_at_5(coverage_pct: dict[str, float], width_mm: float, height_mm: float) -> dict[str, float]:
    """A4 pages at 5 % coverage that one print's toner amounts to, a channel."""
    sheets = width_mm * height_mm / 1e6 / A4_M2
    return {c: round(pct / YIELD_COVERAGE_PCT * sheets, 4) for c, pct in coverage_pct.items()}


def minutes_for(
    stages: tuple[Stage, ...], pieces: int, layout: RunLayout, mode: PrintMode, laying: Laying = ONE_BY_ONE
) -> Minutes:
    """Minutes for pieces pressed load by load while the last one cools, and cut lengths prepared one by one.

    Hands lay and peel every thing of a load; its time under the press is shared.
    """
    cuts = len(layout.cut_lengths_um)
    prepare, press = [s for s in stages if s.part == "prepare"], [s for s in stages if s.part == "press"]
    # A hovering press cures one print at a time, and powder is then shaken on one print at a time.
    hover = any(s.hover and not s.alone for s in prepare)

    def times(stage: Stage) -> int:
        if stage.first_only:
            return 1
        each = layout.parts if stage.part == "press" else 1
        return cuts if stage.each == "cut" and not hover else laying.things(pieces) * each

    def loads(stage: Stage) -> int:
        # A print in parts is pressed part by part.
        return laying.loads(pieces) * layout.parts if stage.part == "press" and not stage.first_only else times(stage)

    hands = SET_UP_MIN * 60 + INSPECT_S * pieces
    hands += sum(s.hands_s * times(s) + (0 if s.alone else s.time_s) * loads(s) for s in (*prepare, *press))
    return Minutes(
        hands=round(hands / 60, 1),
        printing=round(layout.length_um / 1e6 * layout.printable_um / 1e6 / mode.m2_per_h * 60, 1),
        curing=round(sum(s.time_s * times(s) for s in prepare) / 60, 1),
        pressing=round(HEAT_UP_MIN + sum(s.time_s * loads(s) for s in press if s.temperature_c is not None) / 60, 1),
    )


def press_minutes(stages: tuple[Stage, ...], pieces: int, laying: Laying = ONE_BY_ONE) -> float:
    """Minutes from the first stage to the last piece peeled: one press, the next piece goes in while one cools.

    An oven is filled once; a press that hovers cures one print at a time. Only the last piece's cooling is waited for.
    """
    things, loads = laying.things(pieces), laying.loads(pieces)
    times = things if any(s.hover and not s.alone for s in stages) else 1
    prepare = times * sum(s.time_s + s.hands_s for s in stages if s.part == "prepare")
    once = sum(s.time_s + s.hands_s for s in stages if s.part == "press" and s.first_only)
    press = [s for s in stages if s.part == "press" and not s.first_only]
    each = sum(s.hands_s * things + s.time_s * loads for s in press if not s.alone)
    return round((prepare + once + each + sum(s.time_s for s in press if s.alone)) / 60, 2)


class Used(Frozen):
    """What one print takes, measured on its plates."""

    ink_ml: dict[str, float]
    """Empty where nobody knows the laydown: then money goes by area."""
    colour_m2: float
    white_m2: float


def ink_of(spec: PlateSpec, measure: PlateMeasure, method: Method) -> dict[str, float]:
    """Millilitres a channel for one print; empty where the method's laydown is not known."""
    if not method.laydown_ml_m2:
        return {}
    laydown = {str(c): v for c, v in method.laydown_ml_m2.items()}
    return ink_ml(measure.coverage_pct, spec.width_um / 1000, spec.height_um / 1000, laydown)


def white_m2_of(spec: PlateSpec, measure: PlateMeasure) -> float:
    """Full white, by area, of one print."""
    return measure.coverage_pct.get("W", 0) / 100 * spec.width_um * spec.height_um / 1e12


def used_of(spec: PlateSpec, measure: PlateMeasure, method: Method) -> Used:
    """What one print takes, for its money."""
    whole_m2 = spec.width_um * spec.height_um / 1e12
    colour = max((v for c, v in measure.coverage_pct.items() if c != "W"), default=0.0)
    return Used(ink_ml=ink_of(spec, measure, method), colour_m2=colour / 100 * whole_m2,
                white_m2=white_m2_of(spec, measure))  # fmt: skip


def covers_of(stage: Stage) -> tuple[str, ...]:
    """Sheets of a stage that are used up by counting, by the name that their price goes by."""
    return tuple(dict.fromkeys(x.what.lower() for x in stage.stack if x.kind == "cover"))


def ink_money(used: Used, prices: Prices, method: Method) -> Decimal:
    """Of one print: by the millilitre, or by the area covered where no laydown is known."""
    if not used.ink_ml:
        return _by_area(used.colour_m2, method.cost.colour_m2) + _by_area(used.white_m2, method.cost.white_m2)
    return sum(
        (Decimal(str(ml)) * prices.ink_ml.get(alike(c, prices.ink_ml), Decimal(0)) for c, ml in used.ink_ml.items()),
        Decimal(0),
    )


def is_powdered(stages: Iterable[Stage], method: Method) -> bool:
    """Adhesive powder is strewn on its white, and not something else that is dosed by the piece."""
    return not method.cost.extra_piece and any(x.kind == "powder" for s in stages for x in s.stack)


def powder_money(used: Used, stages: tuple[Stage, ...], prices: Prices, method: Method) -> Decimal:
    """Of one print; nothing where none is strewn."""
    if not any(x.kind == "powder" for s in stages for x in s.stack):
        return Decimal(0)
    return method.cost.extra_piece or _by_area(used.white_m2, prices.powder_g_m2 * prices.powder_g)


def cover_money(covers: Iterable[str], prices: Prices) -> Decimal:
    """The shares that presses under these counted sheets take of them."""
    known = (prices.cover_uses[c] for c in covers if c in prices.cover_uses)
    return sum((price / uses for price, uses in known), Decimal(0))


def hour_money(minutes: float, an_hour: Decimal) -> Decimal:
    return Decimal(str(round(minutes, 4))) / 60 * an_hour


def piece_cost(
    prices: Prices, blank: Blank, pieces: int, layout: RunLayout, used: Used, stages: tuple[Stage, ...], minutes: Minutes, method: Method, feed: Feed,
    laying: Laying = ONE_BY_ONE,
) -> PieceCost:  # fmt: skip
    """Money for one good piece of this order; spares and waste are shared by the pieces ordered."""
    copies = Decimal(len(layout.places)) / pieces
    # Every press under a counted sheet takes its share of it.
    laid = [c for s in stages if s.temperature_c is not None and not s.first_only for c in covers_of(s)]
    parts = {
        "blank": blank.price, "media": media_money(layout, feed, prices) / pieces, "ink": ink_money(used, prices, method) * copies,
        "powder": powder_money(used, stages, prices, method) * copies, "covers": cover_money(laid, prices) * laying.loads(pieces) * layout.parts / pieces,
        "hands": hour_money(minutes.hands, prices.hands_hour) / pieces, "machines": hour_money(minutes.machines, prices.machine_hour) / pieces,
    }  # fmt: skip
    parts["spoilage"] = sum(parts.values(), Decimal(0)) * prices.spoil_share
    return PieceCost(**{n: cents(v, "0.001") for n, v in parts.items()})


def media_money(layout: RunLayout, feed: Feed, prices: Prices) -> Decimal:
    """What the run takes of its medium: metres of a roll, whole sheets, nothing where the garment itself is printed."""
    if feed.kind == "garment":
        return Decimal(0)
    amount = Decimal(len(layout.cut_lengths_um)) if layout.sheet_um else Decimal(layout.length_um) / Decimal(1_000_000)
    return amount * (prices.media_m if feed.price is None else feed.price)


def _by_area(m2: float, price: Decimal) -> Decimal:
    return Decimal(str(round(m2, 6))) * price


def cents(money: Decimal, step: str = "0.01") -> Decimal:
    return money.quantize(Decimal(step), ROUND_HALF_UP)
