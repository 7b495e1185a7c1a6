"""Sheet: the run as it leaves the printer: on a roll that is cut into lengths, on sheets, or on the garments themselves."""

from math import degrees

from offsetter.core import derive
from offsetter.core.compute.cut_spec import THROUGH_MM, CutSpec, has_room_through
from offsetter.core.compute.sheet import LayoutAsk, RunLayout, lay_out, one_more_across
from offsetter.core.context import Context
from offsetter.core.decisions import SheetDoc
from offsetter.core.facts import Cutter, Feed, Method, Printer
from offsetter.core.quantities import a_length, a_size, in_metres
from offsetter.core.results import SheetDrawing, StationResult, state_of
from offsetter.core.sentences import listed, say, say_many
from offsetter.core.values import Finding, Frozen, Patch
from offsetter.core.wording import several

VERSION = 7
LINES_APART_UM = 1_000
"""Between two cut lines: a blade tears what is narrower (from memory)."""


class Inputs(Frozen):
    doc: SheetDoc
    ask: LayoutAsk
    method: Method
    printer: Printer
    feed: Feed
    pieces: int
    spares: int
    spares_why: str
    cure_what: str
    label: str
    cloth: str
    names: tuple[str, ...] = ()
    """Of the sorts on the run."""
    cut: CutSpec | None = None
    cutter: Cutter | None = None
    """That follows it where it is cut apart from its printer."""
    bends: tuple[float, float] | None = None
    """Radius in mm of a bent print's upper edge, below 0 where it hangs, and the angle in degrees that it goes round."""


def inputs(ctx: Context) -> Inputs:
    in_oven = say("oven {name}", name=ctx.oven.name) if ctx.oven else say("the oven")
    return Inputs(
        doc=ctx.decisions.sheet, ask=ctx.next_ask, method=ctx.method, printer=ctx.printer, feed=ctx.feed, pieces=ctx.order.pieces,
        spares=ctx.spares.count, spares_why=ctx.spares.why, cure_what={"press": say("the hovering press"), "oven": in_oven, "": ""}[ctx.cures_in],
        label=ctx.order.title, cloth=ctx.blank.colour, names=tuple(ctx.books.name_of(v) for v in ctx.on_run),
        cut=derive.cut_of(ctx.shop, ctx.decisions, ctx.gone), cutter=derive.cutter_of(ctx.shop, ctx.gone), bends=_bends(ctx),
    )  # fmt: skip


def _bends(ctx: Context) -> tuple[float, float] | None:
    spec = ctx.spec
    if spec.bend is None:
        return None
    return spec.bend.radius_um / 1000, round(degrees(spec.bend.angle(spec.width_um / 1000, spec.height_um / 1000)), 1)


