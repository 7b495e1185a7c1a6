"""Plates made, runs released, acts recorded, the logbook read."""

import json
import secrets
from collections import Counter
from datetime import datetime
from pathlib import Path

from offsetter.core import acts as core_acts
from offsetter.core import line as core_line
from offsetter.core import readings
from offsetter.core.acts import Act, Closed, Fetched, Printed, Resolved, Signed, Stored, job_standing
from offsetter.core.compute.fixes import ArtRef
from offsetter.core.compute.looks import Ground
from offsetter.core.compute.plate_spec import PlateSpec
from offsetter.core.ledger import fold
from offsetter.core.line import Line
from offsetter.core.logbook import Entry, entry_of
from offsetter.core.prints import Variant, demand_of, placing_of
from offsetter.core.runs import Run, RunItem, RunPlan
from offsetter.core.values import Frozen, Refusal, digest
from offsetter.desk.base import Base
from offsetter.desk.jobs import JobLine, Jobs
from offsetter.desk.recording import Recording
from offsetter.desk.scenes import Scene
from offsetter.store.decisions import DecisionStore
from offsetter.store.work_done import ActStore, RunStore
from offsetter.work.interface import Progress

AS_IT_WAS = "Nothing was recorded."


class Leftover(Frozen):
    """Cured transfers in the store, with what they fit."""

    id: str
    job: str
    signature: str
    count: int
    stored_at: datetime
    printed_at: datetime
    run: int
    name: str
    recipe: str
    recipe_version: int
    width_mm: float
    height_mm: float
    cloth: str
    cloth_name: str
    picture_key: str
    note: str


