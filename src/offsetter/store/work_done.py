"""Runs and acts: what was released and what was done."""

from datetime import datetime

from sqlalchemy import func, select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from offsetter.core.acts import Act
from offsetter.core.runs import Run
from offsetter.store.tables import ActRow, RunRow


class RunStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def of_job(self, job_id: str) -> tuple[Run, ...]:
        rows = self._session.scalars(select(RunRow).where(RunRow.job_id == job_id).order_by(RunRow.number))
        return tuple(_run(r) for r in rows)

    def find(self, run_id: str) -> Run | None:
        row = self._session.get(RunRow, run_id)
        return _run(row) if row else None

    def numbered(self, number: int) -> Run | None:
        row = self._session.scalar(select(RunRow).where(RunRow.number == number))
        return _run(row) if row else None

    def next_number(self) -> int:
        return (self._session.scalar(select(func.max(RunRow.number)).with_for_update()) or 0) + 1

    def add(self, run: Run) -> None:
        self._session.add(RunRow(id=run.id, number=run.number, job_id=run.job, state=run.state,
                                 plan=run.plan.model_dump(mode="json"), released_at=run.released_at,
                                 released_by=run.released_by))  # fmt: skip
        self._session.flush()

    def supersede(self, run_ids: list[str]) -> None:
        """The plan stays as it was released; only its standing changes."""
        self._session.execute(update(RunRow).where(RunRow.id.in_(run_ids)).values(state="superseded"))


class ActStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def of_job(self, job_id: str) -> tuple[Act, ...]:
        rows = self._session.scalars(select(ActRow).where(ActRow.job_id == job_id).order_by(ActRow.seq))
        return tuple(_act(r) for r in rows)

    def add(self, act: Act, at: datetime) -> None:
        """Write the act once; the same id again changes nothing."""
        row = ActRow(id=act.id, job_id=act.job, at=act.at, recorded_at=at, actor=act.actor, signature=act.signature,
                     kind=act.body.kind, body=act.body.model_dump(mode="json"))  # fmt: skip
        try:
            with self._session.begin_nested():
                self._session.add(row)
        except IntegrityError:
            if self.find(act.id) is None:
                raise

    def of_kinds(self, kinds: tuple[str, ...], newest: int | None = None) -> tuple[Act, ...]:
        """Acts of all jobs, oldest first; newest bounds how far back. Voiding acts come with them."""
        rows = select(ActRow).where(ActRow.kind.in_((*kinds, "voided"))).order_by(ActRow.seq.desc())
        found = self._session.scalars(rows.limit(newest) if newest else rows)
        return tuple(reversed([_act(r) for r in found]))

    def find(self, act_id: str) -> Act | None:
        row = self._session.scalar(select(ActRow).where(ActRow.id == act_id))
        return _act(row) if row else None


def _run(row: RunRow) -> Run:
    return Run.model_validate({"id": row.id, "number": row.number, "job": row.job_id, "state": row.state,
                               "plan": row.plan, "released_at": row.released_at, "released_by": row.released_by})  # fmt: skip


def _act(row: ActRow) -> Act:
    return Act.model_validate({"id": row.id, "job": row.job_id, "at": row.at, "actor": row.actor,
                               "signature": row.signature, "body": row.body})  # fmt: skip
