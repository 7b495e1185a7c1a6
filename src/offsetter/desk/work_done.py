"""Plates made, runs released, acts recorded, the logbook read."""

import json
import secrets
from datetime import datetime
from pathlib import Path

from offsetter.core import acts as core_acts
from offsetter.core import derive, readings
from offsetter.core.acts import Act, Closed, Passed, Pressed, Printed, Resolved, Spoiled, Voided
from offsetter.core.ledger import Ledger, fold
from offsetter.core.logbook import Entry, entry_of
from offsetter.core.runs import Run, RunPlan
from offsetter.core.values import Refusal
from offsetter.desk.base import Base, no_such_job
from offsetter.desk.jobs import JobLine, Jobs
from offsetter.store.decisions import DecisionStore
from offsetter.store.work_done import ActStore, RunStore
from offsetter.work.interface import Progress

AS_IT_WAS = "Nothing was recorded."


class WorkDone:
    def __init__(self, base: Base, jobs: Jobs) -> None:
        self._base, self._jobs = base, jobs

    def make_plates(self, job_id: str) -> str:
        """Start the full-size plates of the job's print; gives the key to follow them by."""
        seen = self._jobs.look(job_id)
        spec, facts = seen.line.spec, seen.job.facts
        if spec is None or facts is None:
            raise Refusal(
                "no-artwork", "There is no artwork to make plates of.", "Nothing was made.", "Add it at Order."
            )
        out = self._base.files.derived("plates", spec.key)
        if not out.exists():
            self._base.work.submit(spec.key, "full_plates", {
                "spec": spec.model_dump_json(), "profile": str(self._base.files.original(spec.colour.profile)),
                "original": str(self._base.files.original(spec.artwork)), "name": facts.name, "out": str(out),
            })  # fmt: skip
        return spec.key

    def progress(self, key: str) -> Progress | None:
        """Where the work stands; finished work is found again by its files."""
        running = self._base.work.latest(key)
        if running is None and key.isalnum() and self._base.files.derived("plates", key).exists():
            return Progress(number=1, stage="done", done=1, whole=1)
        return running

    def release(self, job_id: str, by: str) -> Run:
        """Freeze a run. Only device-size values open this gate, and no blocker may stand."""
        seen = self._jobs.look(job_id)
        line = seen.line
        blockers = [f for s in line.stations for f in s.findings if f.severity == "blocker"]
        if blockers:
            raise Refusal(
                "blocked",
                f"{blockers[0].message}.",
                "No run was released.",
                blockers[0].fix_text or "Put it right first.",
            )
        if line.spec is None or line.way is None or line.layout is None or seen.job.facts is None:
            raise Refusal(
                "not-ready", "The line is not complete.", "No run was released.", "Go through the open stations first."
            )
        measure = self._jobs.device_measure(line.spec)
        if measure is None:
            raise Refusal("preview-only", "The plates were only measured on the preview.", "No run was released.",
                          "Make the print files at full size first.")  # fmt: skip
        shop, _ = self._jobs.shop()
        plan = RunPlan(spec=line.spec, way=line.way, layout=line.layout, media=line.media, measure=measure,
                       ink_ml=readings.ink_of(line.spec, measure, shop.methods[line.way.method]), signature=line.signature)  # fmt: skip
        if line.ledger.printed and line.ledger.to_print == 0:
            raise Refusal(
                "nothing-to-print",
                "Every transfer of this job is printed.",
                "No run was released.",
                "Press what is in hand.",
            )
        with self._base.session() as session, session.begin():
            store = RunStore(session)
            printed = {
                a.body.run for a in core_acts.standing(ActStore(session).of_job(job_id)) if isinstance(a.body, Printed)
            }
            store.supersede([r.id for r in store.of_job(job_id) if r.state == "released" and r.id not in printed])
            run = Run(id=secrets.token_hex(6), number=store.next_number(), job=job_id, state="released", plan=plan,
                      released_at=self._base.now(), released_by=by)  # fmt: skip
            store.add(run)
        self._base.work.submit(f"run-{run.id}", "run_sheet", {
            "plates": str(self.plate_file(line.spec.key, "print.tif")), "layout": plan.layout.model_dump_json(),
            "out": str(self.run_file(run.id)),
            "labels": json.dumps({"title": seen.job.decisions.order.title, "run": f"run {run.number}"}),
        })  # fmt: skip
        return run

    def run(self, run_id: str) -> Run:
        with self._base.session() as session:
            run = RunStore(session).find(run_id)
        if run is None:
            raise Refusal("no-such-run", f"There is no run {run_id}.", "Nothing was changed.", "Open the job again.")
        return run

    def plate_file(self, key: str, name: str) -> Path:
        return self._base.files.derived("plates", key) / name

    def run_file(self, run_id: str) -> Path:
        return self._base.files.derived("runs", run_id).with_suffix(".pdf")

    def record(self, act: Act) -> None:
        """Append one act; the same act again changes nothing. Refused when the ledger could not be true."""
        with self._base.session() as session, session.begin():
            store = ActStore(session)
            if store.find(act.id) is not None:
                return
            decisions = DecisionStore(session)
            if decisions.created_at(act.job) is None:
                raise no_such_job(act.job)
            order = (decisions.current(act.job)["order"].body or {})["line"]["counts"]
            known = store.of_job(act.job)
            runs = {r.id: r for r in RunStore(session).of_job(act.job)}
            run_id = getattr(act.body, "run", None)
            if run_id is not None:
                if run_id not in runs:
                    raise Refusal("no-such-run", "This run is not one of the job's.", AS_IT_WAS, "Open the job again.")
                act = act.model_copy(update={"signature": runs[run_id].plan.signature})
            _check(act, fold(known, order, ""), known, runs)
            store.add(act, self._base.now())

    def resolve(self, job_id: str, old: str, way: str, reason: str, act_id: str, by: str) -> None:
        """Choose what becomes of work made under another physical signature."""
        seen = self._jobs.look(job_id)
        ledger, stale = seen.line.ledger, next((s for s in seen.line.ledger.stale if s.signature == old), None)
        if stale is None:
            raise Refusal("nothing-stale", "This work matches already, or the choice was made.", AS_IT_WAS, "Go on.")
        everything = way == "all"
        self.record(Act(
            id=act_id, job=job_id, at=self._base.now(), actor=by, signature=seen.line.signature,
            body=Resolved.model_validate({
                "old": old, "new": seen.line.signature, "way": way, "reason": reason,
                "transfers": 0 if way == "use" else stale.transfers,
                "good": {s: n for s, n in ledger.still_good.items() if n} if everything else {},
                "waiting": {s: n for s, n in ledger.to_inspect.items() if n} if everything else {},
            }),
        ))  # fmt: skip

    def logbook(self) -> list[Entry]:
        """An entry for every closed job, newest first."""
        entries = []
        for job_id in self._jobs.ids():
            stored = self._jobs.read(job_id)
            closing = [a for a in core_acts.standing(stored.acts) if isinstance(a.body, Closed)]
            if closing:
                entries.append(self._entry(self._jobs.work_out(stored), closing[-1].at))
        return sorted(entries, key=lambda e: e.closed_at, reverse=True)

    def _entry(self, seen: JobLine, closed_at: datetime) -> Entry:
        shop, _ = self._jobs.shop()
        blank = derive.blank_of(shop, seen.job.decisions)
        return entry_of(job=seen.job.id, order=seen.job.decisions.order, blank=blank, prices=shop.prices, line=seen.line,
                        runs=seen.job.runs, acts=seen.job.acts, closed_at=closed_at, picture_key=seen.picture_key)  # fmt: skip


