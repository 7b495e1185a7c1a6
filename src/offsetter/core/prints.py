"""The prints of a job: which transfers each needs, what a piece goes through, in which order."""

from offsetter.core import derive
from offsetter.core.compute import placement
from offsetter.core.compute.advice import AdviceHere
from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.compute.cut_spec import CutSpec
from offsetter.core.compute.fit import AdviceArt, AdviceJob
from offsetter.core.compute.lettering import Lettering
from offsetter.core.compute.placement import obstacles_under, place_on
from offsetter.core.compute.plate_spec import PlateSpec
from offsetter.core.decisions import Decisions, OrderDoc, PlaceDoc, Way, kind_of, number_of
from offsetter.core.facts import Blank, Levels, MugSize, Shop
from offsetter.core.facts.advice import ArtKind
from offsetter.core.ledger import Demand
from offsetter.core.places import SEAM_MM, Placing, across_said, below_said, box_of, laid_with, side_of
from offsetter.core.runs import Run, physical_signature
from offsetter.core.sentences import listed, say, say_many
from offsetter.core.values import Frozen


class TextArt(Frozen):
    """A name as a picture: its file, and how high a capital letter stands in it."""

    file: str
    width_px: int
    height_px: int
    capital_px: int


class JobPrint(Frozen):
    """One print of a job as decided, with what was measured on its file."""

    id: str
    decisions: Decisions
    facts: ArtworkFacts | None = None
    """Of a print of names: of the name that is looked at."""
    lettering: Lettering | None = None
    """What its picture says, once it has been read."""
    texts: dict[int, TextArt] = {}
    """Number of a piece to its own text as a picture; of a print of names alone."""


class Variant(Frozen):
    """Transfers that are alike: one print, one width, one cloth (or one name)."""

    print: str
    name: str
    slots: tuple[str, ...]
    artwork: str
    spec: PlateSpec
    height_um: int
    signature: str
    cut: CutSpec | None = None
    """The cutter's line round it."""
    is_vector: bool = False


def at_slant(variant: Variant, degrees: int) -> Variant:
    """The same transfer from plates that lie at a slant: counted as any other of it."""
    return (
        variant.model_copy(update={"spec": variant.spec.model_copy(update={"slant": degrees})}) if degrees else variant
    )


PHOTO_COLOURS = 200
"""A picture with more main colours than this is advised on as a photograph: from memory."""


class Pass(Frozen):
    """One print's turn on the press: every piece goes through it before the next print's."""

    print: str
    name: str
    number: int
    of: int
    turn: str
    """How the piece is laid for it, when it lies otherwise than before."""
    shield: str
    """What keeps the heat off prints that are finished."""
    heats: str
    """What this print still has to bear after its own pass."""


def slots_of(order: OrderDoc, place: PlaceDoc) -> tuple[str, ...]:
    """Every slot that takes the print."""
    if place.text is not None:
        return tuple(n.slot for n in order.names if place.is_on(n.line))
    return tuple(k for k in order.ordered if place.is_on(k.split("/")[0]))


def name_of(place: PlaceDoc) -> str:
    return f"{place.place.capitalize()}{', names' if place.text else ''}"


def names_of(prints: tuple[JobPrint, ...]) -> dict[str, str]:
    """Print to its name: a second one at the same place is told from the first by its number, in the order they came."""
    seen: dict[str, int] = {}
    found = {}
    for one in sorted(prints, key=lambda p: (len(p.id) if p.id.startswith("p") else 0, p.id)):
        name = name_of(one.decisions.place)
        seen[name] = seen.get(name, 0) + 1
        found[one.id] = name if seen[name] == 1 else f"{name} {seen[name]}"
    return found


def way_of(shop: Shop, prints: tuple[JobPrint, ...], print_id: str, profile: str) -> Way | None:
    """The way decided for a print, that of the job's first print, or the one the shop would go."""
    by_id = {p.id: p for p in prints}
    own = by_id[print_id].decisions.method if print_id in by_id else None
    order = prints[0].decisions.order
    decided = own or prints[0].decisions.method
    if decided:
        return decided
    blank = shop.blanks[order.lines[0].blank]
    return derive.proposed_way(
        shop, profile, derive.likely_method(shop, advice_job(shop, prints[0], "")), blank, prints[0].facts
    )


