"""Nozzle checks: a sheet for each printer, its scan read back, cleanings, and what to do next."""

import secrets
import tempfile
from pathlib import Path

from offsetter.core.compute.nozzles import NozzleReading, NozzleSheet, sheet_for
from offsetter.core.facts import Printer
from offsetter.core.nozzle_care import Checked, Cleaning, NextStep, channels_of, next_step
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.links import Links, send_page
from offsetter.formats.nozzle_sheet import write_picture, write_plates, write_sheet_pdf
from offsetter.intake.limits import MAX_BYTES
from offsetter.intake.receive import nozzle_scan
from offsetter.store.nozzles import NozzleStore

MOST = 120
LINES = 96
SHEET_DPI = 600


class NozzlesView(Frozen):
    channels: tuple[str, ...]
    """Empty: it has no nozzles."""
    lines: int
    """Of each channel."""
    history: tuple[Checked, ...]
    next: NextStep
    is_sent: bool = False
    """The printer can be sent the sheet over the network."""


class Nozzles:
    def __init__(self, base: Base, jobs: Jobs, links: Links) -> None:
        self._base, self._jobs, self._links = base, jobs, links

    def look(self, printer_id: str) -> NozzlesView:
        channels = self._channels(self._printer(printer_id))
        with self._base.session() as session:
            history = NozzleStore(session).newest(printer_id, MOST)
        return NozzlesView(
            channels=channels,
            lines=LINES,
            history=history,
            next=next_step(history),
            is_sent=bool(self._links.of(printer_id).address),
        )

    def picture(self, printer_id: str) -> bytes:
        """The sheet as PNG, at its exact size."""
        return write_picture(self._sheet(printer_id), SHEET_DPI)

    def plates(self, printer_id: str) -> bytes:
        """The sheet as TIFF, ink by ink."""
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "sheet.tif"
            write_plates(path, self._sheet(printer_id), SHEET_DPI)
            return path.read_bytes()

    def print_sheet(self, printer_id: str, tray: str, by: str) -> None:
        """Send the sheet to its printer: printed twice, it is two sheets of paper. Raises Refusal where it cannot be sent."""
        link = self._links.of(printer_id)
        if not link.address:
            raise Refusal("by-hand", say("This printer is not reached over the network."), say("Nothing was sent."), say("Take the file to it."))  # fmt: skip
        sheet = self._sheet(printer_id)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "sheet.pdf"
            write_sheet_pdf(path, sheet, SHEET_DPI)
            send_page(
                self._links.at(link),
                path,
                say("Nozzle sheet {printer_id} {token_hex}", printer_id=printer_id, token_hex=secrets.token_hex(3)),
                by,
                tray,
            )

    def read(self, printer_id: str, name: str, data: bytes, by: str) -> NozzlesView:
        """What a scan says. Raises Refusal for a scan of something else, or one that says too little."""
        name = name.replace("\\", "/").rsplit("/", 1)[-1][:120] or "scan"
        if not data or len(data) > MAX_BYTES:
            raise Refusal("bad-scan", say("“{name}” is {which}.", name=name, which=say('empty') if not data else say('too large')), say("Nothing was kept of it."), say("Scan it at 300 dpi, as PNG or JPEG."))  # fmt: skip
        sheet = self._sheet(printer_id)
        with tempfile.TemporaryDirectory() as folder:
            source, described, out, seen = (Path(folder) / n for n in ("in", "sheet.json", "out.json", "seen.jpg"))
            source.write_bytes(data)
            described.write_text(sheet.model_dump_json())
            nozzle_scan(source, name, described, out, seen)
            read = NozzleReading.model_validate_json(out.read_bytes())
            picture = self._base.files.keep(seen.read_bytes())
        self._add(printer_id, Checked(
            id=secrets.token_hex(8), at=self._base.now(), by=by, kind="check", missing=read.missing, lines=read.lines, picture=picture,
        ))  # fmt: skip
        return self.look(printer_id)

    def cleaned(self, printer_id: str, cleaning: Cleaning, by: str) -> NozzlesView:
        self._sheet(printer_id)
        self._add(printer_id, Checked(id=secrets.token_hex(8), at=self._base.now(), by=by, kind="cleaning", cleaning=cleaning))  # fmt: skip
        return self.look(printer_id)

    def _add(self, printer_id: str, checked: Checked) -> None:
        with self._base.session() as session, session.begin():
            NozzleStore(session).add(printer_id, checked)

    def _printer(self, printer_id: str) -> Printer:
        found = self._jobs.shop()[0].printers.get(printer_id)
        if found is None:
            raise Refusal("no-such-printer", say("The shop has no such printer."), say("Nothing was changed."), say("Choose one of its machines."))  # fmt: skip
        return found

    def _channels(self, printer: Printer) -> tuple[str, ...]:
        return channels_of(printer, self._jobs.shop()[0].methods)

    def _sheet(self, printer_id: str) -> NozzleSheet:
        channels = self._channels(self._printer(printer_id))
        if not channels:
            raise Refusal("no-nozzles", say("This printer works with toner: it has no nozzles."), say("Nothing was changed."), say("Choose a printer that jets ink."))  # fmt: skip
        return sheet_for(channels, LINES, printer_id)
