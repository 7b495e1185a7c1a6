"""How often each counted sheet at a press was used since it was taken new."""

from datetime import datetime

from sqlalchemy import case, or_, select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from offsetter.core.counted_sheets import SheetUse
from offsetter.store.tables import CountedSheetRow


class CountedSheetStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def at_press(self, press: str) -> dict[str, SheetUse]:
        rows = self._session.scalars(select(CountedSheetRow).where(CountedSheetRow.press == press))
        return {r.cover: _sheet(r) for r in rows}

    def find(self, press: str, cover: str) -> SheetUse | None:
        row = self._session.get(CountedSheetRow, (press, cover))
        return None if row is None else _sheet(row)

    def add_uses(self, press: str, cover: str, times: int, at: datetime) -> None:
        """Used times more; uses from before the sheet was taken new are of the one before it."""
        told = insert(CountedSheetRow).values(press=press, cover=cover, since=None, used=times)
        of_this = case((or_(CountedSheetRow.since.is_(None), CountedSheetRow.since < at), times), else_=0)
        self._session.execute(told.on_duplicate_key_update(used=CountedSheetRow.used + of_this))

    def save(self, sheet: SheetUse) -> None:
        self._session.merge(CountedSheetRow(press=sheet.press, cover=sheet.cover, since=sheet.since, used=sheet.used))
        self._session.flush()

    def every(self) -> dict[tuple[str, str], SheetUse]:
        return {(r.press, r.cover): _sheet(r) for r in self._session.scalars(select(CountedSheetRow))}


def _sheet(row: CountedSheetRow) -> SheetUse:
    return SheetUse(press=row.press, cover=row.cover, since=row.since, used=row.used)
