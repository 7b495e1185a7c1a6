"""Transfers left over, lot by lot: each begins with the act that laid it into the store."""

from datetime import datetime

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from offsetter.core.leftovers import Lot
from offsetter.store.tables import LotRow


class LotStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def add(self, lot: Lot) -> None:
        self._session.merge(_row(lot))
        self._session.flush()

    def drop(self, lot_id: str) -> None:
        self._session.execute(delete(LotRow).where(LotRow.id == lot_id))

    def take(self, lot_id: str, count: int) -> None:
        """So many fewer are left of a lot; below 0: so many more."""
        self._session.execute(update(LotRow).where(LotRow.id == lot_id).values(left=LotRow.left - count))

    def find(self, lot_id: str) -> Lot | None:
        row = self._session.get(LotRow, lot_id)
        return _lot(row) if row else None

    def left(self, signatures: set[str] | None = None) -> tuple[Lot, ...]:
        """Lots of which something is left, oldest first; only those alike to signatures when they are given."""
        asked = select(LotRow).where(LotRow.left > 0).order_by(LotRow.stored_at, LotRow.id)
        if signatures is not None:
            asked = asked.where(LotRow.signature.in_(signatures))
        return tuple(_lot(r) for r in self._session.scalars(asked))

    def every(self) -> dict[str, Lot]:
        """All lots ever laid in: for folding anew alone."""
        return {r.id: _lot(r) for r in self._session.scalars(select(LotRow))}


def _row(lot: Lot) -> LotRow:
    return LotRow(id=lot.id, job_id=lot.job, run_id=lot.run, signature=lot.signature, count=lot.count, left=lot.left,
                  note=lot.note, stored_at=lot.stored_at)  # fmt: skip


def _lot(row: LotRow) -> Lot:
    at: datetime = row.stored_at
    return Lot(id=row.id, job=row.job_id, run=row.run_id, signature=row.signature, count=row.count, left=row.left,
               note=row.note, stored_at=at)  # fmt: skip
