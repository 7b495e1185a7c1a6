"""What the stations of a line share: everything that follows from the decisions, each worked out once, when first asked for."""

from functools import cached_property

from pydantic import Field

from offsetter.core import derive, places, prints, runs_ahead, stages_on_blank
from offsetter.core.acts import Act, Standing, job_standing
from offsetter.core.books import Books, books_of
from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.compute.fit import AdviceJob, Tone, cloth_tone
from offsetter.core.compute.plate_spec import PlateMeasure, PlateSpec
from offsetter.core.compute.platen import Laying
from offsetter.core.compute.sheet import LayoutAsk, RunLayout, lay_out
from offsetter.core.decisions import Decisions, OrderDoc, PlaceDoc, Way, kind_of
from offsetter.core.facts import (
    Blank,
    ColouredSheet,
    Feed,
    Levels,
    Method,
    Oven,
    Press,
    Printer,
    Recipe,
    Shop,
    Stage,
    advice_facts,
)
from offsetter.core.garments import draw_garment
from offsetter.core.ledger import Ledger, fold
from offsetter.core.prints import JobPrint, Pass, Variant
from offsetter.core.proof import ProofState, proof_of
from offsetter.core.results import Box, BrandStep, ColourStep, GarmentDrawing, OtherPrint, StationResult
from offsetter.core.runs import Run
from offsetter.core.runs_ahead import Spares, SpoilRate
from offsetter.core.values import Frozen


class Measured(Frozen):
    """What was measured on pixels for the decisions at hand."""

    preview: PlateMeasure
    device: PlateMeasure | None
    steps: tuple[ColourStep, ...]
    brands: tuple[BrandStep, ...] = ()
    misses: float = 0.0
    on: str = ""
    """Digest of everything that it was measured on."""


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
    profile_lost: bool = False
    """The store does not hold the profile that the way pins."""

    @property
    def here(self) -> JobPrint:
        return next((p for p in self.prints if p.id == self.print), self.prints[0])


