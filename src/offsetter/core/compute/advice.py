"""Which method for this blank, artwork and quantity: every method accounted for, each with its reasons and its cost."""

import math
from collections.abc import Callable
from decimal import Decimal
from functools import cache

from offsetter.core.compute.cost import cents, press_minutes
from offsetter.core.compute.fit import (
    ORDER,
    AdviceJob,
    Reason,
    Verdict,
    against,
    all_reasons,
    goes_on,
    stages_on,
    suited_schools,
    with_care,
)
from offsetter.core.facts import Method, Recipe, Stage
from offsetter.core.facts.advice import AdviceFacts
from offsetter.core.quantities import a_size, in_metres
from offsetter.core.sentences import say, say_many
from offsetter.core.values import Frozen

TRIED = (*range(1, 21), 25, 30, 40, 50, 75, 100, 150, 200, 300, 500, 1000)
"""Quantities at which two ways are compared before the one is narrowed down at which they change places."""


class AdviceHere(Frozen):
    """What the shop that asks owns and holds."""

    methods: frozenset[str]
    """Done by one of its printers."""
    sheets: dict[str, int] = {}
    """Method to sheets in store, where that is counted."""
    metres: dict[str, float] = {}
    """Method to metres left on the roll."""
    roll_mm: dict[str, float] = {}
    """Method to the roll's printable width."""
    rooms_mm: dict[str, tuple[float, float]] = {}
    """Method to what its sheet or platen takes here; rolls end nowhere."""
    minutes_left: float | None = None
    """Of work until the order is due."""


class Priced(Frozen):
    """A piece by the shop's own costing."""

    cost: Decimal
    """Without the blank."""
    with_blank: Decimal
    hands_min: float
    machines_min: float


Pricing = Callable[[str, int], Priced | None]
"""Method and quantity to what the shop's costing says; None where it cannot tell."""


class Advised(Frozen):
    method: str
    name: str
    verdict: Verdict
    reasons: tuple[Reason, ...]
    cost_per_piece: Decimal | None
    """Without the blank; None where a value that nobody gave stands in the way."""
    cost_with_blank: Decimal | None = None
    minutes_per_piece: float | None
    """Of hands."""
    machines_per_piece: float | None = None
    """Minutes; None where nothing of it is known."""
    is_ours: bool = False
    """By the shop's own costing; otherwise by rates from memory."""
    wash_life: str
    hand_feel: str


class Advice(Frozen):
    ranked: tuple[Advised, ...]
    recommended: str | None
    runner_up: str | None
    would_change: tuple[str, ...]
    """What another answer would take."""


def advise(
    job: AdviceJob, methods: dict[str, Method], recipes: dict[str, Recipe], facts: AdviceFacts, here: AdviceHere | None = None,
    ours: Pricing | None = None,
) -> Advice:  # fmt: skip
    """All methods, the best first: what is good before what asks for care, the cheaper first among those.

    here: the shop that asks; what it cannot do is weighed all the same, and never recommended. ours: its own costing, where it can tell.
    """
    by_method = {r.method: r for r in recipes.values()}

    def weighed(method: Method) -> Advised:
        advised = _advised(job, method, by_method.get(method.id), facts)
        own = (
            ours(method.id, job.quantity)
            if ours and advised.verdict != "ruled-out" and advised.cost_per_piece is not None
            else None
        )
        if own is not None:
            advised = advised.model_copy(update={
                "cost_per_piece": cents(own.cost), "cost_with_blank": cents(own.with_blank), "is_ours": True,
                "minutes_per_piece": round(own.hands_min, 2), "machines_per_piece": round(own.machines_min, 2)})  # fmt: skip
        return _here(advised, job, method, facts, here)

    found = [weighed(m) for m in methods.values()]
    ranked = sorted(found, key=lambda a: (ORDER[a.verdict], a.cost_per_piece is None, a.cost_per_piece or 0, a.method))
    usable = [
        a for a in ranked if a.verdict != "ruled-out" and a.cost_per_piece is not None and (here is None or a.method in here.methods)
    ]  # fmt: skip
    best, second = ([*usable, None, None])[:2]
    return Advice(
        ranked=tuple(ranked), recommended=best.method if best else None, runner_up=second.method if second else None,
        would_change=_would_change(job, methods, by_method, facts, best, second, ours),
    )  # fmt: skip


