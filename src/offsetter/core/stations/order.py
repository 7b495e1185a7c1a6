"""Order: who, what, how many, until when, and where the print sits. Checked against the widest the shop owns."""

from functools import cached_property

from offsetter.core import levels
from offsetter.core.compute import placement
from offsetter.core.compute.fitting import Fit, Room, fits_on, spare_sides
from offsetter.core.context import Context
from offsetter.core.decisions import NameStyle, OrderDoc, PlaceDoc, Way
from offsetter.core.facts import Blank, HeldFact, Oven, Press, Printer
from offsetter.core.facts.machines import LARGEST_MM
from offsetter.core.garments import draw_garment, fibres_of
from offsetter.core.held_facts import newer_measures
from offsetter.core.places import BESIDE_UM, SEAM_MM
from offsetter.core.quantities import a_length, a_size
from offsetter.core.results import Box, OrderDrawing, OtherPrint, StationResult, state_of
from offsetter.core.sentences import say, say_many
from offsetter.core.units import mm_of, um_of
from offsetter.core.values import Finding, Frozen, Patch
from offsetter.core.wording import several

VERSION = 11
FINGERS_MM = (75.0, 100.0)  # three to four fingers below the collar: common practice, no source


class Inputs(Frozen):
    order: OrderDoc
    place: PlaceDoc
    focus: str
    """The kind (line/size) that is drawn."""
    blanks: dict[str, Blank]
    """Line to its blank."""
    height_um: int
    """Of the print at its usual width."""
    text_widths_um: dict[str, int] = {}
    """Slot to the width of its own text, where the print is a name."""
    has_file: bool
    printers: tuple[Printer, ...]
    presses: tuple[Press, ...]
    ovens: tuple[Oven, ...]
    way: Way | None
    """The way in force or proposed: its printer and oven set the limit."""
    pages: int = 1
    """Of the artwork's file."""
    cures: str = "oven"
    """oven, press, or empty where nothing is cured."""
    beside: tuple[OtherPrint, ...] = ()
    """The piece's other prints on this side."""
    held: tuple[HeldFact, ...] = ()
    """Blanks that measure otherwise today."""
    in_parts: bool = False
    """It is printed and pressed part by part."""
    may_part: bool = False
    """It could be: a transfer, and no mug."""

    @cached_property
    def taken(self) -> list[tuple[str, placement.Panel, float]]:
        """Size, the side of the blank and the print's width in mm, for every size that takes the print."""
        place, texts = self.place, self.text_widths_um

        def side(line: str, size: str) -> placement.Panel:
            return placement.panel(self.blanks[line], self.blanks[line].sizes[size], place.place)

        if place.text is not None:
            return [(n.size, side(n.line, n.size), mm_of(texts[n.slot])) for n in self.order.names if n.slot in texts]
        return [
            (size, side(ln.id, size), mm_of(place.width_for(size)))
            for ln in self.order.lines if place.is_on(ln.id)
            for size, n in ln.counts.items() if n
        ]  # fmt: skip


def inputs(ctx: Context) -> Inputs:
    place, shop = ctx.place, ctx.shop
    usual_um = ctx.height_um if place.text else round(ctx.height_um * place.width_um / ctx.width_um)
    texts = {s: v.spec.width_um for v in ctx.own for s in v.slots} if place.text else {}
    return Inputs(
        order=ctx.order, place=ctx.shown, focus=ctx.kind, blanks=ctx.blanks, height_um=usual_um, text_widths_um=texts,
        has_file=ctx.facts is not None, printers=tuple(shop.printers.values()), presses=tuple(shop.presses.values()),
        ovens=tuple(shop.ovens.values()), way=ctx.way, pages=ctx.facts.pages if ctx.facts else 1, cures=ctx.cures_in, beside=ctx.beside,
        held=tuple(h for h in shop.held if h.sort == "blanks"), in_parts=ctx.decisions.sheet.in_parts and _can_part(ctx), may_part=_can_part(ctx),
    )  # fmt: skip


