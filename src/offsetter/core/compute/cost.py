"""Ink, minutes and money of one piece, from what was measured and what the shop pays."""

from decimal import ROUND_HALF_UP, Decimal

from offsetter.core.compute.sheet import RunLayout
from offsetter.core.facts import Blank, Feed, Method, Prices, PrintMode, Stage
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


def ink_ml(
    coverage_pct: dict[str, float], width_mm: float, height_mm: float, laydown: dict[str, float]
) -> dict[str, float]:
    """Millilitres a channel for one print: share x area x laydown (mL/m2 at 100 %)."""
    area_m2 = width_mm * height_mm / 1e6
    return {c: round(p / 100 * area_m2 * laydown.get(c, 0.0), 4) for c, p in coverage_pct.items()}


def minutes_for(stages: tuple[Stage, ...], pieces: int, layout: RunLayout, mode: PrintMode) -> Minutes:
    """Minutes for pieces pressed one by one while the last one cools, and cut lengths prepared one by one."""
    cuts = len(layout.cut_lengths_um)
    prepare, press = [s for s in stages if s.part == "prepare"], [s for s in stages if s.part == "press"]
    # A hovering press cures one print at a time, and powder is then shaken on one print at a time.
    hover = any(s.hover and not s.alone for s in prepare)

    def times(stage: Stage) -> int:
        if stage.first_only:
            return 1
        return cuts if stage.each == "cut" and not hover else pieces

    hands = SET_UP_MIN * 60 + INSPECT_S * pieces
    hands += sum((s.hands_s + (0 if s.alone else s.time_s)) * times(s) for s in (*prepare, *press))
    return Minutes(
        hands=round(hands / 60, 1),
        printing=round(layout.length_um / 1e6 * layout.printable_um / 1e6 / mode.m2_per_h * 60, 1),
        curing=round(sum(s.time_s * times(s) for s in prepare) / 60, 1),
        pressing=round(HEAT_UP_MIN + sum(s.time_s * times(s) for s in press if s.temperature_c is not None) / 60, 1),
    )


def press_minutes(stages: tuple[Stage, ...], pieces: int) -> float:
    """Minutes from the first stage to the last piece peeled: one press, the next piece goes in while one cools.

    An oven is filled once; a press that hovers cures one print at a time. Only the last piece's cooling is waited for.
    """
    times = pieces if any(s.hover and not s.alone for s in stages) else 1
    prepare = times * sum(s.time_s + s.hands_s for s in stages if s.part == "prepare")
    once = sum(s.time_s + s.hands_s for s in stages if s.part == "press" and s.first_only)
    press = [s for s in stages if s.part == "press" and not s.first_only]
    each = sum(s.time_s + s.hands_s for s in press if not s.alone)
    return round((prepare + once + each * pieces + sum(s.time_s for s in press if s.alone)) / 60, 2)


class Used(Frozen):
    """What one print takes, measured on its plates."""

    ink_ml: dict[str, float]
    """Empty where nobody knows the laydown: then money goes by area."""
    colour_m2: float
    white_m2: float


def covers_of(stage: Stage) -> tuple[str, ...]:
    """Sheets of a stage that are used up by counting, by the name that their price goes by."""
    return tuple(dict.fromkeys(x.what.lower() for x in stage.stack if x.kind == "cover"))


def piece_cost(
    prices: Prices, blank: Blank, pieces: int, layout: RunLayout, used: Used, stages: tuple[Stage, ...], minutes: Minutes, method: Method, feed: Feed,
) -> PieceCost:  # fmt: skip
    """Money for one good piece of this order; spares and waste are shared by the pieces ordered."""
    copies = Decimal(len(layout.places)) / pieces
    media = media_money(layout, feed, prices) / pieces
    ink_money = sum((Decimal(str(ml)) * prices.ink_ml.get(c, Decimal(0)) for c, ml in used.ink_ml.items()), Decimal(0))
    if not used.ink_ml:
        ink_money = _by_area(used.colour_m2, method.cost.colour_m2) + _by_area(used.white_m2, method.cost.white_m2)
    ink_money *= copies
    powder = Decimal(0)
    if any(x.kind == "powder" for s in stages for x in s.stack):
        powder = method.cost.extra_piece or _by_area(used.white_m2, prices.powder_g_m2 * prices.powder_g)
        powder *= copies
    # Every press under a counted sheet takes its share of it.
    laid = [c for s in stages if s.temperature_c is not None and not s.first_only for c in covers_of(s)]
    covers = sum(
        (price / uses for c in laid if (known := prices.cover_uses.get(c)) for price, uses in (known,)), Decimal(0)
    )
    hands = Decimal(str(minutes.hands)) / 60 * prices.hands_hour / pieces
    machines = Decimal(str(minutes.machines)) / 60 * prices.machine_hour / pieces
    before = blank.price + media + ink_money + powder + covers + hands + machines
    cost = PieceCost(
        blank=blank.price, media=media, ink=ink_money, powder=powder, covers=covers, hands=hands, machines=machines,
        spoilage=before * prices.spoil_share,
    )  # fmt: skip
    return PieceCost(**{n: cents(getattr(cost, n), "0.001") for n in PieceCost.model_fields})


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