def judge(inputs: Inputs) -> StationResult:
    ask, layout = inputs.ask, lay_out(inputs.ask)
    findings: list[Finding] = []
    if layout is None:
        turned = lay_out(ask.model_copy(update={"turned": not ask.turned, "across": None, "rows_per_cut": None}))
        parted = (
            lay_out(ask.model_copy(update={"overlap_um": inputs.doc.overlap_um}))
            if ask.overlap_um is None and not inputs.bends
            else None
        )
        findings.append(Finding(
            code="does-not-fit", severity="blocker",
            message=say("{largest} fits on no {which}", largest=_largest(ask), which=say('cut length') if inputs.feed.kind == 'roll' else inputs.feed.kind if inputs.feed.kind == 'sheet' else say('platen')),
            why=say("{printable} are printable, {cure_what} takes {size}.", printable=a_length(ask.printable_um / 1000), cure_what=inputs.cure_what or inputs.printer.name, size=a_size(ask.widest_cut_um / 1000, ask.longest_cut_um / 1000)),
            fix_text=say("Turn it a quarter") if turned else say("Print it in {parts} parts", parts=parted.parts) if parted else say("Make the print smaller at Order, or choose another way at Method."),
            patch=Patch(station="sheet", changes={"turned": not ask.turned} if turned else {"in_parts": True}) if turned or parted else None,
        ))  # fmt: skip
    findings += _in_parts(inputs, layout)
    if inputs.bends:
        radius, angle = inputs.bends
        findings.append(Finding(
            code="bent", severity="note", message=say("The print is bent for the cup: its upper edge lies on a circle of {radius}, over {angle}°", radius=a_length(abs(radius)), angle=f'{angle:.0f}'),
            why=say("The wall tapers: rolled out it is a piece of a ring, and a straight strip would lie aslant on it. It {which} in the middle on the sheet, and is straight on the cup.", which=say('rises') if radius > 0 else say('hangs')),
        ))  # fmt: skip
    if layout and inputs.feed.kind != "garment" and not ask.labels:
        findings.append(Finding(
            code="no-labels", severity="note", message=say("Labels and marks are left out: there is no room for them beside the print"),
            why=say("They would make the print smaller than asked. Write the run's number on the back by hand."),
        ))  # fmt: skip
    if (
        layout
        and inputs.feed.kind != "garment"
        and layout.grid_length_um
        and layout.grid_length_um < layout.length_um * 0.98
    ):
        saved = _amount(layout.length_um - layout.grid_length_um, layout, inputs.feed)
        findings.append(Finding(
            code="turn-saves", severity="note", message=say("Turned a quarter, the run takes {saved} less", saved=saved),
            why=say("A cut-out transfer may lie at any angle."), fix_text=say("Turn it a quarter"),
            patch=Patch(station="sheet", changes={"turned": not ask.turned, "across": None, "rows_per_cut": None}),
        ))  # fmt: skip
    better = one_more_across(ask, layout) if layout and inputs.doc.across is None else None
    if layout and better:
        width, shorter = better
        findings.append(Finding(
            code="one-more-across", severity="note",
            message=say_many(shorter.across, "At {width}, one print lies across and the run takes {length}", "At {width}, {count} prints lie across and the run takes {length}", width=a_length(width / 1000), length=in_metres(shorter.length_um / 1000000.0)),
            why=say("At {width} it takes {length}: {length2} more {medium}.", width=a_length(ask.wants[0].width_um / 1000), length=in_metres(layout.length_um / 1000000.0), length2=in_metres((layout.length_um - shorter.length_um) / 1000000.0), medium=inputs.method.medium),
            fix_text=say("Make the print {width}", width=a_length(width / 1000)), patch=Patch(station="place", changes={"width_um": width}),
        ))  # fmt: skip
    if ask.gap_um < 5000 and inputs.feed.kind != "garment" and not inputs.cut and not (layout and layout.tiles):
        findings.append(Finding(
            code="gap-small", severity="caution", message=say("{gap} between prints is hard to cut by hand", gap=a_length(ask.gap_um / 1000)),
            why=say("Scissors want about {value} (from memory).", value=a_length(5)), fix_text=say("Gap {value}", value=a_length(8)),
            patch=Patch(station="sheet", changes={"gap_um": 8000}),
        ))  # fmt: skip
    cut = None if layout and layout.tiles else inputs.cut
    if cut and cut.marks and inputs.cutter is None:
        findings.append(Finding(
            code="no-cutter", severity="caution", message=say("No cutter of the shop reaches {printable} across", printable=a_length(ask.printable_um / 1000)),
            why=say("It is decided to be cut apart from its printer, by printed marks."), fix_text=say("Add the cutter at Machines, or cut it in the printer: Method asks."),
        ))  # fmt: skip
    if cut and 2 * cut.offset_um + LINES_APART_UM > ask.gap_um:
        wanted = -(-(2 * cut.offset_um + LINES_APART_UM) // 1000) * 1000
        findings.append(Finding(
            code="cuts-meet", severity="caution", degree=cut.offset_um / 1000, message=say("The cut lines of neighbours meet between the prints"),
            why=say("Each lies {offset} outside its print, and {gap} are between them.", offset=a_length(cut.offset_um / 1000, 1), gap=a_length(ask.gap_um / 1000)),
            fix_text=say("Gap {wanted}", wanted=a_length(wanted / 1000)), patch=Patch(station="sheet", changes={"gap_um": wanted}),
        ))  # fmt: skip
    if cut and cut.through and not has_room_through(ask.gap_um, cut.offset_um):
        wanted = int(2 * (cut.offset_um / 1000 + THROUGH_MM)) * 1000 + 1000
        findings.append(Finding(
            code="no-room-through", severity="caution", message=say("The prints are not cut apart: no line goes through the carrier"),
            why=say("A box round each wants {through} outside its line, and {gap} are between the prints.", through=a_length(THROUGH_MM), gap=a_length(ask.gap_um / 1000)),
            fix_text=say("Gap {wanted}", wanted=a_length(wanted / 1000)), patch=Patch(station="sheet", changes={"gap_um": wanted}),
        ))  # fmt: skip
    drawing = SheetDrawing(layout=layout, mirrored=inputs.method.mirror, label=inputs.label,
                           media_name=f"{a_length(ask.media_um / 1000)} {inputs.method.medium}", colour=inputs.cloth, spares=inputs.spares,
                           spares_why=inputs.spares_why, names=inputs.names, feed=inputs.feed.kind, medium=inputs.method.medium,
                           order_said=_order_said(inputs.method, inputs.feed), cut=cut, weeds=inputs.method.is_weeded)  # fmt: skip
    return StationResult(
        station="sheet", name="Sheet", state=state_of(tuple(findings), settled=inputs.doc.settled),
        telling=_amount(layout.length_um, layout, inputs.feed) if layout else say("does not fit"), verdict=_verdict(layout, inputs),
        sub=say("as it leaves {name}, printed face up{which} · {printable} printable of {media} · {pieces} ordered and {spares} spare", name=inputs.printer.name, which=say(', mirrored') if inputs.method.mirror else say(', not mirrored'), printable=a_length(ask.printable_um / 1000), media=a_length(ask.media_um / 1000), pieces=inputs.pieces, spares=inputs.spares),
        findings=tuple(findings), drawing=drawing,
    )  # fmt: skip


def _in_parts(inputs: Inputs, layout: RunLayout | None) -> list[Finding]:
    """What a print in parts asks of whoever lays them together again."""
    if layout is None or not layout.tiles:
        return []
    over, up, overlap = max(t.column for t in layout.tiles), max(t.row for t in layout.tiles), inputs.doc.overlap_um
    # Turned a quarter, what lies side by side on the medium hangs one under the other on the piece.
    lying, standing = (over, up) if layout.places[0].turned else (up, over)
    ways = ((lying, say("from side to side")), (standing, say("from top to bottom")))
    seams = listed(f"{several(n, 'seam')} {how}" for n, how in ways if n)
    meet = say("overlap by {overlap}", overlap=a_length(overlap / 1000)) if overlap else say("meet edge to edge")
    found = [Finding(
        code="in-parts", severity="caution", degree=layout.parts,
        message=say("Each print is in {parts} parts that {meet}: {seams}", parts=layout.parts, meet=meet, seams=seams),
        why=say("No {which} takes it whole. Each part is laid and pressed by itself, and a seam is seen from near by (common practice, no source).", which=say('sheet') if layout.sheet_um else say('length')),
        fix_text=say("Trim each part along its ticks, and lay them from the middle outwards."),
    )]  # fmt: skip
    if overlap and inputs.method.lies == "in":
        found.append(Finding(
            code="overlap-twice", severity="caution", message=say("Where the parts overlap, the dye is pressed twice and comes out darker"),
            why=say("It goes into the fibre each time."), fix_text=say("Let them meet edge to edge"), patch=Patch(station="sheet", changes={"overlap_um": 0}),
        ))  # fmt: skip
    if inputs.cut:
        found.append(Finding(
            code="no-cut-in-parts", severity="caution", message=say("The cutter's line is left out: it would run across the seams"),
            why=say("A cutter follows what lies on one length."), fix_text=say("Cut the parts by hand, or make the print smaller at Order."),
        ))  # fmt: skip
    return found


def _largest(ask: LayoutAsk) -> str:
    want = max(ask.wants, key=lambda w: w.width_um * w.height_um)
    return a_size(want.width_um / 1000, want.height_um / 1000)


def _amount(length_um: int, layout: RunLayout, feed: Feed) -> str:
    """Metres of a roll, or how many sheets or garments."""
    if not layout.sheet_um:
        return in_metres(length_um / 1e6)
    count = round(length_um / layout.sheet_um)
    what = "garment" if feed.kind == "garment" else "sheet"
    return several(count, what)


def _order_said(method: Method, feed: Feed) -> str:
    plates = {
        ("colour",): say("Colour alone"),
        ("colour", "white"): say("Colour first, white on top"),
        ("white", "colour"): say("White first, colour on top"),
    }
    said = plates[method.plate_order]
    return say(
        "{said}; {which}.",
        said=said,
        which=say("on the garment, as it is worn") if feed.kind == "garment" else say("printed face up"),
    )


def _verdict(layout: RunLayout | None, inputs: Inputs) -> str:
    if layout is None:
        return say(
            "The print does not fit on what {which} it", which=say("cures") if inputs.cure_what else say("prints")
        )
    cuts, prints = len(layout.cut_lengths_um), len(layout.places)
    if inputs.feed.kind == "garment":
        return say_many(
            prints,
            "One garment on {name}'s platen",
            "{count} garments, one after the other on {name}'s platen",
            name=inputs.printer.name,
        )
    if layout.tiles:
        return say(
            "{counted} in {parts} parts each, on {counted2}",
            counted=several(prints, "print"),
            parts=layout.parts,
            counted2=several(cuts, "sheet" if layout.sheet_um else "length"),
        )
    if layout.sheet_um:
        return say_many(
            cuts,
            "{prints} on {count} sheet of {size}",
            "{prints} on {count} sheets of {size}",
            prints=several(prints, "print"),
            size=a_size(layout.media_um / 1000, layout.sheet_um / 1000),
        )
    lengths = say("one length") if cuts == 1 else say("{cuts} lengths", cuts=cuts)
    taken = (
        say("that {cure_what} takes", cure_what=inputs.cure_what) if inputs.cure_what else say("that hands can carry")
    )
    return say(
        "{prints} on {length}, cut into {lengths} {taken}",
        prints=several(prints, "print"),
        length=in_metres(layout.length_um / 1000000.0),
        lengths=lengths,
        taken=taken,
    )