def _check(act: Act, ledger: Ledger, known: tuple[Act, ...], runs: dict[str, Run]) -> None:
    body = act.body
    if isinstance(body, Printed):
        made = sum(
            a.body.count for a in core_acts.standing(known) if isinstance(a.body, Printed) and a.body.run == body.run
        )
        if made + body.count > runs[body.run].copies:
            raise Refusal("more-than-laid", f"The run holds {runs[body.run].copies} prints; {made} are recorded already.", AS_IT_WAS,
                          f"Record at most {runs[body.run].copies - made} more.")  # fmt: skip
    elif isinstance(body, core_acts.Prepared):
        done = ledger.prepared.get(body.stage, 0)
        if done + body.count > ledger.printed:
            raise Refusal("more-than-printed", f"{ledger.printed} transfers are printed; {done} of them went through this stage.", AS_IT_WAS,
                          "Record the printing first, or a smaller count.")  # fmt: skip
    elif isinstance(body, Pressed):
        if ledger.in_hand < 1:
            raise Refusal("no-transfer", "No printed transfer is in hand.", AS_IT_WAS, "Record the printing first.")
        if body.size not in ledger.ordered:
            raise Refusal("no-such-size", f"Size {body.size} was not ordered.", AS_IT_WAS, "Choose an ordered size.")
    elif isinstance(body, Passed) or (isinstance(body, Spoiled) and body.what == "piece"):
        waiting = ledger.to_inspect.get(body.size or "", 0)
        if body.count > waiting:
            raise Refusal("more-than-pressed", f"{waiting} pressed pieces of size {body.size} wait to be inspected, not {body.count}.", AS_IT_WAS,
                          "Record what was pressed first, or a smaller count.")  # fmt: skip
    elif isinstance(body, Spoiled) and body.count > ledger.in_hand:
        raise Refusal(
            "more-than-in-hand",
            f"{ledger.in_hand} transfers are in hand, not {body.count}.",
            AS_IT_WAS,
            "Give a smaller count.",
        )
    elif isinstance(body, Voided) and body.voids not in {a.id for a in known}:
        raise Refusal("nothing-to-void", "The act to take back is not recorded.", AS_IT_WAS, "Open the job again.")
