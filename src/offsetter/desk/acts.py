"""Acts recorded: what hands and machines did, each refused when the books could not be true with it."""

from datetime import datetime
from typing import Literal

from sqlalchemy.orm import Session

from offsetter.core.acts import (
    Act,
    Closed,
    Fetched,
    Pressed,
    Printed,
    Renewed,
    Resolved,
    Signed,
    Stored,
    Voided,
    standing,
)
from offsetter.core.context import Context
from offsetter.core.counted_sheets import SheetUse, covers_in, uses_in
from offsetter.core.derive import cutter_of
from offsetter.core.ledger import fold
from offsetter.core.leftovers import lot_of
from offsetter.core.machine_acts import MachineAct
from offsetter.core.runs import Run
from offsetter.core.sentences import say
from offsetter.core.supplies import cut_m_of, took_of
from offsetter.core.values import Refusal
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.logbook import Logbook
from offsetter.desk.recording import Recording
from offsetter.store.acts import ActStore
from offsetter.store.counted_sheets import CountedSheetStore
from offsetter.store.lots import LotStore
from offsetter.store.machines import MachineStore

AS_IT_WAS = say("Nothing was recorded.")
RENEWALS = 200
"""Of all sheets at one press: the last new one of each lies among them."""


class Acts:
    def __init__(self, base: Base, jobs: Jobs, logbook: Logbook) -> None:
        self._base, self._jobs, self._logbook = base, jobs, logbook

    def record(self, act: Act) -> None:
        """Append one act; the same act again changes nothing. Refused when the ledger could not be true."""
        with self._jobs.recording(act.job, self._lot_of(act)) as job:
            session, known = job.session, job.before.acts
            store, lots = ActStore(session), LotStore(session)
            if (told := store.find(act.id)) is not None:
                _refuse_another(told, act)
                return
            ctx = Context(self._jobs.inputs(self._jobs.kept.seen_from(job.before, act.job), job.today[1]))
            demand, runs = ctx.ledger.demand, {r.id: r for r in job.before.runs}
            ready = Recording(act=act, known=known, runs=runs, demand=demand, ledger=fold(known, demand), find=store.find,
                              fetched=lambda lot: _taken(lots, lot), recipe=ctx.way.recipe if ctx.way else "",
                              prepared_first=tuple(s.id for s in ctx.before_print)).completed()  # fmt: skip
            store.add(ready, self._base.now())
            job.acts.append(ready)
            self._keep_stores(session, ready, 1)
            self._keep_machines(session, ready, ready.id, known, runs, 1)
            if isinstance(ready.body, Voided) and (undone := store.find(ready.body.voids)) is not None:
                self._keep_stores(session, undone, -1)
                self._keep_machines(session, undone, ready.id, known, runs, -1)
            if isinstance(ready.body, Closed | Voided):
                self._logbook.write(session, act.job)

    def _keep_stores(self, session: Session, act: Act, times: int) -> None:
        """The store's lots and the counted sheets after an act; times -1: after it was taken back."""
        lots, body = LotStore(session), act.body
        if isinstance(body, Stored):
            lots.add(lot_of(act)) if times > 0 else lots.drop(act.id)
        elif isinstance(body, Fetched):
            lots.take(body.stored, body.count * times)
        sheets = CountedSheetStore(session)
        for press, cover in covers_in(act):
            if isinstance(body, Pressed):
                sheets.add_uses(press, cover, times * uses_in(act, SheetUse(press=press, cover=cover)), act.at)
            elif isinstance(body, Renewed):
                self._recount(session, press, cover, act.at if times > 0 else None)

    def _keep_machines(
        self, session: Session, act: Act, mark: str, known: tuple[Act, ...], runs: dict[str, Run], sign: Literal[1, -1]
    ) -> None:
        """What the printer took, or the press did; sign -1: after it was taken back, under that act's mark."""
        body, machines = act.body, MachineStore(session)
        if isinstance(body, Pressed) and body.press:
            machines.used(body.press, {"presses": sign * body.count / body.together}, act.at)
        elif isinstance(body, Printed) and (run := runs.get(body.run)) is not None:
            printer = self._jobs.shop_in(session)[0].printers.get(run.plan.way.printer)
            if printer is None:
                return
            done = sum(a.body.count for a in standing(known) if isinstance(a.body, Printed) and a.body.run == run.id and a.id != act.id)  # fmt: skip
            took = took_of(run, printer, min(done, run.copies - body.count), body.count, sign)
            machines.add(MachineAct(id=f"took-{mark}", machine=printer.id, at=act.at, body=took))
            if (cutter := cutter_of(self._jobs.shop_in(session)[0], run.plan.way)) is not None and all(
                i.cut for i in run.plan.items
            ):
                machines.used(
                    cutter.id, {"cut_m": sign * cut_m_of(run, min(done, run.copies - body.count), body.count)}, act.at
                )
            machines.used(printer.id, {"m2": sign * took.m2, "prints": sign * body.count, "jobs": sign}, act.at)

    def _recount(self, session: Session, press: str, cover: str, at: datetime | None) -> None:
        """A sheet was taken new at a time, or that was taken back (None): counted again from the acts since the last new one."""
        acts, since = ActStore(session), at
        if at is None:
            renewed = acts.newest("renewed", RENEWALS, press)
            since = max((a.at for a in renewed if isinstance(a.body, Renewed) and a.body.cover == cover), default=None)
        elif (known := CountedSheetStore(session).find(press, cover)) and known.since and known.since >= at:
            return
        fresh = SheetUse(press=press, cover=cover, since=since)
        used = sum(uses_in(a, fresh) for a in acts.after("pressed", press, since))
        CountedSheetStore(session).save(fresh.model_copy(update={"used": used}))

    def _lot_of(self, act: Act) -> str:
        """The job whose left-over transfers an act takes: two jobs that want the last of a lot wait for each other."""
        if not isinstance(act.body, Fetched):
            return act.job
        with self._base.session() as session:
            lot = ActStore(session).find(act.body.stored)
        return lot.job if lot else act.job

    def resolve(self, job_id: str, old: str, way: str, reason: str, act_id: str, by: str) -> None:
        """Choose what becomes of work made under another physical signature."""
        seen = self._jobs.look(job_id)
        ledger, stale = seen.line.ledger, next((s for s in seen.line.ledger.stale if s.signature == old), None)
        if stale is None:
            raise Refusal(
                "nothing-stale", say("This work matches already, or the choice was made."), AS_IT_WAS, say("Go on.")
            )
        everything = way == "all"
        live = {p: {s: n for s in slots if (n := ledger.live(p, s))} for p, slots in ledger.demand.prints.items()}
        self.record(Act(
            id=act_id, job=job_id, at=self._base.now(), actor=by, signature=stale.replaced_by,
            body=Resolved.model_validate({
                "old": old, "new": stale.replaced_by, "way": way, "reason": reason,
                "transfers": 0 if way == "use" else stale.transfers,
                "good": {s: n for s, n in ledger.still_good.items() if n} if everything else {},
                "waiting": {s: n for s, n in ledger.to_inspect.items() if n} if everything else {},
                "out": live if everything else {},
            }),
        ))  # fmt: skip

    def sign_proof(self, job_id: str, customer: str, how: str, act_id: str, by: str) -> None:
        """The customer agrees to the prints as they are now."""
        stored = self._jobs.kept.read(job_id)
        variants = Context(self._jobs.inputs(stored)).variants
        if not variants:
            raise Refusal(
                "no-artwork",
                say("There is nothing to agree to yet."),
                say("Nothing was signed."),
                say("Add the artwork first."),
            )
        shown: dict[str, tuple[str, ...]] = {}
        for v in variants:
            shown[v.print] = (*shown.get(v.print, ()), v.signature)
        self.record(Act(id=act_id, job=job_id, at=self._base.now(), actor=by, signature="",
                        body=Signed(by=customer, how=how, signatures=shown)))  # fmt: skip


def _taken(lots: LotStore, lot_id: str) -> int:
    """Transfers taken from one lot of the store already."""
    lot = lots.find(lot_id)
    return lot.count - lot.left if lot else 0


def _refuse_another(told: Act, act: Act) -> None:
    """The same id twice is one act; with another body it is a mistake that must not vanish."""
    if (told.job, told.body.kind) != (act.job, act.body.kind):
        raise Refusal(
            "id-used", say("Something else was recorded under this mark already."), AS_IT_WAS, say("Record it anew.")
        )
