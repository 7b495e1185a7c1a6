"""What follows from the decisions before anything is judged: the way, the plates' specification, the run's layout."""

from typing import Literal

from offsetter.core.compute import wrap
from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.compute.cut_spec import CutSpec
from offsetter.core.compute.fit import ORDER, AdviceBlank, AdviceJob, lightness, suited_schools, verdict_of
from offsetter.core.compute.looks import Ground
from offsetter.core.compute.plate_spec import ColourSpec, PlateSpec, WhiteSpec
from offsetter.core.compute.platen import Laying, PlatenLayout, lay_on
from offsetter.core.compute.sheet import LayoutAsk, Want, fits, lay_out
from offsetter.core.decisions import Decisions, Way, WhiteDoc
from offsetter.core.facts import (
    Blank,
    Condition,
    Cutter,
    Fault,
    Feed,
    FlatSize,
    Method,
    MugSize,
    Press,
    Recipe,
    Shop,
    Size,
    Stage,
    TubeSize,
    advice_facts,
    faults,
)
from offsetter.core.facts.inks import FOUR, split_off
from offsetter.core.sentences import say
from offsetter.core.units import um_of
from offsetter.core.values import Refusal

USUAL_MM = 60.0
"""A print that every method's sheet takes."""
LIKELY_KEPT = 256
_LIKELY: dict[tuple[int, str], tuple[Shop, str]] = {}


def likely_method(shop: Shop, asked: AdviceJob) -> str:
    """Of the methods done here the one that practice would reach for: dye where nothing stands against it, for it goes into the
    fibre; else what takes most cloths; else what is least objected to. Quantity, size and price do not enter: while an
    order is drawn up the way does not jump about."""
    asked = asked.model_copy(update={"width_mm": USUAL_MM, "height_mm": USUAL_MM})
    key = (id(shop), asked.model_dump_json())
    known = _LIKELY.get(key)
    # A shop is one object until a fact of it changes: asked again and again while an order is drawn up, it is weighed once.
    if known is None or known[0] is not shop:
        if len(_LIKELY) >= LIKELY_KEPT:
            _LIKELY.clear()
        known = _LIKELY[key] = (shop, _likely(shop, asked))
    return known[1]


def _likely(shop: Shop, asked: AdviceJob) -> str:
    facts = advice_facts()
    done = [m for m in dict.fromkeys(m for p in shop.printers.values() for m in p.methods) if m in shop.methods]
    newest = {r.method: r for r in shop.recipes.values()}

    def reach(name: str) -> tuple[int, int]:
        method = shop.methods[name]
        verdict = verdict_of(asked, method, newest.get(name), facts)
        if method.lies == "in" and verdict == "good":
            return 0, method.rank
        if method.takes_most and verdict != "ruled-out":
            return 1, method.rank
        return 2 + ORDER[verdict], 0 if method.takes_most else method.rank

    return min(done, key=reach, default=next(iter(shop.methods)))


def advice_blank(blank: Blank, obstacles: tuple[str, ...] = ()) -> AdviceBlank:
    """A blank as advice is asked about it."""
    return AdviceBlank(
        kind=blank.kind,
        fibres=blank.fibres,
        colour=blank.colour,
        coated=blank.coated,
        obstacles=obstacles,
        thickness_mm=blank.thickness_mm,
        material=blank.material,
        stretch=blank.stretch,
        scorch_c=blank.scorch_c if blank.kind == "cloth" else None,
    )


def proposed_way(
    shop: Shop, profile: str, method: str, blank: Blank | None = None, facts: ArtworkFacts | None = None
) -> Way | None:
    """The way this shop would go for a method and blank: its first printer, mode and oven, a press that takes the blank, the
    schools that suit it and the artwork on it; None when the shop owns no printer for it."""
    printer = next((p for p in shop.printers.values() if method in p.methods), None)
    recipe = max((r for r in shop.recipes.values() if r.method == method), key=lambda r: r.version, default=None)
    if printer is None or recipe is None or not shop.presses_in_use:
        return None
    schools = {q.id: q.choices[0].id for q in recipe.schools}
    if blank is not None:
        lighter = facts.lighter_share(blank.colour) if facts else 0.0
        schools = suited_schools(recipe, advice_blank(blank), advice_facts(), lighter)
    if not shop.ovens_in_use:
        schools |= without_oven(recipe, schools)
    feed, mode = printer.feed(method), printer.modes[0].id
    condition = shop.condition(printer.id, feed.media if feed else "", mode)
    own = condition.profile if condition else ""
    return Way(
        method=method, printer=printer.id, mode=mode, press=press_for(shop, blank).id,
        oven=next((o.id for o in shop.ovens_in_use), ""), schools=schools, recipe=recipe.id, recipe_version=recipe.version, profile=own or profile,
        calibration=condition.version if condition else 0,
    )  # fmt: skip


