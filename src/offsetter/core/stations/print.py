"""Print: the files, the load card and the reading check; out of date is judged here, by physical signature."""

from typing import Literal

from offsetter.core import levels
from offsetter.core.compute.cost import ink_of, pages_at_5
from offsetter.core.compute.plate_spec import PlateMeasure, PlateSpec
from offsetter.core.context import Context
from offsetter.core.facts import Feed, GarmentSize, Medium, Method, Printer
from offsetter.core.ledger import Ledger
from offsetter.core.proof import ProofState
from offsetter.core.quantities import a_length
from offsetter.core.results import LoadDrawing, State, StationResult
from offsetter.core.sentences import listed, say, say_many
from offsetter.core.values import Finding, Frozen
from offsetter.core.wording import several

VERSION = 8


class Inputs(Frozen):
    method: Method
    printer: Printer
    feed: Feed
    wet: bool = True
    not_prepared: int = 0
    """Garments that must be prepared before they are printed."""
    spec: PlateSpec
    symmetric: bool
    """Its shapes look alike both ways."""
    words: Literal["some", "none", "unread"] = "none"
    """One word anywhere makes a wrong mirror show."""
    measure: PlateMeasure | None
    """Of the device-size plates; None until they are made."""
    ink_ml: dict[str, float]
    ledger: Ledger
    is_released: bool
    blocked_by: tuple[str, ...]
    proof: ProofState = ProofState(state="not wanted")
    stands_up: tuple[str, ...] = ()
    """Under the print on a garment that is printed itself."""
    inside_mm: float | None = None
    """How wide that garment is inside."""
    card: Medium | None = None

    @property
    def would_show(self) -> bool:
        """A wrong mirror: lettering decides first, then what differs from side to side."""
        return self.words == "some" or not self.symmetric


def inputs(ctx: Context) -> Inputs:
    first, variant = ctx.before_print, ctx.variant
    released = [r for r in ctx.given.runs if variant and r.state == "released" and variant.signature in r.laid()]
    return Inputs(
        method=ctx.method, printer=ctx.printer, feed=ctx.feed, wet=any(s.window_s for s in ctx.after_print),
        not_prepared=ctx.ledger.to_prepare(first[-1].id) if first else 0, spec=ctx.spec, symmetric=ctx.picture.symmetric, words=_words(ctx),
        measure=ctx.given.measured.device if ctx.given.measured else None, ink_ml=ink_of(ctx.spec, ctx.measured, ctx.method),
        ledger=ctx.ledger, is_released=bool(released), blocked_by=tuple(n for n, r in ctx.done.items() if r.state == "blocked"), proof=ctx.proof,
        stands_up=ctx.asked.blank.obstacles if ctx.method.uneven == "risers" else (), inside_mm=_inside(ctx), card=ctx.shop.medium(ctx.feed.media),
    )  # fmt: skip


def live(ctx: Context) -> tuple[Finding, ...]:
    """Whether the roll, the sheets and the inks last for this run."""
    if ctx.layout is None or (ctx.ledger.printed and not ctx.ledger.to_print):
        return ()
    ink = ink_of(ctx.spec, ctx.measured, ctx.method)
    toner = pages_at_5(ctx.measured.coverage_pct, ctx.spec.width_um / 1000, ctx.spec.height_um / 1000) if ctx.printer.yields else {}  # fmt: skip
    return levels.short_supplies(ctx.given.levels, ctx.printer, ctx.feed, ctx.layout, ink, toner)


def _inside(ctx: Context) -> float | None:
    """Of a garment that goes over the printer's platen."""
    size = ctx.blank.sizes[ctx.size]
    return size.chest_mm if ctx.feed.kind == "garment" and isinstance(size, GarmentSize) else None


def _on_the_platen(inputs: Inputs) -> list[Finding]:
    """What hands do at the platen of a printer that takes the garment itself."""
    found = []
    if inputs.inside_mm is not None and inputs.inside_mm < inputs.feed.media_mm:
        found.append(Finding(
            code="platen-wide", severity="caution", message=say("The garment is {inside} wide inside; the platen is {media}", inside=a_length(inputs.inside_mm), media=a_length(inputs.feed.media_mm)),
            why=say("Stretched over a platen it prints narrow and comes out wavy."), fix_text=say("Take the smaller platen."),
        ))  # fmt: skip
    if inputs.stands_up:
        what = listed(inputs.stands_up)
        found.append(Finding(
            code="risers", severity="note", message=say("Risers beside the {what}, the platen's height by the thickest place; wipe the platen after each piece", what=what),
            why=say("A head that touches the {what} stops the print; ink that falls beside it soils the next garment.", what=what),
        ))  # fmt: skip
    return found


