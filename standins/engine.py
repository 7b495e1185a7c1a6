"""A simulated printer behind its network socket: it uses up what it holds, takes time, drops nozzles while it stands, and fails when told.

Every value is invented. What it really lays differs from what its plates say, by factors that nobody outside is told.
"""

import io
import json
import random
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
import pypdfium2

from standins.raster import pages_of_raster

POINTS_PER_MM = 72 / 25.4
A4_M2 = 0.21 * 0.297
LOOK_DPI = 36
DROPS_A_DAY = 1.5
"""Nozzles, of each channel, on a day of standing still."""
FAULTS = {
    "media-empty": "out of paper", "cover-open": "cover open", "media-jam": "paper jam", "silent": "does not answer",
    "swallows-answers": "takes a job and does not say so", "lies": "tells levels that cannot be", "power-cut": "power lost in a job",
    "busy": "busy with another's job",
}  # fmt: skip
STOPS = {"media-empty": "media-empty-error", "cover-open": "cover-open-error", "media-jam": "media-jam-error"}
"""Faults that hold a job up, and what the printer says then."""


@dataclass(slots=True)
class Container:
    """Of a colour, or what fills up. holds: mL, or pages at 5 % coverage where is_toner."""

    name: str
    channel: str
    colour: str
    kind: str
    holds: float
    left: float
    lays: float = 1.0
    """What it really lays for each part that its plate asks for."""


@dataclass(slots=True)
class Paper:
    """A tray or a roll. left: sheets, or metres."""

    id: str
    width_mm: float
    length_mm: float
    type: str
    left: float
    most: float


@dataclass(slots=True)
class Job:
    id: int
    name: str
    by: str
    uri: str
    state: int = 3
    reasons: tuple[str, ...] = ("none",)
    begun: float = 0.0
    made: float = field(default_factory=time.time)
    ended: float = 0.0
    pages: int = 0
    done: int = 0
    copies: int = 1
    document: bytes = b""
    is_open: bool = False
    """A document is still to come."""
    format: str = "application/pdf"
    asked: dict[str, Any] = field(default_factory=dict)


@dataclass(slots=True)
class Kind:
    """What is known of such a printer before it is switched on."""

    name: str
    said: str
    containers: list[Container]
    papers: list[Paper]
    laydown_ml_m2: dict[str, float]
    m2_per_h: float
    dpi: int
    is_toner: bool = False
    cleaning_ml: float = 0.4
    """Besides, with every job."""
    takes: tuple[str, ...] = ("application/pdf", "image/jpeg", "image/pwg-raster", "application/octet-stream")
    """Forms of document."""
    stood_days: float = 0.0
    """Before it is switched on a first time."""


