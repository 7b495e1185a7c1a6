"""The logbook: written when a job closes, with that day's prices, and read in pages."""

from typing import Any

from sqlalchemy.orm import Session

from offsetter.core.acts import Closed, standing
from offsetter.core.logbook import Entry, entry_of
from offsetter.core.values import Frozen
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.pages import mark, read_mark
from offsetter.desk.scenes import Scene
from offsetter.store.logbook import LogbookStore
from offsetter.store.standings import Unreadable

PAGE = 20


class LogbookPage(Frozen):
    entries: tuple[Entry, ...]
    following: str | None
    """Asks for the page after this one; None: this is the last."""


class Logbook:
    def __init__(self, base: Base, jobs: Jobs) -> None:
        self._base, self._jobs = base, jobs

    def page(self, words: str = "", after: str = "") -> LogbookPage:
        """Entries of closed jobs that hold every word typed, newest first."""
        found = self._read(words, after)
        entries = []
        for entry, scene in found[:PAGE]:
            key = self._jobs.remember(Scene.model_validate(scene)) if scene else None
            entries.append(entry.model_copy(update={"picture_key": key}))
        last = entries[-1] if len(found) > PAGE else None
        return LogbookPage(entries=tuple(entries), following=mark(last.closed_at, last.job) if last else None)

    def _read(self, words: str, after: str) -> list[tuple[Entry, dict[str, Any] | None]]:
        begins = read_mark(after)
        for _ in range(2 * PAGE):
            try:
                with self._base.session() as session:
                    return LogbookStore(session).page(words, PAGE + 1, begins)
            except Unreadable as row:
                # Another version wrote it: this one works it out for itself.
                with self._base.session() as session, session.begin():
                    self.write(session, row.job_id)
        return []

    def write(self, session: Session, job_id: str) -> None:
        """The entry of a job that closes in this transaction; none when it is not closed."""
        contexts = self._jobs.contexts_in(session, job_id)
        closing = [a for a in standing(contexts[0].given.acts) if isinstance(a.body, Closed)]
        if not closing:
            LogbookStore(session).drop(job_id)
            return
        scene = self._jobs.scene_of(contexts[0]) if contexts[0].measure else None
        entry = entry_of(contexts, job=job_id, closed_at=closing[-1].at, picture_key=scene.key if scene else None)
        LogbookStore(session).save(entry, scene.model_dump(mode="json") if scene else None)

    def write_missing(self, job_id: str) -> None:
        """Of a version that kept no entries."""
        with self._base.session() as session, session.begin():
            if not LogbookStore(session).has(job_id):
                self.write(session, job_id)