def judge(inputs: Inputs) -> StationResult:
    ledger, stale = inputs.ledger, inputs.ledger.stale
    findings: list[Finding] = []
    for old in stale:
        findings.append(Finding(
            code="out-of-date", severity="caution",
            message=say("{counted} and {counted2} no longer match", counted=several(old.transfers, f'printed {inputs.method.makes}'), counted2=several(old.pieces, 'pressed piece')),
            why=say("What decides how a {makes} comes out has changed since they were printed (print of {width} now).", makes=inputs.method.makes, width=a_length(inputs.spec.width_um / 1000)),
            fix_text=say("Use them as printed with a reason, print the rest again, or make all again."),
        ))  # fmt: skip
    for name in inputs.blocked_by:
        findings.append(Finding(
            code=f"blocked-{name}", severity="blocker", message=say("{name} still blocks the run", name=name.capitalize()),
            why=say("What is printed cannot be taken back."), fix_text=say("Go to {name} first.", name=name.capitalize()),
        ))  # fmt: skip
    if inputs.not_prepared and inputs.is_released and ledger.to_print:
        findings.append(Finding(
            code="prepare-first", severity="caution", message=say_many(inputs.not_prepared, "{count} garment still wants preparing", "{count} garments still want preparing"),
            why=f"{inputs.method.prepares_first[0].upper()}{inputs.method.prepares_first[1:]}.", fix_text=say("Prepare them first: it comes before Print here."),
        ))  # fmt: skip
    if inputs.spec.colour.driver:
        findings.append(Finding(
            code="driver-colour-off", severity="note", message=say("The files are in the printer's own profile: switch the driver's colour changes OFF"),
            why=say("Exactly one of file, program and driver changes colours; two of them spoil the whole run."),
        ))  # fmt: skip
    findings += _on_the_platen(inputs)
    findings += _proof_findings(inputs.proof)
    done = ledger.printed + sum(p.fetched for p in ledger.pools.values()) > 0 and ledger.to_print == 0
    state: State = "ready"
    if stale:
        state = "out of date"
    elif any(f.severity == "blocker" for f in findings):
        state = "blocked"
    elif done:
        state = "done"
    elif inputs.is_released:
        state = "needs you"
    return StationResult(
        station="print", name="Print", state=state,
        telling=say("{printed} printed", printed=ledger.printed) if ledger.printed else say("load card") if inputs.is_released else say("files to make"),
        verdict=_verdict(inputs, done), sub=say("{name} · {width_px} x {height_px} dots at {dpi} dpi · printed at 100 %, never fitted to the page", name=inputs.printer.name, width_px=inputs.spec.width_px, height_px=inputs.spec.height_px, dpi=inputs.spec.dpi),
        findings=tuple(findings),
        drawing=LoadDrawing(
            steps=(inputs.printer.care_before, *inputs.feed.steps), method=inputs.method.id, printer_id=inputs.printer.id, prints=inputs.feed.prints, feed=inputs.feed.kind, medium=inputs.method.medium, media=inputs.feed.media,
            faces=inputs.feed.faces, card=inputs.card, wet=inputs.wet, printer=inputs.printer.name, mirrored=inputs.spec.mirrored,
            would_show=inputs.would_show, mirror_sentence=mirror_sentence(inputs.method, would_show=inputs.would_show, is_read=inputs.words != "unread"),
            measure=inputs.measure, ink_ml=inputs.ink_ml, width_mm=inputs.spec.width_um / 1000, height_mm=inputs.spec.height_um / 1000,
        ),
    )  # fmt: skip


def _proof_findings(proof: ProofState) -> list[Finding]:
    if proof.state == "unsigned":
        return [Finding(code="proof-unsigned", severity="blocker", message=say("The proof is not signed"),
                        why=say("This shop prints what the customer has agreed to."),
                        fix_text=say("Open the proof and have it signed."))]  # fmt: skip
    if proof.state == "changed":
        return [Finding(code="proof-changed", severity="blocker",
                        message=say("{changed} changed after {by} signed the proof", changed=listed(proof.changed), by=proof.by),
                        why=say("What would be printed is not what was agreed to."),
                        fix_text=say("Show the new proof and have it signed, or undo the change."))]  # fmt: skip
    return []


def _words(ctx: Context) -> Literal["some", "none", "unread"]:
    if ctx.place.text or (ctx.here.lettering is not None and ctx.here.lettering.text):
        return "some"
    return "unread" if ctx.here.lettering is None else "none"


def mirror_sentence(method: Method, *, would_show: bool, is_read: bool) -> str:
    """The reading check in words: who mirrors, and whether a mistake would be seen."""
    done = say("mirrored here") if method.mirror else say("not mirrored")
    who = say(
        "The files are {done}, because {why_mirror}; the printer's own mirror stays OFF.",
        done=done,
        why_mirror=method.why_mirror,
    )
    if would_show:
        must = say("backwards on the printed face") if method.mirror else say("as it is worn")
        return say("{who} A wrong mirror would show: the sheet must read {must}.", who=who, must=must)
    unread = "" if is_read else say(" Its lettering was not read yet: one word would make it show.")
    return say(
        "{who} Its shapes look alike both ways, so a wrong mirror would hardly show: read the sheet's label instead.{unread}",
        who=who,
        unread=unread,
    )


def _verdict(inputs: Inputs, done: bool) -> str:
    ledger = inputs.ledger
    if ledger.stale:
        return say("Something was printed that no longer matches: choose what becomes of it")
    if done:
        return (
            say("All {counted} printed", counted=several(ledger.printed, inputs.method.makes, "is"))
            if ledger.printed > 1
            else say("The {makes} is printed", makes=inputs.method.makes)
        )
    if inputs.is_released:
        return (
            say("Load {name} and print {to_print} more", name=inputs.printer.name, to_print=ledger.to_print)
            if ledger.printed
            else (say("Load {name}: {told}", name=inputs.printer.name, told=inputs.feed.told))
        )
    if inputs.measure:
        return say("The files are made at full size: release the run")
    return say("Make the print files at full size, then release the run")
