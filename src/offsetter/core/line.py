"""The line: every station in the order of the work, each from its own slice, each result found again by its hash."""

from collections.abc import Callable, MutableMapping
from typing import TypeVar

from pydantic import Field

from offsetter.core import derive, levels, prints, readings, runs_ahead
from offsetter.core.acts import Act, job_standing
from offsetter.core.books import Books, books_of
from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.compute.cost import PieceCost
from offsetter.core.compute.plate_spec import PlateMeasure, PlateSpec
from offsetter.core.compute.sheet import RunLayout, lay_out
from offsetter.core.compute.strokes import rung_for
from offsetter.core.decisions import Way, kind_of
from offsetter.core.facts import Levels, Method, Shop, advice_facts
from offsetter.core.ledger import Ledger, fold
from offsetter.core.prints import JobPrint, Pass, Variant
from offsetter.core.proof import proof_of
from offsetter.core.runs import Run
from offsetter.core.runs_ahead import SpoilRate
from offsetter.core.stations import artwork, colour, hands, method, sheet, white
from offsetter.core.stations import order as station_order
from offsetter.core.stations import print as print_station
from offsetter.core.stations.result import BrandStep, ColourStep, StationResult, state_of
from offsetter.core.values import Finding, Frozen, Reading, digest

Memo = MutableMapping[str, StationResult]
Slice = TypeVar("Slice", bound=Frozen)


class Measured(Frozen):
    """What was measured on pixels for the decisions at hand."""

    preview: PlateMeasure
    device: PlateMeasure | None
    steps: tuple[ColourStep, ...]
    brands: tuple[BrandStep, ...] = ()
    misses: float = 0.0


class LineInputs(Frozen):
    shop: Shop
    profile: str
    """Our own, where none is assigned."""
    prints: tuple[JobPrint, ...] = Field(min_length=1)
    print: str = "front"
    """The print whose line this is."""
    kind: str = ""
    """The line and size that is drawn; empty: the one with most pieces."""
    measured: Measured | None = None
    acts: tuple[Act, ...] = ()
    runs: tuple[Run, ...] = ()
    levels: Levels = Levels()
    spoil: SpoilRate = SpoilRate()
    proof_wanted: bool = False

    @property
    def here(self) -> JobPrint:
        return next((p for p in self.prints if p.id == self.print), self.prints[0])


class Line(Frozen):
    stations: tuple[StationResult, ...]
    readings: tuple[Reading, ...]
    ledger: Ledger
    books: Books
    passes: tuple[Pass, ...]
    variants: tuple[Variant, ...]
    """Of all the job's prints."""
    way: Way | None
    variant: Variant | None
    """The one that is looked at."""
    kind: str
    layout: RunLayout | None
    """Of the next run: the whole order, or what is still to print."""
    on_run: tuple[Variant, ...]
    """What each of the layout's sorts is."""
    cost: PieceCost | None
    currency: str
    media: str

    @property
    def spec(self) -> PlateSpec | None:
        return self.variant.spec if self.variant else None

    @property
    def signature(self) -> str:
        return self.variant.signature if self.variant else ""

    def station(self, name: str) -> StationResult:
        return next(s for s in self.stations if s.station == name)


def way_of(inputs: LineInputs) -> Way | None:
    """The way decided, or the one the shop would go."""
    return prints.way_of(inputs.shop, inputs.prints, inputs.here.id, inputs.profile)


def prepared_first(inputs: LineInputs) -> tuple[str, ...]:
    """Stages that garments go through before they are printed."""
    way = way_of(inputs)
    return (
        tuple(s.id for s in derive.before_print(inputs.shop.methods[way.method], derive.stages_of(inputs.shop, way)))
        if way
        else ()
    )


def all_variants(inputs: LineInputs) -> tuple[Variant, ...]:
    """Every print's transfers, each by its own way."""
    found: list[Variant] = []
    for one in inputs.prints:
        way = prints.way_of(inputs.shop, inputs.prints, one.id, inputs.profile)
        if way is not None:
            found += prints.variants_of(inputs.shop, one, way)
    return tuple(found)


def variant_of(inputs: LineInputs, variants: tuple[Variant, ...]) -> Variant | None:
    """The transfers that are looked at: of this print, for the slot asked for or the usual one."""
    own = [v for v in variants if v.print == inputs.here.id]
    slot = _slot(inputs)
    return next((v for v in own if slot in v.slots), own[0] if own else None)


