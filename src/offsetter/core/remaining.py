"""What is left to do of a job, as stages that a day can be planned from: minutes, machines, heat, hands and waits.

Worked out when the job's standing is, and kept with it: planning a day reads no job anew. Long work is taken in lots, so that another
job, or a break, may come between.
"""

from math import ceil

from offsetter.core.acts import Standing
from offsetter.core.compute.batch import ORDERS, Block, Trace, blocks_of, run_batch
from offsetter.core.compute.cost import INSPECT_S
from offsetter.core.compute.cutting import expected_cut_m
from offsetter.core.compute.day.model import Step, Wait
from offsetter.core.compute.heat import PressHeat
from offsetter.core.compute.press_model import heat_of
from offsetter.core.decisions import Way
from offsetter.core.derive import cutter_of
from offsetter.core.facts import Press, Printer, Shop, Stage
from offsetter.core.gang import ToLay
from offsetter.core.ledger import Ledger
from offsetter.core.line import Line
from offsetter.core.results import StagesDrawing
from offsetter.core.sentences import say
from offsetter.core.values import Frozen
from offsetter.core.wording import several

LOT_MIN = 45
"""No lot holds a pair of hands longer, where it can be split: from memory."""
LOAD_MIN, UNLOAD_MIN = 5, 1
"""At a printer before and after a run: from memory."""
PACK_S = 15
"""Folding, counting into the bag: from memory."""
STRETCH_MIN = 24 * 60


class WorkLeft(Frozen):
    steps: tuple[Step, ...] = ()
    why: str = ""
    """Why nothing can be planned yet; empty where steps are all that is left."""
    to_lay: tuple[ToLay, ...] = ()
    """Prints that could be laid on one run with other jobs'."""


def work_left(shop: Shop, stands: Standing, lines: tuple[Line, ...]) -> WorkLeft:
    """lines: of each print, the first print's first."""
    if stands != "open":
        return WorkLeft(why="" if stands in ("closed", "cancelled") else "held")
    for line in lines:
        if line.way is None or line.layout is None:
            waiting = next((s for s in line.stations if s.waits_for or s.state in ("blocked", "needs you")), None)
            if waiting is None or waiting.waits_for:
                return WorkLeft(why=say("waits for {which}", which=waiting.waits_for if waiting else say("a method")))
            return WorkLeft(why=f"{waiting.name}: {waiting.verdict}")
    found = _Found(shop)
    printed: dict[tuple[str, str, str], list[str]] = {}
    pressed: list[str] = []
    for line in lines:
        way = line.way
        assert way is not None
        key = (way.method, way.printer, way.mode)
        if key not in printed:
            printed[key] = found.to_the_press(line, way)
        lost = found.press(line, way, [*printed[key], *pressed])
        if isinstance(lost, str):
            return WorkLeft(why=lost)
        pressed = lost or pressed
    found.inspect(lines[0].ledger, [*pressed, *(s for last in printed.values() for s in last)])
    return WorkLeft(steps=tuple(found.steps))


