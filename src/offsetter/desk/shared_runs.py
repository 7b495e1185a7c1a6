"""Runs that carry several jobs, once they are released: what is printed and cured of them is recorded at each of their jobs."""

from datetime import datetime

from offsetter.core.acts import Act, Prepared, Printed, standing
from offsetter.core.runs import Run
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal, digest
from offsetter.desk.acts import Acts
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.runs import Runs
from offsetter.store.acts import ActStore
from offsetter.store.runs import RunStore
from offsetter.store.standings import StandingStore

MOST = 12


class PartView(Frozen):
    """What a run carries of one job."""

    job: str
    title: str
    due: datetime | None
    copies: int
    printed: int
    prepared: dict[str, int]


class StageView(Frozen):
    id: str
    name: str


class FileView(Frozen):
    """One print's own file. sort: by which it is asked for."""

    sort: int
    name: str


class SharedRunView(Frozen):
    id: str
    number: int
    printer: str
    method: str
    released_at: datetime
    released_by: str
    copies: int
    printed: int
    length_um: int
    sheet_um: int
    copies_per_cut: tuple[int, ...]
    stages: tuple[StageView, ...]
    """That its prints go through before the press, in order."""
    parts: tuple[PartView, ...]
    files: tuple[FileView, ...]
    is_cut: bool


class SharedRuns:
    def __init__(self, base: Base, jobs: Jobs, runs: Runs, acts: Acts) -> None:
        self._base, self._jobs, self._runs, self._acts = base, jobs, runs, acts

    def all(self) -> tuple[SharedRunView, ...]:
        """The newest first."""
        with self._base.session() as session:
            found = RunStore(session).shared(MOST)
        return tuple(self._view(r) for r in found)

    def look(self, run_id: str) -> SharedRunView:
        return self._view(self._runs.find(run_id))

    def printed(self, run_id: str, cuts: int, mark: str, lot: str, person: str) -> SharedRunView:
        """The first so many of its lengths or sheets are printed, each job's prints on them with it."""
        run = self._runs.find(run_id)
        self.printed_to(run, _until(run, cuts), mark, lot, person)
        return self._view(run)

    def printed_to(self, run: Run, count: int, mark: str, lot: str, person: str) -> None:
        """The first count prints, in the order they leave the printer. Each job records its own once, however often this is said."""
        done = {job: run.part_of(job).printed_in(self._acts_of(job)) for job in run.jobs}
        counts = {job: _own(run, job, count) - done[job] for job in run.jobs}
        self._record(run, counts, mark, person, Printed(run=run.id, count=1, lot=lot))

    def prepared(self, run_id: str, stage: str, cuts: int, mark: str, person: str) -> SharedRunView:
        """The first so many of its lengths went through a stage of preparing."""
        run = self._runs.find(run_id)
        count, counts = _until(run, cuts), {}
        for job in run.jobs:
            known = self._acts_of(job)
            counts[job] = min(_own(run, job, count), run.part_of(job).printed_in(known)) - _through(known, run.id, stage)  # fmt: skip
        self._record(run, counts, mark, person, Prepared(run=run.id, stage=stage, count=1))
        return self._view(run)

    def _record(self, run: Run, counts: dict[str, int], mark: str, person: str, body: Printed | Prepared) -> None:
        """At each job as much as is its own. Raises Refusal once all that can be recorded is, naming what was not."""
        refused: list[tuple[str, Refusal]] = []
        for job, count in counts.items():
            if count <= 0:
                continue
            act = Act(
                id=digest("part", mark, job)[:32], job=job, at=self._base.now(), actor=person, signature="", body=body.model_copy(update={"count": count})
            )  # fmt: skip
            try:
                self._acts.record(act)
            except Refusal as no:
                refused.append((self._jobs.title(job), no))
        if refused:
            said = " ".join(f"{title}: {no.happened}" for title, no in refused)
            raise Refusal(refused[0][1].code, said, say("For the other jobs of run {number} it is recorded.", number=run.number), refused[0][1].to_do)  # fmt: skip

    def _acts_of(self, job: str) -> tuple[Act, ...]:
        with self._base.session() as session:
            return ActStore(session).of_job(job)

    def _view(self, run: Run) -> SharedRunView:
        shop, _ = self._jobs.shop()
        way = run.plan.way
        parts = []
        with self._base.session() as session:
            for job in run.jobs:
                known, own = ActStore(session).of_job(job), run.part_of(job)
                told = StandingStore(session).find(job)
                stages = {s: _through(known, run.id, s) for s in dict.fromkeys(a.body.stage for a in known if isinstance(a.body, Prepared))}  # fmt: skip
                parts.append(PartView(
                    job=job, title=told.standing.title if told else job, due=told.standing.due if told else None, copies=own.copies,
                    printed=own.printed_in(known), prepared={s: n for s, n in stages.items() if n},
                ))  # fmt: skip
        layout, method = run.plan.layout, shop.methods[way.method]
        after = self._jobs.stages_after_print(way)
        called = {p.job: p.title for p in parts}
        files: dict[str, FileView] = {}
        for at, i in enumerate(run.plan.items):
            files.setdefault(
                i.spec.key,
                FileView(
                    sort=at,
                    name=f"{called.get(i.job or run.job, '')}, {i.name}{f', turned {i.spec.slant}°' if i.spec.slant else ''}",
                ),
            )
        return SharedRunView(
            id=run.id, number=run.number, printer=shop.printers[way.printer].name if way.printer in shop.printers else way.printer, method=method.name,
            released_at=run.released_at, released_by=run.released_by, copies=run.copies, printed=sum(p.printed for p in parts), length_um=layout.length_um,
            sheet_um=layout.sheet_um, copies_per_cut=tuple(sum(p.cut == c for p in layout.places) for c in range(1, len(layout.cut_lengths_um) + 1)),
            stages=tuple(StageView(id=i, name=n) for i, n in after), parts=tuple(parts), files=tuple(files.values()), is_cut=all(i.cut for i in run.plan.items),
        )  # fmt: skip


def _through(known: tuple[Act, ...], run: str, stage: str) -> int:
    return sum(a.body.count for a in standing(known) if isinstance(a.body, Prepared) and (a.body.run, a.body.stage) == (run, stage))  # fmt: skip


def _until(run: Run, cuts: int) -> int:
    """Prints on the first so many lengths."""
    if not 1 <= cuts <= len(run.plan.layout.cut_lengths_um):
        raise Refusal("no-such-length", say("Run {number} has {cut_lengths_um} lengths, not {cuts}.", number=run.number, cut_lengths_um=len(run.plan.layout.cut_lengths_um), cuts=cuts), say("Nothing was recorded."), say("Look at the run again."))  # fmt: skip
    return sum(p.cut <= cuts for p in run.plan.layout.places)


def _own(run: Run, job: str, count: int) -> int:
    """Of the first count prints those of one job."""
    return sum((run.plan.items[p.sort].job or run.job) == job for p in run.plan.layout.places[:count])