def spec_of(inputs: LineInputs) -> PlateSpec | None:
    """The plates that the decisions ask for; None while there is no artwork or no way."""
    found = variant_of(inputs, all_variants(inputs))
    return found.spec if found else None


def facts_of(inputs: LineInputs, variant: Variant | None) -> ArtworkFacts | None:
    """What was measured on the picture that is looked at."""
    facts = inputs.here.facts
    return facts if facts and (variant is None or facts.file == variant.artwork) else None


def _slot(inputs: LineInputs) -> str:
    return prints.shown_slot(inputs.here.decisions.order, inputs.here.decisions.place, inputs.kind)


def evaluate(inputs: LineInputs, memo: Memo, variants: tuple[Variant, ...] | None = None) -> Line:
    """All ten stations and the readings. memo maps an input hash to a result and may be shared and bounded.

    variants: all_variants of the same inputs, where they are known already.
    """
    shop, decisions = inputs.shop, inputs.here.decisions
    order, place = decisions.order, decisions.place
    way, variants = way_of(inputs), all_variants(inputs) if variants is None else variants
    variant, kind = variant_of(inputs, variants), kind_of(_slot(inputs))
    facts = facts_of(inputs, variant)
    blanks = {ln.id: shop.blanks[ln.blank] for ln in order.lines}
    blank, size = derive.blank_of(shop, decisions, kind), kind.split("/")[1]
    width_um = place.width_for(size)
    if variant is not None and place.text is not None:
        width_um = variant.spec.width_um
    height_um = derive.print_height_um(decisions, facts, width_um)
    usual_um = round(height_um * place.width_um / width_um) if place.text is None else height_um
    shown = place if place.text is None else place.model_copy(update={"width_um": width_um, "widths_um": {}})
    own = tuple(v for v in variants if v.print == inputs.here.id)
    texts = {s: v.spec.width_um for v in own for s in v.slots} if place.text else {}
    done: dict[str, StationResult] = {"order": _judged(memo, "order", station_order.VERSION, station_order.Inputs(
        order=order, place=shown, focus=kind, blanks=blanks, height_um=usual_um, text_widths_um=texts, has_file=facts is not None,
        printers=tuple(shop.printers.values()), presses=tuple(shop.presses.values()), ovens=tuple(shop.ovens.values()),
        way=way, pages=facts.pages if facts else 1, cures=derive.cures_in(derive.stages_of(shop, way)) if way else ""), station_order.judge)}  # fmt: skip
    ledger = fold(inputs.acts, prints.demand_of(order, inputs.prints, variants, inputs.runs))
    passes = prints.passes_of(order, inputs.prints)
    to_begin = {k: max(0, n - ledger.begun(k)) for k, n in order.ordered.items()}
    done["order"] = _with(done["order"], levels.short_blanks(inputs.levels, blanks, to_begin))
    stages = derive.stages_of(shop, way) if way else ()
    after = derive.after_print(shop.methods[way.method], stages) if way else ()
    last = after[-1].id if after else ""
    books = books_of(order, blanks, ledger, variants, inputs.runs, inputs.prints, last)
    if way is None:
        return Line(stations=_whole_line(done), readings=(), ledger=ledger, books=books, passes=passes, variants=variants, way=None,
                    variant=variant, kind=kind, layout=None, on_run=(), cost=None, currency=shop.prices.currency, media="")  # fmt: skip
    chosen = shop.methods[way.method]
    printer, press, oven = shop.printers[way.printer], shop.presses[way.press], shop.ovens.get(way.oven)
    recipe, feed = derive.recipe_of(shop, way), derive.feed_of(shop, way)
    cures_in = derive.cures_in(stages)
    measure = (inputs.measured.device or inputs.measured.preview) if inputs.measured else None
    done["method"] = _judged(memo, "method", method.VERSION, method.Inputs(
        way=way, is_decided=decisions.method is not None, method=chosen, printer=printer, press=press, oven=oven,
        recipe=recipe, stages=stages, blank=blank, facts=facts,
        white_share=round(measure.coverage_pct.get("W", 0)) if measure and "W" in measure.coverage_pct else None,
        asked=prints.advice_job(shop, inputs.here, kind), advice=advice_facts(), newest=shop.recipes[way.recipe].version), method.judge)  # fmt: skip
    garment = station_order.draw_garment(blank, size, shown, height_um / 1000 if facts else None)
    planned = layout = None
    on_run: tuple[Variant, ...] = ()
    if facts is not None and variant is not None and measure is not None and inputs.measured is not None:
        spec = variant.spec
        art_inputs = artwork.Inputs(
            doc=decisions.artwork, facts=facts, crop_px=spec.crop_px, width_um=spec.width_um, height_um=height_um,
            method=chosen, cloth=blank.colour, colour_name=blank.colour_name, lettering=inputs.here.lettering, fills=prints.advice_job(shop, inputs.here, kind).artwork.full_bleed)  # fmt: skip
        done["artwork"] = _judged(memo, "artwork", artwork.VERSION, art_inputs, artwork.judge)
        done["colour"] = _judged(memo, "colour", colour.VERSION, colour.Inputs(
            doc=decisions.colour, spec=spec.colour, method=chosen, measure=measure, steps=inputs.measured.steps,
            garment=garment, profile=shop.profiles.get(way.profile), is_own_profile=derive.has_own_profile(shop, way), polyester=derive.polyester_of(blank),
            condition=f"{printer.name} · {feed.media} · {next(m.name for m in printer.modes if m.id == way.mode)}", pinned=derive.condition_of(shop, way),
            newer=derive.newer_condition(shop, way), brands=inputs.measured.brands, misses_share=inputs.measured.misses, mirrored=spec.mirrored,
            carrier=blank.colour if feed.kind == "garment" else colour.CLEAR_FILM if chosen.white == "plate" else colour.PAPER,
            art_kind=prints.advice_job(shop, inputs.here, kind).artwork.kind), colour.judge)  # fmt: skip
        if ledger.to_print or not ledger.printed:
            done["colour"] = _with(done["colour"], levels.drifted(shop, printer.id, feed.media, way.mode))
        mm_per_px = spec.width_um / 1000 / (spec.crop_px[2] - spec.crop_px[0])
        reach_mm = 2 * max(0, spec.white.choke_um) / 1000 + (chosen.min_stroke_mm or 0) if spec.white else 0
        done["white"] = _judged(memo, "white", white.VERSION, white.Inputs(
            doc=decisions.white, spec=spec.white, dpi=spec.dpi, method=chosen, printer=printer, measure=measure,
            strokes=rung_for(facts.strokes, reach_mm / mm_per_px), mm_per_px=mm_per_px, garment=garment,
            colour_name=blank.colour_name), white.judge)  # fmt: skip
        spares = (
            runs_ahead.NO_SPARES
            if feed.kind == "garment"
            else runs_ahead.spares_for(order.pieces, decisions.sheet.spares, inputs.spoil, shop.prices.spoil_share)
        )
        whole = derive.layout_ask(shop, decisions, way, runs_ahead.wants(runs_ahead.whole(order, own, spares)))
        planned = lay_out(whole)
        copies = runs_ahead.next_run(order, variants_together(inputs, variants, way), ledger, spares)
        on_run = tuple(v for v, _ in copies)
        ask = derive.layout_ask(shop, decisions, way, runs_ahead.wants(copies))
        layout = planned if ask == whole else lay_out(ask)
        cures = {"press": "the hovering press", "oven": f"oven {oven.name}" if oven else "the oven", "": ""}[cures_in]
        done["sheet"] = _judged(memo, "sheet", sheet.VERSION, sheet.Inputs(
            doc=decisions.sheet, ask=ask, method=chosen, printer=printer, feed=feed, pieces=order.pieces, spares=spares.count, spares_why=spares.why,
            cure_what=cures, label=order.title, cloth=blank.colour,
            names=tuple(books.name_of(v) for v in on_run)), sheet.judge)  # fmt: skip
        current = [r for r in inputs.runs if r.state == "released" and variant.signature in r.laid()]
        blocked = tuple(n for n, r in done.items() if r.state == "blocked")
        ink = readings.ink_of(spec, measure, chosen)
        done["print"] = _judged(memo, "print", print_station.VERSION, print_station.Inputs(
            method=chosen, printer=printer, feed=feed, wet=any(s.window_s for s in after),
            not_prepared=hands.to_prepare(ledger, first[-1].id) if (first := derive.before_print(chosen, stages)) else 0, spec=spec, symmetric=facts.symmetric, measure=inputs.measured.device, ink_ml=ink, ledger=ledger,
            is_released=bool(current), blocked_by=blocked, proof=proof_of(inputs.acts, variants, wanted=inputs.proof_wanted)), print_station.judge)  # fmt: skip
        if layout:
            needs = levels.short_supplies(inputs.levels, printer, feed, layout, ink)
            done["print"] = _with(done["print"], needs if ledger.to_print or not ledger.printed else ())
        run_cuts = _copies_per_cut(
            next((r.plan.layout for r in reversed(inputs.runs) if r.state == "released"), layout)
        )
        here = next((p for p in passes if p.print == inputs.here.id), None)
        stands, why = job_standing(inputs.acts)
        pad = prints.pad_for(chosen, blank, shown, size, height_um)
        by_hand = hands.Inputs(stages=prints.stages_on(stages, place, blank, pad=pad), last=last, comes_first=chosen.prepares_first, medium=chosen.medium, lay_out=recipe.lay_out, ledger=ledger, print=inputs.here.id, cuts=run_cuts, press=press,
                               oven=oven, garment=garment, stands=stands, why=why, is_face_down=chosen.mirror, turn=here.turn if here else "",
                               shield=here.shield if here else "",
                               belongs=tuple(f for f in done["artwork"].findings if f.code == artwork.OWN_HOLES))  # fmt: skip
        for name, judge in (("prepare", hands.prepare), ("press", hands.press), ("inspect", hands.inspect)):
            done[name] = _judged(memo, name, hands.VERSION, by_hand, judge)
    row, cost = readings.readings_for(shop, order, blank, variant, measure, planned, stages, way)
    return Line(stations=_in_order(_whole_line(done), chosen), readings=row, ledger=ledger, books=books, passes=passes, variants=variants, way=way,
                variant=variant, kind=kind, layout=layout, on_run=on_run, cost=cost, currency=shop.prices.currency, media=feed.media)  # fmt: skip