class WorkDone:
    def __init__(self, base: Base, jobs: Jobs) -> None:
        self._base, self._jobs = base, jobs

    def make_plates(self, job_id: str, print_id: str = "") -> str:
        """Start the full-size plates of everything on the next run; gives the key to follow them by."""
        seen = self._jobs.look(job_id, "", print_id)
        if not seen.line.on_run:
            raise Refusal(
                "no-artwork", "There is no artwork to make plates of.", "Nothing was made.", "Add it at Order."
            )
        key, missing = self._plates_wanted(seen)
        self._submit_plates(key, [(v.spec, v.name) for v in missing])
        return key

    def _submit_plates(self, key: str, wanted: list[tuple[PlateSpec, str]]) -> None:
        if wanted:
            self._base.work.submit(key, "full_plates", {"wanted": json.dumps([
                {"spec": spec.model_dump_json(), "profile": str(self._base.files.original(spec.colour.profile)),
                 "driver": str(self._base.files.original(spec.colour.driver)) if spec.colour.driver else "",
                 "original": str(self._base.files.original(ArtRef.read(spec.artwork).file)), "name": name,
                 "out": str(self._base.files.derived("plates", spec.key))} for spec, name in wanted
            ])})  # fmt: skip

    def plates_ready(self, seen: JobLine) -> bool:
        """Whether everything on the next run is made at full size."""
        return bool(seen.line.on_run) and not self._plates_wanted(seen)[1]

    def plates_key(self, seen: JobLine) -> str | None:
        return self._plates_wanted(seen)[0] if seen.line.on_run else None

    def _plates_wanted(self, seen: JobLine) -> tuple[str, list[Variant]]:
        """The key of the run's plates as a whole, and what is still missing of them."""
        by_key = {v.spec.key: v for v in seen.line.on_run}
        key = next(iter(by_key)) if len(by_key) == 1 else digest("plates-of-run", sorted(by_key))
        return key, [v for k, v in by_key.items() if not self._base.files.derived("plates", k).exists()]

    def progress(self, key: str) -> Progress | None:
        """Where the work stands; finished work is found again by its files."""
        running = self._base.work.latest(key)
        if running is None and key.isalnum() and self._base.files.derived("plates", key).exists():
            return Progress(number=1, stage="done", done=1, whole=1)
        return running

    def release(self, job_id: str, by: str, print_id: str = "") -> Run:
        """Freeze a run. Only device-size values open this gate, and no blocker may stand on any print it carries."""
        seen = self._jobs.look(job_id, "", print_id)
        line, order = seen.line, seen.job.order
        stands, why = job_standing(seen.job.acts)
        if stands != "open":
            raise Refusal(
                "not-open",
                f"The job is {stands}{': ' + why if why else ''}.",
                "No run was released.",
                "Take it up again first.",
            )
        for one in dict.fromkeys(v.print for v in line.on_run) or (seen.job.print,):
            _refuse_blocked(line if one == seen.job.print else self._jobs.look(job_id, "", one).line, one, line)
        if line.way is None or line.layout is None or not line.on_run:
            raise Refusal(
                "not-ready", "The line is not complete.", "No run was released.", "Go through the open stations first."
            )
        shop, _ = self._jobs.shop()
        items = []
        for v in line.on_run:
            measure = self._jobs.device_measure(v.spec)
            if measure is None:
                raise Refusal("preview-only", "The plates were only measured on the preview.", "No run was released.",
                              "Make the print files at full size first.")  # fmt: skip
            place = next(p.decisions.place for p in seen.job.prints if p.id == v.print)
            items.append(RunItem(print=v.print, name=line.books.name_of(v), placing=placing_of(place), slots=v.slots, spec=v.spec, measure=measure,
                                 ink_ml=readings.ink_of(v.spec, measure, shop.methods[line.way.method]), signature=v.signature))  # fmt: skip
        plan = RunPlan(items=tuple(items), way=line.way, layout=line.layout, media=line.media)
        if line.ledger.to_print == 0:
            raise Refusal(
                "nothing-to-print",
                "Every transfer of this job is printed.",
                "No run was released.",
                "Press what is in hand.",
            )
        with self._base.session() as session, session.begin():
            DecisionStore(session).lock(job_id)
            store = RunStore(session)
            printed = {
                a.body.run for a in core_acts.standing(ActStore(session).of_job(job_id)) if isinstance(a.body, Printed)
            }
            store.supersede([r.id for r in store.of_job(job_id) if r.state == "released" and r.id not in printed])
            run = Run(id=secrets.token_hex(6), number=store.next_number(), job=job_id, state="released", plan=plan,
                      released_at=self._base.now(), released_by=by)  # fmt: skip
            store.add(run)
        self._submit_sheet(run, order.title)
        return run

    def _submit_sheet(self, run: Run, title: str) -> None:
        plan = run.plan
        self._base.work.submit(f"run-{run.id}", "run_sheet", {
            "plates": json.dumps([str(self.plate_file(i.spec.key, "print.tif")) for i in plan.items]),
            "layout": plan.layout.model_dump_json(), "out": str(self.run_file(run.id)),
            "labels": json.dumps({
                "title": title, "run": f"R{run.number}", "mirrored": plan.items[0].spec.mirrored,
                "sorts": [{"name": i.name, "placing": i.placing} for i in plan.items],
            }),
        })  # fmt: skip

    def file_of(self, run: Run, name: str, sort: int) -> Path:
        """A released run's file. One that was deleted, or cut short by a power cut, is made again from the run itself."""
        item = run.plan.items[max(0, min(sort, len(run.plan.items) - 1))]
        path = self.run_file(run.id) if name == "run.pdf" else self.plate_file(item.spec.key, name)
        if not path.exists():
            missing = [i for i in run.plan.items if not self._base.files.derived("plates", i.spec.key).exists()]
            if missing:
                self._submit_plates(f"plates-of-{run.id}", [(i.spec, i.name) for i in missing])
            else:
                self._submit_sheet(run, self._jobs.title(run.job))
            raise Refusal("being-made", f"{name} is being made.", "The run is as it was.", "Open it again in a moment.")
        return path

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
        stored = self._jobs.read(act.job)
        inputs = self._jobs.inputs(stored)
        variants = core_line.all_variants(inputs)
        demand = demand_of(stored.order, stored.prints, variants, stored.runs)
        with self._base.session() as session, session.begin():
            # First of all: what is read after it is what the last act left.
            for job in sorted({act.job, self._lot_of(act)}):
                DecisionStore(session).lock(job)
            store = ActStore(session)
            if store.find(act.id) is not None:
                return
            known = store.of_job(act.job)
            runs = {r.id: r for r in RunStore(session).of_job(act.job)}
            ready = Recording(act=act, known=known, runs=runs, demand=demand, ledger=fold(known, demand), find=store.find,
                              fetched=lambda stored_id: _fetched(store, stored_id), recipe=way.recipe if (way := core_line.way_of(inputs)) else "",
                              prepared_first=core_line.prepared_first(inputs)).completed()  # fmt: skip
            store.add(ready, self._base.now())

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
            raise Refusal("nothing-stale", "This work matches already, or the choice was made.", AS_IT_WAS, "Go on.")
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
        stored = self._jobs.read(job_id)
        variants = core_line.all_variants(self._jobs.inputs(stored))
        if not variants:
            raise Refusal(
                "no-artwork", "There is nothing to agree to yet.", "Nothing was signed.", "Add the artwork first."
            )
        shown: dict[str, tuple[str, ...]] = {}
        for v in variants:
            shown[v.print] = (*shown.get(v.print, ()), v.signature)
        self.record(Act(id=act_id, job=job_id, at=self._base.now(), actor=by, signature="",
                        body=Signed(by=customer, how=how, signatures=shown)))  # fmt: skip

    def leftovers(self) -> list[Leftover]:
        """Transfers in the store, oldest first."""
        with self._base.session() as session:
            done = core_acts.standing(ActStore(session).of_kinds(("stored", "fetched")))
            taken = Counter[str]()
            for a in done:
                if isinstance(a.body, Fetched):
                    taken[a.body.stored] += a.body.count
            runs = RunStore(session)
            cloths = {b.colour: f"{b.colour_name} {b.name.lower()}" for b in self._jobs.shop()[0].blanks.values()}
            found = []
            for a in done:
                if not isinstance(a.body, Stored) or a.body.count <= taken[a.id]:
                    continue
                run = runs.find(a.body.run) if a.body.run else None
                item = next((i for i in run.plan.items if i.signature == a.signature), None) if run else None
                if run and item:
                    cloth = item.spec.white.cloth if item.spec.white else ""
                    method = self._jobs.shop()[0].methods[run.plan.way.method]
                    ground = Ground(cloth=cloth or "#FFFFFF", opacity=method.white_opacity or 1.0, white=method.white)
                    found.append(Leftover(
                        id=a.id, job=a.job, signature=a.signature, count=a.body.count - taken[a.id], stored_at=a.at, printed_at=run.released_at,
                        run=run.number, name=item.name, recipe=run.plan.way.recipe, recipe_version=run.plan.way.recipe_version,
                        width_mm=item.spec.width_um / 1000, height_mm=item.spec.height_um / 1000,
                        cloth=cloth, cloth_name=cloths.get(cloth, cloth), picture_key=self._jobs.remember(Scene(spec=item.spec, ground=ground)), note=a.body.note,
                    ))  # fmt: skip
        return found

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
        blanks = tuple(shop.blanks[ln.blank] for ln in seen.job.order.lines)
        return entry_of(job=seen.job.id, order=seen.job.order, blanks=blanks, prices=shop.prices, line=seen.line,
                        runs=seen.job.runs, acts=seen.job.acts, closed_at=closed_at, picture_key=seen.picture_key)  # fmt: skip


def _fetched(store: ActStore, stored_id: str) -> int:
    """Transfers taken from one lot of the store already."""
    done = core_acts.standing(store.of_kinds(("fetched",)))
    return sum(a.body.count for a in done if isinstance(a.body, Fetched) and a.body.stored == stored_id)


def _refuse_blocked(line: Line, print_id: str, seen: Line) -> None:
    blocker = next((f for s in line.stations for f in s.findings if f.severity == "blocker"), None)
    if blocker:
        which = f"{seen.books.print_names.get(print_id, '')}: " if len(seen.books.print_names) > 1 else ""
        raise Refusal(
            "blocked", f"{which}{blocker.message}.", "No run was released.", blocker.fix_text or "Put it right first."
        )