def on_other_printers(shop: Shop, way: Way) -> tuple[Way, ...]:
    """The same way on printers of another kind or with another medium that take its method; those of its own kind share the work anyway."""
    own, found = shop.printers.get(way.printer), []
    for printer in shop.printers.values():
        feed = printer.feed(way.method)
        is_alike = own is not None and own.began_as == printer.began_as and own.feed(way.method) == feed
        if printer.id == way.printer or printer.retired or feed is None or not feed.offered or is_alike:
            continue
        mode = printer.modes[0].id
        condition = shop.condition(printer.id, feed.media, mode)
        found.append(way.model_copy(update={
            "printer": printer.id, "mode": mode, "profile": condition.profile if condition and condition.profile else way.profile,
            "calibration": condition.version if condition else 0,
        }))  # fmt: skip
    return tuple(found)


def without_oven(recipe: Recipe, schools: dict[str, str]) -> dict[str, str]:
    """The answers that would change where the shop has no oven."""
    wants = {q.id: next((c.id for c in q.choices if not c.oven), "") for q in recipe.schools for c in q.choices
             if c.oven and schools.get(q.id) == c.id}  # fmt: skip
    return {q: choice for q, choice in wants.items() if choice}


def press_for(shop: Shop, blank: Blank | None) -> Press:
    """The shop's first press that takes the blank's shape; its first of all when none does."""
    wants_mug = blank is not None and any(isinstance(s, MugSize) for s in blank.sizes.values())
    fitting = [p for p in shop.presses_in_use if p.is_mug == wants_mug]
    return (fitting or shop.presses_in_use)[0]


def blank_of(shop: Shop, decisions: Decisions, kind: str) -> Blank:
    return shop.blanks[decisions.order.line_of(kind).blank]


def faults_of(shop: Shop, way: Way, decisions: Decisions, blank: Blank) -> tuple[Fault, ...]:
    """What can go wrong by this way on this blank."""
    has_white = white_of(shop, way, decisions, blank.colour) is not None
    return tuple(f for f in faults() if f.can_befall(shop.methods[way.method], blank.kind, has_white=has_white))


def crop_of(decisions: Decisions, facts: ArtworkFacts) -> tuple[int, int, int, int]:
    if decisions.artwork.crop == "content" and decisions.place.text is None:
        return facts.content_px
    return (0, 0, *facts.pixels)


def print_height_um(decisions: Decisions, facts: ArtworkFacts | None, width_um: int) -> int:
    """Height of the print that keeps the picture's own shape; a square until there is a picture."""
    if facts is None:
        return width_um
    left, top, right, bottom = crop_of(decisions, facts)
    return round(width_um * (bottom - top) / (right - left))


def white_of(shop: Shop, way: Way, decisions: Decisions, cloth: str) -> WhiteSpec | None:
    """The white plate's specification with the method's own defaults filled in; None where there is no white plate.

    White follows the cloth: among dark pieces a light one gets none, unless somebody said why it should.
    """
    method, tone = shop.methods[way.method], recipe_of(shop, way).tone_of(way.schools)
    if method.white != "plate" or tone == "light":
        return None
    if tone == "dark" and not way.because and lightness(cloth) >= advice_facts().white_from_l:
        return None
    doc = decisions.white
    return usual_white(
        method,
        cloth,
        doc.level_pct,
        doc.choke_um,
        knock_out=doc.knock_out,
        cut_faint=doc.faint == "cut",
        guard=doc.guard,
    )


