"""Colour: what the inks make of the picture, how much ink that is, and what it looks like on this cloth."""

from typing import Literal

from offsetter.core import derive, levels
from offsetter.core.compute.artwork import READABLE_L, ColourShare, like_cloth
from offsetter.core.compute.cielab import hex_of_lab
from offsetter.core.compute.plate_spec import ColourSpec, PlateMeasure
from offsetter.core.context import Context
from offsetter.core.decisions import ColourDoc
from offsetter.core.facts import Condition, Method, Profile
from offsetter.core.facts.inks import LIGHT_STRENGTH, name_of
from offsetter.core.results import BrandStep, ColourDrawing, ColourStep, GarmentDrawing, StationResult, state_of
from offsetter.core.sentences import capitalised, listed, say, say_many
from offsetter.core.values import Finding, Frozen, Patch

VERSION = 7
MISSES_MATTER = 0.05  # of the picture: from memory
CLEAR_FILM, PAPER = "#C9D0D3", "#F5F3EE"
CLOSE_DELTA_E = 3.0  # nearer than this two colours pass for the same side by side: from memory


class Inputs(Frozen):
    doc: ColourDoc
    spec: ColourSpec
    method: Method
    measure: PlateMeasure
    steps: tuple[ColourStep, ...]
    garment: GarmentDrawing
    profile: Profile | None
    is_own_profile: bool = True
    """Measured for this printer and medium; otherwise one that stands in until it has been measured."""
    polyester: float = 1.0
    """Share of the fibre that takes dye."""
    condition: str = ""
    """Printer, medium and mode in words."""
    pinned: Condition | None = None
    newer: Condition | None = None
    """The condition as it is now, where it prints other dots than the way pinned."""
    brands: tuple[BrandStep, ...] = ()
    misses_share: float = 0.0
    idle: tuple[str, ...] = ()
    """Inks that the printer holds and these plates have no use for."""
    mirrored: bool = False
    carrier: str = CLEAR_FILM
    art_kind: Literal["photo", "lettering", "graphic"] = "graphic"
    has_words: bool = False
    sheet: str = ""
    """Of the coloured sheet that gives the colour, its name; empty: the inks do."""

    def identity(self) -> object:
        # Long and named already: a profile by its hash, curves by their condition's version.
        short = self.model_copy(
            update={"profile": None, "pinned": None, "newer": None, "spec": self.spec.model_copy(update={"curves": ()})}
        )
        return (
            short,
            *((c.id, c.version) if c else None for c in (self.pinned, self.newer)),
            self.profile.id if self.profile else "",
        )

    @property
    def profile_name(self) -> str:
        return self.profile.name if self.profile else say("a profile that is not kept any more")


def inputs(ctx: Context) -> Inputs:
    shop, way, spec, measured = ctx.shop, ctx.gone, ctx.spec, ctx.given.measured
    assert measured is not None
    mode = next(m.name for m in ctx.printer.modes if m.id == way.mode)
    bare = CLEAR_FILM if ctx.method.white == "plate" else PAPER
    return Inputs(
        doc=ctx.decisions.colour, spec=spec.colour, method=ctx.method, measure=ctx.measured, steps=measured.steps, garment=ctx.garment,
        profile=shop.profiles.get(way.profile), is_own_profile=derive.has_own_profile(shop, way), polyester=derive.polyester_of(ctx.blank),
        condition=f"{ctx.printer.name} · {ctx.feed.media.replace('-', ' ')} · {mode}", pinned=derive.condition_of(shop, way),
        newer=derive.newer_condition(shop, way), brands=measured.brands, misses_share=measured.misses,
        idle=() if spec.colour.driver else tuple(i for i in ctx.printer.inks if i not in spec.colour.lays), mirrored=spec.mirrored,
        carrier=ctx.blank.colour if ctx.feed.kind == "garment" else bare, art_kind=ctx.asked.artwork.kind,
        has_words=ctx.has_words, sheet=ctx.coloured_sheet.name if ctx.coloured_sheet else say("the sheet's colour") if ctx.method.composite_black else "",
    )  # fmt: skip


def live(ctx: Context) -> tuple[Finding, ...]:
    """How far the printer's colours have wandered, while something is still to print."""
    if ctx.ledger.printed and not ctx.ledger.to_print:
        return ()
    drifted = levels.drifted(ctx.shop, ctx.printer.id, ctx.feed.media, ctx.gone.mode)
    sheet, need = ctx.coloured_sheet, len(ctx.layout.cut_lengths_um) if ctx.layout else 0
    return (*drifted, *(levels.short_coloured(ctx.given.levels, sheet, need) if sheet else ()))


