"""White: how much lies under the colour, and how far its edge is pulled in."""

from offsetter.core.compute.plate_spec import PlateMeasure, WhiteSpec
from offsetter.core.compute.strokes import ThinRung, rung_for
from offsetter.core.context import Context
from offsetter.core.decisions import WhiteDoc
from offsetter.core.facts import Method, Printer
from offsetter.core.quantities import a_length
from offsetter.core.results import GarmentDrawing, StationResult, WhiteDrawing, state_of
from offsetter.core.sentences import say
from offsetter.core.units import um_of
from offsetter.core.values import Finding, Frozen, Patch

VERSION = 4


class Inputs(Frozen):
    doc: WhiteDoc
    spec: WhiteSpec | None
    dpi: int
    method: Method
    printer: Printer
    measure: PlateMeasure
    strokes: ThinRung
    mm_per_px: float
    garment: GarmentDrawing
    colour_name: str
    own_white: str = ""
    """What the file calls the white that it brings along; empty: it brings none."""


def inputs(ctx: Context) -> Inputs:
    spec = ctx.spec
    mm_per_px = spec.width_um / 1000 / (spec.crop_px[2] - spec.crop_px[0])
    reach_mm = spec.white.reach_um(um_of(ctx.method.min_stroke_mm or 0)) / 1000 if spec.white else 0
    return Inputs(
        doc=ctx.decisions.white, spec=spec.white, dpi=spec.dpi, method=ctx.method, printer=ctx.printer, measure=ctx.measured,
        strokes=rung_for(ctx.picture.strokes, reach_mm / mm_per_px), mm_per_px=mm_per_px, garment=ctx.garment,
        colour_name=ctx.blank.colour_name, own_white=ctx.picture.white_name,
    )  # fmt: skip