def _where(
    white: WhiteSpec | None, doc: WhiteDoc, crop_px: tuple[int, int, int, int], facts: ArtworkFacts | None
) -> WhiteSpec | None:
    """What says where white lies. A mask takes the level's place: where it is full, white is full."""
    own = bool(doc.own and facts is not None and facts.white_name and doc.lights_from is None)
    if white is None or facts is None or not (doc.mask or own):
        return white and white.model_copy(update={"lights_from": doc.lights_from})
    left, top, right, bottom = (round(v / n, 5) for v, n in zip(crop_px, facts.pixels * 2, strict=True))
    told = {"mask_part": (left, top, right, bottom), "level_pct": 100.0}
    if not doc.mask:
        return white.model_copy(update={**told, "own": True})
    return white.model_copy(update={**told, "mask": doc.mask, "mask_dark": doc.mask_dark})


def usual_white(
    method: Method, cloth: str, level_pct: float | None = None, choke_um: int | None = None, *,
    knock_out: bool = True, cut_faint: bool = True, guard: bool = True,
) -> WhiteSpec:  # fmt: skip
    """A white plate by the method's own values, where nothing else was decided."""
    return WhiteSpec(
        level_pct=level_pct if level_pct is not None else method.white_level_pct or USUAL_LEVEL_PCT,
        choke_um=choke_um if choke_um is not None else um_of(method.choke_mm or 0), cloth=cloth,
        knock_out_delta_e=method.knock_out_delta_e if knock_out else None,
        faint_floor=(method.faint_floor or 0.0) if cut_faint else 0.0, guard_um=um_of(method.min_stroke_mm or 0) if guard else 0,
    )  # fmt: skip


USUAL_LEVEL_PCT = 60.0
"""Of white, where a method gives none: from memory."""


def plate_spec(
    shop: Shop,
    decisions: Decisions,
    way: Way,
    artwork: str,
    crop_px: tuple[int, int, int, int],
    width_um: int,
    cloth: str,
    size: Size | None = None,
    *,
    facts: ArtworkFacts | None = None,
) -> PlateSpec:
    """Everything that changes a dot of this print's plates, at one width and for one cloth. size: of the blank, where it may bend the print.

    facts: of the picture, where something else than its own lightness may say where its white lies.
    """
    method, printer = shop.methods[way.method], shop.printers[way.printer]
    mode = next(m for m in printer.modes if m.id == way.mode)
    condition, driver = condition_of(shop, way), is_driven(shop, way)
    found = condition.ink_limit_pct if condition else None
    limit = decisions.colour.ink_limit_pct or found or method.ink_limit_pct or 400
    inks, light = separated_into(shop, way)
    return PlateSpec(
        artwork=artwork, crop_px=crop_px, width_um=width_um, dpi=mode.dpi,
        mirrored=method.mirror,
        colour=ColourSpec(profile=shop.ink_profile if driver else way.profile, driver=way.profile if driver else "",
                          curves=condition.curves if condition else (), shifts=decisions.colour.shifts, intent=decisions.colour.intent,
                          black_point=decisions.colour.black_point, ink_limit_pct=limit,
                          composite_black=method.composite_black, inks=() if inks == FOUR else inks, light=light),
        white=_where(white_of(shop, way, decisions, cloth), decisions.white, crop_px, facts),
        white_first=method.plate_order[0] == "white",
        bend=wrap.bend_of(size, decisions.place.below_collar_um / 1000) if isinstance(size, MugSize) else None,
    )  # fmt: skip


def separated_into(shop: Shop, way: Way) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """What the way's profile separates into on its printer, and the light inks that are split off afterwards."""
    profile, printer = shop.profiles.get(way.profile), shop.printers[way.printer]
    if profile is None or profile.space == "RGB":
        return FOUR, ()
    inks = profile.inks_on(printer) or profile.inks or FOUR
    return inks, split_off(printer.inks, inks)


def condition_of(shop: Shop, way: Way) -> Condition | None:
    """The print condition as the way pinned it; None where nothing was known of it then."""
    feed = shop.printers[way.printer].feed(way.method)
    return shop.condition_at(way.printer, feed.media, way.mode, way.calibration) if feed and way.calibration else None


def newer_condition(shop: Shop, way: Way) -> Condition | None:
    """The print condition as it is now, where that prints other dots than the way pinned."""
    feed = shop.printers[way.printer].feed(way.method)
    now = shop.condition(way.printer, feed.media, way.mode) if feed else None
    if now is None or not now.profile:
        return None
    then = condition_of(shop, way)
    pinned = (way.profile, then.curves if then else (), then.ink_limit_pct if then else None)
    return now if now.changes_dots != pinned else None


