"""What goes over the wire beside the core's own documents."""

from datetime import datetime
from typing import Any, Literal

from pydantic import Field

from offsetter.core.acts import Act, ActBody, Standing
from offsetter.core.books import Books
from offsetter.core.compute.advice import Advice
from offsetter.core.compute.fit import AdviceJob
from offsetter.core.decisions import Decisions, OrderDoc, PrintPlace, Way
from offsetter.core.facts import Blank, BrokenFact, Cutter, Oven, Press, Printer, Probe
from offsetter.core.ledger import Stale
from offsetter.core.line import Line
from offsetter.core.prints import Pass
from offsetter.core.proof import ProofState
from offsetter.core.results import StationResult
from offsetter.core.runs import Run
from offsetter.core.standing import StandingTold
from offsetter.core.values import Frozen, Progress, Reading
from offsetter.desk.jobs import JobLine
from offsetter.desk.leftovers import Leftover
from offsetter.desk.pictures import Lens
from offsetter.desk.standings import BrokenJob


class PictureSet(Frozen):
    """Addresses of the print's pictures; each holds the hash of what it shows."""

    key: str
    """Of the print as it is looked at: points of it are asked for by it."""
    asked: str
    gamut: str
    holes: str
    """The picture's own small holes, marked: no fault of the print."""
    cloth: str
    pressed: str
    carrier: str
    white: str
    over: str
    vanish: str
    lens_colour: str
    lens_white: str
    art: str
    on_cup: str | None = None
    """Round the cup, seen from three sides; None: it goes on nothing round."""
    lens: Lens


class RunOut(Frozen):
    id: str
    number: int
    state: str
    copies: int
    printed: int
    prepared: dict[str, int]
    """Stage to transfers of this run that went through it."""
    signatures: tuple[str, ...]
    prints: tuple[str, ...]
    names: tuple[str, ...]
    length_um: int
    copies_per_cut: tuple[int, ...]
    lengths: int
    """Or sheets, that it lies on."""
    sheet_um: int = 0
    widths_um: tuple[int, ...]
    released_at: datetime
    released_by: str
    is_cut: bool = False
    """A cutter follows a line on it: each of its lengths has its files."""
    others: tuple[str, ...] = ()
    """Titles of the other jobs that it carries: it is printed and cured at Sheets."""


class LineOut(Frozen):
    """A line worked out: what changes while a setting moves."""

    stations: tuple[StationResult, ...]
    readings: tuple[Reading, ...]
    pictures: PictureSet | None
    decisions: Decisions
    way: Way | None
    plates_key: str | None
    """Of everything on the next run."""
    plates_ready: bool
    makes: Literal["transfer", "garment"] = "transfer"
    """What the printer makes: something to press, or the piece itself."""
    run_pictures: tuple[str, ...] = ()
    """Carrier side of each of the next run's sorts."""


class LedgerOut(Frozen):
    """The ledger as it is read, with the sums that screens ask for most."""

    books: Books
    printed: int
    in_hand: int
    to_print: int
    prepared: dict[str, int]
    to_press: dict[str, dict[str, int]]
    """Print to slot to prints still to press."""
    ready: dict[str, int]
    """Print to transfers ready to press."""
    pressed: dict[str, int]
    """Print to times it was pressed."""
    good: int
    ordered: int
    to_inspect: dict[str, int]
    left_over: dict[str, int]
    stale: tuple[Stale, ...]


class PrintTab(Frozen):
    """One of the job's prints."""

    id: str
    name: str
    place: str
    has_art: bool
    pieces: int


class JobOut(Frozen):
    id: str
    print: str
    kind: str
    prints: tuple[PrintTab, ...]
    passes: tuple[Pass, ...]
    line: LineOut
    revisions: dict[str, int]
    authors: dict[str, str]
    ledger: LedgerOut
    runs: tuple[RunOut, ...]
    acts: tuple[Act, ...]
    offers: tuple[Leftover, ...]
    """Transfers in the store that this job can use."""
    proof: ProofState
    can_undo: bool
    can_redo: bool
    standing: Standing
    why: str
    is_closed: bool


class JobCard(StandingTold):
    """A job on the Jobs view: where it stands and what it needs next."""

    picture: str | None


class JobsOut(Frozen):
    """A page of jobs, and how many there are of what is open."""

    cards: tuple[JobCard, ...]
    broken: tuple[BrokenJob, ...]
    """Jobs that cannot be worked out, and why."""
    broken_facts: tuple[BrokenFact, ...]
    filling: str = ""
    """What the demo's shop is still being filled with."""
    backup: str = ""
    """What to tell the owner of backups."""
    disk_left_mb: int | None
    """Where the disk is about to be full; None: there is room."""
    following: str | None
    """Asks for the page after this one; None: this is the last."""
    open: int
    needs_person: int
    late: int
    held: int


