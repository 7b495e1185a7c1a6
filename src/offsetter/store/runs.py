"""Runs: what was released to be printed in one go."""

from sqlalchemy import func, or_, select, update
from sqlalchemy.orm import Session

from offsetter.core.runs import Run
from offsetter.store.tables import RunJobRow, RunRow


class RunStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def of_job(self, job_id: str) -> tuple[Run, ...]:
        """The job's runs; of one that carries several jobs its own part."""
        shared = select(RunJobRow.run_id).where(RunJobRow.job_id == job_id)
        rows = self._session.scalars(select(RunRow).where(or_(RunRow.job_id == job_id, RunRow.id.in_(shared))).order_by(RunRow.number))  # fmt: skip
        return tuple(_run(r).part_of(job_id) for r in rows)

    def shared(self, most: int) -> tuple[Run, ...]:
        """Released runs that carry several jobs, whole, the newest first."""
        asked = select(RunRow).where(RunRow.id.in_(select(RunJobRow.run_id)), RunRow.state == "released")
        return tuple(_run(r) for r in self._session.scalars(asked.order_by(RunRow.number.desc()).limit(most)))

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
        if len(run.jobs) > 1 and not run.others:
            self._session.add_all(RunJobRow(run_id=run.id, job_id=job) for job in run.jobs)
            self._session.flush()

    def supersede(self, run_ids: list[str]) -> None:
        """The plan stays as it was released; only its standing changes."""
        self._session.execute(update(RunRow).where(RunRow.id.in_(run_ids)).values(state="superseded"))


def _run(row: RunRow) -> Run:
    return Run.model_validate({"id": row.id, "number": row.number, "job": row.job_id, "state": row.state,
                               "plan": row.plan, "released_at": row.released_at, "released_by": row.released_by})  # fmt: skip
