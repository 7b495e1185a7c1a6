"""The line: a table of stations in the order of the work, each from its own slice, each result found again by its hash."""

from collections.abc import Callable, MutableMapping
from dataclasses import dataclass
from typing import Any, Literal

from offsetter.core import readings
from offsetter.core.books import Books
from offsetter.core.compute.cost import PieceCost
from offsetter.core.compute.plate_spec import PlateSpec
from offsetter.core.compute.sheet import RunLayout
from offsetter.core.context import Context, LineInputs
from offsetter.core.decisions import Decision, Decisions, Way
from offsetter.core.facts import Method
from offsetter.core.ledger import Ledger
from offsetter.core.prints import Pass, Variant
from offsetter.core.results import StationName, StationResult, as_accepted, state_of
from offsetter.core.sentences import say
from offsetter.core.stations import artwork, colour, inspect, method, order, prepare, press, sheet, white
from offsetter.core.stations import print as print_station
from offsetter.core.values import Finding, Frozen, Reading, Seen, fingerprint

Memo = MutableMapping[str, StationResult]


def _nothing(_: Context) -> tuple[Finding, ...]:
    return ()


@dataclass(frozen=True, slots=True)
class Station:
    """One row: what it is judged from, how, and what the store says to it now (shown, never part of its result)."""

    name: StationName
    version: int
    needs: Callable[[Context], str]
    """What has to come first, in words; empty: it can be judged."""
    inputs: Callable[[Context], Any]
    judge: Callable[[Any], StationResult]
    live: Callable[[Context], tuple[Finding, ...]] = _nothing
    documents: tuple[str, ...] = ()
    """Decisions that say that it is right."""


def _anything(_: Context) -> str:
    return ""


def _way(ctx: Context) -> str:
    if ctx.way:
        return ""
    if not any(p.methods for p in ctx.shop.printers.values()):
        return say("a printer: M opens Machines, where one is added")
    return say("a method") if ctx.shop.presses_in_use else say("a press: M opens Machines, where one is added")


def _picture(ctx: Context) -> str:
    if ctx.given.profile_lost:
        return say("its colour profile")
    return _way(ctx) or ("" if ctx.has_picture else say("the artwork"))


STATIONS: tuple[Station, ...] = (
    Station("order", order.VERSION, _anything, order.inputs, order.judge, order.live, ("order", "place")),
    Station("method", method.VERSION, _way, method.inputs, method.judge, method.live, ("method",)),
    Station("artwork", artwork.VERSION, _picture, artwork.inputs, artwork.judge, documents=("artwork",)),
    Station("colour", colour.VERSION, _picture, colour.inputs, colour.judge, colour.live, ("colour",)),
    Station("white", white.VERSION, _picture, white.inputs, white.judge, documents=("white",)),
    Station("sheet", sheet.VERSION, _picture, sheet.inputs, sheet.judge, documents=("sheet",)),
    Station("print", print_station.VERSION, _picture, print_station.inputs, print_station.judge, print_station.live),
    Station("prepare", prepare.VERSION, _picture, prepare.inputs, prepare.judge),
    Station("press", press.VERSION, _picture, press.inputs, press.judge),
    Station("inspect", inspect.VERSION, _picture, inspect.inputs, inspect.judge),
)
STATION_OF = {document: s.name for s in STATIONS for document in s.documents}
"""A decision's document to the station that it is made at."""


class Line(Frozen):
    stations: tuple[StationResult, ...]
    readings: tuple[Reading, ...]
    ledger: Ledger
    books: Books
    passes: tuple[Pass, ...]
    variants: tuple[Variant, ...]
    """Of all the job's prints."""
    ways: dict[str, Way]
    """Print to its way; without those that have none yet."""
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
    makes: Literal["transfer", "garment"] = "transfer"
    """What the printer makes: something to press, or the piece itself."""

    @property
    def spec(self) -> PlateSpec | None:
        return self.variant.spec if self.variant else None

    @property
    def signature(self) -> str:
        return self.variant.signature if self.variant else ""

    def station(self, name: str) -> StationResult:
        return next(s for s in self.stations if s.station == name)


def evaluate(given: LineInputs | Context, memo: Memo) -> Line:
    """All ten stations and the readings. memo maps an input hash to a result and may be shared and bounded."""
    ctx = given if isinstance(given, Context) else Context(given)
    for station in STATIONS:
        ctx.done[station.name] = _at(station, ctx, memo)
    stations = tuple(ctx.done[s.name] for s in STATIONS)
    figures, cost = readings.readings_for(ctx)
    return Line(
        stations=_in_order(stations, ctx.method) if ctx.way else stations, readings=figures, ledger=ctx.ledger, books=ctx.books,
        passes=ctx.passes, variants=ctx.variants, ways=ctx.ways, way=ctx.way, variant=ctx.variant, kind=ctx.kind,
        layout=ctx.layout if ctx.has_picture else None, on_run=ctx.on_run if ctx.has_picture else (), cost=cost,
        currency=ctx.shop.prices.currency, media=ctx.feed.media if ctx.way else "",
        makes=ctx.method.makes if ctx.way else "transfer",
    )  # fmt: skip


def _at(station: Station, ctx: Context, memo: Memo) -> StationResult:
    missing = station.needs(ctx)
    if missing:
        name = station.name.capitalize()
        return StationResult(station=station.name, name=name, state="open", telling="waits", verdict=say("{name} waits for {missing}", name=name, missing=missing),
                             sub=say("Everything here is worked out from it."), waits_for=missing)  # fmt: skip
    inputs = station.inputs(ctx)
    key = fingerprint(station.name, station.version, inputs.identity() if hasattr(inputs, "identity") else inputs)
    found = memo.get(key)
    if found is None:
        found = memo[key] = station.judge(inputs)
    found = _with(found, station.live(ctx))
    seen = _seen(station, ctx.decisions)
    return found if seen is None else as_accepted(found, seen)


def _seen(station: Station, decisions: Decisions) -> tuple[Seen, ...] | None:
    """What was seen when the station was said to be right; None where it was not, or not kept yet."""
    found: list[Seen] = []
    for name in station.documents:
        document: Decision | None = getattr(decisions, name)
        if document is None or not document.settled or document.seen is None:
            return None
        found += document.seen
    return tuple(found) if station.documents else None


def seen_at(result: StationResult) -> tuple[Seen, ...]:
    """What a station has found, as it is kept with the word that it is right."""
    return tuple(Seen(code=f.code, severity=f.severity, degree=f.degree) for f in result.findings)


def _with(result: StationResult, extra: tuple[Finding, ...]) -> StationResult:
    if not extra:
        return result
    findings = result.findings + extra
    state = result.state
    if any(f.severity == "blocker" for f in extra) or (
        state == "ready" and any(f.severity == "caution" for f in extra)
    ):
        state = state_of(findings, settled=False)
    return result.model_copy(update={"findings": findings, "state": state})


def _in_order(stations: tuple[StationResult, ...], chosen: Method) -> tuple[StationResult, ...]:
    """Prepare before Print where the method says so."""
    if not chosen.prepares_first:
        return stations
    names: list[StationName] = [s.name for s in STATIONS if s.name != "prepare"]
    names.insert(names.index("print"), "prepare")
    by_name = {s.station: s for s in stations}
    return tuple(by_name[n] for n in names)


__all__ = ["STATIONS", "STATION_OF", "Line", "Memo", "Station", "evaluate", "seen_at"]
