"""A printer on the network, spoken to by IPP (RFC 8010, 8011). Nothing here asks what it is made of."""

import http.client
import re
import time
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO, Any, Literal

from offsetter.core.printer_told import STATES, Supply, Told, Tray, channel_of
from offsetter.core.sentences import say
from offsetter.core.values import Frozen
from offsetter.devices.address import Address
from offsetter.devices.ipp_message import MOST_BYTES, Attributes, BadMessage, Message, Tag, Value, decode, encode, of

ANSWERS_WITHIN_S, SENDS_WITHIN_S = 6.0, 120.0
"""Of a question; of a document, between two of its parts."""
PRINT_JOB, VALIDATE_JOB, CANCEL_JOB, GET_JOB, GET_JOBS, GET_PRINTER = 0x02, 0x04, 0x08, 0x09, 0x0A, 0x0B
"""RFC 8011, 5.4.15."""
INCHES = 3
OK_BELOW, BUSY, NO_SUCH_JOB = 0x0100, 0x0507, 0x0406
PART = 1 << 16
JOB_STATES = {3: "waiting", 4: "held", 5: "printing", 6: "stopped", 7: "cancelled", 8: "aborted", 9: "done"}
"""RFC 8011, 5.3.7."""
JobState = Literal["waiting", "held", "printing", "stopped", "cancelled", "aborted", "done"]
QUALITIES = {"draft": 3, "normal": 4, "high": 5}


class Unreached(Exception):
    """Nothing was taken: there was no line to it."""


class Doubtful(Exception):
    """The line broke while it was being told: it may have heard."""


class Refused(Exception):
    """It answered no. said: why, in words."""

    def __init__(self, code: int, said: str) -> None:
        super().__init__(said)
        self.code, self.said = code, said

    @property
    def is_busy(self) -> bool:
        return self.code == BUSY


class JobTold(Frozen):
    """A job as its printer tells it."""

    id: int
    name: str = ""
    state: JobState
    sheets_done: int = 0
    reasons: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Wanted:
    """How a document is to be printed; at 100 %, always. Sizes in mm, 0: as the printer likes."""

    name: str
    by: str
    format: str = "application/pdf"
    width_mm: float = 0
    length_mm: float = 0
    tray: str = ""
    media_type: str = ""
    quality: Literal["draft", "normal", "high"] = "high"
    copies: int = 1

    def asks(self, heeds: tuple[str, ...]) -> Attributes:
        """What the job asks for, of what the printer heeds; nothing it does not know, for it would do as it likes in silence."""
        media: dict[str, tuple[Value, ...]] = {}
        if self.width_mm:
            size = {"x-dimension": of(Tag.INTEGER, round(self.width_mm * 100)), "y-dimension": of(Tag.INTEGER, round(self.length_mm * 100))}  # fmt: skip
            media["media-size"] = of(Tag.COLLECTION, size)
        if self.tray:
            media["media-source"] = of(Tag.KEYWORD, self.tray)
        if self.media_type:
            media["media-type"] = of(Tag.KEYWORD, self.media_type)
        asked: Attributes = {
            "copies": of(Tag.INTEGER, self.copies),
            "sides": of(Tag.KEYWORD, "one-sided"),
            "print-scaling": of(Tag.KEYWORD, "none"),
            "print-quality": of(Tag.ENUM, QUALITIES[self.quality]),
            **({"media-col": of(Tag.COLLECTION, media)} if media else {}),
        }
        return {k: v for k, v in asked.items() if k in heeds}


