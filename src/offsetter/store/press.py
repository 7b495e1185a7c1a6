"""The live session of each press."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from offsetter.core.press_session import PressState
from offsetter.store.tables import PressSessionRow


@dataclass(frozen=True, slots=True)
class PressSession:
    press: str
    job: str
    print: str
    holder: str
    person: str
    screen: str
    seq: int
    state: PressState
    seen_at: datetime


class PressStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def find(self, press: str, *, lock: bool = False) -> PressSession | None:
        asked = select(PressSessionRow).where(PressSessionRow.press == press)
        row = self._session.scalar(asked.with_for_update() if lock else asked)
        if row is None:
            return None
        return PressSession(row.press, row.job_id, row.print_id, row.holder, row.person, row.screen, row.seq,
                            PressState.model_validate(row.state), row.seen_at)  # fmt: skip

    def save(self, kept: PressSession) -> None:
        self._session.merge(PressSessionRow(
            press=kept.press, job_id=kept.job, print_id=kept.print, holder=kept.holder, person=kept.person, screen=kept.screen, seq=kept.seq,
            state=kept.state.model_dump(mode="json"), seen_at=kept.seen_at,
        ))  # fmt: skip
        self._session.flush()

    def drop(self, press: str) -> None:
        self._session.execute(delete(PressSessionRow).where(PressSessionRow.press == press))