def _can_part(ctx: Context) -> bool:
    return ctx.way is not None and ctx.feed.kind != "garment" and not ctx.press.is_mug


def live(ctx: Context) -> tuple[Finding, ...]:
    """What the store lacks for pieces that are not begun."""
    to_begin = {k: max(0, n - ctx.ledger.begun(k)) for k, n in ctx.order.ordered.items()}
    return levels.short_blanks(ctx.given.levels, ctx.blanks, to_begin)


def judge(inputs: Inputs) -> StationResult:
    order, place = inputs.order, inputs.place
    blank = inputs.blanks[inputs.focus.split("/")[0]]
    width, height = mm_of(place.width_um), mm_of(inputs.height_um)
    widest, why = widest_of(inputs)
    findings = [*_file_findings(inputs), *_size_findings(inputs, widest, why), *_platen_findings(inputs)]
    findings += newer_measures(inputs.held, "order", order.pins)
    below = mm_of(place.below_collar_um)
    panel = placement.panel(blank, blank.sizes[inputs.focus.split("/")[1]], place.place)
    findings += _over_others(inputs, blank, panel, height)
    findings += _off_blank(inputs, blank, height) + _laid_findings(inputs, blank, panel, height)
    if (
        place.place == "front chest"
        and panel.origin == "collar"
        and not inputs.beside
        and not FINGERS_MM[0] <= below <= FINGERS_MM[1]
    ):
        findings.append(Finding(
            code="below-collar", severity="note", message=say("{below} below the collar is unusual for a chest print", below=a_length(below)),
            why=say("Three to four fingers, {value} to {value2}, is common practice.", value=a_length(75), value2=a_length(100)),
            fix_text=say("Put it at {value}", value=a_length(85)), patch=Patch(station="place", changes={"below_collar_um": 85_000}),
        ))  # fmt: skip
    size = inputs.focus.split("/")[1]
    drawn = place.width_for(size)
    drawing = OrderDrawing(
        garment=draw_garment(blank, size, place, height * drawn / place.width_um if inputs.has_file else None, inputs.beside),
        widest_mm=widest, widest_why=why, pages=inputs.pages, fits=_fits(inputs, widest),
        spare=spare_sides(panel, width, height) if inputs.has_file and place.text is None and _may_bleed(inputs) else (),
    )  # fmt: skip
    pieces, has_lines = order.pieces, len(order.lines) > 1
    mixed = has_lines and len({b.name for b in inputs.blanks.values()}) > 1
    ordered = several(pieces, "piece") if mixed else say("{pieces} {what}", pieces=pieces, what=blank.called(pieces))
    on = placement.place_on(blank, blank.sizes[size], place.place)
    where = {"front chest": say("on the chest"), "front": say("on the face"), "wrap": say("around it")}.get(
        on, say("on {on}", on=on) if on.startswith("side ") else say("on the {on}", on=on)
    )
    verdict = say("{ordered}, print {size} {where}", ordered=ordered, size=a_size(width, height), where=where)
    if any(f.code == "too-wide" for f in findings):
        verdict = say("{width} is wider than this shop can print", width=a_length(width))
    elif place.text:
        verdict = say(
            "{names} of {ordered} have a text of their own, {where}",
            names=len(order.names),
            ordered=ordered,
            where=where,
        )
    elif not inputs.has_file:
        verdict = (
            say("{ordered} ordered; the artwork for the {place} is still missing", ordered=ordered, place=place.place)
            if len(order.prints) > 1
            else say("{ordered} ordered; the artwork is still missing", ordered=ordered)
        )
    return StationResult(
        station="order", name="Order", state=state_of(tuple(findings), settled=order.settled and place.settled),
        telling=several(pieces, "piece"), verdict=verdict, sub=f"{order.customer} · {'; '.join(_line_said(inputs, ln.id) for ln in order.lines)}",
        findings=tuple(findings), drawing=drawing,
    )  # fmt: skip