def variants_of(shop: Shop, one: JobPrint, way: Way, name: str) -> tuple[Variant, ...]:
    """The print's transfers that differ, by the name that it has in its job; none while its file is missing."""
    order, place = one.decisions.order, one.decisions.place
    media, cut = derive.feed_of(shop, way).media, derive.cut_of(shop, one.decisions, way)
    found: dict[str, Variant] = {}
    made: dict[tuple[str, int, str, MugSize | None], tuple[PlateSpec, str]] = {}
    for slot in slots_of(order, place):
        line = order.line_of(slot)
        number, size = number_of(slot), kind_of(slot).split("/")[1]
        text = one.texts.get(number) if number else None
        if text is not None:
            file, crop, width = text.file, (0, 0, text.width_px, text.height_px), text_width_um(place, text)
        elif number is None and one.facts is not None:
            file, crop, width = one.facts.file, derive.crop_of(one.decisions, one.facts), place.width_for(size)
        else:
            continue
        blank = shop.blanks[line.blank]
        # Sizes of one width and cloth share their plates, but for a wall that bends them.
        wall = blank.sizes[size]
        alike = file, width, blank.colour, wall if isinstance(wall, MugSize) else None
        if alike not in made:
            facts = one.facts if text is None else None
            spec = derive.plate_spec(
                shop, one.decisions, way, file, crop, width, blank.colour, blank.sizes[size], facts=facts
            )
            made[alike] = spec, physical_signature(spec, way, media, one.decisions.sheet if cut else None)
        spec, signature = made[alike]
        known = found.get(signature)
        if known:
            found[signature] = known.model_copy(update={"slots": (*known.slots, slot)})
        else:
            found[signature] = Variant(
                print=one.id, name=name, slots=(slot,), artwork=file, spec=spec, height_um=spec.height_um,
                signature=signature, cut=cut,
                is_vector=bool(text is None and one.facts and one.facts.is_vector),
            )  # fmt: skip
    return tuple(found.values())


def text_width_um(place: PlaceDoc, text: TextArt) -> int:
    """A name as wide as its letters at the set height; a long one is made smaller until it fits the print's width."""
    capital = place.text.height_um if place.text else place.width_um
    return max(5_000, min(place.width_um, round(text.width_px * capital / text.capital_px)))


def shown_slot(order: OrderDoc, place: PlaceDoc, wanted: str) -> str:
    """The slot to draw: the one asked for where it takes the print, the usual one otherwise."""
    kind = kind_of(wanted) if kind_of(wanted) in order.ordered else _usual_kind(order, place)
    if place.text is None:
        return kind
    named = [n.slot for n in order.names if place.is_on(n.line)]
    if wanted in named:
        return wanted
    return next((s for s in named if kind_of(s) == kind), named[0] if named and not wanted else kind)


def _usual_kind(order: OrderDoc, place: PlaceDoc) -> str:
    """Of the kinds that take the print the one with most pieces."""
    taking = {k: n for k, n in order.ordered.items() if place.is_on(k.split("/")[0])} or order.ordered
    return max(taking, key=lambda k: (taking[k], k.endswith("/L")))


def advice_job(shop: Shop, one: JobPrint, kind: str) -> AdviceJob:
    """What advice is asked about a print: the blank that is looked at, the artwork as measured, the whole order's pieces."""
    order, place = one.decisions.order, one.decisions.place
    slot = shown_slot(order, place, kind)
    blank = derive.blank_of(shop, one.decisions, slot)
    width = place.width_for(kind_of(slot).split("/")[1])
    height = derive.print_height_um(one.decisions, one.facts, width)
    colours = len(one.facts.colours) if one.facts else 1
    art: ArtKind = "lettering" if place.text else "photo" if colours > PHOTO_COLOURS else "graphic"
    size = blank.sizes[kind_of(slot).split("/")[1]]
    under = obstacles_under(blank, place_on(blank, size, place.place), box_of(place, width, height))
    panel = placement.panel(blank, size, place.place)
    bleeds = blank.kind == "hard" and width / 1000 > panel.bounds_mm[2] - panel.bounds_mm[0] - 1
    return AdviceJob(
        blank=derive.advice_blank(blank, tuple(dict.fromkeys(o.kind for o in under))),
        artwork=AdviceArt(kind=art, colours=max(1, min(colours, 10_000)), full_bleed=bleeds), width_mm=width / 1000,
        height_mm=max(1.0, height / 1000), quantity=order.pieces, laying=derive.usual_laying(shop, blank, kind_of(slot).split("/")[1]),
        in_parts=one.decisions.sheet.in_parts,
    )  # fmt: skip


WORKED_SHARE = 8 / 24 * 5 / 7
"""Of the hours until an order is due, those in which somebody works: eight on five days, from memory."""