def has_own_profile(shop: Shop, way: Way) -> bool:
    """The way's profile is the one that was assigned to its printer, medium and mode."""
    feed = shop.printers[way.printer].feed(way.method)
    pinned = condition_of(shop, way) or (shop.condition(way.printer, feed.media, way.mode) if feed else None)
    return pinned is not None and pinned.profile == way.profile


def is_driven(shop: Shop, way: Way) -> bool:
    """The printer separates by itself: it is sent the RGB of its own profile."""
    profile = shop.profiles.get(way.profile)
    return profile is not None and profile.space == "RGB"


def ground_of(shop: Shop, way: Way, decisions: Decisions, blank: Blank) -> Ground:
    """What the print ends up on, for its pictures."""
    method = shop.methods[way.method]
    dyes = method.lies == "in" and blank.kind == "cloth"
    return Ground(
        cloth=blank.colour, opacity=method.white_opacity or 1.0, white=method.white, strength=polyester_of(blank) if dyes else 1.0,
        is_dye=method.lies == "in",
        sheet_colour=decisions.colour.sheet_colour if method.composite_black else "",
    )  # fmt: skip


def polyester_of(blank: Blank) -> float:
    """Share of a blank's fibre that takes dye; all of a coated hard blank."""
    if blank.kind == "hard":
        return 1.0 if blank.coated else 0.0
    return min(1.0, blank.fibres.get("polyester", 0.0) + blank.fibres.get("softshell", 0.0))


def platen_of(press: Press, blank: Blank, size: str) -> PlatenLayout:
    """How blanks of a size lie under a press: flat things and tubes side by side, garments and mugs one by one."""
    thing = blank.sizes[size]
    platen = (press.platen_width_mm, press.platen_height_mm)
    if isinstance(thing, FlatSize):
        return lay_on(platen, (thing.width_mm, thing.height_mm), is_round=thing.is_round, items=blank.items)
    if isinstance(thing, TubeSize):
        return lay_on(platen, (thing.flat_width_mm, thing.length_mm), items=blank.items)
    if isinstance(thing, MugSize):
        return lay_on(platen, (thing.diameter_mm, thing.height_mm), alone=True)
    return lay_on(platen, (thing.chest_mm, thing.length_mm), alone=True)


def laying_of(press: Press, blank: Blank, size: str) -> Laying:
    return Laying(items=blank.items, at_once=len(platen_of(press, blank, size).spots))


def usual_laying(shop: Shop, blank: Blank, size: str) -> Laying:
    """By the shop's largest press that takes such a thing, where no way says which."""
    is_mug = isinstance(blank.sizes[size], MugSize)
    fit = [p for p in shop.presses_in_use if p.is_mug == is_mug] or list(shop.presses_in_use)
    if not fit:
        return Laying(items=blank.items)
    return laying_of(max(fit, key=lambda p: p.platen_width_mm * p.platen_height_mm), blank, size)


def recipe_of(shop: Shop, way: Way) -> Recipe:
    return shop.recipe(way.recipe, way.recipe_version)


def stages_of(shop: Shop, way: Way) -> tuple[Stage, ...]:
    return recipe_of(shop, way).stages_for(way.schools)


def feed_of(shop: Shop, way: Way) -> Feed:
    """What the way's printer takes for its method. Raises Refusal when it cannot do it."""
    printer = shop.printers[way.printer]
    feed = printer.feed(way.method)
    if feed is None:
        name = shop.methods[way.method].name.lower()
        raise Refusal("wrong-printer", say("{name} cannot print for {name2}.", name=printer.name, name2=name), say("The way is as it was."),
                      say("Choose a printer that does it, or another method."))  # fmt: skip
    return feed


def after_print(method: Method, stages: tuple[Stage, ...]) -> tuple[Stage, ...]:
    """Stages of preparing that a printed transfer goes through."""
    return () if method.prepares_first else tuple(s for s in stages if s.part == "prepare")


def before_print(method: Method, stages: tuple[Stage, ...]) -> tuple[Stage, ...]:
    """Stages that a garment goes through before it is printed."""
    return tuple(s for s in stages if s.part == "prepare") if method.prepares_first else ()


def cures_in(stages: tuple[Stage, ...]) -> Literal["oven", "press", ""]:
    """Where prints are cured before they are pressed: in an oven, under a press that hovers, nowhere."""
    cure = next((s for s in stages if s.part == "prepare" and s.hover), None)
    return "" if cure is None else "oven" if cure.alone else "press"


