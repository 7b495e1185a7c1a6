"""Which method for this blank, artwork and quantity: every method accounted for, each with its reasons and its cost."""

import math
from collections.abc import Callable
from decimal import Decimal
from functools import cache, lru_cache
from typing import Literal

from pydantic import Field, model_validator

from offsetter.core.compute.cielab import lab_of_srgb, rgb_of_hex
from offsetter.core.compute.cost import cents, press_minutes
from offsetter.core.compute.platen import ONE_BY_ONE, Laying
from offsetter.core.facts import Method, Recipe, SchoolQuestion, Stage
from offsetter.core.facts.advice import AdviceFacts, ArtKind
from offsetter.core.quantities import a_heat, a_length, a_size, in_metres
from offsetter.core.sentences import listed, say
from offsetter.core.values import Frozen

Tone = Literal["dark", "light"]
Verdict = Literal["good", "caution", "ruled-out"]
ORDER: dict[Verdict, int] = {"good": 0, "caution": 1, "ruled-out": 2}
MOST_PIECES = 100_000
TRIED = (*range(1, 21), 25, 30, 40, 50, 75, 100, 150, 200, 300, 500, 1000)
"""Quantities at which two ways are compared before the one is narrowed down at which they change places."""
NEARLY_K = 2.0
"""A press is not truer than this: a limit is exceeded for sure beyond it (from memory)."""


class AdviceBlank(Frozen):
    kind: Literal["cloth", "hard"]
    shape: Literal["flat", "mug"] | None = None
    """None: not said."""
    fibres: dict[str, float] = {}
    """Fibre to its share, together 1; empty for hard goods."""
    colour: str = Field("#FFFFFF", pattern=r"^#[0-9A-Fa-f]{6}$")
    coated: bool = False
    obstacles: tuple[str, ...] = Field((), max_length=10)
    thickness_mm: float | None = Field(None, gt=0, le=60)
    material: str = Field("", max_length=40)
    """Of hard goods; empty: not said."""
    stretch: Literal["none", "some", "much"] = "some"
    scorch_c: float | None = Field(None, ge=60, le=400)
    """The shop's own tested limit, which beats the fibre's; None: none was tested."""

    @model_validator(mode="after")
    def fibres_make_one(self) -> "AdviceBlank":
        whole = sum(self.fibres.values())
        if any(not 0 <= v <= 1 for v in self.fibres.values()) or (self.fibres and abs(whole - 1) > 0.005):
            raise ValueError(say("the fibre shares make {whole}, not 100 %", whole=f"{whole:.0%}"))
        if self.kind == "cloth" and not self.fibres:
            raise ValueError(say("cloth needs its fibre shares"))
        return self


class AdviceArt(Frozen):
    kind: ArtKind
    colours: int = Field(1, ge=1, le=10_000)
    full_bleed: bool = False


class AdviceJob(Frozen):
    blank: AdviceBlank
    artwork: AdviceArt
    width_mm: float = Field(gt=0, le=3000)
    height_mm: float = Field(gt=0, le=3000)
    quantity: int = Field(ge=1, le=MOST_PIECES)
    laying: Laying = ONE_BY_ONE
    """How pieces come under the press that is asked about."""
    in_parts: bool = False
    """A print that is too large may be made of parts."""


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


