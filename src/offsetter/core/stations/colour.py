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
        return self.profile.name if self.profile else "a profile that is not kept any more"


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
        has_words=ctx.has_words, sheet=ctx.coloured_sheet.name if ctx.coloured_sheet else "the sheet's colour" if ctx.method.composite_black else "",
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
            message=f"{measure.over_limit_share:.1%} of the print wants more than {limit:.0f} % {inputs.method.colorant} and is held back",
            why=f"Up to {measure.total_max_pct:.0f} % was asked; {inputs.method.medium} holds no more than {limit:.0f} % "
            f"({_limit_source(inputs)}). Black is kept, the colours give way.",
            fix_text="Look at the places on the bench: they turn a little lighter.",
        ))  # fmt: skip
    found = inputs.pinned.ink_limit_pct if inputs.pinned else None
    normal = found or inputs.method.ink_limit_pct
    if normal and limit > normal + 10:
        findings.append(Finding(
            code="limit-high", severity="caution", degree=limit, message=f"{limit:.0f} % is more than {inputs.method.medium} usually holds",
            why=f"{'A ramp on this medium held' if found else 'The method holds'} {normal:.0f} %; above it {'toner flakes' if inputs.method.colorant == 'toner' else 'ink pools'} and the print is lost.",
            fix_text=f"Go back to {normal:.0f} %",
        ))  # fmt: skip
    findings += _condition(inputs)
    if inputs.newer is None and not inputs.is_own_profile and not inputs.sheet:
        findings.append(Finding(
            code="profile-stands-in", severity="note", message=f"No profile of its own: colours are worked out with “{inputs.profile_name}”",
            why=f"Nobody has measured {inputs.method.medium} on this printer yet.", fix_text="Press one and judge it before the order.",
        ))  # fmt: skip
    if inputs.method.lies == "in":
        findings.append(Finding(
            code="judge-pressed", severity="note", message="On paper it looks dull and its cool hues mislead: judge it pressed alone",
            why="Dye shows its colour when heat has driven it in.",
        ))  # fmt: skip
        if inputs.polyester < 1:
            findings.append(Finding(
                code="dye-strength", severity="note", message=f"The print keeps about {inputs.polyester:.0%} of its strength on this cloth",
                why="Dye holds on polyester alone, and this much of the cloth is polyester (linear, from memory).",
            ))  # fmt: skip
    if inputs.method.composite_black:
        findings.append(Finding(
            code="composite-black", severity="note", message="Everything is printed as one even layer of all four toners",
            why="The coloured sheet sticks to toner and gives the colour; a thin black alone would not hold it evenly.",
        ))  # fmt: skip
    # Only colours that make up something the eye finds: a per cent of the picture.
    seen = [s for s in inputs.steps if s.share >= 0.01]
    if inputs.sheet and len(seen) > 1:
        findings.append(Finding(
            code="one-colour", severity="caution", degree=len(seen), message=f"All {len(seen)} colours of the picture come out {inputs.sheet}",
            why="One coloured sheet gives one colour, wherever toner lies.", fix_text="Choose the sheet's colour, or another way at Method for a picture of several.",
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
            message=f"{worst.asked} comes out {worst.delta_e_2000:.1f} away",
            why=f"The {inputs.method.colorant}s cannot reach it on white; CIEDE2000 3 is about where two colours side by side begin to differ.",
            fix_text="Show the customer the proof, or choose another intent.",
        ))  # fmt: skip
    within = max((s.delta_e_2000 for s in seen), default=0.0)
    verdict = f"The main colours come within {within:.1f} of what was asked, with {min(measure.total_max_pct, limit):.0f} % {inputs.method.colorant} at most"
    if within > CLOSE_DELTA_E and worst:
        verdict = (
            f"The {inputs.method.colorant}s reach the picture but for {worst.asked}, which lands {within:.1f} away"
        )
    if inputs.sheet:
        return StationResult(
            station="colour", name="Colour", state=state_of(tuple(findings), settled=inputs.doc.settled), telling=f"{inputs.sheet} sheet",
            verdict=f"All of it comes out {inputs.sheet}: the coloured sheet gives the colour",
            sub=f"{inputs.condition} · one even layer of {min(measure.total_max_pct, limit):.0f} % {inputs.method.colorant}", findings=tuple(findings), drawing=_drawing(inputs),
        )  # fmt: skip
    return StationResult(
        station="colour", name="Colour", state=state_of(tuple(findings), settled=inputs.doc.settled),
        telling=f"within ΔE {within:.1f}", verdict=verdict,
        sub=f"profile “{inputs.profile_name}” · {inputs.spec.intent} intent"
        f"{' with black-point compensation' if inputs.spec.black_point else ''} · differences in CIEDE2000",
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
            message=f"{inputs.condition} has been {inputs.newer.why.lower() or 'changed'} since this way was chosen",
            why="A way keeps the profile and the correction it was decided with; prints of both would differ.",
            fix_text="Take the newer one for what is still to print",
            patch=Patch(station="method", changes={"profile": inputs.newer.profile, "calibration": inputs.newer.version}),
        ))  # fmt: skip
    elif inputs.pinned is not None and inputs.pinned.curves:
        half = [round(next(y for x, y in c if x == 50.0)) for c in inputs.pinned.curves]
        found.append(Finding(
            code="corrected", severity="note", message="Tones are corrected for this printer: 50 % is sent as " + ", ".join(
                f"{n} {v}" for n, v in zip(inputs.spec.separates, half, strict=True)),
            why=f"{inputs.pinned.why}, so that it prints as its profile says.",
        ))  # fmt: skip
    if inputs.idle and not inputs.sheet:
        named = " and ".join(name_of(i) for i in inputs.idle)
        found.append(Finding(
            code="inks-idle", severity="note", message=f"{named.capitalize()} {'is' if len(inputs.idle) == 1 else 'are'} not printed with: the profile is for {', '.join(name_of(i) for i in inputs.spec.separates)}",
            why="Only a profile made for all its inks says what they add.", fix_text="Give this printer the profile of all its inks at Colour in the shop's areas.",
        ))  # fmt: skip
    if inputs.spec.light:
        found.append(Finding(
            code="light-inks", severity="note", message=f"Light tones go to {' and '.join(name_of(i) for i in inputs.spec.light)}",
            why=f"Small pale dots are seen less than few dark ones; a light ink counts {LIGHT_STRENGTH:.0%} of its full one (from memory), and the tone stays the same.",
        ))  # fmt: skip
    if inputs.spec.driver:
        found.append(Finding(
            code="own-driver", severity="note", message="This printer gets RGB in its own profile and separates by itself",
            why=f"Its driver lays the {inputs.method.colorant}s; the shares shown are an estimate.", fix_text="Switch the driver's own colour changes off, scale 100 %.",
        ))  # fmt: skip
    for shift in inputs.spec.shifts:
        rest = [s for s in inputs.doc.shifts if s != shift]
        found.append(Finding(
            code=f"shifted-{shift.colour[1:].lower()}", severity="note", message=f"{shift.colour.upper()} is printed as {hex_of_lab(shift.lab)}",
            why="Decided here, after a pressed piece or for a customer's colour; its shades go part of the way with it.", fix_text="As the artwork has it",
            patch=Patch(station="colour", changes={"shifts": [s.model_dump(mode="json") for s in rest]}),
        ))  # fmt: skip
    return found