def variants_together(inputs: LineInputs, variants: tuple[Variant, ...], way: Way) -> tuple[Variant, ...]:
    """The variants that can be printed in one go with this way: same printer, mode and cure."""

    def key(one: Way | None) -> tuple[str, ...]:
        if one is None:
            return ()
        prepared = (s.id for s in derive.stages_of(inputs.shop, one) if s.part == "prepare")
        return (one.method, one.printer, one.mode, one.oven, *prepared)

    ways = {p.id: prints.way_of(inputs.shop, inputs.prints, p.id, inputs.profile) for p in inputs.prints}
    return tuple(v for v in variants if key(ways[v.print]) == key(way))


NAMES = ("order", "method", "artwork", "colour", "white", "sheet", "print", "prepare", "press", "inspect")


def _judged(
    memo: Memo, name: str, version: int, inputs: Slice, judge: Callable[[Slice], StationResult]
) -> StationResult:
    identity = inputs.identity() if hasattr(inputs, "identity") else inputs
    key = digest(name, version, identity)
    found = memo.get(key)
    if found is None:
        found = memo[key] = judge(inputs)
    return found


def _with(result: StationResult, extra: tuple[Finding, ...]) -> StationResult:
    if not extra:
        return result
    findings = result.findings + extra
    state = result.state
    if state == "ready" and any(f.severity == "caution" for f in extra):
        state = state_of(findings, settled=False)
    return result.model_copy(update={"findings": findings, "state": state})


def _whole_line(done: dict[str, StationResult]) -> tuple[StationResult, ...]:
    missing = "the artwork" if "method" in done else "a method"
    return tuple(
        done.get(n) or StationResult(station=n, name=n.capitalize(), state="open", telling="waits",
                                     verdict=f"{n.capitalize()} waits for {missing}",
                                     sub="Everything here is worked out from it.", waits_for=missing)
        for n in NAMES
    )  # fmt: skip


def _in_order(stations: tuple[StationResult, ...], method: Method) -> tuple[StationResult, ...]:
    """Prepare before Print where the method says so."""
    if not method.prepares_first:
        return stations
    names = [n for n in NAMES if n != "prepare"]
    names.insert(names.index("print"), "prepare")
    by_name = {s.station: s for s in stations}
    return tuple(by_name[n] for n in names)  # type: ignore[index]


def _copies_per_cut(layout: RunLayout | None) -> tuple[int, ...]:
    if layout is None:
        return ()
    return tuple(sum(p.cut == c + 1 for p in layout.places) for c in range(len(layout.cut_lengths_um)))
