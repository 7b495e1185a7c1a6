"""All that a look at a job asks the database while nothing has changed, in one question: a hand at a slider asks it ten times a second."""

from dataclasses import dataclass

from sqlalchemy import JSON, Double, bindparam, cast, func, literal, null, select, type_coerce, union_all
from sqlalchemy.orm import Session

from offsetter.store.tables import EDITION, CounterRow, MachineStateRow, StandingRow, StockRow


@dataclass(frozen=True, slots=True)
class Newest:
    changes: int | None
    """Of the job: counts up with every decision, act and run; None while it has no standing."""
    facts: int
    """Edition of the shop's facts."""
    shelves: int
    """Counts up whenever an item is otherwise than it was."""
    held: dict[str, dict[str, float]]
    """Machine to channel to what is in it."""


_NOTHING = type_coerce(null(), JSON)
_ASKED = union_all(
    select(literal("counter").label("sort"), CounterRow.name.label("name"), cast(CounterRow.value, Double).label("number"), _NOTHING.label("held"))
    .where(CounterRow.name == EDITION),
    select(literal("job"), StandingRow.job_id, StandingRow.changes, _NOTHING).where(StandingRow.job_id == bindparam("job_id")),
    select(literal("shelves"), literal(""), func.sum(StockRow.changes), _NOTHING),
    select(literal("machine"), MachineStateRow.machine, literal(0), MachineStateRow.held).where(MachineStateRow.held.is_not(None)),
)  # fmt: skip


def newest_in(session: Session, job_id: str = "") -> Newest:
    told: dict[tuple[str, str], float | None] = {}
    machines: dict[str, dict[str, float]] = {}
    for sort, name, number, held in session.execute(_ASKED, {"job_id": job_id}):
        if sort == "machine":
            machines[name] = {c: float(n) for c, n in held.items()}
        else:
            told[sort, name] = number
    changes = told.get(("job", job_id))
    return Newest(
        changes=None if changes is None else int(changes),
        facts=int(told.get(("counter", EDITION)) or 0),
        shelves=int(told.get(("shelves", "")) or 0),
        held=machines,
    )
