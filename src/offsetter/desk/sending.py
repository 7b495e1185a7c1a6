"""A run handed to its printer. The intent is kept before anything is sent; after a doubtful answer the printer is asked by name, and
then a person: nothing is ever sent twice by itself."""

import secrets
import tempfile
from concurrent.futures import Future, ThreadPoolExecutor
from datetime import timedelta
from pathlib import Path
from typing import Literal

from sqlalchemy.orm import Session

from offsetter.core.acts import Act, Printed
from offsetter.core.care import Due
from offsetter.core.decisions import Way
from offsetter.core.facts import Printer
from offsetter.core.nozzle_care import would_show
from offsetter.core.printer_told import Told
from offsetter.core.runs import Run
from offsetter.core.sending import Send, SendState
from offsetter.core.sentences import listed, say
from offsetter.core.values import Frozen, Refusal
from offsetter.core.wording import several
from offsetter.desk.acts import Acts
from offsetter.desk.at_work import MachinesAtWork
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.links import Links
from offsetter.desk.runs import Runs
from offsetter.desk.shared_runs import SharedRuns
from offsetter.desk.taken_forms import form_of, written
from offsetter.desk.trays import TrayFit, notes_of, trays_of
from offsetter.devices import folder as folders
from offsetter.devices import printer as device
from offsetter.formats.run_pages import take_pages
from offsetter.formats.settings_card import Setting, write_card
from offsetter.store.acts import ActStore
from offsetter.store.machines import Heard, Link, MachineStore
from offsetter.store.nozzles import NozzleStore
from offsetter.store.runs import RunStore
from offsetter.store.sends import SendStore

NOTHING = say("Nothing was sent.")
CHECKS = 20
"""Of nozzles, looked back over."""
LOST_AFTER = timedelta(minutes=5)
"""A handing over that nobody has finished by then was broken off, with the server."""


class Passed(Frozen):
    """A task of care that is put off for one run."""

    task: str
    reason: str


class AtPrinter(Frozen):
    """What stands between a released run and its printer."""

    printer: str
    name: str
    way: Literal["network", "folder", "hand"]
    said: str = ""
    is_hindered: bool = False
    trays: tuple[TrayFit, ...] = ()
    tray: str = ""
    """The one to take."""
    care: tuple[Due, ...] = ()
    """Asked for before the first job."""
    nozzles: str = ""
    """Lines that the last check missed."""
    nozzles_show: bool = False
    """They would be seen in this print."""
    notes: tuple[str, ...] = ()
    """What this printer does not heed, and must be set by hand."""
    run: str = ""
    """The run to send; empty: none waits."""
    shared: int = 0
    """Number of the run that carries this job with others: it is sent from Sheets; 0: none."""
    sheets: tuple[int, int] = (1, 0)
    """From which sheet, and how many."""
    unit: Literal["sheet", "length"] = "sheet"
    """What leaves the printer in one piece: of a roll its cut lengths."""
    sends: tuple[Send, ...] = ()


