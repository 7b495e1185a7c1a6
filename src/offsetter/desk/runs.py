"""Plates made, runs released, their files."""

import json
import secrets
from collections.abc import Callable
from pathlib import Path

from sqlalchemy.orm import Session

from offsetter.core.acts import job_standing
from offsetter.core.compute.art_ref import ArtRef
from offsetter.core.compute.cost import ink_of
from offsetter.core.compute.plate_spec import PlateSpec
from offsetter.core.compute.sheet import RunLayout
from offsetter.core.line import Line
from offsetter.core.places import placing_of
from offsetter.core.prints import Variant
from offsetter.core.quantities import METRIC, told
from offsetter.core.runs import Run, RunItem, RunPlan
from offsetter.core.sentences import say
from offsetter.core.values import Progress, Refusal, digest
from offsetter.core.wording import several
from offsetter.desk.base import Base
from offsetter.desk.jobs import JobLine, Jobs
from offsetter.store.acts import ActStore
from offsetter.store.runs import RunStore
from offsetter.store.sends import SendStore
from offsetter.work.runner import EDGE

CUT_FILES = ("cut.svg", "cut.dxf")
FILES = ("run.pdf", "print.pdf", "print.tif", *CUT_FILES)


class Runs:
    def __init__(self, base: Base, jobs: Jobs, made: Callable[[str], None]) -> None:
        """made: told the key of plates once they are there."""
        self._base, self._jobs, self._made = base, jobs, made
        base.work.after("full_plates", self._told_of)

    def make_plates(self, job_id: str, print_id: str = "") -> str:
        """Start the full-size plates of everything on the next run; gives the key to follow them by."""
        seen = self._jobs.look(job_id, "", print_id)
        if not seen.line.on_run:
            raise Refusal(
                "no-artwork",
                say("There is no artwork to make plates of."),
                say("Nothing was made."),
                say("Add it at Order."),
            )
        key, missing = self._plates_wanted(seen)
        self.submit_plates(key, missing)
        return key

    def submit_plates(self, key: str, missing: list[Variant]) -> None:
        self._submit_plates(key, [(v.spec, v.name) for v in missing])

    def _submit_plates(self, key: str, wanted: list[tuple[PlateSpec, str]]) -> None:
        if wanted:
            self._base.work.submit(key, "full_plates", {"wanted": json.dumps([
                {"spec": spec.model_dump_json(), "profile": str(self._base.files.original(spec.colour.profile)),
                 "driver": str(self._base.files.original(spec.colour.driver)) if spec.colour.driver else "",
                 "original": str(self._base.files.original(ArtRef.read(spec.artwork).file)), "name": name,
                 "mask": str(self._base.files.original(spec.white.mask)) if spec.white and spec.white.mask else "",
                 "out": str(self._base.files.derived("plates", spec.key))} for spec, name in wanted
            ])})  # fmt: skip

    def _told_of(self, arguments: dict[str, str]) -> None:
        for key in {PlateSpec.model_validate_json(one["spec"]).key for one in json.loads(arguments["wanted"])}:
            self._made(key)

    def plates_at(self, seen: JobLine) -> tuple[str | None, bool]:
        """The key of the next run's plates, and whether everything on it is made at full size."""
        if not seen.line.on_run:
            return None, False
        key, missing = self._plates_wanted(seen)
        return key, not missing

    def _plates_wanted(self, seen: JobLine) -> tuple[str, list[Variant]]:
        """The key of the run's plates as a whole, and what is still missing of them."""
        return self.plates_of(list(seen.line.on_run))

    def plates_of(self, variants: list[Variant]) -> tuple[str, list[Variant]]:
        """The key of the plates of all of these, and those that are still to be made."""
        by_key = {v.spec.key: v for v in variants}
        key = next(iter(by_key)) if len(by_key) == 1 else digest("plates-of-run", sorted(by_key))
        return key, [v for k, v in by_key.items() if not self._has_plates(v, k)]

    def _has_plates(self, wanted: Variant, key: str) -> bool:
        """Those of a version that drew no cut lines lack the edge that they follow."""
        folder = self._base.files.derived("plates", key)
        return folder.exists() and (wanted.cut is None or (folder / EDGE).exists())

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
                say("The job is {stands}{which}.", stands=stands, which=": " + why if why else ""),
                say("No run was released."),
                say("Take it up again first."),
            )
        for one in dict.fromkeys(v.print for v in line.on_run) or (seen.job.print,):
            _refuse_blocked(line if one == seen.job.print else self._jobs.look(job_id, "", one).line, one, line)
        if line.way is None or line.layout is None or not line.on_run:
            raise Refusal(
                "not-ready",
                say("The line is not complete."),
                say("No run was released."),
                say("Go through the open stations first."),
            )
        items = tuple(self._item(seen, v) for v in line.on_run)
        plan = RunPlan(
            items=items,
            way=line.way,
            layout=line.layout,
            media=line.media,
            crop_marks=seen.job.decisions.sheet.crop_marks,
        )
        if line.ledger.to_print == 0:
            raise Refusal(
                "nothing-to-print",
                say("Every transfer of this job is printed."),
                say("No run was released."),
                say("Press what is in hand."),
            )
        return self._release(plan, (job_id,), order.title, by, lambda _: None)

    def release_shared(
        self, on_run: tuple[tuple[JobLine, Variant], ...], layout: RunLayout, by: str, then: Callable[[Session], None]
    ) -> Run:
        """Freeze one run of prints of several jobs. on_run: of each of the layout's sorts. then: in the same transaction."""
        for seen in {s.job.id + s.job.print: s for s, _ in on_run}.values():
            _refuse_blocked(seen.line, seen.job.print, seen.line)
        items = tuple(
            self._item(seen, v).model_copy(update={"job": seen.job.id, "way": seen.line.way}) for seen, v in on_run
        )
        first = on_run[0][0]
        assert first.line.way is not None
        plan = RunPlan(
            items=items,
            way=first.line.way,
            layout=layout,
            media=first.line.media,
            crop_marks=first.job.decisions.sheet.crop_marks,
        )
        jobs = tuple(dict.fromkeys(s.job.id for s, _ in on_run))
        return self._release(plan, jobs, first.job.order.title, by, then)

    def _item(self, seen: JobLine, v: Variant) -> RunItem:
        """Of a run, with what was measured at full size. Raises Refusal before it was."""
        shop, _ = self._jobs.shop()
        measure, way = self._jobs.device_measure(v.spec), seen.line.way
        if measure is None or way is None:
            raise Refusal("preview-only", say("The plates were only measured on the preview."), say("No run was released."),
                          say("Make the print files at full size first."))  # fmt: skip
        place = next(p.decisions.place for p in seen.job.prints if p.id == v.print)
        return RunItem(
            print=v.print, name=seen.line.books.name_of(v), placing=told(placing_of(place), METRIC), slots=v.slots, spec=v.spec, measure=measure, cut=v.cut,
            ink_ml=ink_of(v.spec, measure, shop.methods[way.method]), signature=v.signature,
        )  # fmt: skip

    def _release(self, plan: RunPlan, jobs: tuple[str, ...], title: str, by: str, then: Callable[[Session], None]) -> Run:  # fmt: skip
        with self._jobs.changing(*jobs) as session:
            store, acts = RunStore(session), ActStore(session)
            replaced: list[str] = []
            for job in jobs:
                known = acts.of_job(job)
                for old in (r for r in store.of_job(job) if r.state == "released" and not r.printed_in(known)):
                    if old.others:
                        raise Refusal("on-a-shared-run", say("Run {number} carries this with other jobs, and is not printed.", number=old.number), say("No run was released."),
                                      say("Print that run, or take it apart at Sheets first."))  # fmt: skip
                    replaced.append(old.id)
            store.supersede(replaced)
            run = Run(id=secrets.token_hex(6), number=store.next_number(), job=jobs[0], state="released", plan=plan,
                      released_at=self._base.now(), released_by=by)  # fmt: skip
            store.add(run)
            then(session)
            for other in jobs[1:]:
                self._jobs.keep_standing(session, other)
        self._submit_sheet(run, title)
        return run

    def take_apart(self, run_id: str) -> None:
        """A run that several jobs share is given up before anything of it was printed: its jobs are as they were."""
        run = self.find(run_id)
        if len(run.jobs) < 2:
            raise Refusal("not-shared", say("This run carries one job alone."), say("Nothing was changed."), say("Release another run of that job: it replaces this one."))  # fmt: skip
        with self._jobs.changing(*run.jobs) as session:
            if SendStore(session).of_runs([run_id]) and any(s.is_open for s in SendStore(session).of_runs([run_id])):
                raise Refusal("on-its-way", say("Run {number} is on its way to its printer.", number=run.number), say("Nothing was changed."), say("Cancel it first."))  # fmt: skip
            if any(run.printed_in(ActStore(session).of_job(job)) for job in run.jobs):
                raise Refusal("printed-already", say("Some of run {number} is printed.", number=run.number), say("Nothing was changed."), say("What is printed cannot be taken back: print the rest, or release the rest anew."))  # fmt: skip
            RunStore(session).supersede([run_id])
            for other in run.jobs[1:]:
                self._jobs.keep_standing(session, other)

    def _submit_sheet(self, run: Run, title: str) -> None:
        plan = run.plan
        self._base.work.submit(f"run-{run.id}", "run_sheet", {
            "plates": json.dumps([str(self.plate_file(i.spec.key, "print.tif")) for i in plan.items]),
            "cut": json.dumps([
                {"spec": i.cut.model_dump(), "width_um": i.spec.width_um, "mirrored": i.spec.mirrored} for i in plan.items if i.cut
            ]) if all(i.cut for i in plan.items) and not plan.layout.tiles else "",
            "layout": plan.layout.model_dump_json(), "out": str(self.run_file(run.id)),
            "labels": json.dumps({
                "title": title, "run": f"R{run.number}", "mirrored": plan.items[0].spec.mirrored, "crop_marks": plan.crop_marks,
                "sorts": [
                    {"name": i.name, "placing": i.placing, "title": self._jobs.title(i.job) if i.job else ""} for i in plan.items
                ],
            }),
        })  # fmt: skip

    def title(self, run: Run) -> str:
        """Of what it carries; files and printers know it by this name, whatever their reader's language."""
        first, others = self._jobs.title(run.job), len(run.jobs) - 1
        return told(f"{first} and {several(others, 'other job')}", METRIC) if others else first

    def called(self, run: Run, name: str, sort: int) -> str:
        """A file as a person knows it: the job, the run, the part, and whether it reads backwards."""
        mirrored = ", mirrored" if run.plan.items[0].spec.mirrored else ""
        part = {
            "run.pdf": "whole run",
            "cut.svg": f"cut {sort + 1}",
            "cut.dxf": f"cut {sort + 1}",
        }.get(name, run.plan.items[max(0, min(sort, len(run.plan.items) - 1))].name)
        said = "".join(
            c if c.isalnum() or c in " ,-" else " " for c in f"{self.title(run)} R{run.number} {part}{mirrored}"
        )
        return f"{' '.join(said.split())[:120]}{Path(name).suffix}"

    def file_of(self, run: Run, name: str, sort: int) -> Path:
        """A released run's file; of a cut file sort is its length, from 0. One that was deleted, or cut short by a power cut, is made again from the run itself."""
        item = run.plan.items[max(0, min(sort, len(run.plan.items) - 1))]
        path = self.run_file(run.id) if name == "run.pdf" else self.plate_file(item.spec.key, name)
        if name in CUT_FILES:
            if item.cut is None:
                raise Refusal(
                    "nothing-to-cut",
                    say("No cutter follows a line on this run."),
                    say("The run is as it was."),
                    say("Cut it as its station says."),
                )
            length = max(1, min(sort + 1, len(run.plan.layout.cut_lengths_um)))
            path = self.run_file(run.id).with_name(f"{run.id}-cut-{length}{Path(name).suffix}")
        if not path.exists():
            missing = [i for i in run.plan.items if not self._base.files.derived("plates", i.spec.key).exists()]
            if missing:
                self._submit_plates(f"plates-of-{run.id}", [(i.spec, i.name) for i in missing])
            else:
                self._submit_sheet(run, self.title(run))
            raise Refusal(
                "being-made",
                say("{name} is being made.", name=name),
                say("The run is as it was."),
                say("Open it again in a moment."),
            )
        return path

    def find(self, run_id: str) -> Run:
        with self._base.session() as session:
            run = RunStore(session).find(run_id)
        if run is None:
            raise Refusal(
                "no-such-run",
                say("There is no run {run_id}.", run_id=run_id),
                say("Nothing was changed."),
                say("Open the job again."),
            )
        return run

    def plate_file(self, key: str, name: str) -> Path:
        return self._base.files.derived("plates", key) / name

    def run_file(self, run_id: str) -> Path:
        return self._base.files.derived("runs", run_id).with_suffix(".pdf")


def _refuse_blocked(line: Line, print_id: str, seen: Line) -> None:
    blocker = next((f for s in line.stations for f in s.findings if f.severity == "blocker"), None)
    if blocker:
        which = f"{seen.books.print_names.get(print_id, '')}: " if len(seen.books.print_names) > 1 else ""
        raise Refusal(
            "blocked",
            f"{which}{blocker.message}.",
            say("No run was released."),
            blocker.fix_text or say("Put it right first."),
        )
