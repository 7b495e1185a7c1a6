"""The line: every station in the order of the work, each from its own slice, each result found again by its hash."""

from collections.abc import Callable, MutableMapping
from typing import TypeVar

from offsetter.core import derive, levels, readings
from offsetter.core.acts import Act, Closed, standing
from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.compute.cost import PieceCost
from offsetter.core.compute.plate_spec import PlateMeasure, PlateSpec
from offsetter.core.compute.sheet import RunLayout, lay_out
from offsetter.core.compute.strokes import rung_for
from offsetter.core.decisions import Decisions, Way
from offsetter.core.facts import Levels, Shop
from offsetter.core.ledger import Ledger, fold
from offsetter.core.runs import Run, physical_signature
from offsetter.core.stations import artwork, colour, hands, method, order, print, sheet, white
from offsetter.core.stations.result import ColourStep, StationResult, state_of
from offsetter.core.values import Finding, Frozen, Reading, digest

Memo = MutableMapping[str, StationResult]
Slice = TypeVar("Slice", bound=Frozen)


class Measured(Frozen):
    """What was measured on pixels for the decisions at hand."""

    preview: PlateMeasure
    device: PlateMeasure | None
    steps: tuple[ColourStep, ...]


class LineInputs(Frozen):
    shop: Shop
    profile: str
    profile_name: str
    decisions: Decisions
    facts: ArtworkFacts | None = None
    measured: Measured | None = None
    acts: tuple[Act, ...] = ()
    runs: tuple[Run, ...] = ()
    levels: Levels = Levels()


class Line(Frozen):
    stations: tuple[StationResult, ...]
    readings: tuple[Reading, ...]
    ledger: Ledger
    way: Way | None
    spec: PlateSpec | None
    layout: RunLayout | None
    """Of the next run: the whole order, or what is still to print."""
    signature: str
    cost: PieceCost | None
    currency: str
    media: str

    def station(self, name: str) -> StationResult:
        return next(s for s in self.stations if s.station == name)


def way_of(inputs: LineInputs) -> Way | None:
    """The way decided, or the one the shop would go."""
    return inputs.decisions.method or derive.proposed_way(inputs.shop, inputs.profile)


def spec_of(inputs: LineInputs) -> PlateSpec | None:
    """The plates that the decisions ask for; None while there is no artwork or no way."""
    way = way_of(inputs)
    if way is None or inputs.facts is None:
        return None
    return derive.plate_spec(inputs.shop, inputs.decisions, way, inputs.facts)