class Sending:
    def __init__(self, base: Base, jobs: Jobs, runs: Runs, acts: Acts, shared: SharedRuns, links: Links, at_work: MachinesAtWork) -> None:  # fmt: skip
        self._base, self._jobs, self._runs, self._acts, self._shared, self._links, self._at_work = base, jobs, runs, acts, shared, links, at_work  # fmt: skip
        self._hands = ThreadPoolExecutor(2, "sending")
        self._going: dict[str, Future[None]] = {}

    def close(self) -> None:
        self._hands.shutdown(wait=False, cancel_futures=True)

    def look(self, job_id: str, print_id: str = "") -> AtPrinter:
        """The printer of a print's way, and the newest released run that waits for it."""
        seen = self._jobs.look(job_id, "", print_id)
        with self._base.session() as session:
            runs = {r.id: r for r in RunStore(session).of_job(job_id)}
            known = ActStore(session).of_job(job_id)
            newest = next((r for r in reversed(runs.values()) if r.state == "released" and r.printed_in(known) < r.copies), None)  # fmt: skip
            sends = SendStore(session).of_runs(runs)
        decided = newest.plan.way if newest else seen.line.way
        if newest is not None and newest.others:
            return AtPrinter(printer="", name="", way="hand", shared=newest.number, sends=sends)
        return self._at(decided, newest, newest.printed_in(known) if newest else 0, sends)

    def look_run(self, run_id: str) -> AtPrinter:
        """The printer of a run that carries several jobs."""
        run = self._runs.find(run_id)
        with self._base.session() as session:
            printed, sends = _printed(session, run), SendStore(session).of_runs([run_id])
        return self._at(run.plan.way, run if run.state == "released" and printed < run.copies else None, printed, sends)

    def _at(self, decided: Way | None, newest: Run | None, printed: int, sends: tuple[Send, ...]) -> AtPrinter:
        shop = self._jobs.shop()[0]
        machine = decided.printer if decided else ""
        printer = shop.printers.get(machine)
        if printer is None or decided is None:
            return AtPrinter(printer="", name="", way="hand", sends=sends)
        with self._base.session() as session:
            store = MachineStore(session)
            link, heard = store.link(machine), store.heard_of(machine)
            checks = NozzleStore(session).newest(machine, CHECKS)
        told = heard.told if heard else None
        feed = printer.feed(decided.method)
        way: Literal["network", "folder", "hand"] = "network" if link.address else "folder" if link.folder else "hand"
        now = self._at_work.look(machine) if link.address else None
        trays = trays_of(told, link, feed, newest) if way == "network" else ()
        missed, shows = would_show(checks, _coverage(newest))
        return AtPrinter(
            printer=machine, name=printer.name, way=way, said=now.said if now else "", is_hindered=bool(now and now.is_hindered), trays=trays,
            tray=next((t.id for t in trays if t.fits), ""), care=self._at_work.due_before(machine), notes=_notes(told, printer, newest, _left(newest, printed)[1] if newest else 1) if way == "network" else (),
            nozzles=missed, nozzles_show=shows,
            run=newest.id if newest else "", sheets=_left(newest, printed) if newest else (1, 0), sends=sends,
            unit="length" if feed and feed.kind == "roll" else "sheet",
        )  # fmt: skip

    def send(self, run_id: str, tray: str, passed: tuple[Passed, ...], by: str, *, anyway: bool = False) -> Send:
        """Hand the sheets of a run that are not printed yet to its printer, or into its folder."""
        run = self._runs.find(run_id)
        shop = self._jobs.shop()[0]
        printer = shop.printers.get(run.plan.way.printer)
        if printer is None:
            raise Refusal("no-such-printer", say("The printer of this run is not the shop's any more."), NOTHING, say("Choose another at Method."))  # fmt: skip
        link = self._links.of(printer.id)
        if not link.address and not link.folder:
            raise Refusal("by-hand", say("{name} is not reached from here.", name=printer.name), NOTHING, say("Carry the file to it, or say at Machines how it is reached."))  # fmt: skip
        document = self._runs.file_of(run, "run.pdf", 0)
        self._ask_for_care(printer, passed)
        if link.address and not anyway:
            self._refuse_hindered(printer, link)
        with self._jobs.changing(*run.jobs) as session:
            store = SendStore(session)
            run = RunStore(session).find(run_id) or run
            if run.state != "released":
                raise Refusal("superseded", say("Run {number} was replaced by a later one.", number=run.number), NOTHING, say("Send the later one."))  # fmt: skip
            first, sheets = _left(run, _printed(session, run))
            if not sheets:
                raise Refusal(
                    "all-printed",
                    say("All of run {number} is printed.", number=run.number),
                    NOTHING,
                    say("Press what is in hand."),
                )
            going = next((s for s in store.of_runs([run.id]) if s.is_open), None)
            if going is not None:
                what = (
                    say("it is not known whether it came out")
                    if going.state == "unknown"
                    else say("it is {state}", state=going.state)
                )
                raise Refusal("sent-already", say("Run {number} was sent already: {what}.", number=run.number, what=what), say("It was not sent again."), say("See it through first, or say what became of it."))  # fmt: skip
            now, mark = self._base.now(), secrets.token_hex(3)
            per_sheet = _per_sheet(run)
            send = Send(
                id=secrets.token_hex(8), job=run.job, run=run.id, machine=printer.id, name=f"R{run.number} {self._title(run)} {mark}"[:100], by=by, made_at=now,
                way="network" if link.address else "folder", state="handing over", tray=tray[:120], first_sheet=first, sheets=sheets,
                planned_min=_planned_min(run, printer, first, sheets), prints=sum(per_sheet[first - 1 : first - 1 + sheets]), passed=tuple(f"{p.task}: {p.reason}" for p in passed),
            )  # fmt: skip
            store.save(send, now)
        self._going[send.id] = self._hands.submit(self._hand_over, send, run, printer, link, document)
        return send

    def cancel(self, send_id: str, by: str) -> Send:
        """Stop what is on its way; what was printed stays printed."""
        send = self._find(send_id)
        link = self._links.of(send.machine)
        if send.way == "folder":
            try:
                back = folders.take_back(Path(link.folder), send.files)
            except OSError as gone:
                raise Refusal("folder-gone", say("The folder {folder} cannot be seen.", folder=link.folder), say("Nothing was taken back."), say("Look whether it is there.")) from gone  # fmt: skip
            if not back:
                raise Refusal("taken-already", say("Its program has taken the files."), say("Nothing was taken back."), say("Stop it at the machine."))  # fmt: skip
            return self._now(send, state="cancelled", said=say("Taken back by {by} before it was taken.", by=by))
        if send.number is None:
            raise Refusal("not-there-yet", say("The printer has given it no number yet."), say("Nothing was stopped."), say("Wait a moment, or stop it at the printer."))  # fmt: skip
        number = send.number
        try:
            self._links.at(link).cancel(number, by)
        except device.Refused:
            return self.follow(send)
        except (device.Unreached, device.Doubtful) as gone:
            raise Refusal("printer-silent", say("{named} does not answer.", named=self._named(send)), say("Nothing was stopped."), say("Stop it at the printer.")) from gone  # fmt: skip
        return self.follow(self._now(send, said=say("Stopped by {by}.", by=by)))

    def settle(self, send_id: str, *, came_out: bool, by: str) -> Send:
        """What a person saw where nobody else can know: it came out, or it did not."""
        send = self._find(send_id)
        if not send.is_open or send.state in ("waiting", "printing", "handing over"):
            raise Refusal(
                "known-already",
                say("This is known: it is {state}.", state=send.state),
                say("Nothing was changed."),
                say("Go on."),
            )
        if not came_out:
            return self._now(send, state="not sent", said=say("{by} looked: it did not come out.", by=by))
        return self._ended(
            send.model_copy(update={"sheets_done": send.sheets}), "done", say("{by} looked: it came out.", by=by)
        )

    def wait(self, send_id: str, seconds: float = 30) -> None:
        """Until a handing over of this server is over; for those who cannot poll."""
        going = self._going.get(send_id)
        if going is not None:
            going.result(seconds)

    def follow(self, send: Send) -> Send:
        """Ask after one that is on its way. What cannot be learnt stays as it was."""
        if send.way == "folder":
            return self._follow_folder(send)
        going = self._going.get(send.id)
        if send.state == "handing over":
            is_lost = (going is None or going.done()) and self._heard_of(send) > LOST_AFTER
            return self._look_for(send, say("the server was stopped while it was being sent")) if is_lost else send
        if send.number is None or send.state == "unknown":
            return send
        try:
            told = self._links.at(self._links.of(send.machine)).job(send.number)
        except (device.Unreached, device.Doubtful, device.Refused, Refusal):
            return send
        if told is None or told.name != send.name:
            # It forgets old jobs, or was switched off and numbers them anew.
            return self._now(send, state="unknown", said=say("The printer does not know this job any more."))
        return self._heard(send, told)

    def goes_on(self) -> None:
        """What this process hands over now is not lost: said again and again, for the others."""
        for send_id in list(self._going):
            with self._base.session() as session, session.begin():
                SendStore(session).touch(send_id, self._base.now())

    def _heard_of(self, send: Send) -> timedelta:
        """How long ago a process that hands it over was heard of."""
        with self._base.session() as session:
            return self._base.now() - max(send.made_at, SendStore(session).touched(send.id) or send.made_at)

    # How it goes over.

    def _hand_over(self, send: Send, run: Run, printer: Printer, link: Link, document: Path) -> None:
        try:
            if send.way == "folder":
                self._into_folder(send, run, printer, link, document)
            else:
                self._over_network(send, run, printer, link, document)
        except Exception as failed:  # whatever it was: the intent is not left hanging without a word
            self._look_for(send, say("something went wrong here ({name})", name=type(failed).__name__))
            raise
        finally:
            self._going.pop(send.id, None)

    def _over_network(self, send: Send, run: Run, printer: Printer, link: Link, document: Path) -> None:
        try:
            at = self._links.at(link)
            told = at.ask()
        except (device.Unreached, device.Doubtful, device.Refused, Refusal) as silent:
            self._now(
                send, state="not sent", said=say("{name} does not answer: {silent}.", name=printer.name, silent=silent)
            )
            return
        mode = next((m for m in printer.modes if m.id == run.plan.way.mode), printer.modes[0])
        form = form_of(told, mode.dpi, send.sheets)
        if form is None:
            self._now(send, state="not sent", said=say("{name} takes neither a PDF nor pictures of this kind: print the file from its own program.", name=printer.name))  # fmt: skip
            return
        with tempfile.TemporaryDirectory() as folder:
            part = document
            if send.first_sheet > 1 or send.sheets < len(run.plan.layout.cut_lengths_um):
                part = Path(folder) / "part.pdf"
                take_pages(document, part, send.first_sheet, send.sheets)
            try:
                part = written(form, part, Path(folder))
            except Refusal as no:
                self._now(send, state="not sent", said=f"{no.happened} {no.to_do}")
                return
            try:
                number = at.print(part, _wanted(send, run, told, form.format), told.heeds)
            except device.Unreached as gone:
                self._now(send, state="not sent", said=f"{printer.name}: {gone}.")
                return
            except device.Refused as no:
                again = say("; send it again in a while") if no.is_busy else ""
                self._now(
                    send,
                    state="not sent",
                    said=say("{name} says: {said}{again}.", name=printer.name, said=no.said, again=again),
                )
                return
            except device.Doubtful as broken:
                self._look_for(send, str(broken))
                return
        self._now(send, state="waiting", number=number)

    def _look_for(self, send: Send, why: str) -> Send:
        """The printer is asked for it by its name; what it does not know, only a person does."""
        try:
            found = self._links.at(self._links.of(send.machine)).find(send.name)
        except (device.Unreached, device.Doubtful, device.Refused, Refusal):
            found = None
        if found is None:
            return self._now(send, state="unknown", said=say("It is not known whether it came out: {why}.", why=why))
        return self._heard(self._now(send, number=found.id, state="waiting"), found)

    def _into_folder(self, send: Send, run: Run, printer: Printer, link: Link, document: Path) -> None:
        title = self._runs.called(run, "run.pdf", 0)
        files: dict[str, Path | str] = {title: document}
        if all(i.cut for i in run.plan.items):
            for at in range(len(run.plan.layout.cut_lengths_um)):
                files[self._runs.called(run, "cut.dxf", at)] = self._runs.file_of(run, "cut.dxf", at)
        files[f"{Path(title).stem}.txt"] = _card(run, printer, title)
        try:
            put = folders.put_whole(Path(link.folder), files)
        except OSError as failed:
            self._now(send, state="not sent", said=say("The folder {folder} took nothing: {strerror}.", folder=link.folder, strerror=failed.strerror or failed))  # fmt: skip
            return
        self._now(
            send,
            state="in its folder",
            files=put,
            said=say("{counted} in {folder}.", counted=several(len(put), "file"), folder=link.folder),
        )

    def _follow_folder(self, send: Send) -> Send:
        if send.state not in ("in its folder", "taken"):
            return send
        run = self._runs.find(send.run)
        with self._base.session() as session:
            done = _printed(session, run)
        if done >= sum(_per_sheet(run)[: send.first_sheet - 1 + send.sheets]):
            return self._now(send, state="done", sheets_done=send.sheets)
        folder = self._links.of(send.machine).folder
        try:
            there = folders.still_there(Path(folder), send.files) if folder else ()
        except OSError:
            return self._now(send, said=say("The folder {folder} cannot be seen now.", folder=folder))
        if there or send.state == "taken":
            return send
        return self._now(send, state="taken", said=say("Its program took the files; say when they are printed."))

    # What is heard of it.

    def _heard(self, send: Send, told: device.JobTold) -> Send:
        states: dict[str, SendState] = {"waiting": "waiting", "held": "held up", "printing": "printing", "stopped": "held up", "done": "done", "cancelled": "cancelled", "aborted": "failed"}  # fmt: skip
        state = states[told.state]
        # Some count no sheets: one that is done did them all.
        sheets = send.sheets if state == "done" else min(send.sheets, told.sheets_done)
        if (state, sheets, told.id) == (send.state, send.sheets_done, send.number):
            return send
        at = self._base.now()
        begun = send.begun_at or (at if state in ("printing", "done") else None)
        now = send.model_copy(
            update={
                "sheets_done": sheets,
                "number": told.id,
                "begun_at": begun,
                "ended_at": at if state == "done" else None,
            }
        )
        if state in ("done", "cancelled", "failed"):
            why = {"done": "", "cancelled": say("It was cancelled."), "failed": say("The printer gave it up.")}[state]
            return self._ended(now, state, send.said or why)
        return self._now(now, state=state)

    def _ended(self, send: Send, state: SendState, said: str) -> Send:
        """What came out is recorded as printed, once, in the printer's name: sheets that it says are done."""
        run = self._runs.find(send.run)
        with self._base.session() as session:
            done = _printed(session, run)
            loaded = MachineStore(session).newest(send.machine, ("loaded",), 40)
        before = sum(_per_sheet(run)[: send.first_sheet - 1])
        until = min(before + send.prints_done(_per_sheet(run)), run.copies)
        lot = next((getattr(a.body, "lot", "") for a in reversed(loaded) if getattr(a.body, "tray", "") == send.tray), "")  # fmt: skip
        try:
            if len(run.jobs) > 1:
                self._shared.printed_to(run, until, f"sent-{send.id}", lot, self._named(send))
            elif (count := until - max(done, before)) > 0:
                act = Act(id=f"sent-{send.id}", job=run.job, at=self._base.now(), actor=self._named(send), signature="", body=Printed(run=run.id, count=count, lot=lot))  # fmt: skip
                self._acts.record(act)
        except Refusal as no:
            said = " ".join(filter(None, (said, say("It is not counted as printed: {happened}", happened=no.happened))))
        return self._now(send, state=state, said=said)

    def _now(self, send: Send, **changes: object) -> Send:
        with self._base.session() as session, session.begin():
            store = SendStore(session)
            known = store.find(send.id, locked=True)
            if known is None or not known.is_open:
                return known or send
            now = send.model_copy(update=changes)
            store.save(now, self._base.now())
        return now

    # What is asked before.

    def _ask_for_care(self, printer: Printer, passed: tuple[Passed, ...]) -> None:
        put_off = {p.task for p in passed if p.reason.strip()}
        open_tasks = [d for d in self._at_work.due_before(printer.id) if d.task.id not in put_off]
        if open_tasks:
            raise Refusal("care-first", say("{name} wants {open_tasks} before its first job.", name=printer.name, open_tasks=listed(d.task.name.lower() for d in open_tasks)), NOTHING,
                          say("Do it and say so, or put it off with a reason."))  # fmt: skip

    def _refuse_hindered(self, printer: Printer, link: Link) -> None:
        with self._base.session() as session:
            heard: Heard | None = MachineStore(session).heard_of(printer.id)
        if heard and heard.told and not heard.problem and heard.told.is_hindered:
            raise Refusal("printer-hindered", f"{printer.name}: {heard.told.said}.", NOTHING, say("Put it right at the printer, or send it all the same: it prints when it can."))  # fmt: skip

    def _find(self, send_id: str) -> Send:
        with self._base.session() as session:
            found = SendStore(session).find(send_id)
        if found is None:
            raise Refusal(
                "no-such-send",
                say("Nothing of this was sent."),
                say("Nothing was changed."),
                say("Open the job again."),
            )
        return found

    def _named(self, send: Send) -> str:
        printer = self._jobs.shop()[0].printers.get(send.machine)
        return printer.name if printer else send.machine

    def _title(self, run: Run) -> str:
        return " ".join("".join(c if c.isalnum() or c in " -" else " " for c in self._runs.title(run)).split())[:60]