def judge(inputs: Inputs) -> StationResult:
    measure, limit = inputs.measure, inputs.spec.ink_limit_pct
    findings: list[Finding] = []
    if measure.over_limit_share > 0:
        findings.append(Finding(
            code="over-limit", severity="note",
            message=say("{over_limit_share} of the print wants more than {limit} % {colorant} and is held back", over_limit_share=f'{measure.over_limit_share:.1%}', limit=f'{limit:.0f}', colorant=inputs.method.colorant),
            why=say("Up to {total_max} % was asked; {medium} holds no more than {limit} % ({limit_source}). Black is kept, the colours give way.", total_max=f'{measure.total_max_pct:.0f}', medium=inputs.method.medium, limit=f'{limit:.0f}', limit_source=_limit_source(inputs)),
            fix_text=say("Look at the places on the bench: they turn a little lighter."),
        ))  # fmt: skip
    found = inputs.pinned.ink_limit_pct if inputs.pinned else None
    normal = found or inputs.method.ink_limit_pct
    if normal and limit > normal + 10:
        findings.append(Finding(
            code="limit-high", severity="caution", degree=limit, message=say("{limit} % is more than {medium} usually holds", limit=f'{limit:.0f}', medium=inputs.method.medium),
            why=say("{which} {normal} %; above it {which2} and the print is lost.", which=say('A ramp on this medium held') if found else say('The method holds'), normal=f'{normal:.0f}', which2=say('toner flakes') if inputs.method.colorant == 'toner' else say('ink pools')),
            fix_text=say("Go back to {normal} %", normal=f'{normal:.0f}'),
        ))  # fmt: skip
    findings += _condition(inputs)
    if inputs.newer is None and not inputs.is_own_profile and not inputs.sheet:
        findings.append(Finding(
            code="profile-stands-in", severity="note", message=say("No profile of its own: colours are worked out with “{profile_name}”", profile_name=inputs.profile_name),
            why=say("Nobody has measured {medium} on this printer yet.", medium=inputs.method.medium), fix_text=say("Press one and judge it before the order."),
        ))  # fmt: skip
    if inputs.method.lies == "in":
        findings.append(Finding(
            code="judge-pressed", severity="note", message=say("On paper it looks dull and its cool hues mislead: judge it pressed alone"),
            why=say("Dye shows its colour when heat has driven it in."),
        ))  # fmt: skip
        if inputs.polyester < 1:
            findings.append(Finding(
                code="dye-strength", severity="note", message=say("The print keeps about {polyester} of its strength on this cloth", polyester=f'{inputs.polyester:.0%}'),
                why=say("Dye holds on polyester alone, and this much of the cloth is polyester (linear, from memory)."),
            ))  # fmt: skip
    if inputs.method.composite_black:
        findings.append(Finding(
            code="composite-black", severity="note", message=say("Everything is printed as one even layer of all four toners"),
            why=say("The coloured sheet sticks to toner and gives the colour; a thin black alone would not hold it evenly."),
        ))  # fmt: skip
    # Only colours that make up something the eye finds: a per cent of the picture.
    seen = [s for s in inputs.steps if s.share >= 0.01]
    if inputs.sheet and len(seen) > 1:
        findings.append(Finding(
            code="one-colour", severity="caution", degree=len(seen), message=say("All {seen} colours of the picture come out {sheet}", seen=len(seen), sheet=inputs.sheet),
            why=say("One coloured sheet gives one colour, wherever toner lies."), fix_text=say("Choose the sheet's colour, or another way at Method for a picture of several."),
        ))  # fmt: skip
    if not inputs.sheet:  # a sheet's colour is its own, whatever the picture asks
        findings += _content(inputs) + [f for b in inputs.brands for f in _brand(inputs, b)]
    if inputs.has_words:
        findings += _readable(inputs)
    if inputs.sheet:
        seen = []
    worst = max(seen, key=lambda s: s.delta_e_2000, default=None)
    if worst and worst.delta_e_2000 > CLOSE_DELTA_E:
        findings.append(Finding(
            code="out-of-reach", severity="note",
            message=say("{asked} comes out {delta_e_2000} away", asked=worst.asked, delta_e_2000=f'{worst.delta_e_2000:.1f}'),
            why=say("The {colorant}s cannot reach it on white; CIEDE2000 3 is about where two colours side by side begin to differ.", colorant=inputs.method.colorant),
            fix_text=say("Show the customer the proof, or choose another intent."),
        ))  # fmt: skip
    within = max((s.delta_e_2000 for s in seen), default=0.0)
    verdict = say(
        "The main colours come within {within} of what was asked, with {total_max} % {colorant} at most",
        within=f"{within:.1f}",
        total_max=f"{min(measure.total_max_pct, limit):.0f}",
        colorant=inputs.method.colorant,
    )
    if within > CLOSE_DELTA_E and worst:
        verdict = say(
            "The {colorant}s reach the picture but for {asked}, which lands {within} away",
            colorant=inputs.method.colorant,
            asked=worst.asked,
            within=f"{within:.1f}",
        )
    if inputs.sheet:
        return StationResult(
            station="colour", name="Colour", state=state_of(tuple(findings), settled=inputs.doc.settled), telling=say("{sheet} sheet", sheet=inputs.sheet),
            verdict=say("All of it comes out {sheet}: the coloured sheet gives the colour", sheet=inputs.sheet),
            sub=say("{condition} · one even layer of {total_max} % {colorant}", condition=inputs.condition, total_max=f'{min(measure.total_max_pct, limit):.0f}', colorant=inputs.method.colorant), findings=tuple(findings), drawing=_drawing(inputs),
        )  # fmt: skip
    return StationResult(
        station="colour", name="Colour", state=state_of(tuple(findings), settled=inputs.doc.settled),
        telling=say("within ΔE {within}", within=f'{within:.1f}'), verdict=verdict,
        sub=say("profile “{profile_name}” · {intent} intent{which} · differences in CIEDE2000", profile_name=inputs.profile_name, intent=inputs.spec.intent, which=say(' with black-point compensation') if inputs.spec.black_point else ''),
        findings=tuple(findings), drawing=_drawing(inputs),
    )  # fmt: skip