def _content(inputs: Inputs) -> list[Finding]:
    """Photograph or flat graphic: which way of treating what cannot be reached suits it."""
    intent = inputs.spec.intent
    if inputs.art_kind == "photo" and intent != "perceptual" and inputs.misses_share > MISSES_MATTER:
        return [Finding(
            code="looks-like-photograph", severity="note", message=f"It looks like a photograph, and {inputs.misses_share:.0%} of it cannot be reached",
            why="Perceptual draws all shades together, so that none of them run into one.", fix_text="Keep the shades apart (perceptual)",
            patch=Patch(station="colour", changes={"intent": "perceptual"}),
        )]  # fmt: skip
    if inputs.art_kind != "photo" and intent == "perceptual":
        return [Finding(
            code="looks-like-graphic", severity="note", message="It looks like a flat graphic, and perceptual moves colours that could be met",
            why=f"Relative keeps every colour that the {inputs.method.colorant}s reach.", fix_text="Keep what is reachable (relative)",
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
        code="hard-to-read", severity="caution", degree=alike, message="On this cloth its lettering is hard to read from two metres",
        why=f"{alike:.0%} of what is seen comes out within {READABLE_L:.0f} of the cloth in lightness (L*, from memory).",
        fix_text="Show the customer the proof on this cloth, or ask for another colour.",
    )]  # fmt: skip


def _rgb(colour: str) -> tuple[int, int, int]:
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


def _brand(inputs: Inputs, brand: BrandStep) -> list[Finding]:
    """Whether a customer's colour is met, and what comes nearest where it is not."""
    code = f"brand-{'-'.join(brand.name.lower().split())}"
    shift = {"colour": brand.in_artwork, "lab": brand.ask_lab}
    is_shifted = any(s.colour.upper() == brand.in_artwork.upper() for s in inputs.doc.shifts)
    if brand.delta_e <= brand.within_delta_e:
        return [Finding(code=code, severity="note", message=f"“{brand.name}” is met within {brand.delta_e:.1f} of {brand.within_delta_e:.1f} allowed",
                        why="The customer's own colour, against what prints on full white (CIEDE2000).")]  # fmt: skip
    can = brand.ask_delta_e < brand.delta_e - 0.3 and not is_shifted
    others = [s.model_dump(mode="json") for s in inputs.doc.shifts]
    return [Finding(
        code=code, severity="caution", degree=brand.delta_e, message=f"“{brand.name}” lands {brand.delta_e:.1f} away, and {brand.within_delta_e:.1f} is allowed",
        why=f"The file's colour is {brand.artwork_delta_e:.1f} off it; the nearest that these {inputs.method.colorant}s print lies {brand.nearest_delta_e:.1f} off.",
        fix_text=f"Print it nearer: within {brand.ask_delta_e:.1f}" if can else "Show the customer the nearest, and have the proof signed.",
        patch=Patch(station="colour", changes={"shifts": [*others, shift]}) if can else None,
    )]  # fmt: skip


def _limit_source(inputs: Inputs) -> str:
    if inputs.doc.ink_limit_pct:
        return "decided here"
    return (
        inputs.pinned.why
        if inputs.pinned and inputs.pinned.ink_limit_pct
        else str(inputs.method.sources.get("ink_limit_pct", "decided here"))
    )
