"""Artwork: the file's facts judged for this way, size and cloth."""

import math
from collections.abc import Callable

from offsetter.core.compute.art_ref import Fixes
from offsetter.core.compute.artwork import READABLE_L, ArtworkFacts, like_cloth
from offsetter.core.compute.fixes import MOST_PIXELS
from offsetter.core.compute.holes import HOLE_MM2, holes_under
from offsetter.core.compute.lettering import Lettering
from offsetter.core.compute.strokes import ThinRung, rung_for
from offsetter.core.context import Context
from offsetter.core.decisions import ArtworkDoc
from offsetter.core.facts import Method
from offsetter.core.quantities import a_length, a_size
from offsetter.core.results import ArtworkDrawing, StationResult, state_of
from offsetter.core.sentences import lowered, say, say_many
from offsetter.core.units import ppi_of, um_of
from offsetter.core.values import Finding, Frozen, Patch
from offsetter.core.values.pixels import MOST_PX, most_enlarged

VERSION = 5
MOST_ENLARGED = 4
HALF = 0.5
TARGET_PPI, FAIR_PPI, POOR_PPI = 300, 200, 150  # common practice, no source
FAINT_MATTERS = 0.02
GROUND_TOLERANCE = 8.0  # CIE76: a little more than a compressed ground wanders, from memory
VANISHING_MATTERS = 0.01
OWN_HOLES, HOLES_MATTER = "own-holes", 12  # lettering of a few words has some: from memory
THICKEN_MORE_PX = (
    1.5  # a stroke or dot brought to a width measures up to 1.4 px under it (measured, tests/core/test_fixes.py)
)


class Inputs(Frozen):
    doc: ArtworkDoc
    facts: ArtworkFacts
    crop_px: tuple[int, int, int, int]
    width_um: int
    height_um: int
    width_px: int = 0
    """In the printer's dots; 0: not known."""
    method: Method
    cloth: str
    colour_name: str
    lettering: Lettering | None = None
    """None: nobody has read it yet."""
    has_words: bool = False
    """It is lettering, by its look or as it was read."""
    fills: bool = False
    """The print goes over every edge of the blank: a full rectangle is meant."""

    def identity(self) -> object:
        return self.model_copy(update={"facts": None}), self.facts.file


def inputs(ctx: Context) -> Inputs:
    return Inputs(
        doc=ctx.decisions.artwork, facts=ctx.picture, crop_px=ctx.spec.crop_px, width_um=ctx.spec.width_um, height_um=ctx.height_um, width_px=ctx.spec.width_px,
        method=ctx.method, cloth=ctx.blank.colour, colour_name=ctx.blank.colour_name, lettering=ctx.here.lettering,
        fills=ctx.asked.artwork.full_bleed, has_words=ctx.has_words,
    )  # fmt: skip


class Judged(Frozen):
    """Figures that the command line gives too."""

    effective_ppi: float
    """By the coarsest picture in it, where a drawing holds one."""
    is_drawing: bool
    """Through and through: it is sharp at every size."""
    reachable_mm: dict[str, float]
    faint_share: float
    vanishing_share: float
    strokes: ThinRung
    gaps: ThinRung
    mm_per_px: float
    findings: tuple[Finding, ...]