class Context:
    """Of one print's line. What needs a way, a picture or its measurement is asked for only where there is one."""

    def __init__(self, inputs: LineInputs) -> None:
        self.given = inputs
        self.shop, self.here = inputs.shop, inputs.here
        self.done: dict[str, StationResult] = {}
        """Stations judged so far: the later ones read them."""

    def measured_as(self, measured: Measured) -> "Context":
        """The same with its plates measured: before any station is judged."""
        self.given = self.given.model_copy(update={"measured": measured})
        return self

    def lost_profile(self) -> "Context":
        """The same where the profile that its way pins is not in the store any more: nothing is put in its place."""
        self.given = self.given.model_copy(update={"profile_lost": True})
        return self

    @property
    def decisions(self) -> Decisions:
        return self.here.decisions

    @property
    def order(self) -> OrderDoc:
        return self.decisions.order

    @property
    def place(self) -> PlaceDoc:
        return self.decisions.place

    @cached_property
    def ways(self) -> dict[str, Way]:
        """Print to the way decided, or the one the shop would go; without those that the shop has none for."""
        ways = {p.id: prints.way_of(self.shop, self.given.prints, p.id, self.given.profile) for p in self.given.prints}
        return {p: way for p, way in ways.items() if way is not None}

    @cached_property
    def way(self) -> Way | None:
        return self.ways.get(self.here.id)

    @property
    def gone(self) -> Way:
        """The way, where stations that need one are asked."""
        assert self.way is not None
        return self.way

    @cached_property
    def variants(self) -> tuple[Variant, ...]:
        """Every print's transfers, each by its own way."""
        found: list[Variant] = []
        names = prints.names_of(self.given.prints)
        for one in self.given.prints:
            way = self.ways.get(one.id)
            if way is not None:
                found += prints.variants_of(self.shop, one, way, names[one.id])
        return tuple(found)

    @cached_property
    def own(self) -> tuple[Variant, ...]:
        return tuple(v for v in self.variants if v.print == self.here.id)

    @cached_property
    def slot(self) -> str:
        return prints.shown_slot(self.order, self.place, self.given.kind)

    @property
    def kind(self) -> str:
        return kind_of(self.slot)

    @cached_property
    def variant(self) -> Variant | None:
        """The transfers that are looked at: of this print, for the slot asked for or the usual one."""
        return next((v for v in self.own if self.slot in v.slots), self.own[0] if self.own else None)

    @property
    def spec(self) -> PlateSpec:
        assert self.variant is not None
        return self.variant.spec

    @cached_property
    def facts(self) -> ArtworkFacts | None:
        """What was measured on the picture that is looked at."""
        facts = self.here.facts
        return facts if facts and (self.variant is None or facts.file == self.variant.artwork) else None

    @property
    def picture(self) -> ArtworkFacts:
        assert self.facts is not None
        return self.facts

    @property
    def measure(self) -> PlateMeasure | None:
        """At full size once there is one."""
        measured = self.given.measured
        return (measured.device or measured.preview) if measured else None

    @property
    def measured(self) -> PlateMeasure:
        assert self.measure is not None
        return self.measure

    @property
    def has_picture(self) -> bool:
        """There is a way and a picture, and its plates were measured."""
        return self.way is not None and self.facts is not None and self.variant is not None and self.measure is not None

    @cached_property
    def blanks(self) -> dict[str, Blank]:
        """Line to its blank."""
        return {ln.id: self.shop.blanks[ln.blank] for ln in self.order.lines}

    @cached_property
    def blank(self) -> Blank:
        return derive.blank_of(self.shop, self.decisions, self.kind)

    @property
    def size(self) -> str:
        return self.kind.split("/")[1]

    @cached_property
    def width_um(self) -> int:
        """Of the print that is drawn."""
        if self.variant is not None and self.place.text is not None:
            return self.variant.spec.width_um
        return self.place.width_for(self.size)

    @cached_property
    def height_um(self) -> int:
        return derive.print_height_um(self.decisions, self.facts, self.width_um)

    @cached_property
    def shown(self) -> PlaceDoc:
        """The place with the width that is drawn: a name's own."""
        place = self.place
        return place if place.text is None else place.model_copy(update={"width_um": self.width_um, "widths_um": {}})

    @cached_property
    def beside(self) -> tuple[OtherPrint, ...]:
        """The other prints on this side of the piece that is drawn."""
        names, order = prints.names_of(self.given.prints), self.order.prints
        found = []
        for one in self.given.prints:
            place = one.decisions.place
            is_here = place.is_on(self.kind.split("/")[0]) and places.is_beside(place, self.place)
            if one.id == self.here.id or one.id not in order or not is_here or one.facts is None:
                continue
            width = place.width_for(self.size)
            box = places.box_of(place, width, derive.print_height_um(one.decisions, one.facts, width))
            found.append(OtherPrint(name=names[one.id], is_first=order.index(one.id) < order.index(self.here.id), box=Box(**box.model_dump())))  # fmt: skip
        return tuple(found)

    @cached_property
    def garment(self) -> GarmentDrawing:
        return draw_garment(
            self.blank, self.size, self.shown, self.height_um / 1000 if self.facts else None, self.beside
        )

    @cached_property
    def ledger(self) -> Ledger:
        given = self.given
        return fold(given.acts, prints.demand_of(self.shop, self.order, given.prints, self.variants, given.runs))

    @cached_property
    def passes(self) -> tuple[Pass, ...]:
        return prints.passes_of(self.order, self.given.prints)

    @property
    def pass_here(self) -> Pass | None:
        return next((p for p in self.passes if p.print == self.here.id), None)

    @cached_property
    def stands(self) -> tuple[Standing, str]:
        return job_standing(self.given.acts)

    @property
    def method(self) -> Method:
        return self.shop.methods[self.gone.method]

    @property
    def printer(self) -> Printer:
        return self.shop.printers[self.gone.printer]

    @property
    def press(self) -> Press:
        return self.shop.presses[self.gone.press]

    @cached_property
    def laying(self) -> Laying:
        """How the pieces that are looked at come under the press."""
        return derive.laying_of(self.press, self.blank, self.size)

    @property
    def oven(self) -> Oven | None:
        return self.shop.ovens.get(self.gone.oven)

    @cached_property
    def recipe(self) -> Recipe:
        return derive.recipe_of(self.shop, self.gone)

    @cached_property
    def feed(self) -> Feed:
        return derive.feed_of(self.shop, self.gone)

    @cached_property
    def stages(self) -> tuple[Stage, ...]:
        return stages_on_blank.stages_for(derive.stages_of(self.shop, self.way), self.blank) if self.way else ()

    @cached_property
    def stages_here(self) -> tuple[Stage, ...]:
        """The recipe's stages as they go on this blank."""
        pad = stages_on_blank.pad_for(self.method, self.blank, self.shown, self.size, self.height_um)
        sheet = self.coloured_sheet
        return stages_on_blank.stages_on(
            self.stages, self.place, self.blank, pad=pad, sheet=sheet.name if sheet else ""
        )

    @property
    def coloured_sheet(self) -> ColouredSheet | None:
        """The one chosen, where a sheet gives the colour."""
        wanted = self.decisions.colour.sheet_colour.upper()
        return next((s for s in self.method.sheets if s.colour.upper() == wanted), None)

    @property
    def after_print(self) -> tuple[Stage, ...]:
        return derive.after_print(self.method, self.stages) if self.way else ()

    @property
    def before_print(self) -> tuple[Stage, ...]:
        return derive.before_print(self.method, self.stages) if self.way else ()

    @property
    def last_prepared(self) -> str:
        """The last stage of preparing that a printed transfer goes through; empty: none."""
        return self.after_print[-1].id if self.after_print else ""

    @property
    def cures_in(self) -> str:
        return derive.cures_in(self.stages) if self.way else ""

    @cached_property
    def tone(self) -> Tone:
        """What the cloth, and the artwork on it, asks: white under the print, or none."""
        lighter = self.facts.lighter_share(self.blank.colour) if self.facts else 0.0
        return cloth_tone(self.blank.colour, advice_facts(), lighter)

    @cached_property
    def asked(self) -> AdviceJob:
        """The piece as advice is asked about it."""
        return prints.advice_job(self.shop, self.here, self.kind)

    @property
    def has_words(self) -> bool:
        """Lettering, as it was read or by its look."""
        read = self.here.lettering
        return bool(read and read.text) or (read is None and self.asked.artwork.kind == "lettering")

    @cached_property
    def books(self) -> Books:
        given = self.given
        return books_of(
            self.order, self.blanks, self.ledger, self.variants, given.runs, given.prints, self.last_prepared
        )

    @cached_property
    def spares(self) -> Spares:
        if self.feed.kind == "garment":
            return runs_ahead.NO_SPARES
        return runs_ahead.spares_for(
            self.order.pieces, self.decisions.sheet.spares, self.given.spoil, self.shop.prices.spoil_share
        )

    @cached_property
    def together(self) -> tuple[Variant, ...]:
        """The variants that can be printed in one go with this way: same printer, mode and cure."""

        def key(one: Way | None) -> tuple[str, ...]:
            if one is None:
                return ()
            prepared = (s.id for s in derive.stages_of(self.shop, one) if s.part == "prepare")
            return (one.method, one.printer, one.mode, one.oven, *prepared)

        return tuple(v for v in self.variants if key(self.ways[v.print]) == key(self.way))

    @cached_property
    def whole_ask(self) -> LayoutAsk:
        """The whole order of this print, spares with it."""
        copies = runs_ahead.whole(self.ledger.demand, self.own, self.spares)
        return derive.layout_ask(self.shop, self.decisions, self.gone, runs_ahead.wants(copies))

    @cached_property
    def planned(self) -> RunLayout | None:
        return lay_out(self.whole_ask)

    @cached_property
    def next_copies(self) -> runs_ahead.Copies:
        return runs_ahead.next_run(self.together, self.ledger, self.spares)

    @cached_property
    def next_ask(self) -> LayoutAsk:
        """What the next run has to carry."""
        return derive.layout_ask(self.shop, self.decisions, self.gone, runs_ahead.wants(self.next_copies))

    @cached_property
    def layout(self) -> RunLayout | None:
        """Of the next run: the whole order, or what is still to print."""
        return self.planned if self.next_ask == self.whole_ask else lay_out(self.next_ask)

    @property
    def on_run(self) -> tuple[Variant, ...]:
        """What each of the layout's sorts is."""
        return tuple(v for v, _ in self.next_copies)

    @cached_property
    def cuts(self) -> tuple[int, ...]:
        """Copies on each cut length of the newest released run, or of the next one."""
        released = (r.plan.layout for r in reversed(self.given.runs) if r.state == "released")
        layout = next(released, self.layout if self.has_picture else None)
        if layout is None:
            return ()
        per_cut = (sum(p.cut == c + 1 for p in layout.places) for c in range(len(layout.cut_lengths_um)))
        return tuple(n for n in per_cut if n)

    @property
    def proof(self) -> ProofState:
        return proof_of(self.given.acts, self.variants, wanted=self.given.proof_wanted)