@dataclass(slots=True)
class Printer:
    """One printer at one address."""

    at: Address
    answers_within_s: float = ANSWERS_WITHIN_S
    _number: int = field(default=0, init=False)

    def ask(self) -> Told:
        """How it stands. Raises Unreached, Doubtful or Refused."""
        said = self._say(GET_PRINTER, {"requested-attributes": of(Tag.KEYWORD, *ASKED)})
        return told_of(said.group(Tag.PRINTER))

    def print(self, document: Path, wanted: Wanted, heeds: tuple[str, ...]) -> int:
        """Hand a document over; gives the printer's number for it. Asked first whether it would do all of it."""
        named = {
            "requesting-user-name": of(Tag.NAME, wanted.by),
            "job-name": of(Tag.NAME, wanted.name),
            "ipp-attribute-fidelity": of(Tag.BOOLEAN, True),
            "document-format": of(Tag.MIME, wanted.format),
        }
        asks = wanted.asks(heeds)
        with suppress(Doubtful):  # it said nothing; asking prints nothing
            self._say(VALIDATE_JOB, named, asks)
        with document.open("rb") as file:
            said = self._say(PRINT_JOB, named, asks, file=file, size=document.stat().st_size)
        number = said.group(Tag.JOB).get("job-id")
        if not number:
            raise Doubtful(say("it took the document and gave it no number"))
        return int(number[0].data)

    def job(self, number: int) -> JobTold | None:
        """None: it knows no such job any more."""
        try:
            said = self._say(GET_JOB, {"job-id": of(Tag.INTEGER, number), "requested-attributes": of(Tag.KEYWORD, *OF_JOBS)})  # fmt: skip
        except Refused as no:
            if no.code == NO_SUCH_JOB:
                return None
            raise
        return _job(said.group(Tag.JOB))

    def jobs(self, which: Literal["completed", "not-completed"]) -> tuple[JobTold, ...]:
        said = self._say(GET_JOBS, {"which-jobs": of(Tag.KEYWORD, which), "limit": of(Tag.INTEGER, 100), "requested-attributes": of(Tag.KEYWORD, *OF_JOBS)})  # fmt: skip
        return tuple(j for g in said.groups_of(Tag.JOB) if (j := _job(g)) is not None)

    def find(self, name: str) -> JobTold | None:
        """The job of that name, under way or over."""
        both = (*self.jobs("not-completed"), *self.jobs("completed"))
        return next((j for j in both if j.name == name), None)

    def cancel(self, number: int, by: str) -> None:
        self._say(CANCEL_JOB, {"job-id": of(Tag.INTEGER, number), "requesting-user-name": of(Tag.NAME, by)})

    def _say(
        self, operation: int, more: Attributes, job: Attributes | None = None, *, file: IO[bytes] | None = None, size: int = 0
    ) -> Message:  # fmt: skip
        self._number += 1
        head: Attributes = {
            "attributes-charset": of(Tag.CHARSET, "utf-8"),
            "attributes-natural-language": of(Tag.LANGUAGE, "en"),
            "printer-uri": of(Tag.URI, self.at.uri),
            **more,
        }
        groups = ((int(Tag.OPERATION), head), *(((int(Tag.JOB), job),) if job else ()))
        asked = encode(Message(operation, self._number, groups))
        answer = self._post(asked, file, size)
        try:
            said, _ = decode(answer)
        except BadMessage as wrong:
            raise self._odd(file, say("it does not speak as a printer does: {wrong}", wrong=wrong)) from wrong
        if said.request_id != self._number:
            raise self._odd(file, say("it answers another question than it was asked"))
        if said.code >= OK_BELOW:
            raise Refused(said.code, _why(said))
        return said

    @staticmethod
    def _odd(file: IO[bytes] | None, said: str) -> Refused | Doubtful:
        """An answer that is none: what carried a document may have been heard all the same."""
        return Doubtful(said) if file is not None else Refused(0, said)

    def _post(self, asked: bytes, file: IO[bytes] | None, size: int) -> bytes:
        line = http.client.HTTPConnection(self.at.ip, self.at.port, timeout=self.answers_within_s)
        try:
            line.connect()
        except OSError as gone:
            raise Unreached(say("no answer from {host}", host=self.at.host)) from gone
        try:
            if file is not None and line.sock is not None:
                line.sock.settimeout(SENDS_WITHIN_S)
            shown = f"[{self.at.host}]" if ":" in self.at.host else self.at.host
            headers = {"Host": f"{shown}:{self.at.port}", "Content-Type": "application/ipp", "Content-Length": str(len(asked) + size)}  # fmt: skip
            line.request("POST", self.at.path, _parts(asked, file), headers)
            answer = line.getresponse()
            # Redirects are not followed: what was checked is this machine.
            if answer.status != 200:
                said = say("it answers HTTP {status}, as no printer does", status=answer.status)
                raise Refused(answer.status, said) if answer.status < 500 else self._odd(file, said)
            return self._read(answer)
        except (OSError, http.client.HTTPException) as broken:
            raise Doubtful(say("the line to {host} broke", host=self.at.host)) from broken
        finally:
            line.close()

    def _read(self, answer: http.client.HTTPResponse) -> bytes:
        end, data = time.monotonic() + self.answers_within_s * 2, bytearray()
        while part := answer.read1(PART):
            data += part
            if len(data) > MOST_BYTES or time.monotonic() > end:
                raise Refused(0, say("it says more than a printer does, or too slowly"))
        return bytes(data)