def _advised(job: AdviceJob, method: Method, recipe: Recipe | None, facts: AdviceFacts) -> Advised:
    reasons = all_reasons(job, method, recipe, facts)
    verdict: Verdict = max((r.verdict for r in reasons), key=lambda v: ORDER[v], default="good")
    minutes, cost = None, None
    if verdict != "ruled-out" and recipe is not None:
        minutes, cost = _priced(
            job, method, stages_on(recipe, job.blank, facts), facts, has_white=_has_white(job, method, recipe, facts)
        )
    if not reasons:
        reasons = [
            Reason(
                code="fits",
                verdict="good",
                said=say(
                    "{blanks}{blanks2}: nothing stands against it",
                    blanks=method.blanks[0].upper(),
                    blanks2=method.blanks[1:],
                ),
            )
        ]
    return Advised(method=method.id, name=method.name, verdict=verdict, reasons=tuple(reasons), cost_per_piece=cost, minutes_per_piece=minutes,
                   wash_life=method.wash_life, hand_feel=method.hand_feel)  # fmt: skip


def _here(advised: Advised, job: AdviceJob, method: Method, facts: AdviceFacts, here: AdviceHere | None) -> Advised:
    """The same with what the store and the clock say."""
    if here is None or advised.verdict == "ruled-out" or method.id not in here.methods:
        return advised
    room = here.rooms_mm.get(method.id)
    if room is not None and not goes_on(job, room) and not job.in_parts:
        small = against(
            "size-here",
            say(
                "{size} do not fit on the {size2} that this shop prints of it",
                size=a_size(job.width_mm, job.height_mm),
                size2=a_size(room[0], room[1]),
            ),
        )
        kept = tuple(r for r in advised.reasons if r.verdict != "good")
        return advised.model_copy(
            update={
                "reasons": (*kept, small),
                "verdict": "ruled-out",
                "cost_per_piece": None,
                "cost_with_blank": None,
                "minutes_per_piece": None,
            }
        )
    said = []
    sheets = here.sheets.get(method.id)
    if sheets is not None and sheets < (need := _sheets(job, method)):
        said.append(
            with_care(
                "sheets",
                say_many(
                    sheets,
                    "{count} of its sheets is in store, this order takes {need}",
                    "{count} of its sheets are in store, this order takes {need}",
                    need=need,
                ),
            )
        )
    metres, wide = here.metres.get(method.id), here.roll_mm.get(method.id)
    if metres is not None and wide and method.cost.sheet is None:
        across = max(1, int(wide // (min(job.width_mm, job.height_mm) + facts.gap_mm)))
        length = math.ceil(job.quantity / across) * (max(job.width_mm, job.height_mm) + facts.gap_mm) / 1000
        if metres < length:
            said.append(
                with_care(
                    "metres",
                    say(
                        "{metres} are left on its roll, this order takes about {length}",
                        metres=in_metres(metres, 1),
                        length=in_metres(length, 1),
                    ),
                )
            )
    whole = (advised.minutes_per_piece or 0) * job.quantity
    if here.minutes_left is not None and whole > here.minutes_left:
        said.append(
            with_care(
                "time",
                say(
                    "It takes about {whole} h of hands, and {value} h of work are left until it is due",
                    whole=f"{whole / 60:.1f}",
                    value=f"{max(0.0, here.minutes_left) / 60:.1f}",
                ),
            )
        )
    if not said:
        return advised
    kept = tuple(r for r in advised.reasons if r.verdict != "good")
    return advised.model_copy(update={"reasons": (*kept, *said), "verdict": "caution"})


def _has_white(job: AdviceJob, method: Method, recipe: Recipe, facts: AdviceFacts) -> bool:
    return method.white == "plate" and recipe.tone_of(suited_schools(recipe, job.blank, facts)) != "light"


def _priced(
    job: AdviceJob, method: Method, stages: tuple[Stage, ...], facts: AdviceFacts, *, has_white: bool
) -> tuple[float | None, Decimal | None]:
    """Minutes and money of one piece; neither where a value that nobody gave stands in the way."""
    if any({"temperature_c", "time_s"} & set(s.missing) for s in stages):
        return None, None
    minutes = _minutes(job, method, stages)
    return minutes, _cost(job, method, minutes, facts, has_white=has_white)


def _minutes(job: AdviceJob, method: Method, stages: tuple[Stage, ...]) -> float:
    """Minutes of one piece at this quantity, the setting up shared."""
    waits = sum(s.time_s for s in stages if s.alone) / 60
    busy = press_minutes(stages, job.quantity, job.laying) - waits
    again = 2.0 if job.blank.obstacles and method.uneven == "risers" else 1.0
    return round((busy * again * _goes(job, method) + method.cost.setup_min) / job.quantity, 2)


def _goes(job: AdviceJob, method: Method) -> int:
    """How often it is done for one piece: a sheet of one colour once a colour."""
    return math.ceil(job.artwork.colours / method.colours) if method.colours else 1


def _cost(job: AdviceJob, method: Method, minutes: float, facts: AdviceFacts, *, has_white: bool) -> Decimal:
    """Money of one piece without its blank: media, ink, powder, covers, hands and machine, and its share of what spoils."""
    cost, area = method.cost, Decimal(str(job.width_mm * job.height_mm / 1e6))
    covered = area * Decimal(str(facts.coverage[job.artwork.kind]))
    white = covered * cost.white_m2 if has_white else Decimal(0)
    gap = facts.gap_mm
    laid = Decimal(str((job.width_mm + gap) * (job.height_mm + gap) / 1e6))
    media = laid * cost.media_m2 + _sheets(job, method) * cost.sheet_price / job.quantity
    once = cost.extra_piece if has_white else Decimal(0)
    hands = Decimal(str(minutes)) / 60 * (facts.hands_hour + facts.machine_hour)
    whole = media + covered * (cost.colour_m2 + cost.extra_m2) + white + once + cost.cover_piece + hands
    return (whole * (1 + facts.spoil_share)).quantize(Decimal("0.01"))


def _sheets(job: AdviceJob, method: Method) -> int:
    if method.cost.sheet is None:
        return 0
    wide, high = method.cost.sheet
    w, h = job.width_mm, job.height_mm
    on_one = max(int(wide // w) * int(high // h), int(wide // h) * int(high // w), 1)
    return math.ceil(job.quantity / on_one) * _goes(job, method)


def _would_change(
    job: AdviceJob, methods: dict[str, Method], recipes: dict[str, Recipe], facts: AdviceFacts, best: Advised | None, second: Advised | None,
    ours: Pricing | None = None,
) -> tuple[str, ...]:  # fmt: skip
    """The quantity at which the first two change places, and what stands against the best."""
    if best is None:
        return (say("Another blank, or a value that nobody gave yet: no method is left."),)
    said = []
    if second is not None and second.verdict == best.verdict:
        # Two figures of different kinds change places nowhere that means anything.
        alike = best.is_ours == second.is_ours
        flip = (
            _flip(job, methods, recipes, facts, best.method, second.method, ours if best.is_ours else None)
            if alike
            else None
        )
        if flip is not None:
            where = (
                say_many(flip, "Up to {count} piece", "Up to {count} pieces")
                if flip < job.quantity
                else say("From {flip} pieces on", flip=flip)
            )
            said.append(say("{where} {name} is cheaper.", where=where, name=second.name.lower()))
    said += [f"{r.said}." for r in best.reasons if r.verdict == "caution"]
    return tuple(said)


def _flip(
    job: AdviceJob, methods: dict[str, Method], recipes: dict[str, Recipe], facts: AdviceFacts, best: str, second: str, ours: Pricing | None
) -> int | None:  # fmt: skip
    """The quantity nearest to the job's at which the second one is cheaper; None when there is none up to a thousand."""

    stages = {m: stages_on(recipes[m], job.blank, facts) for m in (best, second)}
    white = {m: _has_white(job, methods[m], recipes[m], facts) for m in (best, second)}

    @cache
    def gap(quantity: int) -> Decimal:
        if ours is not None:
            one, two = (cents(p.cost) if (p := ours(m, quantity)) else None for m in (best, second))
        else:
            asked = job.model_copy(update={"quantity": quantity})
            one, two = (_priced(asked, methods[m], stages[m], facts, has_white=white[m])[1] for m in (best, second))
        return (two or Decimal(0)) - (one or Decimal(0))

    if gap(job.quantity) < 0:
        return None
    coarse = sorted({*TRIED, job.quantity}, key=lambda q: abs(q - job.quantity))
    found = next((q for q in coarse if gap(q) < 0), None)
    if found is None:
        return None
    # Between the last quantity that was tried on the same side and this one, halved until they meet.
    step = 1 if found > job.quantity else -1
    nearer = [q for q in coarse if (q - job.quantity) * step >= 0 and abs(q - job.quantity) < abs(found - job.quantity)]
    still: int = nearer[-1]
    flipped: int = found
    while abs(flipped - still) > 1:
        middle = (still + flipped) // 2
        still, flipped = (still, middle) if gap(middle) < 0 else (middle, flipped)
    return flipped
