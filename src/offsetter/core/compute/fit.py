"""What speaks for and against a way of printing: its blank, its heat, its artwork, its size."""

import math
from functools import lru_cache
from typing import Literal

from pydantic import Field, model_validator

from offsetter.core.compute.cielab import lab_of_srgb, rgb_of_hex
from offsetter.core.compute.platen import ONE_BY_ONE, Laying
from offsetter.core.facts import Method, Recipe, SchoolQuestion, Stage
from offsetter.core.facts.advice import AdviceFacts, ArtKind
from offsetter.core.quantities import a_heat, a_length, a_size
from offsetter.core.sentences import listed, say
from offsetter.core.values import Frozen

Tone = Literal["dark", "light"]
Verdict = Literal["good", "caution", "ruled-out"]
ORDER: dict[Verdict, int] = {"good": 0, "caution": 1, "ruled-out": 2}
MOST_PIECES = 100_000
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


class Reason(Frozen):
    code: str
    """What it is about: stays the same whatever else speaks for or against."""
    verdict: Verdict
    said: str


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


def against(code: str, said: str) -> Reason:
    """It cannot be done."""
    return Reason(code=code, verdict="ruled-out", said=said)


def with_care(code: str, said: str) -> Reason:
    """It can, by who minds this."""
    return Reason(code=code, verdict="caution", said=said)


@lru_cache(maxsize=1_000)
def lightness(colour: str) -> float:
    """CIE L* of a colour given as #RRGGBB."""
    return float(lab_of_srgb(rgb_of_hex(colour))[..., 0].reshape(-1)[0])


def _of_kind(blank: AdviceBlank, method: Method) -> list[Reason]:
    if blank.kind not in method.kinds:
        return [
            against(
                "kind",
                say("It is for {kinds} blanks, this one is {kind}", kinds=listed(method.kinds), kind=blank.kind),
            )
        ]
    if blank.shape and blank.shape not in method.shapes:
        return [
            against(
                "shape",
                say("Its paper is pressed flat, and this is a mug") if blank.shape == "mug" else say("It is for mugs"),
            )
        ]
    if blank.kind == "hard" and method.needs_coat and not blank.coated:
        return [against("coating", say("Dye holds on a coating alone, and this blank has none"))]
    return []


def _of_colour(blank: AdviceBlank, method: Method, facts: AdviceFacts) -> list[Reason]:
    light = lightness(blank.colour)
    if method.tone == "any":
        return []
    if method.tone == "dark":
        if light >= facts.dark_below_l:
            return [with_care("tone", say("It brings a white sheet that this light cloth does not need"))]
        return []
    if method.tone == "white" and light < facts.white_from_l:
        return [against("tone", say("All of its coating transfers and would show on anything but white"))]
    if light < facts.dark_below_l:
        return [against("tone", say("It prints no white, and its colours vanish on dark"))]
    if light < facts.light_from_l:
        return [with_care("tone", say("It prints no white: this colour shows through and shifts the print"))]
    return []


def _of_stretch(blank: AdviceBlank, method: Method) -> list[Reason]:
    """What lies on cloth that stretches much is pulled apart when it is worn; dye goes with it."""
    if blank.kind != "cloth" or blank.stretch != "much" or method.lies in ("in", "garment"):
        return []
    return [with_care("stretch", say("It lies on elastic cloth and may crack when it is worn: pull at a trial first"))]


def _of_fibre(blank: AdviceBlank, method: Method) -> list[Reason]:
    if blank.kind != "cloth" or not method.fibre:
        return []
    share = blank.fibres.get(method.fibre, 0.0) + (
        blank.fibres.get("softshell", 0.0) if method.fibre == "polyester" else 0
    )
    if share < method.fibre_least:
        return [
            against(
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
            with_care(
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
    stages = stages_on(recipe, blank, facts)
    hottest = max((s.temperature_c for s in stages if s.temperature_c is not None and _touches_blank(s)), default=None)
    asks = any("temperature_c" in s.missing for s in stages)
    said = []
    if hottest is not None and hottest > limit + NEARLY_K:
        said.append(
            against(
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
            with_care(
                "heat",
                say(
                    "{hottest} is as much as {fibre} stands: try it on a hidden corner",
                    hottest=a_heat(hottest),
                    fibre=fibre,
                ),
            )
        )
    if asks:
        said.append(with_care("heat-unknown", say("Nobody gave its temperature: it must be entered first")))
    is_dark = lightness(blank.colour) < facts.dark_below_l
    if (
        method.white != "none"
        and is_dark
        and blank.fibres.get("polyester", 0) >= 0.5
        and (hottest or 0) > facts.migration_c
    ):
        said.append(
            with_care(
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
        return [against("obstacle", say("It needs a flat, true press: not over a {what}", what=what))]
    if method.uneven == "pad":
        return [with_care("obstacle", say("Put a pad under the print, to clear the {what}", what=what))]
    return [
        with_care(
            "obstacle", say("Risers and one-way printing over the {what}: the printing takes twice as long", what=what)
        )
    ]


def _of_artwork(job: AdviceJob, method: Method, facts: AdviceFacts) -> list[Reason]:
    art, said = job.artwork, []
    if method.colours is not None and (art.kind == "photo" or art.colours > 2 * method.colours):
        said.append(against("colours", say("One sheet gives one colour; this picture has more")))
    elif method.colours is not None and art.colours > method.colours:
        said.append(
            with_care(
                "colours",
                say(
                    "One sheet gives one colour: {colours} colours are {colours} sheets, pressed one after the other",
                    colours=art.colours,
                ),
            )
        )
    if art.kind == "lettering" and method.is_trimmed:
        said.append(
            with_care(
                "letters-trimmed",
                say("All round the letters its coating shows: each is cut out by hand, or keeps its ground"),
            )
        )
    if art.kind == "lettering" and method.is_weeded:
        said.append(
            with_care(
                "letters-weeded",
                say("Small letters are weeded piece by piece, and need strokes of {value}", value=a_length(1.5, 1)),
            )
        )
    if art.full_bleed and job.blank.kind == "cloth" and method.over_edge:
        said.append(with_care("over-edge", method.over_edge))
    return said


def _of_size(job: AdviceJob, method: Method) -> list[Reason]:
    wide, high = method.largest_mm
    if not wide:
        return []
    if not goes_on(job, method.largest_mm):
        if job.in_parts and method.makes == "transfer":
            return [
                with_care(
                    "size",
                    say("Larger than its {size}: it is made of parts, and a seam shows", size=a_size(wide, high)),
                )
            ]
        return [
            against(
                "size",
                say(
                    "{size} do not fit on its {size2}",
                    size=a_size(job.width_mm, job.height_mm),
                    size2=a_size(wide, high),
                ),
            )
        ]
    return []


def goes_on(job: AdviceJob, room_mm: tuple[float, float]) -> bool:
    """Turned a quarter or not."""
    small, large = sorted((job.width_mm, job.height_mm))
    return small <= min(room_mm) and large <= max(room_mm)


def _touches_blank(stage: Stage) -> bool:
    return not stage.hover and any(x.kind == "blank" for x in stage.stack)


def stages_on(recipe: Recipe, blank: AdviceBlank, facts: AdviceFacts) -> tuple[Stage, ...]:
    """By the schools that suit the blank."""
    return recipe.stages_for(suited_schools(recipe, blank, facts))
