"""What goes over the wire beside the core's own documents."""

from datetime import datetime
from typing import Any, Literal

from pydantic import Field

from offsetter.core.acts import Act, ActBody
from offsetter.core.decisions import Decisions, OrderDoc, Way
from offsetter.core.facts import Blank, Oven, Press, Printer, Recipe
from offsetter.core.ledger import Ledger
from offsetter.core.runs import Run
from offsetter.core.stations.result import StationResult
from offsetter.core.values import Frozen, Reading
from offsetter.desk.jobs import JobLine
from offsetter.desk.pictures import Lens
from offsetter.work.interface import Progress


class PictureSet(Frozen):
    """Addresses of the print's pictures; each holds the hash of what it shows."""

    cloth: str
    pressed: str
    carrier: str
    white: str
    over: str
    vanish: str
    lens_colour: str
    lens_white: str
    art: str
    lens: Lens


class RunOut(Frozen):
    id: str
    number: int
    state: str
    copies: int
    printed: int
    signature: str
    length_um: int
    copies_per_cut: tuple[int, ...]
    width_um: int
    released_at: datetime
    released_by: str


class LineOut(Frozen):
    """A line worked out: what changes while a setting moves."""

    stations: tuple[StationResult, ...]
    readings: tuple[Reading, ...]
    pictures: PictureSet | None
    decisions: Decisions
    way: Way | None
    plates_key: str | None
    plates_ready: bool


class LedgerOut(Frozen):
    ledger: Ledger
    in_hand: int
    to_print: int
    to_press: dict[str, int]
    to_inspect: dict[str, int]
    still_good: dict[str, int]


class JobOut(Frozen):
    id: str
    line: LineOut
    revisions: dict[str, int]
    authors: dict[str, str]
    ledger: LedgerOut
    runs: tuple[RunOut, ...]
    acts: tuple[Act, ...]
    can_undo: bool
    can_redo: bool
    is_closed: bool


class JobCard(Frozen):
    """A job on the Jobs view: where it stands and what it needs next."""

    id: str
    title: str
    customer: str
    due: datetime
    pieces: int
    good: int
    blank: str
    cloth: str
    next_station: str
    next_state: str
    next_verdict: str
    states: tuple[tuple[str, str], ...]
    picture: str | None
    is_closed: bool
    garment: dict[str, Any] | None


class ShopOut(Frozen):
    name: str
    currency: str
    blanks: tuple[Blank, ...]
    printers: tuple[Printer, ...]
    presses: tuple[Press, ...]
    ovens: tuple[Oven, ...]
    recipes: tuple[Recipe, ...]
    proposed_way: Way | None
    now: datetime


class NewJob(Frozen):
    order: OrderDoc


class SaveIn(Frozen):
    base: int = Field(ge=0)
    body: dict[str, Any]


class TryIn(Frozen):
    station: str
    body: dict[str, Any]


class ActIn(Frozen):
    id: str = Field(min_length=8, max_length=40, pattern=r"^[A-Za-z0-9-]+$")
    job: str
    at: datetime
    body: ActBody


class ResolveIn(Frozen):
    id: str = Field(min_length=8, max_length=40, pattern=r"^[A-Za-z0-9-]+$")
    old: str
    way: Literal["use", "rest", "all"]
    reason: str = Field(min_length=1, max_length=300)


class Made(Frozen):
    id: str


class WorkOut(Frozen):
    key: str
    progress: Progress | None


class Problem(Frozen):
    """Every refusal: what happened, what was kept, what to do."""

    code: str
    happened: str
    kept: str
    to_do: str


def picture_set(seen: JobLine) -> PictureSet | None:
    key, spec = seen.picture_key, seen.line.spec
    if key is None or spec is None or seen.lens is None:
        return None
    at = {kind.replace("-", "_"): f"/api/pictures/{key}/{kind}.png" for kind in
          ("cloth", "pressed", "carrier", "white", "over", "vanish", "lens-colour", "lens-white")}  # fmt: skip
    return PictureSet(**at, art=f"/api/artworks/{spec.artwork}/art.png", lens=seen.lens)


def ledger_out(ledger: Ledger) -> LedgerOut:
    return LedgerOut(ledger=ledger, in_hand=ledger.in_hand, to_print=ledger.to_print, to_press=ledger.to_press,
                     to_inspect=ledger.to_inspect, still_good=ledger.still_good)  # fmt: skip


def run_out(run: Run, printed: int) -> RunOut:
    layout = run.plan.layout
    per_cut = tuple(sum(p.cut == c + 1 for p in layout.places) for c in range(len(layout.cut_lengths_um)))
    return RunOut(id=run.id, number=run.number, state=run.state, copies=run.copies, printed=printed, signature=run.plan.signature,
                  length_um=layout.length_um, copies_per_cut=per_cut, width_um=run.plan.spec.width_um,
                  released_at=run.released_at, released_by=run.released_by)  # fmt: skip