def _drawing(inputs: Inputs) -> ColourDrawing:
    return ColourDrawing(
        garment=inputs.garment, colours=inputs.steps, over_limit_share=inputs.measure.over_limit_share, brands=inputs.brands, colorant=inputs.method.colorant,
        misses_share=inputs.misses_share, is_driven=bool(inputs.spec.driver), mirrored=inputs.mirrored, carrier=inputs.carrier, condition=inputs.condition, sheets=inputs.method.sheets,
        limit_pct=inputs.spec.ink_limit_pct,
    )  # fmt: skip


def _condition(inputs: Inputs) -> list[Finding]:
    """What was corrected on this printer and medium, and what is newer than the way's own."""
    found = []
    if inputs.newer is not None:
        found.append(Finding(
            code="newer-condition", severity="caution" if inputs.pinned is None else "note",
            message=say("{condition} has been {why} since this way was chosen", condition=inputs.condition, why=inputs.newer.why.lower() or say('changed')),
            why=say("A way keeps the profile and the correction it was decided with; prints of both would differ."),
            fix_text=say("Take the newer one for what is still to print"),
            patch=Patch(station="method", changes={"profile": inputs.newer.profile, "calibration": inputs.newer.version}),
        ))  # fmt: skip
    elif inputs.pinned is not None and inputs.pinned.curves:
        half = [round(next(y for x, y in c if x == 50.0)) for c in inputs.pinned.curves]
        found.append(Finding(
            code="corrected", severity="note", message=say("Tones are corrected for this printer: 50 % is sent as ") + ", ".join(
                f"{n} {v}" for n, v in zip(inputs.spec.separates, half, strict=True)),
            why=say("{why}, so that it prints as its profile says.", why=inputs.pinned.why),
        ))  # fmt: skip
    if inputs.idle and not inputs.sheet:
        named = listed(name_of(i) for i in inputs.idle)
        found.append(Finding(
            code="inks-idle", severity="note", message=say_many(len(inputs.idle), "{named} is not printed with: the profile is for {separates}", "{named} are not printed with: the profile is for {separates}", named=capitalised(named), separates=', '.join(name_of(i) for i in inputs.spec.separates)),
            why=say("Only a profile made for all its inks says what they add."), fix_text=say("Give this printer the profile of all its inks at Colour in the shop's areas."),
        ))  # fmt: skip
    if inputs.spec.light:
        found.append(Finding(
            code="light-inks", severity="note", message=say("Light tones go to {light}", light=listed(name_of(i) for i in inputs.spec.light)),
            why=say("Small pale dots are seen less than few dark ones; a light ink counts {light_strength} of its full one (from memory), and the tone stays the same.", light_strength=f'{LIGHT_STRENGTH:.0%}'),
        ))  # fmt: skip
    if inputs.spec.driver:
        found.append(Finding(
            code="own-driver", severity="note", message=say("This printer gets RGB in its own profile and separates by itself"),
            why=say("Its driver lays the {colorant}s; the shares shown are an estimate.", colorant=inputs.method.colorant), fix_text=say("Switch the driver's own colour changes off, scale 100 %."),
        ))  # fmt: skip
    for shift in inputs.spec.shifts:
        rest = [s for s in inputs.doc.shifts if s != shift]
        found.append(Finding(
            code=f"shifted-{shift.colour[1:].lower()}", severity="note", message=say("{colour} is printed as {hex_of_lab}", colour=shift.colour.upper(), hex_of_lab=hex_of_lab(shift.lab)),
            why=say("Decided here, after a pressed piece or for a customer's colour; its shades go part of the way with it."), fix_text=say("As the artwork has it"),
            patch=Patch(station="colour", changes={"shifts": [s.model_dump(mode="json") for s in rest]}),
        ))  # fmt: skip
    return found