def evaluate(inputs: LineInputs, memo: Memo) -> Line:
    """All ten stations and the readings. memo maps an input hash to a result and may be shared and bounded."""
    shop, decisions, facts = inputs.shop, inputs.decisions, inputs.facts
    way, spec = way_of(inputs), spec_of(inputs)
    blank = derive.blank_of(shop, decisions)
    height_um = derive.print_height_um(decisions, facts)
    done: dict[str, StationResult] = {"order": _judged(memo, "order", order.VERSION, order.Inputs(
        order=decisions.order, place=decisions.place, blank=blank, height_um=height_um, has_file=facts is not None,
        printers=tuple(shop.printers.values()), presses=tuple(shop.presses.values()), ovens=tuple(shop.ovens.values()),
        way=way), order.judge)}  # fmt: skip
    signature = physical_signature(spec, way, shop.printers[way.printer].media) if spec and way else ""
    ledger = fold(inputs.acts, decisions.order.line.counts, signature)
    done["order"] = _with(done["order"], levels.short_blanks(inputs.levels, blank, ledger.to_press))
    if way is None:
        return _nothing_yet(inputs, done, ledger)
    chosen = shop.methods[way.method]
    printer, press, oven = shop.printers[way.printer], shop.presses[way.press], shop.ovens[way.oven]
    stages, recipe = derive.stages_of(shop, way), derive.recipe_of(shop, way)
    measure = (inputs.measured.device or inputs.measured.preview) if inputs.measured else None
    done["method"] = _judged(memo, "method", method.VERSION, method.Inputs(
        way=way, is_decided=decisions.method is not None, method=chosen, printer=printer, press=press, oven=oven,
        recipe=recipe, stages=stages, blank=blank, facts=facts,
        white_share=round(measure.coverage_pct.get("W", 0)) if measure else None), method.judge)  # fmt: skip
    garment = order.draw_garment(blank, order.middle_size(blank, decisions.order.line.counts), decisions.place,
                                 height_um / 1000 if facts else None)  # fmt: skip
    planned = layout = None
    if facts is not None and spec is not None and measure is not None and inputs.measured is not None:
        art_inputs = artwork.Inputs(
            doc=decisions.artwork, facts=facts, crop_px=spec.crop_px, width_um=spec.width_um, height_um=height_um,
            method=chosen, cloth=blank.colour, colour_name=blank.colour_name)  # fmt: skip
        done["artwork"] = _judged(memo, "artwork", artwork.VERSION, art_inputs, artwork.judge)
        done["colour"] = _judged(memo, "colour", colour.VERSION, colour.Inputs(
            doc=decisions.colour, spec=spec.colour, method=chosen, measure=measure, steps=inputs.measured.steps,
            garment=garment, profile_name=inputs.profile_name), colour.judge)  # fmt: skip
        mm_per_px = spec.width_um / 1000 / (spec.crop_px[2] - spec.crop_px[0])
        reach_mm = 2 * max(0, spec.white.choke_um) / 1000 + (chosen.min_stroke_mm or 0) if spec.white else 0
        done["white"] = _judged(memo, "white", white.VERSION, white.Inputs(
            doc=decisions.white, spec=spec.white, dpi=spec.dpi, method=chosen, printer=printer, measure=measure,
            strokes=rung_for(facts.strokes, reach_mm / mm_per_px), mm_per_px=mm_per_px, garment=garment,
            colour_name=blank.colour_name), white.judge)  # fmt: skip
        pieces = decisions.order.line.pieces
        spares = derive.spares_for(shop, decisions, pieces)
        whole = derive.layout_ask(shop, decisions, way, height_um, pieces + spares)
        ask = whole.model_copy(update={"copies": ledger.to_print}) if ledger.printed and ledger.to_print else whole
        planned, layout = lay_out(whole), lay_out(ask)
        cures = "the hovering press" if way.schools.get("film-cure") == "hover" else f"oven {oven.name}"
        done["sheet"] = _judged(memo, "sheet", sheet.VERSION, sheet.Inputs(
            doc=decisions.sheet, ask=ask, method=chosen, printer=printer, pieces=pieces, spares=spares, cure_what=cures,
            label=decisions.order.title, cloth=blank.colour), sheet.judge)  # fmt: skip
        current = [r for r in inputs.runs if r.state == "released" and r.plan.signature == signature]
        blocked = tuple(n for n, r in done.items() if r.state == "blocked")
        done["print"] = _judged(memo, "print", print.VERSION, print.Inputs(
            method=chosen, printer=printer, spec=spec, symmetric=facts.symmetric, measure=inputs.measured.device, ink_ml=readings.ink_of(spec, measure, chosen), ledger=ledger, is_released=bool(current), blocked_by=blocked), print.judge)  # fmt: skip
        if layout:
            needs = levels.short_supplies(inputs.levels, printer, layout, readings.ink_of(spec, measure, chosen))
            done["print"] = _with(done["print"], needs if ledger.to_print or not ledger.printed else ())
        closed = any(isinstance(a.body, Closed) for a in standing(inputs.acts))
        run_cuts = _copies_per_cut(
            next((r.plan.layout for r in reversed(inputs.runs) if r.state == "released"), layout)
        )
        by_hand = hands.Inputs(stages=stages, lay_out=recipe.lay_out, ledger=ledger, cuts=run_cuts, press=press, oven=oven,
                               garment=garment, is_closed=closed)  # fmt: skip
        for name, judge in (("prepare", hands.prepare), ("press", hands.press), ("inspect", hands.inspect)):
            done[name] = _judged(memo, name, hands.VERSION, by_hand, judge)
    row, cost = readings.readings_for(shop, decisions, spec, measure, planned, stages, way)
    return Line(stations=_whole_line(done), readings=row, ledger=ledger, way=way, spec=spec, layout=layout, signature=signature,
                cost=cost, currency=shop.prices.currency, media=printer.media)  # fmt: skip


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


def _nothing_yet(inputs: LineInputs, done: dict[str, StationResult], ledger: Ledger) -> Line:
    return Line(stations=_whole_line(done), readings=(), ledger=ledger, way=None, spec=None, layout=None, signature="",
                cost=None, currency=inputs.shop.prices.currency, media="")  # fmt: skip


def _copies_per_cut(layout: RunLayout | None) -> tuple[int, ...]:
    if layout is None:
        return ()
    return tuple(sum(p.cut == c + 1 for p in layout.places) for c in range(len(layout.cut_lengths_um)))