def preflight(inputs: Inputs) -> Judged:
    """Judge the artwork at its print width for the method's limits and the cloth."""
    facts, method = inputs.facts, inputs.method
    left, top, right, _ = inputs.crop_px
    width_mm = inputs.width_um / 1000
    mm_per_px = width_mm / (right - left)
    known = facts.ppi_at(width_mm, inputs.crop_px)
    ppi = ppi_of(right - left, width_mm) if known is None else known
    reachable = {str(p): round(ppi * width_mm / p, 1) for p in (TARGET_PPI, FAIR_PPI, POOR_PPI)}
    least_stroke, least_gap = method.min_stroke_mm or 0.0, method.min_gap_mm or 0.0
    strokes = rung_for(facts.strokes, least_stroke / mm_per_px) if least_stroke else rung_for(facts.strokes, 0)
    gaps = rung_for(facts.gaps, least_gap / mm_per_px) if least_gap else rung_for(facts.gaps, 0)
    floor = method.faint_floor or 0.0
    faint, vanishing = facts.faint_share(floor), facts.vanishing_share(inputs.cloth)

    def on_print(rung: ThinRung) -> tuple[tuple[float, float], ...]:
        return tuple((round((s.x_px - left) * mm_per_px, 2), round((s.y_px - top) * mm_per_px, 2)) for s in rung.spots)

    fixes = inputs.doc.fixes

    def put(changes: dict[str, object]) -> Patch:
        """The same fixes with some of them changed."""
        return Patch(station="artwork", changes={"fixes": fixes.model_copy(update=changes).model_dump(mode="json")})

    found = [
        n.model_copy(update={"patch": put({"negative": True})}) if n.code == "cmyk-inverted" else n for n in facts.notes
    ]
    if known is not None:
        found += _resolution(ppi, reachable, width_mm)
    if known is not None and facts.is_vector:
        found.append(Finding(
            code="picture-in-drawing", severity="note", message=say("The file holds a picture: {ppi} ppi at this size, whatever lies round it", ppi=f'{ppi:.0f}'),
            why=say("Lines and letters of a drawing stay sharp; a picture placed in it has the pixels that it has."),
        ))  # fmt: skip
    if facts.is_vector:
        found += _coarser(inputs, (right - left) * most_enlarged(*facts.pixels))
    else:
        found += _enlarge(ppi, fixes, facts, put)
    if facts.real_mm is not None:
        real = facts.real_mm[0] * (right - left) / facts.pixels[0]
        if abs(real - width_mm) > 0.5:
            found.append(Finding(
                code="real-size", severity="note", message=say("The file says {real} wide; the print is {width}", real=a_length(real, 1), width=a_length(width_mm)),
                why=say("A drawing carries the size it was made at."), fix_text=say("Print it {real} wide", real=a_length(real, 1)),
                patch=Patch(station="place", changes={"width_um": um_of(real)}) if 5 <= real <= 3000 else None,
            ))  # fmt: skip
    if facts.content_px != (0, 0, *facts.pixels) and inputs.doc.crop == "none":
        found.append(Finding(
            code="empty-border", severity="note", message=say("There is empty ground around the picture"),
            why=say("Size and place are measured to the file's edge, not to what is seen."), fix_text=say("Crop to the content"),
            patch=Patch(station="artwork", changes={"crop": "content"}),
        ))  # fmt: skip
    if facts.ground is not None and not inputs.fills:
        found.append(Finding(
            code="background-box", severity="caution", message=say("A flat ground ({colour}) goes all round, {share} of the picture", colour=facts.ground.colour, share=f'{facts.ground.share:.0%}'),
            why=say("It would be printed as a box round the picture."), fix_text=say("Take the ground out"),
            patch=put({"ground": GROUND_TOLERANCE}),
        ))  # fmt: skip
    elif facts.ground_inside:
        n = facts.ground_inside
        found.append(Finding(
            code="ground-inside", severity="caution", degree=n, message=say_many(n, "{count} piece of the ground is left inside", "{count} pieces of the ground are left inside"),
            why=say("The picture closes them in, as an a, b or o does: they would be printed in the ground's colour."),
            fix_text=say("Take them out too"), patch=put({"inside": True}),
        ))  # fmt: skip
    elif facts.transparency == "none":
        found.append(Finding(
            code="no-transparency", severity="note" if inputs.fills else "caution", message=say("Nothing in the file is transparent"),
            why=say("The whole rectangle is printed, its ground included."),
            fix_text=say("Ask for the file on a transparent ground, or take it if the box is meant."),
        ))  # fmt: skip
    if floor and faint > FAINT_MATTERS:
        found.append(Finding(
            code="faint", severity="caution", degree=faint, message=say("{faint} of the picture is too faint to hold", faint=f'{faint:.0%}'),
            why=say("{holds} does not hold under {floor} of white (from memory).", holds=method.holds or say('It'), floor=f'{floor:.0%}'),
            fix_text=say("Harden the edges"),
            patch=put({"harden": True}),
        ))  # fmt: skip
    if strokes.count:
        thinnest = strokes.spots[0].width_px * mm_per_px
        stands = sum(s.is_dot for s in strokes.spots)
        what = say("dots and strokes") if 0 < stands < len(strokes.spots) else "dots" if stands else "strokes"
        grow = least_stroke / thinnest
        enough_px = round((least_stroke / mm_per_px + THICKEN_MORE_PX) / (fixes.enlarge or 1), 1)
        holds_at = say("they would hold as they are at {width}", width=a_length(width_mm * grow)) if grow < 1.6 else ""
        can = (fixes.thicken_px or 0.0) < enough_px
        found.append(Finding(
            code="thin-strokes", severity="caution", degree=least_stroke / thinnest,
            message=say("{count} {what} are thinner than {least_stroke}, the thinnest {thinnest}", count=strokes.count, what=what, least_stroke=a_length(least_stroke, None), thinnest=a_length(thinnest, 2)),
            why=say("{name} holds strokes from {least_stroke} ({sources}).", name=method.name, least_stroke=a_length(least_stroke, None), sources=method.sources.get('min_stroke_mm', 'unknown')),
            fix_text="; ".join(t for t in (say("Thicken them to {least_stroke}", least_stroke=a_length(least_stroke, None)) if can else say("Ask for a file with heavier strokes"), holds_at) if t),
            where=on_print(strokes),
            patch=put({"thicken_px": enough_px}) if can else None,
        ))  # fmt: skip
    for said, field in (
        (
            say(
                "It is enlarged {enlarge} times by Lanczos' window: {ppi} ppi came in the file",
                enlarge=f"{fixes.enlarge or 1:g}",
                ppi=f"{ppi / (fixes.enlarge or 1):.0f}",
            ),
            "enlarge",
        ),
        (say("The flat ground is taken out"), "ground"),
        (say("Its pieces inside the picture are taken out too"), "inside"),
        (say("Faint edges are hardened"), "harden"),
        (say("The four inks are read the other way round"), "negative"),
        (say("Thin strokes are brought to the least that holds"), "thicken_px"),
    ):
        if getattr(fixes, field):
            found.append(Finding(
                code=f"fixed-{field.replace('_', '-')}", severity="note", message=said, why=say("Decided here; the customer's file stays as it came."),
                fix_text=say("As the file has it"),
                patch=put({field: Fixes.model_fields[field].default}),
            ))  # fmt: skip
    if gaps.count:
        narrowest = gaps.spots[0].width_px * mm_per_px
        found.append(Finding(
            code="narrow-gaps", severity="note",
            message=say_many(gaps.count, "One gap is narrower than {least_gap}: {narrowest}", "{count} gaps are narrower than {least_gap}, the narrowest {narrowest}", least_gap=a_length(least_gap, None), narrowest=a_length(narrowest, 2)),
            why=say("{holds} bridges gaps under {least_gap} ({sources}).", holds=method.holds or method.medium.capitalize(), least_gap=a_length(least_gap, None), sources=method.sources.get('min_gap_mm', 'unknown')),
            fix_text=say("They may close."), where=on_print(gaps),
        ))  # fmt: skip
    if vanishing > VANISHING_MATTERS:
        found.append(Finding(
            code="vanishing", severity="note", message=say("{vanishing} of the picture is the cloth's own colour", vanishing=f'{vanishing:.0%}'),
            why=say("Within CIEDE2000 9 of {colour_name} cloth.", colour_name=inputs.colour_name),
            fix_text=say("White leaves it out, and the cloth itself shows.") if method.white == "plate" else say("It will hardly be seen."),
        ))  # fmt: skip
    if inputs.has_words and (faint_words := like_cloth(facts.colours, inputs.cloth)) > HALF:
        found.append(Finding(
            code="hard-to-read", severity="caution", degree=faint_words, message=say("Its lettering is hardly lighter or darker than {colour_name} cloth: hard to read from two metres", colour_name=inputs.colour_name),
            why=say("{faint_words} of what is seen lies within {readable_l} of the cloth in lightness (L*, from memory); the eye reads by lightness, not by hue.", faint_words=f'{faint_words:.0%}', readable_l=f'{READABLE_L:.0f}'),
            fix_text=say("Ask for a lighter or darker lettering, or another cloth."),
        ))  # fmt: skip
    holes = holes_under(facts.holes, HOLE_MM2 / mm_per_px**2)
    if holes >= HOLES_MATTER:
        found.append(Finding(
            code=OWN_HOLES, severity="note", message=say("{holes} holes under {hole_mm2} mm² belong to the picture", holes=holes, hole_mm2=f'{HOLE_MM2:g}'),
            why=say("A worn look or fine lettering: marked on the bench here and at Inspect, where they are no fault of the print."),
        ))  # fmt: skip
    found += _read_back(inputs.lettering)
    return Judged(
        effective_ppi=ppi, reachable_mm=reachable, faint_share=round(faint, 4),
        is_drawing=known is None, vanishing_share=round(vanishing, 4), strokes=strokes, gaps=gaps, mm_per_px=mm_per_px, findings=tuple(found),
    )  # fmt: skip