class Reason(Frozen):
    code: str
    """What it is about: stays the same whatever else speaks for or against."""
    verdict: Verdict
    said: str


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
            job, method, _stages(recipe, job.blank, facts), facts, has_white=_has_white(job, method, recipe, facts)
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
    if room is not None and not _goes_on(job, room) and not job.in_parts:
        small = _no(
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
            _care(
                "sheets", say("{sheets} of its sheets are in store, this order takes {need}", sheets=sheets, need=need)
            )
        )
    metres, wide = here.metres.get(method.id), here.roll_mm.get(method.id)
    if metres is not None and wide and method.cost.sheet is None:
        across = max(1, int(wide // (min(job.width_mm, job.height_mm) + facts.gap_mm)))
        length = math.ceil(job.quantity / across) * (max(job.width_mm, job.height_mm) + facts.gap_mm) / 1000
        if metres < length:
            said.append(
                _care(
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
            _care(
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


def fit_reasons(job: AdviceJob, method: Method, facts: AdviceFacts) -> list[Reason]:
    """What speaks against a method or asks for care, heat left aside: that depends on the recipe."""
    return [
        *_of_kind(job.blank, method),
        *_of_colour(job.blank, method, facts),
        *_of_stretch(job.blank, method),
        *_of_fibre(job.blank, method),
        *_of_obstacles(job.blank, method),
        *_of_artwork(job, method, facts),
        *_of_size(job, method),
    ]


def verdict_of(job: AdviceJob, method: Method, recipe: Recipe | None, facts: AdviceFacts) -> Verdict:
    """What the reasons come to, price left aside."""
    return max((r.verdict for r in all_reasons(job, method, recipe, facts)), key=lambda v: ORDER[v], default="good")


def all_reasons(job: AdviceJob, method: Method, recipe: Recipe | None, facts: AdviceFacts) -> list[Reason]:
    """What speaks against a method or asks for care, the heat of its suited schools included."""
    return [*_of_heat(job.blank, method, recipe, facts), *fit_reasons(job, method, facts)]


def cloth_tone(colour: str, facts: AdviceFacts, lighter_share: float = 0.0) -> Tone:
    """Whether a blank of this colour wants white under a print, by its measured lightness.

    lighter_share: of the artwork, what is lighter than the blank; on a light one that is not white it decides.
    """
    light = lightness(colour)
    if light >= facts.white_from_l:
        return "light"
    return "dark" if light < facts.light_from_l or lighter_share > facts.lighter_matters else "light"


def suited_schools(
    recipe: Recipe, blank: AdviceBlank, facts: AdviceFacts, lighter_share: float = 0.0
) -> dict[str, str]:
    """The schools to begin with: what is measured decides where it can, else the first choice; one cooler choice where
    the blank would scorch, of those that ask nothing."""
    base = {q.id: _measured_choice(q, blank, facts, lighter_share) for q in recipe.schools}
    limit = limit_c(blank, facts)

    def heat(chosen: dict[str, str]) -> float:
        hot = (s.temperature_c for s in recipe.stages_for(chosen) if s.temperature_c is not None and _touches_blank(s))
        return max(hot, default=0.0)

    if heat(base) <= limit:
        return base
    others = [base | {q.id: c.id} for q in recipe.schools if not q.decided_by for c in q.choices]
    asking_nothing = [o for o in others if not any(s.missing for s in recipe.stages_for(o))]
    return min((base, *asking_nothing), key=heat)


def limit_c(blank: AdviceBlank, facts: AdviceFacts) -> float:
    """What the blank stands: as the shop tested it, or its most delicate fibre; infinite where nobody knows."""
    fibres = (facts.scorch_c[f] for f, n in blank.fibres.items() if n > 0 and f in facts.scorch_c)
    return blank.scorch_c if blank.scorch_c is not None else min(fibres, default=math.inf)


def _measured_choice(question: SchoolQuestion, blank: AdviceBlank, facts: AdviceFacts, lighter_share: float) -> str:
    choices = question.choices
    if question.decided_by == "cloth":
        tone = cloth_tone(blank.colour, facts, lighter_share)
        return next((c.id for c in choices if c.tone == tone), choices[0].id)
    if question.decided_by == "material":
        return next((c.id for c in choices if blank.material in c.materials), choices[0].id)
    if question.decided_by == "thickness" and blank.thickness_mm is not None:
        return max(
            (c for c in choices if c.from_mm <= blank.thickness_mm), key=lambda c: c.from_mm, default=choices[0]
        ).id
    of_fibre = (c.id for c in choices if any(blank.fibres.get(f, 0) > 0 for f in c.fibres))
    return next(of_fibre, choices[0].id)


def _no(code: str, said: str) -> Reason:
    return Reason(code=code, verdict="ruled-out", said=said)


def _care(code: str, said: str) -> Reason:
    return Reason(code=code, verdict="caution", said=said)


@lru_cache(256)
@lru_cache(maxsize=1_000)
def lightness(colour: str) -> float:
    """CIE L* of a colour given as #RRGGBB."""
    return float(lab_of_srgb(rgb_of_hex(colour))[..., 0].reshape(-1)[0])


def _of_kind(blank: AdviceBlank, method: Method) -> list[Reason]:
    if blank.kind not in method.kinds:
        return [
            _no(
                "kind",
                say("It is for {kinds} blanks, this one is {kind}", kinds=listed(method.kinds), kind=blank.kind),
            )
        ]
    if blank.shape and blank.shape not in method.shapes:
        return [
            _no(
                "shape",
                say("Its paper is pressed flat, and this is a mug") if blank.shape == "mug" else say("It is for mugs"),
            )
        ]
    if blank.kind == "hard" and method.needs_coat and not blank.coated:
        return [_no("coating", say("Dye holds on a coating alone, and this blank has none"))]
    return []


def _of_colour(blank: AdviceBlank, method: Method, facts: AdviceFacts) -> list[Reason]:
    light = lightness(blank.colour)
    if method.tone == "any":
        return []
    if method.tone == "dark":
        if light >= facts.dark_below_l:
            return [_care("tone", say("It brings a white sheet that this light cloth does not need"))]
        return []
    if method.tone == "white" and light < facts.white_from_l:
        return [_no("tone", say("All of its coating transfers and would show on anything but white"))]
    if light < facts.dark_below_l:
        return [_no("tone", say("It prints no white, and its colours vanish on dark"))]
    if light < facts.light_from_l:
        return [_care("tone", say("It prints no white: this colour shows through and shifts the print"))]
    return []


def _of_stretch(blank: AdviceBlank, method: Method) -> list[Reason]:
    """What lies on cloth that stretches much is pulled apart when it is worn; dye goes with it."""
    if blank.kind != "cloth" or blank.stretch != "much" or method.lies in ("in", "garment"):
        return []
    return [_care("stretch", say("It lies on elastic cloth and may crack when it is worn: pull at a trial first"))]


def _of_fibre(blank: AdviceBlank, method: Method) -> list[Reason]:
    if blank.kind != "cloth" or not method.fibre:
        return []
    share = blank.fibres.get(method.fibre, 0.0) + (
        blank.fibres.get("softshell", 0.0) if method.fibre == "polyester" else 0
    )
    if share < method.fibre_least:
        return [
            _no(
                "fibre",
                say(
                    "It holds on {fibre}, of which there is {share}: from {fibre_least} on it is worth doing",
                    fibre=method.fibre,
                    share=f"{share:.0%}",
                    fibre_least=f"{method.fibre_least:.0%}",
                ),
            )
        ]
    if share < method.fibre_full:
        how = (
            say("keeps about {share} of its strength", share=f"{share:.0%}")
            if method.is_translucent
            else say("wants a face of {fibre}", fibre=method.fibre)
        )
        return [
            _care(
                "fibre",
                say("{share} {fibre}: it {how}; try one first", share=f"{share:.0%}", fibre=method.fibre, how=how),
            )
        ]
    return []


def _of_heat(blank: AdviceBlank, method: Method, recipe: Recipe | None, facts: AdviceFacts) -> list[Reason]:
    known = {f: facts.scorch_c[f] for f, n in blank.fibres.items() if n > 0 and f in facts.scorch_c}
    if recipe is None or not known or blank.kind != "cloth":
        return []
    fibre, limit = min(known.items(), key=lambda k: k[1])
    limit = limit_c(blank, facts)
    stages = _stages(recipe, blank, facts)
    hottest = max((s.temperature_c for s in stages if s.temperature_c is not None and _touches_blank(s)), default=None)
    asks = any("temperature_c" in s.missing for s in stages)
    said = []
    if hottest is not None and hottest > limit + NEARLY_K:
        said.append(
            _no(
                "heat",
                say(
                    "{fibre} stands {limit}; this takes {hottest}",
                    fibre=fibre.capitalize(),
                    limit=a_heat(limit),
                    hottest=a_heat(hottest),
                ),
            )
        )
    elif hottest is not None and hottest > limit:
        said.append(
            _care(
                "heat",
                say(
                    "{hottest} is as much as {fibre} stands: try it on a hidden corner",
                    hottest=a_heat(hottest),
                    fibre=fibre,
                ),
            )
        )
    if asks:
        said.append(_care("heat-unknown", say("Nobody gave its temperature: it must be entered first")))
    is_dark = lightness(blank.colour) < facts.dark_below_l
    if (
        method.white != "none"
        and is_dark
        and blank.fibres.get("polyester", 0) >= 0.5
        and (hottest or 0) > facts.migration_c
    ):
        said.append(
            _care(
                "migration",
                say("Dark polyester lets its dye into white above {migration}", migration=a_heat(facts.migration_c)),
            )
        )
    return said


def _of_obstacles(blank: AdviceBlank, method: Method) -> list[Reason]:
    if not blank.obstacles:
        return []
    what = listed(blank.obstacles)
    if method.uneven == "flat":
        return [_no("obstacle", say("It needs a flat, true press: not over a {what}", what=what))]
    if method.uneven == "pad":
        return [_care("obstacle", say("Put a pad under the print, to clear the {what}", what=what))]
    return [
        _care(
            "obstacle", say("Risers and one-way printing over the {what}: the printing takes twice as long", what=what)
        )
    ]


def _of_artwork(job: AdviceJob, method: Method, facts: AdviceFacts) -> list[Reason]:
    art, said = job.artwork, []
    if method.colours is not None and (art.kind == "photo" or art.colours > 2 * method.colours):
        said.append(_no("colours", say("One sheet gives one colour; this picture has more")))
    elif method.colours is not None and art.colours > method.colours:
        said.append(
            _care(
                "colours",
                say(
                    "One sheet gives one colour: {colours} colours are {colours} sheets, pressed one after the other",
                    colours=art.colours,
                ),
            )
        )
    if art.kind == "lettering" and method.is_trimmed:
        said.append(
            _care(
                "letters-trimmed",
                say("All round the letters its coating shows: each is cut out by hand, or keeps its ground"),
            )
        )
    if art.kind == "lettering" and method.is_weeded:
        said.append(
            _care(
                "letters-weeded",
                say("Small letters are weeded piece by piece, and need strokes of {value}", value=a_length(1.5, 1)),
            )
        )
    if art.full_bleed and job.blank.kind == "cloth" and method.over_edge:
        said.append(_care("over-edge", method.over_edge))
    return said


def _of_size(job: AdviceJob, method: Method) -> list[Reason]:
    wide, high = method.largest_mm
    if not wide:
        return []
    if not _goes_on(job, method.largest_mm):
        if job.in_parts and method.makes == "transfer":
            return [
                _care(
                    "size",
                    say("Larger than its {size}: it is made of parts, and a seam shows", size=a_size(wide, high)),
                )
            ]
        return [
            _no(
                "size",
                say(
                    "{size} do not fit on its {size2}",
                    size=a_size(job.width_mm, job.height_mm),
                    size2=a_size(wide, high),
                ),
            )
        ]
    return []


def _goes_on(job: AdviceJob, room_mm: tuple[float, float]) -> bool:
    """Turned a quarter or not."""
    small, large = sorted((job.width_mm, job.height_mm))
    return small <= min(room_mm) and large <= max(room_mm)


def _touches_blank(stage: Stage) -> bool:
    return not stage.hover and any(x.kind == "blank" for x in stage.stack)


def _stages(recipe: Recipe, blank: AdviceBlank, facts: AdviceFacts) -> tuple[Stage, ...]:
    """By the schools that suit the blank."""
    return recipe.stages_for(suited_schools(recipe, blank, facts))


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
                say("Up to {flip} {which}", flip=flip, which="piece" if flip == 1 else say("pieces"))
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

    stages = {m: _stages(recipes[m], job.blank, facts) for m in (best, second)}
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
