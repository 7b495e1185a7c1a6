"""Runs that were handed to their printers."""

from collections.abc import Iterable
from datetime import datetime

from pydantic import ValidationError
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from offsetter.core.sending import Send
from offsetter.store.tables import SendRow


class SendStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def find(self, send_id: str, *, locked: bool = False) -> Send | None:
        asked = select(SendRow).where(SendRow.id == send_id)
        row = self._session.scalar(asked.with_for_update() if locked else asked)
        return _send(row) if row else None

    def of_runs(self, runs: Iterable[str], most: int = 40) -> tuple[Send, ...]:
        """The newest first."""
        asked = select(SendRow).where(SendRow.run_id.in_(list(runs))).order_by(SendRow.made_at.desc()).limit(most)
        return tuple(s for row in self._session.scalars(asked) if (s := _send(row)) is not None)

    def open(self, machine: str | None = None) -> tuple[Send, ...]:
        asked = select(SendRow).where(SendRow.is_open.is_(True)).order_by(SendRow.made_at)
        if machine is not None:
            asked = asked.where(SendRow.machine == machine)
        return tuple(s for row in self._session.scalars(asked) if (s := _send(row)) is not None)

    def newest(self, machine: str, most: int) -> tuple[Send, ...]:
        asked = select(SendRow).where(SendRow.machine == machine).order_by(SendRow.made_at.desc()).limit(most)
        return tuple(s for row in self._session.scalars(asked) if (s := _send(row)) is not None)

    def touch(self, send_id: str, at: datetime) -> None:
        """Its process is at it."""
        self._session.execute(update(SendRow).where(SendRow.id == send_id).values(changed_at=at))

    def touched(self, send_id: str) -> datetime | None:
        return self._session.scalar(select(SendRow.changed_at).where(SendRow.id == send_id))

    def save(self, send: Send, at: object) -> None:
        body = send.model_dump(mode="json", exclude={"id", "job", "run", "machine", "name", "made_at"})
        self._session.merge(SendRow(
            id=send.id, job_id=send.job, run_id=send.run, machine=send.machine, name=send.name, is_open=send.is_open, made_at=send.made_at,
            changed_at=at, body=body,
        ))  # fmt: skip
        self._session.flush()


def _send(row: SendRow) -> Send | None:
    known = {"id": row.id, "job": row.job_id, "run": row.run_id, "machine": row.machine, "name": row.name, "made_at": row.made_at}  # fmt: skip
    try:
        return Send.model_validate({**row.body, **known})
    except ValidationError:
        return None