def _line_said(inputs: Inputs, line: str) -> str:
    blank = inputs.blanks[line]
    counts = next(ln.counts for ln in inputs.order.lines if ln.id == line)
    return f"{blank.colour_name} {fibres_of(blank)} · " + ", ".join(f"{s} {n}" for s, n in counts.items() if n)


def _over_others(inputs: Inputs, blank: Blank, panel: placement.Panel, height_mm: float) -> list[Finding]:
    """The print against those that are pressed before it on the same side."""
    box = draw_garment(blank, inputs.focus.split("/")[1], inputs.place, height_mm if inputs.has_file else None).box
    if box is None:
        return []
    under = [(o, deep) for o in inputs.beside if o.is_first and (deep := _overlap_mm(box, o.box)) > 0]
    if not under:
        return []
    other, deep = max(under, key=lambda u: u[1])
    below = max(o.box.y_mm + o.box.height_mm for o, _ in under) + mm_of(BESIDE_UM)
    fits = below + height_mm <= panel.bounds_mm[3]
    return [Finding(
        code="over-print", severity="caution", degree=deep, message=say("It lies {deep} over “{name}”", deep=a_length(deep), name=other.name),
        why=say("What is pressed second lies on the first: its edge shows and is felt, and the first goes under heat again."),
        fix_text=say("Put it {below} down, below the other", below=a_length(below)) if fits else say("Make one of the two smaller, or move it."),
        patch=Patch(station="place", changes={"below_collar_um": um_of(below)}) if fits else None,
    )]  # fmt: skip


def _overlap_mm(one: Box, other: Box) -> float:
    """How deep one lies in the other, the shorter way out; 0: they lie apart."""
    wide = min(one.x_mm + one.width_mm, other.x_mm + other.width_mm) - max(one.x_mm, other.x_mm)
    high = min(one.y_mm + one.height_mm, other.y_mm + other.height_mm) - max(one.y_mm, other.y_mm)
    return max(0.0, min(wide, high))


def _file_findings(inputs: Inputs) -> list[Finding]:
    order, place = inputs.order, inputs.place
    if place.text is not None:
        missing = order.pieces - len(order.names)
        if not order.names:
            return [Finding(code="no-names", severity="blocker", message=say("There are no names yet"),
                            why=say("This print is each piece's own text."), fix_text=say("Add the list of names as CSV."))]  # fmt: skip
        if missing > 0:
            return [Finding(code="names-short", severity="caution", degree=missing, message=say_many(missing, "{count} piece has no name", "{count} pieces have no name"),
                            why=say("{names} for {pieces}.", names=several(len(order.names), "name"), pieces=several(order.pieces, "piece")),
                            fix_text=say("Add the list again with a name for every piece, or leave them bare."))]  # fmt: skip
        return []
    if not inputs.has_file and place.file:
        return [Finding(
            code="file-lost", severity="blocker", message=say("The artwork's file is not in the store any more"),
            why=say("The job names a file that the data folder does not hold."), fix_text=say("Drop the customer's file again."),
        )]  # fmt: skip
    if not inputs.has_file:
        return [Finding(
            code="no-file", severity="blocker", message=say("There is no artwork yet"),
            why=say("Every station after this one reads the customer's file."),
            fix_text=say("Drop a PNG, JPEG, TIFF, WebP, PDF or SVG on the bench, or press U."),
        )]  # fmt: skip
    return []


