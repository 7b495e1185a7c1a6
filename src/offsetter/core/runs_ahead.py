"""What the next run has to carry: prints still wanted, and spares by the shop's own rate of spoiling."""

from decimal import Decimal
from math import ceil

from offsetter.core.acts import Act, Pressed, Spoiled
from offsetter.core.compute.sheet import Want
from offsetter.core.decisions import number_of
from offsetter.core.ledger import Demand, Ledger
from offsetter.core.prints import Variant
from offsetter.core.sentences import say
from offsetter.core.values import Frozen

ENOUGH = 40
"""Prints pressed before the shop's own rate is believed over the planned one: from memory."""

Copies = tuple[tuple[Variant, int], ...]


class SpoilRate(Frozen):
    """Of the shop's latest work: prints pressed or spoiled, and those that spoiled."""

    tried: int = 0
    spoiled: int = 0


def spoil_rate(pressed: tuple[Act, ...], spoiled: tuple[Act, ...]) -> SpoilRate:
    """Of standing acts of all jobs, oldest first; what spoiled before the first of the pressed ones is not of their time."""
    since = pressed[0].at if pressed else None
    lost = [a.body for a in spoiled if isinstance(a.body, Spoiled) and (since is None or a.at >= since)]
    transfers = sum(b.count for b in lost if b.what == "transfer")
    pieces = sum(b.count * max(1, len(b.had)) for b in lost if b.what == "piece")
    done = sum(a.body.count for a in pressed if isinstance(a.body, Pressed))
    return SpoilRate(tried=done + transfers, spoiled=transfers + pieces)


class Spares(Frozen):
    count: int
    why: str


NO_SPARES = Spares(count=0, why=say("what is printed is the piece itself: a spoiled one is made again"))


def spares_for(pieces: int, decided: int | None, rate: SpoilRate, planned: Decimal) -> Spares:
    """Spare transfers of each print: what was decided, or the rate rounded up."""
    suggested = ceil(pieces * planned)
    why = say("{planned} planned: too little pressed here yet to know better", planned=f"{planned:.0%}")
    if rate.tried >= ENOUGH:
        # One more than seen: no shop that spoiled nothing lately spoils nothing for ever.
        suggested = ceil(pieces * (rate.spoiled + 1) / (rate.tried + 1))
        why = say(
            "{spoiled} of the last {tried} transfers spoiled here: {suggested} suggested",
            spoiled=rate.spoiled,
            tried=rate.tried,
            suggested=suggested,
        )
    return Spares(count=suggested if decided is None else decided, why=why)


def whole(demand: Demand, variants: tuple[Variant, ...], spares: Spares) -> Copies:
    """The whole order with its spares; a name has none, since it fits one piece alone."""
    counted: list[tuple[Variant, int]] = []
    for print_id in dict.fromkeys(v.print for v in variants):
        own = [v for v in variants if v.print == print_id]
        needs = [sum(demand.asked(s) for s in v.slots) for v in own]
        shares = _shared(spares.count, [0 if number_of(v.slots[0]) else n for v, n in zip(own, needs, strict=True)])
        counted += [(v, n + more) for v, n, more in zip(own, needs, shares, strict=True) if n]
    return tuple(counted)


def next_run(variants: tuple[Variant, ...], ledger: Ledger, spares: Spares) -> Copies:
    """What is still to print; before anything is, and when nothing is left, the whole order."""
    if not ledger.printed or not ledger.to_print:
        return whole(ledger.demand, _once(variants), spares)
    wanted = tuple((v, n) for v in _once(variants) if (n := ledger.to_print_of(v.signature)))
    return wanted or whole(ledger.demand, _once(variants), spares)


def wants(copies: Copies) -> tuple[Want, ...]:
    return tuple(Want(width_um=v.spec.printed_um[0], height_um=v.spec.printed_um[1], copies=n) for v, n in copies)


def _once(variants: tuple[Variant, ...]) -> tuple[Variant, ...]:
    """Two prints that are alike share their transfers: laid once, for both."""
    merged: dict[str, Variant] = {}
    for v in variants:
        known = merged.get(v.signature)
        merged[v.signature] = known.model_copy(update={"slots": (*known.slots, *v.slots)}) if known else v
    return tuple(merged.values())


def _shared(count: int, weights: list[int]) -> list[int]:
    """count split by weights, whole, the largest remainders first."""
    whole_weight = sum(weights)
    if whole_weight == 0:
        return [0] * len(weights)
    exact = [count * w / whole_weight for w in weights]
    given = [int(e) for e in exact]
    for i in sorted(range(len(weights)), key=lambda i: given[i] - exact[i])[: count - sum(given)]:
        given[i] += 1
    return given
