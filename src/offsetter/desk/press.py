"""At the press: what to change before piece one, and the one session that leads it."""

from dataclasses import replace
from datetime import timedelta
from typing import Literal

from offsetter.core import derive
from offsetter.core.acts import SetUp
from offsetter.core.batch_ways import BatchWay, batch_ways
from offsetter.core.compute.platen import PlatenLayout
from offsetter.core.decisions import Way, kind_of
from offsetter.core.facts import Fault, Oven, Shop, Stage
from offsetter.core.failures import Shared, what_failures_share
from offsetter.core.line import Line
from offsetter.core.places import Placing
from offsetter.core.press_card import (
    CardRow,
    CardStage,
    Cooling,
    CoverLeft,
    beside,
    change_over,
    cooling_of,
    covers_left,
    last_set_up,
    part_by_part,
    wanted_oven,
    wanted_set_up,
)
from offsetter.core.press_session import PressState
from offsetter.core.prints import placings_of
from offsetter.core.results import StagesDrawing
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base
from offsetter.desk.inventory import Inventory
from offsetter.desk.jobs import Jobs
from offsetter.store.acts import ActStore
from offsetter.store.counted_sheets import CountedSheetStore
from offsetter.store.press import PressSession, PressStore

GONE_AFTER = timedelta(minutes=1)
"""A screen that leads a press says so every few seconds: unheard of for this long it was left."""
WARM_FOR = timedelta(minutes=10)
"""A lower platen that was pressed on within this time is still warm: from memory."""
SET_UPS = 10
"""Of one press: the newest by its time lies among the newest recorded."""
COOLING_WINDOW = 200
"""Acts that the shop's own cooling times are read from."""


Part = Literal["press", "prepare"]


class SlotToPress(Frozen):
    slot: str
    label: str
    to_press: int
    in_hand: int


class PressCard(Frozen):
    """Everything a screen at the press needs to go on without the server."""

    part: Part = "press"
    is_oven: bool = False
    """The machine is an oven: it has a heat and a timer alone."""
    counts: str = "transfers"
    """What is prepared: transfers, or garments before they are printed."""
    comes_first: str = ""
    press: str
    press_name: str
    print: str
    print_name: str
    number: int
    of: int
    turn: str
    shield: str
    heats: str
    rows: tuple[CardRow, ...]
    wanted: SetUp
    stages: tuple[CardStage, ...]
    parts: int = 1
    """That each print is laid together from: its stages stand there for every one."""
    beside: str = ""
    """How a part is laid to the one that is on already."""
    cooling: dict[str, Cooling]
    slots: tuple[SlotToPress, ...]
    run: str
    shared: tuple[Shared, ...]
    placings: tuple[Placing, ...]
    faults: tuple[Fault, ...]
    """What can go wrong under this press by this method, each with its cure."""
    covers: tuple[CoverLeft, ...]
    """Sheets used up by counting, as they lie at this press."""
    gauge: dict[str, str] = {}
    """Word for a pressure to what this press shows for it."""
    at_once: int
    """Things that the platen takes in one pressing."""
    platen: PlatenLayout | None
    first_done: bool
    """What is done before the first piece alone was done for this job already."""


class BatchView(Frozen):
    press: str
    press_name: str
    pieces: int
    parts: int = 1
    """That each print is laid together from."""
    has_model: bool
    ways: tuple[BatchWay, ...]