def judge(inputs: Inputs) -> StationResult:
    spec, printer, measure = inputs.spec, inputs.printer, inputs.measure
    if spec is None:
        why = inputs.method.leaves_out.get(
            "white", say("white or light cloth is printed without pre-treatment, and no white holds on it")
        )
        return StationResult(station="white", name="White", state="not needed", telling="not needed", verdict=say("White is not needed: {why}", why=why),
                             sub=f"{inputs.method.name} · {inputs.method.carrier}", drawing=WhiteDrawing(garment=inputs.garment, choke_mm=0, shift_mm=0, why=why))  # fmt: skip
    choke, shift, dot = spec.choke_um / 1000, printer.plate_shift_mm, 25.4 / inputs.dpi
    findings: list[Finding] = []
    held = say(
        "{name}'s plates shift up to {shift} on this {medium}",
        name=printer.name,
        shift=a_length(shift, 2),
        medium=inputs.method.medium,
    )
    if choke < shift:
        findings.append(Finding(
            code="choke-small", severity="caution", degree=shift - choke, message=say("A white rim can show: the choke is {choke}", choke=a_length(choke, 2)) if choke >= 0 else say("A white rim shows: white is spread {value}", value=a_length(-choke, 2)),
            why=say("{held}, so the white can stand {shift} out from under the colour.", held=held, shift=a_length(shift - choke, 2)),
            fix_text=say("Choke {shift}", shift=a_length(shift + 0.05, 2)),
            patch=Patch(station="white", changes={"choke_um": round((shift + 0.05) * 1000)}),
        ))  # fmt: skip
    else:
        findings.append(Finding(
            code="choke-holds", severity="note", message=say("White is choked {choke}", choke=a_length(choke, 2)),
            why=say("{held}; {choke} are in reserve (a device dot is {dot}).", held=held, choke=a_length(choke - shift, 2), dot=a_length(dot, 2)),
        ))  # fmt: skip
    thin_limit = spec.reach_um(um_of(inputs.method.min_stroke_mm or 0)) / 1000
    thin = [s for s in inputs.strokes.spots if s.width_px * inputs.mm_per_px < thin_limit]
    if thin and choke > 0:
        narrow = thin[0].width_px * inputs.mm_per_px
        if spec.guard_um:
            findings.append(Finding(
                code="guarded", severity="note", message=say("{count} thin places keep their white", count=inputs.strokes.count),
                why=say("Choked {choke} a side they would hold under {guard} of white. Kept whole, a rim may show there when plates shift {shift}.", choke=a_length(choke, 2), guard=a_length(spec.guard_um / 1000, None), shift=a_length(shift, 2)),
                where=tuple((s.x_px, s.y_px) for s in thin),
            ))  # fmt: skip
        else:
            findings.append(Finding(
                code="thin-lost", severity="caution", message=say("{count} thin places lose their hold", count=inputs.strokes.count),
                why=say("The thinnest is {narrow}; choked, {value} of white are left.", narrow=a_length(narrow, 2), value=a_length(max(0.0, narrow - 2 * choke), 2)),
                fix_text=say("Guard thin strokes"), patch=Patch(station="white", changes={"guard": True}),
                where=tuple((s.x_px, s.y_px) for s in thin),
            ))  # fmt: skip
    if spec.faint_floor == 0 and inputs.method.faint_floor:
        findings.append(Finding(
            code="faint-kept", severity="caution", message=say("Faint edges are kept: they may come off patchy"),
            why=say("{holds} does not hold under {faint_floor} of white (from memory).", holds=inputs.method.holds or say('It'), faint_floor=f'{inputs.method.faint_floor:.0%}'),
            fix_text=say("Cut faint edges"), patch=Patch(station="white", changes={"faint": "cut"}),
        ))  # fmt: skip
    elif measure.faint_cut_share > 0.005:
        findings.append(Finding(
            code="faint-cut", severity="note", message=say("{faint_cut_share} of the picture, its faintest fringe, is cut", faint_cut_share=f'{measure.faint_cut_share:.1%}'),
            why=say("{holds} does not hold under {faint_floor} of white (from memory).", holds=inputs.method.holds or say('It'), faint_floor=f'{spec.faint_floor:.0%}'),
        ))  # fmt: skip
    if measure.knocked_out_share > 0.001:
        findings.append(Finding(
            code="cloth-shows", severity="note", message=say("{knocked_out_share} is left out: the {colour_name} cloth shows", knocked_out_share=f'{measure.knocked_out_share:.1%}', colour_name=inputs.colour_name),
            why=say("It lies within CIEDE2000 {knock_out_delta_e} of the cloth; a soft ramp joins it to the rest.", knock_out_delta_e=f'{spec.knock_out_delta_e:.0f}'),
        ))  # fmt: skip
    findings += _where(inputs, spec)
    share = measure.coverage_pct.get("W", 0.0)
    verdict = say(
        "White holds: choked {choke}, {share} % of the print's area", choke=a_length(choke, 2), share=f"{share:.0f}"
    )
    cautions = [f for f in findings if f.severity != "note"]
    if cautions:
        verdict = cautions[0].message
    elif thin:
        verdict = say("White holds, and {count} thin places keep theirs", count=inputs.strokes.count)
    return StationResult(
        station="white", name="White", state=state_of(tuple(findings), settled=inputs.doc.settled),
        telling=say("{share} % of the area", share=f'{share:.0f}'), verdict=verdict,
        sub=say("white plate over the cloth · {said} · {name} at {dpi} dpi", said=spec.said, name=printer.name, dpi=inputs.dpi),
        findings=tuple(findings), drawing=WhiteDrawing(garment=inputs.garment, choke_mm=choke, shift_mm=shift, level_pct=spec.level_pct, by=spec.by, own_white=inputs.own_white),
    )  # fmt: skip


def _where(inputs: Inputs, spec: WhiteSpec) -> list[Finding]:
    """What says where white lies, where that is not the level."""
    all_the_same = say("The choke and what the cloth shows through hold all the same.")
    if spec.by == "mask":
        return [Finding(
            code="white-by-mask", severity="note", message=say("White lies where its own picture is {which}", which=say('dark') if spec.mask_dark else say('light')),
            why=say("It was made for this: the level says nothing here. {all_the_same}", all_the_same=all_the_same),
        )]  # fmt: skip
    if spec.by == "file":
        return [Finding(
            code="white-by-file", severity="note", message=say("White lies where the file's own “{own_white}” has it", own_white=inputs.own_white),
            why=say("Whoever drew the file said so. {all_the_same}", all_the_same=all_the_same), fix_text=say("Work it out from the colours instead"),
            patch=Patch(station="white", changes={"own": False}),
        )]  # fmt: skip
    found = []
    if spec.lights_from is not None:
        found.append(Finding(
            code="white-by-lights", severity="note", message=say("White lies under what is lighter than L* {lights_from} alone", lights_from=f'{spec.lights_from:.0f}'),
            why=say("Below it the cloth is the darker part of the picture: colours there are seen through the {colour_name} cloth.", colour_name=inputs.colour_name),
        ))  # fmt: skip
    if inputs.own_white:
        found.append(Finding(
            code="own-white-unused", severity="note", message=say("The file brings a white of its own, “{own_white}”, and it is not used", own_white=inputs.own_white),
            why=say("White was decided otherwise here."), fix_text=say("Use the file's own"),
            patch=Patch(station="white", changes={"own": True, "lights_from": None, "mask": None}),
        ))  # fmt: skip
    return found