def longest_cut_mm(shop: Shop, way: Way) -> tuple[float, float]:
    """Width and length that a cut length may have: what cures it, the sheet, or what hands can carry of the roll."""
    feed, cures = feed_of(shop, way), cures_in(stages_of(shop, way))
    if cures == "press":
        press = shop.presses[way.press]
        return max(press.platen_width_mm, press.platen_height_mm), min(press.platen_width_mm, press.platen_height_mm)
    if cures == "oven" and way.oven:
        oven = shop.ovens[way.oven]
        return oven.width_mm, oven.length_mm
    return feed.printable_mm, feed.length_mm


def cut_of(shop: Shop, decisions: Decisions, way: Way) -> CutSpec | None:
    """The cutter's line round each print; None where no cutter follows one."""
    usual, sheet = shop.methods[way.method].cut_offset_mm, decisions.sheet
    if usual is None:
        return None
    offset = um_of(usual) if sheet.cut_offset_um is None else sheet.cut_offset_um
    cutter = cutter_of(shop, way)
    return CutSpec(
        offset_um=offset,
        shape=sheet.cut_shape,
        holes=sheet.cut_holes,
        weed_boxes=sheet.weed_boxes and shop.methods[way.method].is_weeded,
        through=sheet.cut_through,
        starts=sheet.cut_starts,
        turns=sheet.cut_turns,
        least_radius_um=um_of(cutter.least_radius_mm) if cutter else 0,
        marks=is_cut_apart(way),
        in_print=not is_cut_apart(way) and shop.methods[way.method].is_weeded,
    )


def is_cut_apart(way: Way) -> bool:
    return way.schools.get(CUTTING) == "separate"


def cutter_of(shop: Shop, way: Way) -> Cutter | None:
    """The shop's cutter for what is cut apart from its printer: the narrowest that reaches across the print; None: none stands there."""
    wide = feed_of(shop, way).printable_mm
    fits = [c for c in shop.cutters.values() if not c.retired and c.width_mm >= wide]
    return min(fits, key=lambda c: (c.width_mm, c.id), default=None) if is_cut_apart(way) else None


CUTTING = "cutting"
"""The school that says whether a cutter stands apart from the printer."""


def layout_ask(shop: Shop, decisions: Decisions, way: Way, wants: tuple[Want, ...]) -> LayoutAsk:
    """What the run has to carry, and what limits it."""
    feed = feed_of(shop, way)
    widest, longest = longest_cut_mm(shop, way)
    is_garment = feed.kind == "garment"
    ask = LayoutAsk(
        wants=wants, gap_um=0 if is_garment else decisions.sheet.gap_um, margin_um=um_of(feed.margin_mm), media_um=um_of(feed.media_mm),
        printable_um=um_of(feed.printable_mm), longest_cut_um=um_of(longest), widest_cut_um=um_of(widest),
        across=decisions.sheet.across, rows_per_cut=decisions.sheet.rows_per_cut, turned=bool(decisions.sheet.turned),
        labels=not is_garment, sheet_um=0 if feed.kind == "roll" else um_of(feed.length_mm), is_garment=is_garment,
        overlap_um=decisions.sheet.overlap_um if decisions.sheet.in_parts and not is_garment else None,
    )  # fmt: skip
    turns = (False, True) if decisions.sheet.turned is None else (ask.turned,)
    if ask.overlap_um is not None and wants:
        press = shop.presses[way.press]
        across, deep = um_of(press.platen_width_mm), um_of(press.platen_height_mm)
        boxes = ((0, 0),) if press.is_mug else ((across, deep), (deep, across))
        # In as few parts as can be; whole where it goes.
        tried = [(laid.parts, at, o) for at, o in enumerate(
            ask.model_copy(update={"turned": t, "part_um": box}) for t in turns for box in boxes) if (laid := lay_out(o))]  # fmt: skip
        return min(tried, key=lambda t: t[:2])[2] if tried else ask
    if not wants or fits(ask):
        return ask
    # Turned a quarter where nobody said otherwise; then labels and marks give way to the print.
    others = (ask.model_copy(update={"turned": t, "labels": has}) for has in (ask.labels, False) for t in turns)
    return next((o for o in others if fits(o)), ask)