def _size_findings(inputs: Inputs, widest: float, why: str) -> list[Finding]:
    place, found = inputs.place, []
    if place.text is not None:
        return _text_findings(inputs, place.text, widest, why)
    width = mm_of(max([place.width_um, *place.widths_um.values()]))
    if width > widest and not inputs.in_parts:
        kept = {s: min(w, um_of(widest)) for s, w in place.widths_um.items()}
        found.append(Finding(
            code="too-wide", severity="blocker", message=say("The print is {width} wide; the shop can make {widest}", width=a_length(width), widest=a_length(widest)),
            why=f"{why}.{_or_in_parts(inputs)}", fix_text=say("Make it {widest}", widest=a_length(widest)),
            patch=Patch(station="place", changes={"width_um": min(place.width_um, um_of(widest))} | ({"widths_um": kept} if kept else {})),
        ))  # fmt: skip
    # A print larger than a hard blank is a bleed, and wanted.
    tight = {s: (side, w) for s, side, w in inputs.taken if w > side.widest_mm and not _may_bleed(inputs)}
    if tight:
        size, (side, wide) = next(iter(tight.items()))
        clear = side.widest_mm
        narrower = {s: um_of(c.widest_mm) for s, (c, _) in tight.items()}
        across = side.wide_said
        found.append(Finding(
            code="near-seams", severity="caution", degree=wide - clear,
            message=say("On size {size} the print comes too near the {which}", size=size, which=say('seams') if side.origin in ('collar', 'shoulder seam') else say('edge')),
            why=say("{wide} of print on {across}.", wide=a_length(wide), across=across),
            fix_text=say("Make it {clear} on size {tight}", clear=a_length(clear), tight=', '.join(tight)) if len(tight) == 1 else say("Give sizes {tight} a width of their own", tight=', '.join(tight)),
            patch=Patch(station="place", changes={"widths_um": {**place.widths_um, **narrower}}),
        ))  # fmt: skip
    return found


def _text_findings(inputs: Inputs, text: NameStyle, widest: float, why: str) -> list[Finding]:
    """The widest name sets how high the letters may be."""
    room = [(min(widest, side.widest_mm), wide) for _, side, wide in inputs.taken]
    over = [(clear, wide) for clear, wide in room if wide > clear]
    if not over:
        return []
    clear, wide = min(over, key=lambda r: r[0] / r[1])
    high = int(mm_of(text.height_um) * clear / wide)
    return [Finding(
        code="name-too-wide", severity="blocker" if wide > widest else "caution", degree=wide - clear,
        message=say("{over} of {room} names are too wide here, the widest {wide}", over=len(over), room=len(room), wide=a_length(wide)),
        why=f"{why}." if wide > widest else say("The seams leave {clear}.", clear=a_length(clear)), fix_text=say("Make the capitals {high} high", high=a_length(high)),
        patch=Patch(station="place", changes={"text": text.model_copy(update={"height_um": high * 1000}).model_dump(mode="json")}),
    )]  # fmt: skip


def _may_bleed(inputs: Inputs) -> bool:
    return all(b.kind == "hard" for b in inputs.blanks.values()) and inputs.place.place != "wrap"


LEAST_BLEED_MM = 2.0
"""A hand lays a hard blank no truer than this: from memory."""


HANGS_MM = 1.0
"""Less than this over an edge is no more than a hand's trueness."""