class Engine:
    """One printer; its state lies in a file between two days. speed: how much faster than real it prints."""

    def __init__(
        self, kind: Kind, kept: Path | None = None, *, speed: float = 1.0, seed: int = 1, now: Callable[[], float] = time.time
    ) -> None:  # fmt: skip
        self.kind, self.kept, self.speed, self.now = kind, kept, speed, now
        self.lock = threading.RLock()
        self.jobs: dict[int, Job] = {}
        self.faults: set[str] = set()
        self.out: dict[str, list[int]] = {}
        self.last_printed = now() - kind.stood_days * 86_400
        self.pages = 0
        self.began = time.time()
        self.chance = random.Random(seed)
        self._wake = threading.Event()
        self._over = False
        self._read()
        self._hand = threading.Thread(target=self._work, daemon=True)
        self._hand.start()

    # What the network asks and does.

    def add(self, name: str, by: str, uri: Callable[[int], str], **more: Any) -> Job:
        with self.lock:
            number = max(self.jobs, default=0) + 1
            job = Job(id=number, name=name or f"job {number}", by=by, uri=uri(number), **more)
            self.jobs[number] = job
            # A printer forgets: the newest hundred are told of.
            for old in sorted(self.jobs)[:-100]:
                del self.jobs[old]
        return job

    def give(self, job: Job, document: bytes, format: str) -> None:
        with self.lock:
            job.document, job.format, job.is_open = document, format, False
        self._wake.set()

    def cancel(self, job: Job) -> bool:
        with self.lock:
            if job.state >= 7:
                return False
            job.state, job.reasons, job.ended = 7, ("job-canceled-by-user",), self.now()
        self._wake.set()
        return True

    def under_way(self) -> list[Job]:
        return [j for j in self.jobs.values() if j.state < 7]

    @property
    def state(self) -> int:
        """3 idle, 4 printing, 5 stopped."""
        with self.lock:
            is_dry = any(c.left <= 0 for c in self.kind.containers if c.channel)
            if self.faults & STOPS.keys() or is_dry or any(p.left <= 0 for p in self.kind.papers[:1]):
                return 5
            return 4 if any(j.state == 5 for j in self.jobs.values()) else 3

    @property
    def reasons(self) -> tuple[str, ...]:
        with self.lock:
            found = [STOPS[f] for f in sorted(self.faults & STOPS.keys())]
            if self.kind.papers[0].left <= 0 and "media-empty-error" not in found:
                found.append("media-empty-error")
            colours = [c for c in self.kind.containers if c.channel]
            if any(c.left <= 0 for c in colours):
                found.append("marker-supply-empty-error")
            elif any(c.left / c.holds < 0.1 for c in colours):
                found.append("marker-supply-low-warning")
            return tuple(found) or ("none",)

    def level(self, container: Container) -> int:
        if "lies" in self.faults:
            return {"C": 150, "M": -1, "Y": -2, "K": -3}.get(container.channel, 150)
        return max(0, min(100, round(container.left / container.holds * 100)))

    def fill(self, channel: str) -> None:
        with self.lock:
            for c in self.kind.containers:
                if c.channel == channel:
                    c.left = c.holds
            self._keep()
        self._wake.set()

    def load(self, tray: str) -> None:
        with self.lock:
            for p in self.kind.papers:
                if p.id == tray:
                    p.left = p.most
            self._keep()
        self._wake.set()

    def fail(self, fault: str, *, on: bool) -> None:
        with self.lock:
            (self.faults.add if on else self.faults.discard)(fault)
        self._wake.set()

    def dropouts(self) -> dict[str, list[int]]:
        """Nozzles that are out now, by channel: the longer it stood, the more."""
        with self.lock:
            days = max(0.0, self.now() - self.last_printed) / 86_400
            lines = 96
            for c in (c.channel for c in self.kind.containers if c.channel and not self.kind.is_toner):
                wanted = min(lines // 4, int(days * DROPS_A_DAY * (1.6 if c == "W" else 1.0)))
                have = self.out.setdefault(c, [])
                while len(have) < wanted:
                    have.append(next(n for n in iter(lambda: self.chance.randint(1, lines), 0) if n not in have))
            self._keep()
            return {c: sorted(n) for c, n in self.out.items() if n}

    def clean(self) -> None:
        """Half of what is out comes back, and ink goes."""
        with self.lock:
            self.out = {c: n[: len(n) // 2] for c, n in self.out.items()}
            for c in self.kind.containers:
                if c.channel:
                    c.left = max(0.0, c.left - 2.0)
            self._keep()

    def close(self) -> None:
        self._over = True
        self._wake.set()
        self._hand.join(5)

    # What it does by itself.

    def _work(self) -> None:
        while not self._over:
            with self.lock:
                job = next((j for j in self.under_way() if j.document and not j.is_open), None)
            if job is None:
                self._wake.wait(0.5)
                self._wake.clear()
                continue
            self._print(job)

    def _print(self, job: Job) -> None:
        try:
            pages = list(_READERS.get(job.format, _as_it_looks)(job.document, self.kind))
        except (pikepdf.PdfError, pypdfium2.PdfiumError, ValueError):
            with self.lock:
                job.state, job.reasons, job.ended = 8, ("document-format-error",), self.now()
            return
        ranges = job.asked.get("ranges")
        if ranges:
            pages = [p for n, p in enumerate(pages, 1) if any(low <= n <= high for low, high in ranges)]
        with self.lock:
            if job.state >= 7:
                return
            job.state, job.reasons, job.begun, job.pages = 5, ("job-printing",), self.now(), len(pages) * job.copies
        paper = self._paper(job)
        for area_m2, coverage in pages * job.copies:
            takes_s = area_m2 / self.kind.m2_per_h * 3600 / self.speed
            end = time.monotonic() + takes_s
            while True:
                stopped = self.state == 5 or paper.left <= 0
                with self.lock:
                    if job.state >= 7 or self._over:
                        return
                    if "power-cut" in self.faults:
                        job.state, job.reasons, job.ended = 8, ("aborted-by-system",), self.now()
                        return
                    job.state, job.reasons = (6, ("printer-stopped",)) if stopped else (5, ("job-printing",))
                if not stopped and time.monotonic() >= end:
                    break
                self._wake.wait(min(0.2, max(0.005, end - time.monotonic())))
                self._wake.clear()
            self._use(area_m2, coverage, paper)
            with self.lock:
                job.done += 1
        with self.lock:
            for c in self.kind.containers:
                if c.channel and not self.kind.is_toner:
                    c.left = max(0.0, c.left - self.kind.cleaning_ml)
            job.state, job.reasons, job.ended, job.document = 9, ("job-completed-successfully",), self.now(), b"-"
            self.last_printed = self.now()
            self._keep()

    def _paper(self, job: Job) -> Paper:
        return next((p for p in self.kind.papers if p.id == job.asked.get("tray")), self.kind.papers[0])

    def _use(self, area_m2: float, coverage: dict[str, float], paper: Paper) -> None:
        with self.lock:
            self.pages += 1
            is_roll = paper.length_mm > 1500
            paper.left = max(0.0, paper.left - (area_m2 / (paper.width_mm / 1000) if is_roll else 1))
            for c in self.kind.containers:
                if not c.channel:
                    c.left = max(0.0, c.left - 1 / 1000)
                elif self.kind.is_toner:
                    c.left = max(0.0, c.left - coverage.get(c.channel, 0) / 0.05 * area_m2 / A4_M2 * c.lays)
                else:
                    laid = coverage.get(c.channel, 0) * area_m2 * self.kind.laydown_ml_m2.get(c.channel, 12.0)
                    c.left = max(0.0, c.left - laid * c.lays)

    def _read(self) -> None:
        if self.kept is None or not self.kept.exists():
            return
        told = json.loads(self.kept.read_text())
        for c in self.kind.containers:
            c.left = told["left"].get(c.name, c.left)
        for p in self.kind.papers:
            p.left = told["papers"].get(p.id, p.left)
        self.out, self.last_printed, self.pages = told["out"], told["last_printed"], told["pages"]
        self.jobs = {j["id"]: Job(**{**j, "document": b"-", "reasons": tuple(j["reasons"])}) for j in told["jobs"]}

    def _keep(self) -> None:
        if self.kept is None:
            return
        over = [{**asdict(j), "document": None} for j in self.jobs.values() if j.state >= 7]
        told = {
            "left": {c.name: c.left for c in self.kind.containers}, "papers": {p.id: p.left for p in self.kind.papers}, "out": self.out,
            "last_printed": self.last_printed, "pages": self.pages, "jobs": over,
        }  # fmt: skip
        part = self.kept.with_suffix(".part")
        part.write_text(json.dumps(told))
        part.rename(self.kept)


def pages_of(document: bytes, kind: Kind) -> Iterator[tuple[float, dict[str, float]]]:
    """Each page's area in m2 and the share of it that every channel covers, from the plates in it; of other documents as they look."""
    with pikepdf.open(io.BytesIO(document)) as pdf:
        plated = [_plates(page) for page in pdf.pages]
        areas = [float(p.mediabox[2] - p.mediabox[0]) * float(p.mediabox[3] - p.mediabox[1]) / POINTS_PER_MM**2 / 1e6 for p in pdf.pages]  # fmt: skip
    if any(plated):
        for area, found in zip(areas, plated, strict=True):
            shares: dict[str, float] = {}
            for part_m2, channels in found:
                for c, share in channels.items():
                    shares[c] = shares.get(c, 0.0) + share * part_m2 / area
            yield area, shares
        return
    seen = pypdfium2.PdfDocument(document)
    for page, area in zip(seen, areas, strict=True):
        yield area, _inks(np.asarray(page.render(scale=LOOK_DPI / 72).to_numpy())[:, :, ::-1])


def _of_raster(document: bytes, kind: Kind) -> Iterator[tuple[float, dict[str, float]]]:
    for page in pages_of_raster(document):
        area = page.width / page.dpi[0] * page.height / page.dpi[1] * 0.0254**2
        yield area, _inks(page.dots if page.dots.shape[2] == 3 else np.repeat(page.dots, 3, axis=2))


def _as_it_looks(document: bytes, kind: Kind) -> Iterator[tuple[float, dict[str, float]]]:
    yield A4_M2, {"K": 0.05}


_READERS = {"application/pdf": pages_of, "image/pwg-raster": _of_raster}


def _plates(page: Any) -> list[tuple[float, dict[str, float]]]:
    """Of each print on a page its area in m2, and how much of that each plate covers."""
    found: list[tuple[float, dict[str, float]]] = []
    said = page.Contents.read_bytes().decode("latin-1")
    for name, form in page.Resources.get("/XObject", {}).items():
        if not name.startswith("/Print") or "/Resources" not in form:
            continue
        box = [float(v) for v in form.BBox]
        area = (box[2] - box[0]) * (box[3] - box[1]) / POINTS_PER_MM**2 / 1e6
        channels: dict[str, float] = {}
        for image in form.Resources.get("/XObject", {}).values():
            rows, columns = int(image.Height), int(image.Width)
            samples = np.frombuffer(image.read_bytes(), np.uint8).reshape(rows, columns, -1)
            if samples.shape[2] == 4:
                channels |= {c: float(samples[..., i].mean()) / 255 for i, c in enumerate("CMYK")}
            elif samples.shape[2] == 3:
                channels |= _inks(samples)
            else:
                channels["W"] = float(samples.mean()) / 255
        found += [(area, channels)] * said.count(f"{name} Do")
    return found


def _inks(rgb: Any) -> dict[str, float]:
    """What a driver would make of it, roughly."""
    part = rgb[:: max(1, rgb.shape[0] // 400), :: max(1, rgb.shape[1] // 400), :3].astype(np.float64) / 255
    cmy = 1 - part
    k = cmy.min(axis=2) ** 2.2
    return {
        **{c: float(np.clip(cmy[..., i] - 0.8 * k, 0, 1).mean()) for i, c in enumerate("CMY")},
        "K": float(k.mean()),
    }