def _parts(asked: bytes, file: IO[bytes] | None) -> Iterator[bytes]:
    yield asked
    while file is not None and (part := file.read(PART)):
        yield part


ASKED = (
    "printer-name", "printer-info", "printer-make-and-model", "printer-uuid", "printer-state", "printer-state-reasons", "printer-state-message",
    "printer-is-accepting-jobs", "queued-job-count", "marker-names", "marker-colors", "marker-types", "marker-levels", "marker-low-levels",
    "printer-supply", "printer-supply-description", "printer-input-tray", "media-col-ready", "media-ready", "document-format-supported",
    "print-scaling-supported", "job-creation-attributes-supported", "copies-supported", "sides-supported", "print-quality-supported",
    "media-col-supported", "pwg-raster-document-resolution-supported", "pwg-raster-document-type-supported",
)  # fmt: skip
OF_JOBS = ("job-id", "job-name", "job-state", "job-state-reasons", "job-media-sheets-completed", "job-impressions-completed")  # fmt: skip
HEEDED = ("copies", "sides", "print-quality", "print-scaling", "media-col")


def told_of(said: Attributes) -> Told:
    """A printer's attributes as the shop reads them; what is missing, odd or impossible is left unknown."""
    # Some list all that a job may ask for, some only what its template lacks.
    listed = (str(v) for v in _all(said, "job-creation-attributes-supported"))
    heeds = tuple(dict.fromkeys((*listed, *(n for n in HEEDED if f"{n}-supported" in said))))
    return Told(
        name=_text(said, "printer-info") or _text(said, "printer-name"), model=_text(said, "printer-make-and-model"), uuid=_text(said, "printer-uuid"),
        state=STATES.get(_whole(said, "printer-state"), "unknown"),
        reasons=tuple(str(r)[:120] for r in _all(said, "printer-state-reasons") if r and r != "none")[:40],
        message=_text(said, "printer-state-message", 300), takes_jobs=_first(said, "printer-is-accepting-jobs") is not False,
        queued=max(0, _whole(said, "queued-job-count")), supplies=_supplies(said)[:40], trays=_trays(said)[:40],
        formats=tuple(str(f)[:120] for f in _all(said, "document-format-supported"))[:60],
        raster_dpi=tuple(d for v in _all(said, "pwg-raster-document-resolution-supported") if (d := _dpi(v)))[:20],
        raster_types=tuple(str(t)[:120] for t in _all(said, "pwg-raster-document-type-supported"))[:20],
        scalings=tuple(str(f)[:120] for f in _all(said, "print-scaling-supported"))[:20], heeds=tuple(h[:120] for h in heeds)[:200],
    )  # fmt: skip


def _dpi(value: Any) -> int:
    """Dots an inch, where both ways are alike and it is said in inches (RFC 8011, 5.1.16); 0 else."""
    if not isinstance(value, tuple) or len(value) != 3:
        return 0
    across, along, unit = value
    return int(across) if across == along and unit == INCHES and 1 <= across <= 10_000 else 0


def _supplies(said: Attributes) -> tuple[Supply, ...]:
    """marker-names and their parallel lists (PWG 5100.9), or printer-supply (PWG 5100.13) where there are none."""
    names = _all(said, "marker-names")
    if not names:
        return tuple(_supply(keys) for keys in map(_keys, _all(said, "printer-supply")))
    found = []
    for at, name in enumerate(names):
        colour, kind = str(_at(said, "marker-colors", at) or ""), str(_at(said, "marker-types", at) or "")
        level, low = _at(said, "marker-levels", at), _at(said, "marker-low-levels", at)
        is_waste = "waste" in kind.casefold() or "waste" in str(name).casefold()
        is_colour = not is_waste and not any(w in kind.casefold() for w in ("opc", "fuser", "transfer", "cleaner", "developer"))  # fmt: skip
        found.append(_judged(
            str(name), channel_of(str(name), colour) if is_colour else "", level, fills_up=is_waste,
            low_pct=float(low) if isinstance(low, int) and 0 <= low <= 100 else None,
        ))  # fmt: skip
    return tuple(found)


def _supply(keys: dict[str, str]) -> Supply:
    most, level = _number(keys.get("maxcapacity")), _number(keys.get("level"))
    name = keys.get("colorantname") or keys.get("type") or say("supply {keys}", keys=keys.get("index", ""))
    fills = keys.get("class") == "receptacleThatIsFilled"
    if level is not None and level >= 0 and most and most > 0 and keys.get("unit") != "percent":
        level = round(level / most * 100)
    is_colour = not fills and keys.get("type", "") in ("toner", "ink", "inkCartridge", "inkRibbon", "tonerCartridge")
    return _judged(name, channel_of(name, "") if is_colour else "", level, fills_up=fills)