def _content(inputs: Inputs) -> list[Finding]:
    """Photograph or flat graphic: which way of treating what cannot be reached suits it."""
    intent = inputs.spec.intent
    if inputs.art_kind == "photo" and intent != "perceptual" and inputs.misses_share > MISSES_MATTER:
        return [Finding(
            code="looks-like-photograph", severity="note", message=say("It looks like a photograph, and {misses_share} of it cannot be reached", misses_share=f'{inputs.misses_share:.0%}'),
            why=say("Perceptual draws all shades together, so that none of them run into one."), fix_text=say("Keep the shades apart (perceptual)"),
            patch=Patch(station="colour", changes={"intent": "perceptual"}),
        )]  # fmt: skip
    if inputs.art_kind != "photo" and intent == "perceptual":
        return [Finding(
            code="looks-like-graphic", severity="note", message=say("It looks like a flat graphic, and perceptual moves colours that could be met"),
            why=say("Relative keeps every colour that the {colorant}s reach.", colorant=inputs.method.colorant), fix_text=say("Keep what is reachable (relative)"),
            patch=Patch(station="colour", changes={"intent": "relative"}),
        )]  # fmt: skip
    return []


def _readable(inputs: Inputs) -> list[Finding]:
    """Lettering is read by its lightness against the cloth, as it comes out there."""
    seen = tuple(ColourShare(rgb=_rgb(s.on_cloth), share=s.share) for s in inputs.steps)
    alike = like_cloth(seen, inputs.garment.colour)
    if alike <= 0.5:
        return []
    return [Finding(
        code="hard-to-read", severity="caution", degree=alike, message=say("On this cloth its lettering is hard to read from two metres"),
        why=say("{alike} of what is seen comes out within {readable_l} of the cloth in lightness (L*, from memory).", alike=f'{alike:.0%}', readable_l=f'{READABLE_L:.0f}'),
        fix_text=say("Show the customer the proof on this cloth, or ask for another colour."),
    )]  # fmt: skip


def _rgb(colour: str) -> tuple[int, int, int]:
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


def _brand(inputs: Inputs, brand: BrandStep) -> list[Finding]:
    """Whether a customer's colour is met, and what comes nearest where it is not."""
    code = f"brand-{'-'.join(brand.name.lower().split())}"
    shift = {"colour": brand.in_artwork, "lab": brand.ask_lab}
    is_shifted = any(s.colour.upper() == brand.in_artwork.upper() for s in inputs.doc.shifts)
    if brand.delta_e <= brand.within_delta_e:
        return [Finding(code=code, severity="note", message=say("“{name}” is met within {delta_e} of {within_delta_e} allowed", name=brand.name, delta_e=f'{brand.delta_e:.1f}', within_delta_e=f'{brand.within_delta_e:.1f}'),
                        why=say("The customer's own colour, against what prints on full white (CIEDE2000)."))]  # fmt: skip
    can = brand.ask_delta_e < brand.delta_e - 0.3 and not is_shifted
    others = [s.model_dump(mode="json") for s in inputs.doc.shifts]
    return [Finding(
        code=code, severity="caution", degree=brand.delta_e, message=say("“{name}” lands {delta_e} away, and {within_delta_e} is allowed", name=brand.name, delta_e=f'{brand.delta_e:.1f}', within_delta_e=f'{brand.within_delta_e:.1f}'),
        why=say("The file's colour is {artwork_delta_e} off it; the nearest that these {colorant}s print lies {nearest_delta_e} off.", artwork_delta_e=f'{brand.artwork_delta_e:.1f}', colorant=inputs.method.colorant, nearest_delta_e=f'{brand.nearest_delta_e:.1f}'),
        fix_text=say("Print it nearer: within {ask_delta_e}", ask_delta_e=f'{brand.ask_delta_e:.1f}') if can else say("Show the customer the nearest, and have the proof signed."),
        patch=Patch(station="colour", changes={"shifts": [*others, shift]}) if can else None,
    )]  # fmt: skip


def _limit_source(inputs: Inputs) -> str:
    if inputs.doc.ink_limit_pct:
        return say("decided here")
    return (
        inputs.pinned.why
        if inputs.pinned and inputs.pinned.ink_limit_pct
        else str(inputs.method.sources.get("ink_limit_pct", say("decided here")))
    )