def _notes(told: Told | None, printer: Printer, newest: Run | None, sheets: int) -> tuple[str, ...]:
    """What this printer does not heed, and what it is sent instead of a PDF."""
    mode = next((m for m in printer.modes if newest and m.id == newest.plan.way.mode), printer.modes[0])
    form = form_of(told, mode.dpi, sheets) if told else None
    return (*notes_of(told), *((form.said,) if form and form.said else ()))


def _printed(session: Session, run: Run) -> int:
    """Prints of it that are recorded, over all its jobs."""
    acts = ActStore(session)
    return sum(run.printed_in(acts.of_job(job)) for job in run.jobs)


def _coverage(run: Run | None) -> dict[str, float]:
    """The most that any print of the run covers with each ink."""
    measures = [i.measure for i in run.plan.items] if run else []
    channels = {c for m in measures for c in m.coverage_pct}
    return {c: max(m.coverage_pct.get(c, 0.0) for m in measures) for c in channels}


def _planned_min(run: Run, printer: Printer, first: int, sheets: int) -> float:
    layout = run.plan.layout
    mode = next((m for m in printer.modes if m.id == run.plan.way.mode), printer.modes[0])
    length_um = sum(layout.cut_lengths_um[first - 1 : first - 1 + sheets])
    return round(length_um / 1e6 * layout.printable_um / 1e6 / mode.m2_per_h * 60, 2)


