"""Tasks of care by sort of machine, and the room that they stand in."""

from typing import Annotated, Literal

from pydantic import Field

from offsetter.core.facts.machines import Cutter, Machine, Oven, Press, Printer, Probe
from offsetter.core.facts.methods import Method
from offsetter.core.values import Frozen

Wants = Literal["", "ink", "white ink", "toner", "roll", "garment"]
USES = ("m2", "prints", "presses", "cut_m")
"""What care is counted by, besides days and hours of standing still."""
UNITS = {"m2": "m²", "prints": "prints", "presses": "pressings", "cut_m": "m of cut"}
Line = Annotated[str, Field(min_length=3, max_length=240)]


SORT_OF: dict[str, type[Machine]] = {
    "printers": Printer,
    "presses": Press,
    "ovens": Oven,
    "cutters": Cutter,
    "probes": Probe,
}


class CareTask(Frozen):
    id: str = Field(pattern=r"^[a-z0-9-]{2,40}$")
    name: str = Field(min_length=3, max_length=80)
    sorts: tuple[Literal["printers", "presses", "ovens", "cutters", "probes"], ...]
    wants: Wants = ""
    """Which of them."""
    days: int | None = Field(None, ge=1, le=3650)
    m2: float | None = Field(None, gt=0, le=1_000_000)
    prints: int | None = Field(None, ge=1, le=10_000_000)
    presses: int | None = Field(None, ge=1, le=10_000_000)
    cut_m: float | None = Field(None, gt=0, le=10_000_000)
    idle_h: float | None = Field(None, gt=0, le=10_000)
    """Due after standing still for so long."""
    before_first: bool = False
    """Asked about before the first job of the day."""
    minutes: int = Field(ge=1, le=600)
    steps: tuple[Line, ...] = Field(min_length=1, max_length=12)
    caution: str = Field("", max_length=300)
    part: str = Field("", max_length=120)
    qualified: bool = False
    """Repairs that it finds are for qualified people alone."""
    why: str = Field(min_length=3, max_length=240)
    skipped: tuple[str, ...] = ()
    """Words of causes that a skipped one shows itself by."""

    @property
    def by_use(self) -> tuple[str, float] | None:
        """What it is counted by, and how much of it."""
        return next(((u, float(n)) for u in USES if (n := getattr(self, u)) is not None), None)


class OwnCare(Frozen):
    """A task as this shop does it at one machine."""

    days: int | None = Field(None, ge=1, le=3650)
    every: float | None = Field(None, gt=0, le=10_000_000)
    """Of what the task is counted by."""
    is_off: bool = False
    """Not wanted here."""

    def of(self, task: CareTask) -> CareTask:
        by = task.by_use
        use = {by[0]: int(self.every) if by[0] in ("prints", "presses") else self.every} if by and self.every else {}
        return task.model_copy(update={**({"days": self.days} if self.days else {}), **use})


class RoomRange(Frozen):
    celsius: tuple[float, float]
    humidity_pct: tuple[float, float]
    source: str


class CareFacts(Frozen):
    task: tuple[CareTask, ...]
    room: RoomRange


def tasks_of(
    facts: CareFacts, machine: Machine, methods: dict[str, Method], own: dict[str, OwnCare] | None = None
) -> tuple[CareTask, ...]:
    """Those that this machine has, as the shop does them there."""
    sort = next(s for s, of in SORT_OF.items() if isinstance(machine, of))
    has = set[Wants]({""})
    if isinstance(machine, Printer):
        used = [methods[f.method] for f in machine.feeds if f.method in methods]
        jets = any(m.colorant != "toner" for m in used)
        has |= {"ink"} if jets else {"toner"}
        has |= {"white ink"} if jets and any(m.white == "plate" for m in used) else set()
        has |= {"roll"} if any(f.kind == "roll" for f in machine.feeds) else set()
        has |= {"garment"} if any(f.kind == "garment" for f in machine.feeds) else set()
    said = own or {}
    found = (t for t in facts.task if sort in t.sorts and t.wants in has)
    return tuple(said.get(t.id, OwnCare()).of(t) for t in found if not said.get(t.id, OwnCare()).is_off)
