"""Transfers left over: lots in the store, followed from the acts that laid them there and took from them."""

from datetime import datetime

from offsetter.core.acts import Act, Fetched, Stored
from offsetter.core.values import Frozen


class Lot(Frozen):
    """id is that of the act that laid them into the store."""

    id: str
    job: str
    run: str
    signature: str
    count: int
    left: int
    note: str
    stored_at: datetime


def lot_of(act: Act) -> Lot:
    """The lot that a storing act begins, nothing taken yet."""
    body = act.body
    assert isinstance(body, Stored)
    return Lot(id=act.id, job=act.job, run=body.run, signature=act.signature, count=body.count, left=body.count,
               note=body.note, stored_at=act.at)  # fmt: skip


def fold_lots(acts: tuple[Act, ...]) -> dict[str, Lot]:
    """Every lot from the standing acts of all jobs, in whatever order."""
    lots = {a.id: lot_of(a) for a in acts if isinstance(a.body, Stored)}
    for body in (a.body for a in acts):
        if isinstance(body, Fetched) and body.stored in lots:
            lot = lots[body.stored]
            lots[lot.id] = lot.model_copy(update={"left": lot.left - body.count})
    return lots