class Presses:
    def __init__(self, base: Base, jobs: Jobs) -> None:
        self._base, self._jobs = base, jobs

    def card(self, job_id: str, print_id: str = "", part: Part = "press", person: str = "") -> PressCard:
        """The change-over card and the stages of one print's pass, or of preparing its transfers or garments under heat; the first
        pass with something to press when no print is named."""
        seen = self._jobs.look(job_id, "", print_id)
        line = seen.line
        if not print_id and part == "press":
            open_pass = next((p.print for p in line.passes if any(line.ledger.to_press(p.print).values())), "")
            if open_pass and open_pass != seen.job.print:
                return self.card(job_id, open_pass, person=person)
        shop, _ = self._jobs.shop()
        if line.way is None:
            raise Refusal(
                "not-ready",
                say("There is no way decided yet."),
                say("Nothing was changed."),
                say("Decide at Method first."),
            )
        drawing = line.station(part).drawing
        drawing = drawing if isinstance(drawing, StagesDrawing) else StagesDrawing(stages=(), cuts=())
        stages = drawing.stages
        if any(s.missing for s in stages):
            raise Refusal("value-missing", say("A value of this recipe is missing, and none is guessed."), say("Nothing was changed."),
                          say("Enter it at Method first."))  # fmt: skip
        if part == "prepare" and not any(s.temperature_c is not None for s in stages):
            raise Refusal("nothing-heated", say("Nothing is prepared under heat this way."), say("Nothing was changed."),
                          say("Tick what was done at Prepare."))  # fmt: skip
        blank = derive.blank_of(shop, seen.job.decisions, line.kind)
        press, oven = shop.presses[line.way.press], _oven_of(shop, line.way, stages) if part == "prepare" else None
        machine = oven or press
        with self._base.session() as session:
            store = ActStore(session)
            set_ups = store.newest("set-up", SET_UPS, machine.id)
            touched = store.newest("pressed", COOLING_WINDOW)
            last_pressed = store.newest("pressed", 1, press.id)
            covers = (
                covers_left(CountedSheetStore(session).at_press(press.id), stages, shop.prices.cover_uses)
                if part == "press"
                else ()
            )
        wanted = wanted_oven(oven, stages) if oven else wanted_set_up(press, stages, blank)
        here = next(p for p in line.passes if p.print == seen.job.print)
        run = next((r.id for r in reversed(seen.job.runs) if any(i.print == seen.job.print for i in r.plan.items)), "")
        is_press, gauge = part == "press", press.gauge_for(person)
        return PressCard(
            part=part, is_oven=oven is not None, counts=drawing.counts, comes_first=drawing.comes_first,
            press=machine.id, press_name=machine.name, print=here.print, print_name=here.name, number=here.number, of=here.of,
            turn=here.turn if is_press else "", shield=here.shield if is_press else "", heats=here.heats if is_press else "",
            rows=change_over(last_set_up(set_ups, machine.id), wanted, gauge), wanted=wanted,
            stages=part_by_part(stages, drawing.parts), parts=drawing.parts, beside=beside(seen.job.decisions.sheet.overlap_um) if drawing.parts > 1 else "", cooling={s.id: cooling_of(touched, s, line.way.recipe) for s in stages if s.alone}, run=run,
            slots=_slots_to_press(line, seen.job.print) if is_press else (),
            placings=placings_of(seen.job.order, {ln.id: shop.blanks[ln.blank] for ln in seen.job.order.lines},
                                 tuple(v for v in line.variants if v.print == here.print), seen.job.decisions.place, line.books.labels) if is_press else (),
            shared=what_failures_share(seen.job.acts, line.books.labels), covers=covers,
            faults=tuple(f for f in derive.faults_of(shop, line.way, seen.job.decisions, blank) if any(f.is_at(s.id) for s in stages)),
            gauge={} if oven else gauge, at_once=len(drawing.platen.spots) if drawing.platen else 1, platen=drawing.platen,
            first_done=any(self._base.now() - a.at < WARM_FOR for a in last_pressed),
        )  # fmt: skip

    def batch(self, job_id: str, print_id: str, inventory: Inventory) -> BatchView:
        """What is still to press, on the way's own press, in every order of work."""
        seen = self._jobs.look(job_id, "", print_id)
        way, shop = seen.line.way, self._jobs.shop_of(seen.job)
        if way is None:
            raise Refusal(
                "not-ready",
                say("There is no way decided yet."),
                say("Nothing was changed."),
                say("Decide at Method first."),
            )
        press, heat = inventory.heat_of(way.press)
        left = sum(seen.line.ledger.to_press(seen.job.print).values()) or seen.job.order.pieces
        blank = derive.blank_of(shop, seen.job.decisions, seen.line.kind)
        at_once = derive.laying_of(shop.presses[way.press], blank, kind_of(seen.line.kind).split("/")[1]).at_once
        drawing = seen.line.station("press").drawing
        parts = drawing.parts if isinstance(drawing, StagesDrawing) else 1
        # A part is pressed as a piece is, by itself.
        ways = batch_ways(shop, way, press, heat, left * parts, at_once) if heat else ()
        return BatchView(
            press=press.id, press_name=press.name, pieces=left, parts=parts, has_model=heat is not None, ways=ways
        )

    def session(self, press: str) -> PressSession | None:
        with self._base.session() as session:
            return PressStore(session).find(press)

    def lead(self, wanted: PressSession, *, take_over: bool) -> PressSession:
        """Write where the session is. Raises Refusal when another screen leads this press and take_over is not asked."""
        self._jobs.kept.read(wanted.job)
        shop, _ = self._jobs.shop()
        machine = shop.presses.get(wanted.press) or shop.ovens.get(wanted.press)
        if machine is None:
            raise Refusal(
                "no-such-press",
                say("The shop has no press “{press}”.", press=wanted.press),
                say("Nothing was changed."),
                say("Choose one of its presses."),
            )
        with self._base.session() as session, session.begin():
            store = PressStore(session)
            found = store.find(wanted.press, lock=True)
            if found is not None and self._was_left(found, wanted):
                found = None
            if found is not None and found.holder != wanted.holder and not take_over:
                what = say("this job") if found.job == wanted.job else f"“{self._jobs.title(found.job)}”"
                raise Refusal("press-taken", say("{person} has {name} with {what}, on {screen}.", person=found.person, name=machine.name, what=what, screen=found.screen or say('another screen')),
                              say("What was done there is kept."), say("Follow it, or take it over."))  # fmt: skip
            if found is not None and found.holder == wanted.holder and wanted.seq < found.seq:
                return found
            kept = replace(wanted, seen_at=self._base.now())
            store.save(kept)
            return kept

    def _was_left(self, found: PressSession, wanted: PressSession) -> bool:
        """The screen that leads this press is gone and no stage runs. Pieces on its rack are its own job's: that one takes over."""
        same_work = (found.job, found.print) == (wanted.job, wanted.print)
        is_idle = found.state.started_at is None and not (same_work and found.state.pieces)
        return is_idle and self._base.now() - found.seen_at > GONE_AFTER

    def leave(self, press: str, holder: str) -> None:
        """End the session; another screen's is left alone."""
        with self._base.session() as session, session.begin():
            store = PressStore(session)
            found = store.find(press, lock=True)
            if found is not None and found.holder == holder:
                store.drop(press)


def _oven_of(shop: Shop, way: Way, stages: tuple[Stage, ...]) -> Oven | None:
    """The oven that stages of preparing run in by themselves; None: they take the press up."""
    return shop.ovens.get(way.oven) if any(s.temperature_c is not None and s.alone for s in stages) else None


def _slots_to_press(line: Line, print_id: str) -> tuple[SlotToPress, ...]:
    to_press, demand = line.ledger.to_press(print_id), line.ledger.demand.prints.get(print_id, {})
    hand = {s: line.ledger.pools[sig].in_hand if sig in line.ledger.pools else 0 for s, sig in demand.items()}
    return tuple(
        SlotToPress(slot=s, label=line.books.labels.get(s, s), to_press=n, in_hand=hand[s]) for s, n in to_press.items()
    )


__all__ = ["PressCard", "PressSession", "PressState", "Presses"]