class Looks(Frozen):
    """What advice is drawn with: where a method's colour ends up, and whether it brings white."""

    lies: str
    white: str
    is_here: bool
    """One of the shop's printers does it."""


class AdviceOut(Frozen):
    advice: Advice
    asked: AdviceJob
    looks: dict[str, Looks]
    ways: dict[str, Way]
    """Method to the way that this shop would go with it."""


class ShopOut(Frozen):
    name: str
    proof_wanted: bool
    currency: str
    blanks: tuple[Blank, ...]
    printers: tuple[Printer, ...]
    presses: tuple[Press, ...]
    ovens: tuple[Oven, ...]
    cutters: tuple[Cutter, ...]
    probes: tuple[Probe, ...]
    method_names: dict[str, str]
    ink_names: dict[str, str]
    """Every ink that a printer may hold, white among them, in their order."""
    now: datetime


class NewJob(Frozen):
    order: OrderDoc


class SaveIn(Frozen):
    by: str = Field("", max_length=60)
    """Who decided it, where it waited in a browser; only their own session may bring it."""
    print: str = ""
    base: int = Field(ge=0)
    body: dict[str, Any]


class TryIn(Frozen):
    print: str = ""
    kind: str = ""
    station: str
    body: dict[str, Any]


class ActIn(Frozen):
    id: str = Field(min_length=8, max_length=40, pattern=r"^[A-Za-z0-9-]+$")
    job: str
    at: datetime
    sent_at: datetime | None = None
    """By the same clock as at, when it was sent: what that clock is off is set right."""
    print: str = ""
    """From which the answer is seen."""
    by: str = Field("", max_length=60)
    """Who did it, where it waited in a browser; only their own session may bring it."""
    body: ActBody


class ResolveIn(Frozen):
    id: str = Field(min_length=8, max_length=40, pattern=r"^[A-Za-z0-9-]+$")
    old: str
    way: Literal["use", "rest", "all"]
    reason: str = Field(min_length=1, max_length=300)


class SignIn(Frozen):
    """The customer's word on the proof."""

    id: str = Field(min_length=8, max_length=40, pattern=r"^[A-Za-z0-9-]+$")
    by: str = Field(min_length=1, max_length=120)
    how: str = Field("", max_length=120)


class AgainIn(Frozen):
    due: datetime


class AgreedIn(Frozen):
    """What a customer said yes to."""

    pieces: int = Field(ge=1, le=10_000)
    price: float = Field(ge=0, le=1e6)
    by: str = Field(min_length=1, max_length=120)


class AddPrintIn(Frozen):
    place: PrintPlace


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
          ("asked", "gamut", "holes", "cloth", "pressed", "carrier", "white", "over", "vanish", "lens-colour", "lens-white")}  # fmt: skip
    round_it = f"/api/pictures/{key}/on-cup.png" if seen.is_round else None
    return PictureSet(key=key, **at, on_cup=round_it, art=f"/api/artworks/{spec.artwork}/art.png", lens=seen.lens)


def ledger_out(line: Line, last_stages: dict[str, str]) -> LedgerOut:
    """last_stages: print to its last stage of preparing."""
    ledger = line.ledger
    stages = sorted({s for p in ledger.pools.values() for s in p.prepared})
    return LedgerOut(
        books=line.books, printed=ledger.printed, in_hand=ledger.in_hand, to_print=ledger.to_print,
        prepared={s: ledger.prepared(s) for s in stages}, to_press={p: ledger.to_press(p) for p in ledger.demand.prints},
        ready={p: ledger.ready_to_press(p, last_stages.get(p, "")) for p in ledger.demand.prints},
        pressed={p: ledger.pressed_sum(p) for p in ledger.demand.prints}, good=sum(ledger.still_good.values()),
        ordered=sum(ledger.ordered.values()), to_inspect=ledger.to_inspect, left_over=ledger.left_over, stale=ledger.stale,
    )  # fmt: skip


def run_out(run: Run, printed: int, prepared: dict[str, int], others: tuple[str, ...]) -> RunOut:
    layout, items = run.plan.layout, run.plan.items
    counts = (sum(p.cut == c + 1 for p in layout.places) for c in range(len(layout.cut_lengths_um)))
    per_cut = tuple(n for n in counts if n)
    return RunOut(
        id=run.id, number=run.number, state=run.state, copies=run.copies, printed=printed, prepared=prepared,
        signatures=tuple(i.signature for i in items), prints=tuple(dict.fromkeys(i.print for i in items)), names=tuple(i.name for i in items),
        length_um=layout.length_um, sheet_um=layout.sheet_um, copies_per_cut=per_cut, lengths=len(layout.cut_lengths_um), widths_um=tuple(i.spec.width_um for i in items),
        released_at=run.released_at, released_by=run.released_by, is_cut=not layout.tiles and all(i.cut for i in items), others=others,
    )  # fmt: skip