def _read_back(lettering: Lettering | None) -> list[Finding]:
    """What the lettering says, for whoever proof-reads it."""
    if lettering is None or not lettering.text:
        return []
    said = " / ".join(lettering.text.split("\n"))
    found = [Finding(
        code="reads", severity="note", message=say("It reads “{said}”", said=said[:160]), why=say("Read back from the picture by machine: a person reads the proof all the same."),
    )]  # fmt: skip
    if lettering.mirrored:
        found.append(Finding(
            code="reads-backwards", severity="caution", message=say("The lettering reads backwards in the file"),
            why=say("Mirrored here and in the file it would come out right on the carrier and wrong on the piece."),
            fix_text=say("Ask for the file as it is worn: mirroring is done here, once."),
        ))  # fmt: skip
    if lettering.misspelt:
        found.append(Finding(
            code="spelling", severity="caution", degree=len(lettering.misspelt), message=say("In no word list: {misspelt}", misspelt=', '.join(lettering.misspelt[:8])),
            why=say("Names never are; a slip would be printed on every piece."), fix_text=say("Compare it with the order, and have the proof signed."),
        ))  # fmt: skip
    return found


def judge(inputs: Inputs) -> StationResult:
    facts, judged = inputs.facts, preflight(inputs)
    scale = judged.mm_per_px
    left, top = inputs.crop_px[:2]

    def drawn(rung: ThinRung) -> tuple[tuple[float, float, float], ...]:
        return tuple(
            (round((s.x_px - left) * scale, 2), round((s.y_px - top) * scale, 2), round(s.width_px * scale, 3))
            for s in rung.spots
        )

    ppi = judged.effective_ppi
    # What the verdict says in its first words is not said again in its last.
    cautions = [f for f in judged.findings if f.severity != "note" and f.code not in ("coarse", "below-target")]
    if judged.is_drawing:
        verdict = (
            say("A drawing: sharp at every size, but {lower}", lower=lowered(cautions[0].message))
            if cautions
            else say("A drawing: sharp at every size, and everything in it holds")
        )
    elif ppi < POOR_PPI:
        verdict = say("Too coarse at this size: {ppi} ppi", ppi=f"{ppi:.0f}")
    elif cautions:
        verdict = say(
            "{which} at {ppi} ppi, but {lower}",
            which=say("Sharp") if ppi >= TARGET_PPI - 1 else say("Usable"),
            ppi=f"{ppi:.0f}",
            lower=lowered(cautions[0].message),
        )
    else:
        verdict = say(
            "{which} at {ppi} ppi, and everything in it holds",
            which=say("Sharp") if ppi >= TARGET_PPI - 1 else say("Usable"),
            ppi=f"{ppi:.0f}",
        )
    if inputs.doc.fixes.enlarge and not facts.is_vector:
        verdict = say(
            "Enlarged {enlarge} times: smooth at {ppi} ppi, with the detail of {ppi2}",
            enlarge=f"{inputs.doc.fixes.enlarge:g}",
            ppi=f"{ppi:.0f}",
            ppi2=f"{ppi / inputs.doc.fixes.enlarge:.0f}",
        )
    edges = {"none": say("no transparency"), "hard": say("hard edges"), "soft": say("soft edges")}[facts.transparency]
    return StationResult(
        station="artwork", name="Artwork",
        state=state_of(judged.findings, settled=inputs.doc.settled),
        telling="vector" if judged.is_drawing else say("{ppi} ppi", ppi=f'{ppi:.0f}'), verdict=verdict,
        sub=say("{name} · {size_of} · {mode} · {profile} · {edges}", name=facts.name, size_of=_size_of(facts), mode=facts.mode, profile=facts.profile or (say('drawn in sRGB') if facts.is_vector else say('no profile, read as sRGB')), edges=edges),
        findings=judged.findings,
        drawing=ArtworkDrawing(
            pixels=facts.pixels, content_px=facts.content_px, crop_px=inputs.crop_px, width_mm=inputs.width_um / 1000,
            height_mm=inputs.height_um / 1000, strokes=drawn(judged.strokes), gaps=drawn(judged.gaps),
            reachable_mm=judged.reachable_mm, cloth=inputs.cloth, is_vector=judged.is_drawing, lettering=inputs.lettering,
        ),
    )  # fmt: skip