def _off_blank(inputs: Inputs, blank: Blank, height: float) -> list[Finding]:
    """A print that hangs over an edge is lost there; one that covers the blank from edge to edge is a bleed, and meant."""
    place = inputs.place
    if not inputs.has_file or place.text is not None:
        return []
    top, x, shape = mm_of(place.below_collar_um), mm_of(place.offset_um), height / mm_of(place.width_um)
    worst: tuple[float, str, str, Edges] = (HANGS_MM, "", "", (0, 0, 0, 0))
    for size, side, wide in inputs.taken:
        edges = _free(side, is_wrap=place.place == "wrap")
        over = {
            "left": edges[0] - (x - wide / 2), "right": x + wide / 2 - edges[2],
            "upper": edges[1] - top, "lower": top + wide * shape - edges[3],
        }  # fmt: skip
        for edge, opposite in (("left", "right"), ("right", "left"), ("upper", "lower"), ("lower", "upper")):
            if over[edge] > worst[0] and (place.place == "wrap" or over[opposite] < 0):
                worst = (over[edge], edge, size, edges)
    far, edge, size, edges = worst
    if not edge:
        return []
    named = (
        {"upper": say("rim"), "lower": say("foot"), "left": say("handle"), "right": say("handle")}[edge]
        if place.place == "wrap"
        else say("{edge} edge", edge=edge)
    )
    across, down = edges[2] - edges[0], edges[3] - edges[1]
    wide = place.width_for(size) / 1000
    fits = wide <= across and wide * shape <= down
    small = wide if fits else float(int(min(across, down / shape)))
    changes: dict[str, object] = {
        "below_collar_um": um_of(max(edges[1], (edges[1] + edges[3] - small * shape) / 2)),
        "offset_um": 0,
    }
    if not fits:
        changes |= {"width_um": um_of(small), "widths_um": {}}
    return [Finding(
        code="off-blank", severity="blocker", degree=far, message=say("The print hangs {far} over the {name}'s {named}", far=a_length(far), name=blank.name.lower(), named=named),
        why=say("What lies outside is not on the piece, and soils what is under it."),
        fix_text=say("Lay it in the middle") if fits else say("Make it {small} wide and lay it in the middle", small=a_length(small)),
        patch=Patch(station="place", changes=changes),
    )]  # fmt: skip


Edges = tuple[float, float, float, float]


def _free(side: placement.Panel, *, is_wrap: bool) -> Edges:
    """Left, top, right, bottom that a print may reach; of a mug its rim, foot and handle stay clear."""
    left, top, right, bottom = side.bounds_mm
    if side.origin == "collar":  # sleeves hang beside the body: a print on it ends at its seams
        body = side.widest_mm / 2 + SEAM_MM
        return -body, top, body, bottom
    if not is_wrap or side.highest_mm is None:
        return left, top, right, bottom
    rim = (bottom - top - side.highest_mm) / 2
    return -side.widest_mm / 2, top + rim, side.widest_mm / 2, bottom - rim


def _laid_findings(inputs: Inputs, blank: Blank, panel: placement.Panel, height: float) -> list[Finding]:
    """How a print lies on things that have edges of their own."""
    place, found = inputs.place, []
    if not inputs.has_file or place.text is not None or panel.centre_y_mm is None:
        return []
    width, below = mm_of(place.width_um), mm_of(place.below_collar_um)
    left, top, right, bottom = panel.bounds_mm
    middle = panel.centre_y_mm - height / 2
    if abs(below - middle) > 1:
        found.append(Finding(
            code="off-middle", severity="note", message=say("The print lies {below} {which} the middle", below=a_length(abs(below - middle)), which=say('above') if below < middle else say('below')),
            why=say("The {name} is {bottom} high, the print {height}.", name=blank.name.lower(), bottom=a_length(bottom - top), height=a_length(height)), fix_text=say("Lay it in the middle"),
            patch=Patch(station="place", changes={"below_collar_um": um_of(middle), "offset_um": 0}),
        ))  # fmt: skip
    if _may_bleed(inputs):
        over = min(width - (right - left), height - (bottom - top)) / 2
        near = max(width - (right - left), height - (bottom - top)) / 2
        if near > -LEAST_BLEED_MM and over < LEAST_BLEED_MM:
            grow = max(
                (right - left + 2 * LEAST_BLEED_MM + 2) / width, (bottom - top + 2 * LEAST_BLEED_MM + 2) / height
            )
            found.append(Finding(
                code="bleed-small", severity="caution", message=say("A white edge can show: the print goes {over} over the edge", over=a_length(max(over, 0))),
                why=say("The {name} is {size} and is laid by hand, {least_bleed} true (from memory).", name=blank.name.lower(), size=a_size(right - left, bottom - top), least_bleed=a_length(LEAST_BLEED_MM)),
                fix_text=say("Make it {width} wide", width=a_length(width * grow)), patch=Patch(station="place", changes={"width_um": um_of(float(int(width * grow + 1)))}),
            ))  # fmt: skip
    elif panel.highest_mm is not None and height > panel.highest_mm:
        fits = width * panel.highest_mm / height
        found.append(Finding(
            code="too-high", severity="caution", degree=height - panel.highest_mm, message=say("The print is {height} high; {highest} are free", height=a_length(height), highest=a_length(panel.highest_mm)),
            why=say("The {name} is {bottom} high.", name=blank.name.lower(), bottom=a_length(bottom - top)), fix_text=say("Make it {fits} wide", fits=a_length(fits)),
            patch=Patch(station="place", changes={"width_um": um_of(float(int(fits))), "widths_um": {}}),
        ))  # fmt: skip
    return found