def _per_sheet(run: Run) -> tuple[int, ...]:
    """Prints on each of a run's sheets or cut lengths, in order."""
    cuts = [p.cut for p in run.plan.layout.places]
    return tuple(cuts.count(n) for n in range(1, len(run.plan.layout.cut_lengths_um) + 1))


def _left(run: Run, printed: int) -> tuple[int, int]:
    """The first sheet that is not printed in full, and how many there are from it on."""
    layout, whole = run.plan.layout, 0
    if layout.tiles:
        done, every = printed * layout.parts, len(layout.tiles)
        return (done + 1, every - done) if done < every else (1, 0)
    for at, count in enumerate(_per_sheet(run), 1):
        whole += count
        if whole > printed:
            return at, len(run.plan.layout.cut_lengths_um) - at + 1
    return 1, 0


def _wanted(send: Send, run: Run, told: Told, format: str) -> device.Wanted:
    layout = run.plan.layout
    tray = next((t for t in told.trays if t.id == send.tray), None)
    is_roll = not layout.sheet_um
    # A roll is cut where the page ends; of sheets the size is what lies in the tray.
    length = max(layout.cut_lengths_um) / 1000 if is_roll else (layout.sheet_um or 0) / 1000
    return device.Wanted(name=send.name, by=send.by, format=format, width_mm=layout.media_um / 1000, length_mm=length, tray=send.tray if tray else "", media_type=tray.media_type if tray else "")  # fmt: skip