def _resolution(ppi: float, reachable: dict[str, float], width_mm: float) -> list[Finding]:
    if ppi >= TARGET_PPI - 1:
        return []
    fits = reachable[str(FAIR_PPI)] if ppi < POOR_PPI else reachable[str(TARGET_PPI)]
    at = FAIR_PPI if ppi < POOR_PPI else TARGET_PPI
    return [Finding(
        code="coarse" if ppi < POOR_PPI else "below-target",
        severity="blocker" if ppi < POOR_PPI / 2 else "caution" if ppi < FAIR_PPI else "note", degree=TARGET_PPI / ppi,
        message=say("{ppi} ppi at {width}; the target is {target_ppi}", ppi=f'{ppi:.0f}', width=a_length(width_mm), target_ppi=TARGET_PPI),
        why=say("Under 150 ppi the steps show at arm's length; from 200 most pictures look sharp."),
        fix_text=say("{at} ppi are reached at {fits}", at=at, fits=a_length(fits)),
        patch=Patch(station="place", changes={"width_um": um_of(fits)}) if fits >= 5 else None,
    )]  # fmt: skip


def _coarser(inputs: Inputs, most_px: float) -> list[Finding]:
    """A drawing that is too large in print to be drawn dot for dot, or as finely as an eye asks for."""
    drawn, wanted = (ppi_of(px, inputs.width_um / 1000) for px in (most_px, inputs.width_px))
    if drawn >= min(wanted, TARGET_PPI):
        return []
    return [Finding(
        code="drawn-coarser", severity="note", message=say("So large, the drawing is drawn at {drawn} ppi; the printer takes {wanted}", drawn=f'{drawn:.0f}', wanted=f'{wanted:.0f}'),
        why=say("A drawing is held whole while plates are made of it: {most_px} million pixels at most. The rest is enlarged from there.", most_px=MOST_PX // 10 ** 6),
    )]  # fmt: skip


def _enlarge(ppi: float, fixes: Fixes, facts: ArtworkFacts, put: Callable[[dict[str, object]], Patch]) -> list[Finding]:
    """Steps that would show can be smoothed; what the file does not hold stays away."""
    times = float(min(MOST_ENLARGED, math.ceil(TARGET_PPI / ppi)))
    if ppi >= FAIR_PPI or fixes.enlarge or facts.pixels[0] * facts.pixels[1] * times**2 > MOST_PIXELS:
        return []
    return [Finding(
        code="enlarge", severity="note", message=say("Enlarged {times} times its steps become smooth edges", times=f'{times:g}'),
        why=say("Lanczos' window of eight invents nothing: edges get even, detail that is not in the file stays away."),
        fix_text=say("Enlarge it {times} times", times=f'{times:g}'), patch=put({"enlarge": times}),
    )]  # fmt: skip


def _size_of(facts: ArtworkFacts) -> str:
    if facts.is_vector and facts.real_mm:
        return a_size(facts.real_mm[0], facts.real_mm[1])
    return say("{pixels} x {pixels2} px", pixels=facts.pixels[0], pixels2=facts.pixels[1])