def _fits(inputs: Inputs, widest: float) -> tuple[Fit, ...]:
    """Sizes for this picture on the smallest of the blanks that take it, by what the way's printer and press take."""
    way, place = inputs.way, inputs.place
    press = next((p for p in inputs.presses if way and p.id == way.press), None)
    feed = next(
        (f for p in inputs.printers for f in p.feeds if way and (p.id, f.method) == (way.printer, way.method)), None
    )
    if way is None or press is None or feed is None or not inputs.has_file or place.text is not None:
        return ()
    sheet = Room(wide_mm=feed.printable_mm, long_mm=feed.length_mm - 2 * feed.margin_mm)
    rooms = [sheet if feed.kind != "roll" else Room(wide_mm=feed.printable_mm)]
    may_bleed = _may_bleed(inputs)
    if not may_bleed and not press.is_mug:
        rooms.append(Room(wide_mm=press.platen_width_mm, long_mm=press.platen_height_mm))
    if inputs.cures == "oven" and (oven := next((o for o in inputs.ovens if o.id == way.oven), None)):
        rooms.append(Room(wide_mm=oven.width_mm, long_mm=oven.length_mm))
    sides = [s for _, s, _ in inputs.taken]
    if not sides:
        return ()
    side, shape = min(sides, key=lambda s: s.widest_mm), inputs.height_um / place.width_um
    return fits_on(side, shape, mm_of(place.below_collar_um), tuple(rooms), widest_mm=widest, may_bleed=may_bleed,
                   sheet=sheet if feed.kind == "sheet" else None)  # fmt: skip


def _platen_findings(inputs: Inputs) -> list[Finding]:
    """Whether the press takes the blank, and the print as it lies, with the blank turned a quarter, or not in one press."""
    press = next((p for p in inputs.presses if inputs.way and p.id == inputs.way.press), None)
    if press is None:
        return []
    found = _press_fit(press, inputs)
    if not inputs.has_file or inputs.place.text is not None or inputs.in_parts:
        return found
    place = inputs.place
    wide = mm_of(max(place.width_for(s) for s, _, _ in inputs.taken) if inputs.taken else place.width_um)
    high = wide * inputs.height_um / place.width_um
    if _may_bleed(inputs):
        # What hangs over a hard blank's edge is not pressed.
        _, side, _ = inputs.taken[0]
        wide, high = min(wide, side.bounds_mm[2] - side.bounds_mm[0]), min(high, side.bounds_mm[3] - side.bounds_mm[1])
    across, deep = press.platen_width_mm, press.platen_height_mm
    if wide <= across and high <= deep:
        return found
    platen = say("{name}'s platen is {size}", name=press.name, size=a_size(across, deep))
    if wide <= deep and high <= across and not press.is_mug:
        return [*found, Finding(
            code="quarter-turn", severity="note", message=say("Turn the blank a quarter on {name}", name=press.name),
            why=say("{size} of print; {platen}.", size=a_size(wide, high), platen=platen), fix_text=say("Its upper edge then points to the side."),
        )]  # fmt: skip
    largest = _largest(wide, high, across, deep)
    return [*found, Finding(
        code="over-platen", severity="blocker", message=say("{size} do not go under {name} in one press", size=a_size(wide, high), name=press.name),
        why=say("{platen}, turned a quarter or not.{or_in_parts}", platen=platen, or_in_parts=_or_in_parts(inputs)), fix_text=say("Make it {largest} wide", largest=a_length(largest)),
        patch=Patch(station="place", changes={"width_um": um_of(largest), "widths_um": {}}),
    )]  # fmt: skip