def _card(run: Run, printer: Printer, title: str) -> str:
    way = run.plan.way
    mode = next((m for m in printer.modes if m.id == way.mode), printer.modes[0])
    feed = printer.feed(way.method)
    spec = run.plan.items[0].spec
    settings = (
        Setting(name="Machine", value=printer.name),
        Setting(name="Mode", value=say("{name}, {dpi} dpi", name=mode.name, dpi=mode.dpi)),
        Setting(name="Medium", value=run.plan.media.replace("-", " ")),
        Setting(name="Size", value=say("100 %, never fitted to the page")),
        Setting(
            name="Mirror",
            value=say("OFF: the file is mirrored already") if spec.mirrored else say("OFF: the file is as it is meant"),
        ),
        Setting(name="Copies", value="1"),
        Setting(
            name="White",
            value=say("plate White, {white_passes} passes", white_passes=mode.white_passes) if spec.white else "none",
        ),
        Setting(name=say("Colour changes"), value=say("OFF in its program and its driver")),
        Setting(
            name="Prints",
            value=say(
                "{copies} on {counted}",
                copies=run.copies,
                counted=several(len(run.plan.layout.cut_lengths_um), "length"),
            ),
        ),
    )
    return write_card(Path(title).stem, settings, feed.steps if feed else ())