def _judged(name: str, channel: str, level: Any, *, fills_up: bool, low_pct: float | None = None) -> Supply:
    """-1: it cannot say, -2: it does not know, -3: there is some left (RFC 3805); anything else outside 0 to 100 is a lie."""
    known = isinstance(level, int)
    lied = f"{level} %" if known and not -3 <= level <= 100 else ""
    return Supply(
        name=name[:120] or "supply", channel=channel, level_pct=float(level) if known and 0 <= level <= 100 else None, has_some=level == -3,
        fills_up=fills_up, low_pct=low_pct, lied=lied,
    )  # fmt: skip


def _trays(said: Attributes) -> tuple[Tray, ...]:
    found: dict[str, Tray] = {}
    for ready in _all(said, "media-col-ready"):
        if not isinstance(ready, dict):
            continue
        size = _first(ready, "media-size")
        source = str(_first(ready, "media-source") or f"tray-{len(found) + 1}")
        wide, long = (_mm(size, n) for n in ("x-dimension", "y-dimension")) if isinstance(size, dict) else (0.0, 0.0)
        found.setdefault(source, Tray(id=source[:120], name=_spoken(source), width_mm=wide, length_mm=long, media_type=str(_first(ready, "media-type") or "")[:120]))  # fmt: skip
    for told in map(_keys, _all(said, "printer-input-tray")):
        name = told.get("name", "")
        most, level = _number(told.get("maxcapacity")), _number(told.get("level"))
        known = found.get(name) or Tray(id=name[:120] or f"tray-{len(found) + 1}", name=_spoken(name))
        share = min(100.0, round(level / most * 100)) if level is not None and most and level >= 0 < most else None
        found[known.id] = known.model_copy(update={"level_pct": share})
    return tuple(found.values())


def _mm(size: Attributes, name: str) -> float:
    """In 1/100 mm; of a range what it takes at most."""
    value = _first(size, name)
    if isinstance(value, tuple):
        value = value[1]
    return min(100_000.0, max(0, value) / 100) if isinstance(value, int) else 0.0


def _keys(octets: Any) -> dict[str, str]:
    """“index=1;level=75;” as its parts."""
    text = octets.decode("utf-8", "replace") if isinstance(octets, bytes) else str(octets or "")
    return {k.strip(): v.strip() for part in text.split(";") if "=" in part for k, v in [part.split("=", 1)]}


def _number(text: str | None) -> int | None:
    return int(text) if text and re.fullmatch(r"-?\d{1,9}", text) else None


def _spoken(keyword: str) -> str:
    return {"by-pass-tray": "bypass tray", "main-roll": "roll"}.get(keyword, keyword.replace("-", " "))[:120] or "tray"


def _job(said: Attributes) -> JobTold | None:
    number, state = _first(said, "job-id"), JOB_STATES.get(_whole(said, "job-state"))
    if not isinstance(number, int) or state is None:
        return None
    done = max(_whole(said, "job-media-sheets-completed"), _whole(said, "job-impressions-completed"), 0)
    reasons = tuple(str(r)[:120] for r in _all(said, "job-state-reasons") if r and r != "none")[:20]
    return JobTold(id=number, name=_text(said, "job-name", 255), state=state, sheets_done=done, reasons=reasons)


def _why(said: Message) -> str:
    """In its own words where it gives some; with what it would not do."""
    told = _text(said.group(Tag.OPERATION), "status-message", 200)
    odd = ", ".join(n.replace("-", " ") for n in said.group(Tag.UNSUPPORTED))[:200]
    if said.code == BUSY:
        return say("it is busy with another job")
    return say("it does not do: {odd}", odd=odd) if odd else told or say("status {code}", code=f"{said.code:#06x}")


def _all(said: Attributes, name: str) -> tuple[Any, ...]:
    return tuple(v.data for v in said.get(name, ()))


def _first(said: Attributes, name: str) -> Any:
    return next(iter(_all(said, name)), None)


def _at(said: Attributes, name: str, at: int) -> Any:
    values = _all(said, name)
    return values[at] if at < len(values) else None


def _whole(said: Attributes, name: str) -> int:
    value = _first(said, name)
    return value if isinstance(value, int) else -1


def _text(said: Attributes, name: str, most: int = 120) -> str:
    value = _first(said, name)
    return str(value)[:most] if value is not None else ""
