"""Ink, minutes and money of one piece, from what was measured and what the shop pays."""

from decimal import ROUND_HALF_UP, Decimal

from offsetter.core.compute.sheet import RunLayout
from offsetter.core.facts import Blank, Prices, PrintMode, Stage
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
    hover = any(s.hover and not s.alone for s in prepare)
    prepared = pieces if hover else cuts  # a hovering press cures one print at a time
    hands = SET_UP_MIN * 60 + sum(s.hands_s * prepared for s in prepare)
    hands += sum((s.hands_s + (0 if s.alone else s.time_s)) * pieces for s in press) + INSPECT_S * pieces
    hands += sum(s.time_s * prepared for s in prepare if not s.alone)
    return Minutes(
        hands=round(hands / 60, 1),
        printing=round(layout.length_um / 1e6 * layout.printable_um / 1e6 / mode.m2_per_h * 60, 1),
        curing=round(sum(s.time_s * prepared for s in prepare) / 60, 1),
        pressing=round(HEAT_UP_MIN + sum(s.time_s * pieces for s in press if s.temperature_c is not None) / 60, 1),
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


def piece_cost(
    prices: Prices,
    blank: Blank,
    pieces: int,
    layout: RunLayout,
    ink: dict[str, float],
    white_m2: float,
    minutes: Minutes,
) -> PieceCost:
    """Money for one good piece of this order; spares and waste are shared by the pieces ordered."""
    copies = Decimal(len(layout.places)) / pieces
    media = Decimal(layout.length_um) / Decimal(1_000_000) * prices.media_m / pieces
    ink_money = sum((Decimal(str(ml)) * prices.ink_ml.get(c, Decimal(0)) for c, ml in ink.items()), Decimal(0)) * copies
    powder = Decimal(str(round(white_m2, 6))) * prices.powder_g_m2 * prices.powder_g * copies
    covers = sum((price / uses for price, uses in prices.cover_uses.values()), Decimal(0))
    hands = Decimal(str(minutes.hands)) / 60 * prices.hands_hour / pieces
    machines = Decimal(str(minutes.machines)) / 60 * prices.machine_hour / pieces
    before = blank.price + media + ink_money + powder + covers + hands + machines
    cost = PieceCost(
        blank=blank.price, media=media, ink=ink_money, powder=powder, covers=covers, hands=hands, machines=machines,
        spoilage=before * prices.spoil_share,
    )  # fmt: skip
    return PieceCost(**{n: cents(getattr(cost, n), "0.001") for n in PieceCost.model_fields})


def cents(money: Decimal, step: str = "0.01") -> Decimal:
    return money.quantize(Decimal(step), ROUND_HALF_UP)
