"""A batch over one press: what is pressed when, at which heat, and where the change of temperature falls."""

from collections import deque
from typing import Literal, Protocol

from offsetter.core.facts import Stage
from offsetter.core.values import Frozen

Order = Literal["piece by piece", "rolling", "by stage"]
ORDERS: tuple[Order, ...] = ("piece by piece", "rolling", "by stage")
SOON = 1e-9


class Heat(Protocol):
    def minutes(self, from_c: float, to_c: float) -> float:
        """Minutes from one platen temperature to another; infinite where the press never gets there."""
        ...


class Block(Frozen):
    """What a piece takes in one go at one heat: busy occupies press and hands, wait lets the piece rest afterwards."""

    celsius: float
    busy_min: float
    wait_min: float = 0.0
    name: str = ""


class Span(Frozen):
    """A stretch of the batch in minutes: a piece under the press, the press changing its heat, or nothing to do but wait."""

    kind: Literal["press", "change", "wait"]
    start_min: float
    end_min: float
    from_c: float
    to_c: float
    piece: int = 0
    name: str = ""


class Trace(Frozen):
    order: Order
    minutes: float
    changes: int
    """How often the heat is changed."""
    changing_min: float
    waiting_min: float
    spans: tuple[Span, ...]


def blocks_of(stages: tuple[Stage, ...], recovery_min: float = 0.0, at_once: float = 1.0) -> tuple[Block, ...]:
    """A load's stages on the press as blocks of one heat; what hands do between belongs to the block before it.

    at_once: things in a load, each of which takes its own time of hands.

    recovery_min: what a platen needs to regain its heat under a cold piece; it is waited for where hands are quicker.
    """
    found: list[Block] = []
    busy, celsius, wait, named = 0.0, None, 0.0, ""
    for s in (x for x in stages if x.part == "press" and not x.first_only):
        by_hand = s.hands_s * at_once / 60
        own = s.time_s / 60 + by_hand
        if s.alone:
            wait += own
            continue
        other = s.temperature_c is not None and celsius is not None and s.temperature_c != celsius
        if celsius is not None and (wait > 0 or other):
            found.append(Block(celsius=celsius, busy_min=busy, wait_min=wait, name=named))
            busy, wait, named = 0.0, 0.0, ""
            celsius = s.temperature_c if s.temperature_c is not None else celsius
        if s.temperature_c is not None:
            celsius, named = s.temperature_c, named or s.name
            own += max(0.0, recovery_min - by_hand)
        busy += own
    if celsius is not None and (busy > 0 or wait > 0):
        found.append(Block(celsius=celsius, busy_min=busy, wait_min=wait, name=named))
    return tuple(found)


class _Clock:
    """The press as it goes on: its heat, the minute, and what was done."""

    def __init__(self, heat: Heat, celsius: float, settle_min: float, keep: bool) -> None:
        self.now, self.celsius = 0.0, celsius
        self.changes, self.changing, self.waiting = 0, 0.0, 0.0
        self.spans: list[Span] = []
        self._heat, self._settle, self._keep = heat, settle_min, keep

    def press(self, block: Block, piece: int) -> None:
        self._add("press", block.busy_min, self.celsius, piece, block.name)

    def turn(self, celsius: float) -> None:
        if celsius != self.celsius:
            took = self._heat.minutes(self.celsius, celsius) + self._settle
            self.changes += 1
            self.changing += took
            self._add("change", took, celsius)
            self.celsius = celsius

    def wait_until(self, minute: float) -> None:
        if minute > self.now + SOON:
            self.waiting += minute - self.now
            self._add("wait", minute - self.now, self.celsius)

    def _add(
        self, kind: Literal["press", "change", "wait"], took: float, to_c: float, piece: int = 0, name: str = ""
    ) -> None:
        if self._keep and took > 0:
            self.spans.append(
                Span(
                    kind=kind,
                    start_min=round(self.now, 4),
                    end_min=round(self.now + took, 4),
                    from_c=self.celsius,
                    to_c=to_c,
                    piece=piece,
                    name=name,
                )
            )
        self.now += took


def run_batch(
    blocks: tuple[Block, ...],
    pieces: int,
    heat: Heat,
    order: Order,
    *,
    settle_min: float = 0.0,
    keep_spans: bool = True,
) -> Trace:
    """The whole batch on one press that stands at the first block's heat; the last way back is the next job's."""
    clock = _Clock(heat, blocks[0].celsius, settle_min, keep_spans)
    if order == "piece by piece":
        _one_by_one(clock, blocks, pieces)
    elif order == "by stage":
        _by_stage(clock, blocks, pieces)
    else:
        _rolling(clock, blocks, pieces)
    return Trace(
        order=order,
        minutes=clock.now,
        changes=clock.changes,
        changing_min=clock.changing,
        waiting_min=clock.waiting,
        spans=tuple(clock.spans),
    )


def _one_by_one(clock: _Clock, blocks: tuple[Block, ...], pieces: int) -> None:
    for piece in range(1, pieces + 1):
        ready = clock.now
        for block in blocks:
            clock.turn(block.celsius)
            clock.wait_until(ready)
            clock.press(block, piece)
            ready = clock.now + block.wait_min


def _by_stage(clock: _Clock, blocks: tuple[Block, ...], pieces: int) -> None:
    ready = [0.0] * pieces
    for block in blocks:
        clock.turn(block.celsius)
        for i in range(pieces):
            clock.wait_until(ready[i])
            clock.press(block, i + 1)
            ready[i] = clock.now + block.wait_min


def _rolling(clock: _Clock, blocks: tuple[Block, ...], pieces: int) -> None:
    """A piece that is ready goes before a new one; the heat is changed when nothing at this heat is left to lay or to come."""
    rack: deque[tuple[float, int, int]] = deque()  # ready at, piece, next block: first in, first out
    laid = 0
    while laid < pieces or rack:
        due = next((r for r in rack if r[0] <= clock.now + SOON and blocks[r[2]].celsius == clock.celsius), None)
        if due is not None:
            rack.remove(due)
            _, piece, at = due
        elif laid < pieces and blocks[0].celsius == clock.celsius:
            laid += 1
            piece, at = laid, 0
        else:
            here = [r for r in rack if blocks[r[2]].celsius == clock.celsius]
            if here:
                clock.wait_until(min(r[0] for r in here))
            else:
                clock.turn(blocks[rack[0][2]].celsius if rack else blocks[0].celsius)
            continue
        clock.press(blocks[at], piece)
        if at + 1 < len(blocks):
            rack.append((clock.now + blocks[at].wait_min, piece, at + 1))