def advice_here(shop: Shop, levels: Levels, hours_left: float) -> AdviceHere:
    """What this shop owns and holds, for advice."""
    sheets: dict[str, int] = {}
    metres: dict[str, float] = {}
    wide: dict[str, float] = {}
    rooms = {
        f.method: (f.printable_mm, f.length_mm - 2 * f.margin_mm)
        for p in shop.printers.values() for f in p.offers if f.kind == "sheet"
    }  # fmt: skip
    for printer in shop.printers.values():
        for feed in printer.offers:
            if feed.kind == "sheet" and feed.media in levels.sheets:
                sheets[feed.method] = levels.sheets[feed.media]
            elif feed.kind == "roll" and printer.id in levels.media_m:
                metres[feed.method], wide[feed.method] = levels.media_m[printer.id], feed.printable_mm
    return AdviceHere(methods=frozenset(m for p in shop.printers.values() for m in p.methods), sheets=sheets, metres=metres, roll_mm=wide, rooms_mm=rooms,
                      minutes_left=hours_left * 60 * WORKED_SHARE)  # fmt: skip


def demand_of(shop: Shop, order: OrderDoc, prints: tuple[JobPrint, ...], variants: tuple[Variant, ...], runs: tuple[Run, ...]) -> Demand:  # fmt: skip
    """What the job wants now, and where the work of released runs belonged."""
    signature = {(v.print, s): v.signature for v in variants for s in v.slots}
    wanted = {
        p.id: {s: signature.get((p.id, s), "") for s in slots_of(order, p.decisions.place)}
        for p in sorted(prints, key=lambda p: order.prints.index(p.id))
    }
    belonged = {i.signature: (i.print, i.slots[0] if i.slots else "") for r in runs for i in r.plan.items}
    items = {k: n for k in order.ordered if (n := shop.blanks[order.line_of(k).blank].items) > 1}
    return Demand(ordered=order.ordered, prints=wanted, items=items, belonged=belonged)


def lowest_edge_um(prints: tuple[JobPrint, ...], place: str) -> int:
    """How far down the prints at this place reach already; 0: there is none."""
    reach = (
        p.decisions.place.below_collar_um + derive.print_height_um(p.decisions, p.facts, p.decisions.place.width_um)
        for p in prints
        if p.decisions.place.place == place
    )
    return max(reach, default=0)


def passes_of(order: OrderDoc, prints: tuple[JobPrint, ...]) -> tuple[Pass, ...]:
    """A piece's way over the press, print after print."""
    by_id, names = {p.id: p.decisions.place for p in prints}, names_of(prints)
    places = [(i, by_id[i]) for i in order.prints if i in by_id]
    found: list[Pass] = []
    for at, (print_id, place) in enumerate(places):
        before = places[at - 1][1] if at else None
        turn = ""
        if before is not None and side_of(before) != side_of(place):
            turn = say("Turn the piece: {laid_with}.", laid_with=laid_with(place))
            if place.place == "side two":
                turn = say("Turn the piece with its jig, and fold the pressed edge over, so that no white seam shows.")
        elif before is None and side_of(place) != "front":
            turn = say("Lay the piece with {laid_with}.", laid_with=laid_with(place))
        under = [names[i].lower() for i, p in places[:at] if side_of(p) == side_of(place)]
        hidden = [names[i].lower() for i, p in places[:at] if side_of(p) != side_of(place)]
        shields = []
        if under:
            shields.append(say("parchment over the finished {under}", under=listed(under)))
        if hidden:
            shields.append(
                say("parchment below it: the finished {hidden} lies face down on the pad", hidden=listed(hidden))
            )
        later = len(places) - at - 1
        found.append(Pass(
            print=print_id, name=names[print_id], number=at + 1, of=len(places), turn=turn,
            shield=say("Shield: {shields}.", shields='; '.join(shields)) if shields else "",
            heats=say_many(later, "This print goes under heat {count} more time.", "This print goes under heat {count} more times.") if later else "",
        ))  # fmt: skip
    return tuple(found)


def placings_of(
    order: OrderDoc, blanks: dict[str, Blank], variants: tuple[Variant, ...], place: PlaceDoc, labels: dict[str, str]
) -> tuple[Placing, ...]:
    """The placing card: a row for every slot that takes the print."""
    rows = []
    for v in variants:
        for slot in v.slots:
            blank = blanks[order.line_of(slot).id]
            panel = placement.panel(blank, blank.sizes[kind_of(slot).split("/")[1]], place.place)
            width = v.spec.width_um / 1000
            # A garment's sleeves hang beside it: its seams are nearer than its drawing's edge.
            wide = (
                panel.widest_mm + 2 * SEAM_MM if panel.origin == "collar" else panel.bounds_mm[2] - panel.bounds_mm[0]
            )
            seam = None if place.place.endswith("sleeve") else round((wide - width) / 2 - abs(place.offset_um) / 1000)
            rows.append(
                Placing(
                    slot=slot,
                    label=labels.get(slot, slot),
                    cloth=blanks[order.line_of(slot).id].colour,
                    width_mm=width,
                    below=below_said(place),
                    across=across_said(place),
                    seam_mm=seam,
                )
            )
    return tuple(rows)
