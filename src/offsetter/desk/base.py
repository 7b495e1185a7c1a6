"""What every use case shares: the database, the files, the work, the clock."""

from collections.abc import Callable
from datetime import UTC, datetime

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from offsetter.core.results import StationResult
from offsetter.core.sentences import say
from offsetter.core.values import Refusal
from offsetter.desk.bounded import Bounded
from offsetter.store.files import FileStore
from offsetter.store.long_work import LongWorkBoard
from offsetter.work.interface import Work
from offsetter.work.local import LocalWork

MEMO_SIZE = 4000


class Base:
    def __init__(self, engine: Engine, files: FileStore, now: Callable[[], datetime] | None = None) -> None:
        self.engine, self.files = engine, files
        self.work: Work = LocalWork(LongWorkBoard(engine), files.locks)
        self.now = now or (lambda: datetime.now(UTC))
        self.memo: Bounded[StationResult] = Bounded(MEMO_SIZE)

    def session(self) -> Session:
        return Session(self.engine, expire_on_commit=False)


def no_such_job(job_id: str) -> Refusal:
    return Refusal(
        "no-such-job",
        say("There is no job {job_id}.", job_id=job_id),
        say("Nothing was changed."),
        say("Go back to Jobs and choose one."),
    )