class _Found:
    def __init__(self, shop: Shop) -> None:
        self._shop = shop
        self._cooling: dict[str, int] = {}
        """Stage to minutes that its pieces cool afterwards."""
        self.steps: list[Step] = []

    def to_the_press(self, line: Line, way: Way) -> list[str]:
        """Printing and preparing, in the method's order; what the press has to wait for."""
        drawing = line.station("prepare").drawing
        drawing = drawing if isinstance(drawing, StagesDrawing) else None
        if drawing and drawing.comes_first:
            last = self._prepare(line, way, drawing, [], {s.id: line.ledger.to_prepare(s.id) for s in drawing.stages})
            return self._print(line, way, last, "all")
        last = self._cut(line, way, self._print(line, way, [], "ends"))
        if drawing is None:
            return last
        coming = _coming(line)
        counts = {s.id: coming + max(0, line.ledger.printed - line.ledger.prepared(s.id)) for s in drawing.stages}
        return self._prepare(line, way, drawing, last, counts)

    def _print(self, line: Line, way: Way, after: list[str], hands: str) -> list[str]:
        coming, layout = _coming(line), line.layout
        if not coming or layout is None:
            return after
        printer = self._shop.printers[way.printer]
        mode = next((m for m in printer.modes if m.id == way.mode), printer.modes[0])
        minutes = ceil(layout.length_um / 1e6 * layout.printable_um / 1e6 / mode.m2_per_h * 60)
        called = several(coming, line.makes)
        machines = (printer.id, *(p.id for p in self._shop.printers.values() if _alike(printer, p, way.method)))
        if hands == "all":
            each = minutes / coming
            return self._lots(
                "print", f"{way.method}-{way.printer}", "Print", line.makes, coming, each, after, machines=machines
            )
        return [self._add(
            f"print:{way.method}-{way.printer}", say("Print {called}", called=called), minutes + LOAD_MIN + UNLOAD_MIN, after, machines=machines,
            hands="ends", hands_before=LOAD_MIN, hands_after=UNLOAD_MIN,
        )]  # fmt: skip

    def _cut(self, line: Line, way: Way, after: list[str]) -> list[str]:
        """On a cutter that stands apart: it runs by itself between loading and taking off."""
        cutter, coming = cutter_of(self._shop, way), _coming(line)
        if cutter is None or not coming or line.layout is None or not any(v.cut for v in line.on_run):
            return after
        sorts = line.layout.sorts
        metres = sum(
            expected_cut_m(sorts[p.sort].width_um / 1000, sorts[p.sort].height_um / 1000, 1) for p in line.layout.places
        )
        minutes = ceil(metres * 1000 / cutter.speed_mm_s / 60) + LOAD_MIN * len(line.layout.cut_lengths_um)
        return [self._add(
            f"cut:{way.method}-{way.printer}", say("Cut {counted}", counted=several(coming, line.makes)), minutes, after, machines=(cutter.id,), hands="ends",
            hands_before=LOAD_MIN, hands_after=UNLOAD_MIN,
        )]  # fmt: skip

    def _prepare(
        self, line: Line, way: Way, drawing: StagesDrawing, after: list[str], counts: dict[str, int]
    ) -> list[str]:
        layout = line.layout
        per_cut = len(layout.places) / max(1, len(layout.cut_lengths_um)) if layout else 1
        hover = any(s.hover and not s.alone for s in drawing.stages)
        wet: int | None = None
        for stage in drawing.stages:
            count = counts[stage.id]
            if not count:
                continue
            times = ceil(count / max(1.0, per_cut)) if stage.each == "cut" and not hover else count
            at_most = None if stage.window_s is None or not after else max(1, ceil(stage.window_s / 60))
            # What dries or cures by itself is waited for; only what follows the printer at once has a window.
            wet = at_most if wet is None else None
            after = self._stage(stage, way, times, after, wet)
        return after

    def _stage(self, stage: Stage, way: Way, times: int, after: list[str], at_most: int | None) -> list[str]:
        key = f"prepare:{stage.id}:{way.method}-{way.printer}"
        hot, own = stage.temperature_c is not None, stage.time_s * times / 60
        by_hand = stage.hands_s * times / 60
        if stage.alone:
            oven = (way.oven,) if hot and way.oven in self._shop.ovens else ()
            before = ceil(by_hand) or (1 if oven else 0)
            return [self._add(key, stage.name, ceil(own) + before, after, at_most=at_most, machines=oven, hands="ends",
                              hands_before=before, hands_after=1 if oven else 0)]  # fmt: skip
        on_press = (way.press,) if hot and way.press in self._shop.presses else ()
        return self._lots("prepare", key.removeprefix("prepare:"), stage.name, "", times, (own + by_hand) / times, after, at_most=at_most,
                          machines=on_press, celsius=stage.temperature_c if on_press else None)  # fmt: skip

    def press(self, line: Line, way: Way, after: list[str]) -> list[str] | str:
        """Lots of pressings; a reason where a value is missing."""
        drawing, print_id = line.station("press").drawing, line.variant.print if line.variant else ""
        left = sum(line.ledger.to_press(print_id).values())
        if not isinstance(drawing, StagesDrawing) or not drawing.stages or not left:
            return after if left else []
        if any(s.missing for s in drawing.stages):
            return say("waits for a value of its recipe")
        press = self._shop.presses[way.press]
        heat = heat_of(press)
        at_once = max(1, len(drawing.platen.spots)) if drawing.platen else 1
        hot = [s.temperature_c for s in drawing.stages if s.temperature_c is not None and not s.first_only]
        recovery = heat.recovery_min(max(hot)) if hot and max(hot) < heat.ceiling_c else 0.0
        blocks = blocks_of(drawing.stages, recovery, min(at_once, left))
        if not blocks:
            return after
        once = sum(s.time_s + s.hands_s for s in drawing.stages if s.first_only) / 60
        # A print in parts goes under the press part by part.
        parts = line.layout.parts if line.layout else 1
        busy = max(0.1, sum(b.busy_min for b in blocks)) * parts
        a_lot = max(1, int(LOT_MIN / busy))
        loads, done, ids = ceil(left / at_once), 0, after
        lots = [a_lot] * (loads // a_lot) + ([loads % a_lot] if loads % a_lot else [])
        machines = (press.id, *(p.id for p in self._shop.presses_in_use if _same_press(press, p, max(hot, default=0))))
        name = f", {line.books.print_names.get(print_id, '').lower()}" if len(line.ledger.demand.prints) > 1 else ""
        for at, lot in enumerate(lots):
            best = _best(blocks, lot * parts, heat, press)
            pieces = min(left - done, lot * at_once)
            done += pieces
            ids = [self._add(
                f"press:{print_id}:{at}", say("Press {counted}{name}", counted=several(pieces, 'piece'), name=name), ceil(best.minutes + (once if at == 0 else 0)), ids,
                machines=machines, celsius=blocks[0].celsius, ends_c=best.spans[-1].to_c if best.spans else blocks[-1].celsius, hands="all",
                cools=blocks[-1].wait_min, pieces=pieces if len(line.ledger.demand.prints) == 1 else 0,
            )]  # fmt: skip
        return ids

    def inspect(self, ledger: Ledger, after: list[str]) -> None:
        count = sum(ledger.pieces_to_go.values()) + sum(ledger.to_inspect.values())
        if count:
            self._lots("inspect", "pack", say("Inspect and pack"), "piece", count, (INSPECT_S + PACK_S) / 60, after)

    def _lots(
        self, station: str, key: str, verb: str, thing: str, count: int, each_min: float, after: list[str], *, at_most: int | None = None,
        machines: tuple[str, ...] = (), celsius: float | None = None,
    ) -> list[str]:  # fmt: skip
        """Work that hands are at all the while, in lots of alike size."""
        lots = max(1, ceil(count * each_min / LOT_MIN))
        done = 0
        for at in range(lots):
            lot = count * (at + 1) // lots - done
            done += lot
            name = (
                f"{verb} {several(lot, thing)}"
                if thing
                else verb + (say(", {at} of {lots}", at=at + 1, lots=lots) if lots > 1 else "")
            )
            minutes = min(STRETCH_MIN, max(1, ceil(lot * each_min)))
            # Lots of what is wet are one after the other, without a gap.
            after = [self._add(f"{station}:{key}:{at}", name, minutes, after, at_most=at_most, machines=machines, celsius=celsius, hands="all")]  # fmt: skip
        return after

    def _add(
        self, key: str, name: str, minutes: int, after: list[str], *, at_most: int | None = None, cools: float = 0.0, hands: str = "none",
        hands_before: int = 0, hands_after: int = 0, machines: tuple[str, ...] = (), celsius: float | None = None, ends_c: float | None = None, pieces: int = 0,
    ) -> str:  # fmt: skip
        self.steps.append(Step.model_validate({
            "id": key, "name": name, "minutes": min(STRETCH_MIN, minutes), "machines": machines, "celsius": celsius, "ends_c": ends_c,
            "pieces": pieces, "hands": hands, "hands_before": hands_before, "hands_after": hands_after,
            "after": tuple(Wait(step=s, at_least=self._cooling.get(s, 0), at_most=at_most) for s in dict.fromkeys(after)),
        }))  # fmt: skip
        if cools:
            self._cooling[key] = ceil(cools)
        return key


def _coming(line: Line) -> int:
    """Prints of the next run, spares among them; none once all is printed."""
    return len(line.layout.places) if line.layout and (line.ledger.to_print or not line.ledger.printed) else 0


def _best(blocks: tuple[Block, ...], loads: int, heat: PressHeat, press: Press) -> Trace:
    """The order of work that is quickest for this lot."""
    return min((run_batch(blocks, loads, heat, o, settle_min=press.settle_min) for o in ORDERS), key=lambda t: t.minutes)  # fmt: skip


def _alike(one: Printer, other: Printer, method: str) -> bool:
    """Whether another printer of the same kind may share the work."""
    own, theirs = one.feed(method), other.feed(method)
    same = bool(one.began_as) and one.began_as == other.began_as and one.id != other.id
    return same and own is not None and theirs in other.offers and theirs is not None and theirs.media == own.media and theirs.printable_mm >= own.printable_mm  # fmt: skip


def _same_press(one: Press, other: Press, hottest_c: float) -> bool:
    return (
        one.id != other.id and one.is_mug == other.is_mug and other.highest_c >= hottest_c and other.opens_mm >= one.opens_mm
        and other.platen_width_mm >= one.platen_width_mm and other.platen_height_mm >= one.platen_height_mm
    )  # fmt: skip