def _or_in_parts(inputs: Inputs) -> str:
    return say(" Sheet can print it in parts.") if inputs.may_part else ""


def _press_fit(press: Press, inputs: Inputs) -> list[Finding]:
    """A mug wants a press that closes round it; what is thicker than a press opens does not go in."""
    blank = next(iter(inputs.blanks.values()))
    is_round = any(placement.places_of(s) == ("wrap",) for s in blank.sizes.values())
    if is_round != press.is_mug:
        other = next((p for p in inputs.presses if p.is_mug == is_round), None)
        return [Finding(
            code="press-shape", severity="blocker", message=say("{name} does not take a {name2}", name=press.name, name2=blank.name.lower()),
            why=say("A mug press closes round a straight wall; a flat one does not.") if is_round else say("A mug press takes mugs alone."),
            fix_text=say("Press it on {name}", name=other.name) if other else say("No press here takes it."),
            patch=Patch(station="method", changes={"press": other.id}) if other and inputs.way else None,
        )]  # fmt: skip
    if not is_round and blank.thickness_mm > press.opens_mm:
        return [Finding(
            code="too-thick", severity="blocker", message=say("{name} opens {opens}; the {name2} is {thickness} thick", name=press.name, opens=a_length(press.opens_mm), name2=blank.name.lower(), thickness=a_length(blank.thickness_mm)),
            why=say("It would not close evenly."), fix_text=say("Choose another press at Method."),
        )]  # fmt: skip
    return []


def _largest(wide: float, high: float, across: float, deep: float) -> float:
    """The widest print of this shape that the platen takes in either way, in whole mm."""
    shape = high / wide
    return float(int(max(min(across, deep / shape), min(deep, across / shape))))


def widest_of(inputs: Inputs) -> tuple[float, str]:
    """The widest print in mm that this way can make in one piece, and what sets it; of all printers while there is no way.
    A shop that owns no printer or no press yet sets no limit."""
    way = inputs.way
    feeds = [
        (p, f)
        for p in inputs.printers
        for f in p.feeds
        if way is None or (p.id == way.printer and f.method == way.method)
    ]
    if not feeds or not inputs.presses:
        return LARGEST_MM, ""
    printer, feed = max(feeds, key=lambda pf: max(pf[1].printable_mm, pf[1].length_mm if pf[1].kind != "roll" else 0))
    reach = feed.printable_mm if feed.kind == "roll" else max(feed.printable_mm, feed.length_mm - 2 * feed.margin_mm)
    reaches = (
        say("heads reach")
        if feed.kind == "roll"
        else say("sheet takes")
        if feed.kind == "sheet"
        else say("platen takes")
    )
    limits = {say("{printer}'s {reaches} {reach}", printer=printer.name, reaches=reaches, reach=a_length(reach)): reach}
    press = next((p for p in inputs.presses if way and p.id == way.press), None)
    press = press or max(inputs.presses, key=lambda p: max(p.platen_width_mm, p.platen_height_mm))
    if not _may_bleed(inputs):
        widest = max(press.platen_width_mm, press.platen_height_mm)
        limits[say("{press}'s platen is {widest} at its widest", press=press.name, widest=a_length(widest))] = widest
    if inputs.ovens and inputs.cures == "oven":
        oven = max(inputs.ovens, key=lambda o: o.width_mm)
        limits[say("{oven} takes {width}", oven=oven.name, width=a_length(oven.width_mm))] = oven.width_mm
    why = min(limits, key=lambda k: limits[k])
    return limits[why], why
