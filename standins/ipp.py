"""Simulated printers on one socket, each at /ipp/NAME: what RFC 8011 and PWG 5100 ask a printer to answer."""

import asyncio
import uuid
import zlib
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any

from starlette.requests import Request
from starlette.responses import Response

from offsetter.devices.ipp_message import Attributes, BadMessage, Message, Tag, Value, decode, encode, of
from standins.engine import Engine, Job

OK, IGNORED = 0x0000, 0x0001
BAD, FORBIDDEN, NOT_POSSIBLE, NOT_FOUND, TOO_LARGE = 0x0400, 0x0401, 0x0404, 0x0406, 0x0408
NO_FORMAT, NOT_SUPPORTED, NO_CHARSET, NO_SCHEME, NO_COMPRESSION, BAD_DOCUMENT = 0x040A, 0x040B, 0x040D, 0x040C, 0x040F, 0x0411  # fmt: skip
NO_OPERATION, NO_VERSION, BUSY = 0x0501, 0x0503, 0x0507
MOST_DOCUMENT = 400_000_000
OPERATIONS = {
    0x02: "print", 0x04: "validate", 0x05: "create", 0x06: "send_document", 0x08: "cancel", 0x09: "get_job", 0x0A: "get_jobs",
    0x0B: "get_printer", 0x39: "cancel_mine", 0x3B: "close", 0x3C: "identify",
}  # fmt: skip
ON_JOBS = (0x06, 0x08, 0x09, 0x3B)
ASKS = ("copies", "sides", "print-quality", "print-scaling", "media", "media-col", "orientation-requested", "output-bin", "print-color-mode",
        "print-content-optimize", "print-rendering-intent", "printer-resolution", "finishings", "page-ranges", "multiple-document-handling",
        "job-name", "overrides", "ipp-attribute-fidelity")  # fmt: skip
DESCRIBES_JOB = ("copies", "sides", "print-quality", "print-scaling", "media", "media-col", "orientation-requested", "output-bin",
                 "print-color-mode", "printer-resolution", "finishings")  # fmt: skip


class No(Exception):
    """What is not done, and which attributes it is for."""

    def __init__(self, code: int, said: str = "", odd: Attributes | None = None) -> None:
        super().__init__(said)
        self.code, self.said, self.odd = code, said, odd or {}


Groups = list[tuple[int, Attributes]]


class IppPrinter:
    """One printer's answers."""

    def __init__(self, engine: Engine, uri: Callable[[], str]) -> None:
        self.engine, self._uri = engine, uri

    async def answer(self, request: Request) -> Response:
        body = await _whole(request)
        if "silent" in self.engine.faults or "power-cut" in self.engine.faults:
            await asyncio.sleep(30)
        try:
            asked, at = decode(body)
        except BadMessage:
            return Response(status_code=400)
        answer = await asyncio.to_thread(self._answer, asked, body[at:])
        if "swallows-answers" in self.engine.faults and asked.code == 0x02:
            await asyncio.sleep(30)
        return Response(encode(answer), media_type="application/ipp")

    def _answer(self, asked: Message, document: bytes) -> Message:
        head: Attributes = {"attributes-charset": of(Tag.CHARSET, "utf-8"), "attributes-natural-language": of(Tag.LANGUAGE, "en")}  # fmt: skip
        version = asked.version if asked.version[0] in (1, 2) else (2, 0)
        try:
            code, odd, groups = self._done(asked, document)
        except No as no:
            code, odd, groups = no.code, no.odd, []
            if no.said:
                head["status-message"] = of(Tag.TEXT, no.said)
        unsupported: Groups = [(Tag.UNSUPPORTED, odd)] if odd else []
        return Message(code, asked.request_id, ((Tag.OPERATION, head), *unsupported, *groups), version)

    def _done(self, asked: Message, document: bytes) -> tuple[int, Attributes, Groups]:
        head = asked.group(Tag.OPERATION)
        if asked.version[0] not in (1, 2):
            raise No(NO_VERSION, "version not supported")
        if asked.request_id <= 0:
            raise No(BAD, "request-id must be greater than 0")
        if not asked.groups or asked.groups[0][0] != Tag.OPERATION or asked.order[:2] != ("attributes-charset", "attributes-natural-language"):  # fmt: skip
            raise No(BAD, "charset and language come first")
        if str(_one(head, "attributes-charset")).lower() not in ("utf-8", "us-ascii"):
            raise No(NO_CHARSET, "utf-8 only")
        if asked.code not in OPERATIONS:
            raise No(NO_OPERATION, "operation not supported")
        third = asked.order[2] if len(asked.order) > 2 else ""
        if third not in ("printer-uri", "job-uri"):
            raise No(BAD, "no target")
        if third == "printer-uri" and not self._is_mine(str(_one(head, "printer-uri"))):
            raise No(NOT_FOUND, "no such printer")
        if "busy" in self.engine.faults and asked.code in (0x02, 0x05):
            raise No(BUSY, "busy")
        job = self._job_of(head) if asked.code in ON_JOBS else None
        found: tuple[int, Attributes, Groups] = getattr(self, f"_{OPERATIONS[asked.code]}")(asked, head, job, document)
        return found

    def _is_mine(self, uri: str) -> bool:
        return uri.rstrip("/").rsplit("/", 1)[-1] == self.engine.kind.name

    def _job_of(self, head: Attributes) -> Job:
        uri = str(_one(head, "job-uri") or "")
        number = _one(head, "job-id") if not uri else uri.rsplit("/", 1)[-1]
        try:
            return self.engine.jobs[int(number)]
        except (KeyError, TypeError, ValueError):
            raise No(NOT_FOUND, "no such job") from None

    def _checked(self, asked: Message, head: Attributes) -> tuple[int, Attributes]:
        """Whether a job could be done as it is asked for."""
        format = str(_one(head, "document-format") or "application/octet-stream")
        if format not in self.engine.kind.takes:
            raise No(NO_FORMAT, "format not supported", {"document-format": of(Tag.MIME, format)})
        compression = str(_one(head, "compression") or "none")
        if compression not in ("none", "gzip", "deflate"):
            raise No(NO_COMPRESSION, "compression not supported", {"compression": of(Tag.KEYWORD, compression)})
        wrong = {k: v for k, v in asked.group(Tag.JOB).items() if not self._does(k, v)}
        if wrong and _one(head, "ipp-attribute-fidelity") is True:
            raise No(NOT_SUPPORTED, "not everything that is asked for is done here", wrong)
        return (IGNORED if wrong else OK), wrong

    def _does(self, name: str, values: tuple[Value, ...]) -> bool:
        if name not in ASKS:
            return False
        known = self._printer().get(f"{name}-supported")
        first = values[0].data
        if name == "media-col":
            return all(m in ("media-size", "media-source", "media-type", "media-bottom-margin", "media-top-margin", "media-left-margin", "media-right-margin") for m in first)  # fmt: skip
        if known is None or name in ("overrides", "page-ranges"):
            return True
        if known[0].tag == Tag.RANGE:
            return bool(known[0].data[0] <= first <= known[0].data[1])
        return first in [v.data for v in known]

    def _print(self, asked: Message, head: Attributes, job: None, document: bytes) -> tuple[int, Attributes, Groups]:
        code, wrong = self._checked(asked, head)
        made = self._added(asked, head)
        self.engine.give(made, _unpacked(document, head), str(_one(head, "document-format") or "application/pdf"))
        return code, wrong, [(Tag.JOB, self._told(made, ("job-id", "job-uri", "job-state", "job-state-reasons")))]

    def _validate(self, asked: Message, head: Attributes, job: None, document: bytes) -> tuple[int, Attributes, Groups]:
        return *self._checked(asked, head), []

    def _create(self, asked: Message, head: Attributes, job: None, document: bytes) -> tuple[int, Attributes, Groups]:
        code, wrong = self._checked(asked, head)
        made = self._added(asked, head, is_open=True)
        return code, wrong, [(Tag.JOB, self._told(made, ("job-id", "job-uri", "job-state", "job-state-reasons")))]

    def _added(self, asked: Message, head: Attributes, *, is_open: bool = False) -> Job:
        wants = asked.group(Tag.JOB)
        media = _one(wants, "media-col")
        tray = str(_one(media, "media-source") or "") if isinstance(media, dict) else ""
        return self.engine.add(
            str(_one(head, "job-name") or ""), str(_one(head, "requesting-user-name") or "anonymous"), lambda n: f"{self._uri()}/{n}",
            copies=int(_one(wants, "copies") or 1), is_open=is_open,
            asked={"tray": tray, "ranges": [v.data for v in wants.get("page-ranges", ())]},
        )  # fmt: skip

    def _send_document(self, asked: Message, head: Attributes, job: Job, document: bytes) -> tuple[int, Attributes, Groups]:  # fmt: skip
        last = _one(head, "last-document")
        if last is None:
            raise No(BAD, "last-document is missing")
        if not job.is_open:
            raise No(NOT_POSSIBLE, "the job has its document")
        self._checked(asked, head)
        if document:
            self.engine.give(job, _unpacked(document, head), str(_one(head, "document-format") or "application/pdf"))
        elif last:
            self._ended(job)
        return OK, {}, [(Tag.JOB, self._told(job, ("job-id", "job-uri", "job-state", "job-state-reasons")))]

    def _close(self, asked: Message, head: Attributes, job: Job, document: bytes) -> tuple[int, Attributes, Groups]:
        if job.is_open:
            self._ended(job)
        return OK, {}, []

    def _ended(self, job: Job) -> None:
        with self.engine.lock:
            job.is_open, job.state, job.reasons, job.ended = False, 9, ("job-completed-successfully",), self.engine.now()  # fmt: skip

    def _cancel(self, asked: Message, head: Attributes, job: Job, document: bytes) -> tuple[int, Attributes, Groups]:
        if not self.engine.cancel(job):
            raise No(NOT_POSSIBLE, "the job is over")
        return OK, {}, []

    def _cancel_mine(self, asked: Message, head: Attributes, job: None, document: bytes) -> tuple[int, Attributes, Groups]:  # fmt: skip
        by = str(_one(head, "requesting-user-name") or "anonymous")
        for mine in self.engine.under_way():
            if mine.by == by:
                self.engine.cancel(mine)
        return OK, {}, []

    def _identify(self, asked: Message, head: Attributes, job: None, document: bytes) -> tuple[int, Attributes, Groups]:
        return OK, {}, []

    def _get_job(self, asked: Message, head: Attributes, job: Job, document: bytes) -> tuple[int, Attributes, Groups]:
        return OK, {}, [(Tag.JOB, _wanted(head, self._all_of(job), ()))]

    def _get_jobs(self, asked: Message, head: Attributes, job: None, document: bytes) -> tuple[int, Attributes, Groups]:
        which = str(_one(head, "which-jobs") or "not-completed")
        if which not in ("completed", "not-completed"):
            raise No(NOT_SUPPORTED, "", {"which-jobs": of(Tag.KEYWORD, which)})
        with self.engine.lock:
            found = [j for j in self.engine.jobs.values() if (j.state >= 7) == (which == "completed")]
        if _one(head, "my-jobs") is True:
            found = [j for j in found if j.by == str(_one(head, "requesting-user-name"))]
        found.sort(key=lambda j: -j.ended if which == "completed" else j.id)
        limit = _one(head, "limit")
        return (
            OK,
            {},
            [(Tag.JOB, _wanted(head, self._all_of(j), ("job-id", "job-uri"))) for j in found[: limit or None]],
        )

    def _get_printer(self, asked: Message, head: Attributes, job: None, document: bytes) -> tuple[int, Attributes, Groups]:  # fmt: skip
        format = _one(head, "document-format")
        if format is not None and format not in self.engine.kind.takes:
            raise No(NO_FORMAT, "", {"document-format": of(Tag.MIME, format)})
        return OK, {}, [(Tag.PRINTER, _wanted(head, self._printer(), ()))]

    # What it says of itself and of its jobs.

    def _told(self, job: Job, names: tuple[str, ...]) -> Attributes:
        return {k: v for k, v in self._all_of(job).items() if k in names}

    def _all_of(self, job: Job) -> Attributes:
        up = round(self.engine.now() - self.engine.began)
        at = lambda t: of(Tag.INTEGER, max(1, round(t - self.engine.began))) if t else of(Tag.NO_VALUE, None)  # noqa: E731
        on = lambda t: of(Tag.DATE, datetime.fromtimestamp(t, UTC)) if t else of(Tag.NO_VALUE, None)  # noqa: E731
        return {
            "job-id": of(Tag.INTEGER, job.id), "job-uri": of(Tag.URI, job.uri), "job-uuid": of(Tag.URI, _urn(job.uri)),
            "job-name": of(Tag.NAME, job.name), "job-originating-user-name": of(Tag.NAME, job.by), "job-printer-uri": of(Tag.URI, self._uri()),
            "job-state": of(Tag.ENUM, job.state), "job-state-reasons": of(Tag.KEYWORD, *job.reasons), "job-state-message": of(Tag.TEXT, ""),
            "job-printer-up-time": of(Tag.INTEGER, max(1, up)), "job-impressions": of(Tag.INTEGER, job.pages),
            "job-impressions-completed": of(Tag.INTEGER, job.done), "job-media-sheets": of(Tag.INTEGER, job.pages),
            "job-media-sheets-completed": of(Tag.INTEGER, job.done), "job-k-octets": of(Tag.INTEGER, len(job.document) // 1024),
            "time-at-creation": at(job.made), "time-at-processing": at(job.begun), "time-at-completed": at(job.ended),
            "date-time-at-creation": on(job.made), "date-time-at-processing": on(job.begun), "date-time-at-completed": on(job.ended),
            "copies": of(Tag.INTEGER, job.copies), "attributes-charset": of(Tag.CHARSET, "utf-8"), "attributes-natural-language": of(Tag.LANGUAGE, "en"),
        }  # fmt: skip

    def _printer(self) -> Attributes:
        kind, engine = self.engine.kind, self.engine
        colours = kind.containers
        papers = [_media(p.width_mm, p.length_mm, p.id, p.type) for p in kind.papers]
        names = [pwg_name(p.width_mm, p.length_mm) for p in kind.papers]
        types = sorted({p.type for p in kind.papers})
        uri = self._uri()
        host = uri.split("/ipp/")[0].replace("ipp://", "http://")
        queued = len(engine.under_way())
        whole = lambda *n: of(Tag.INTEGER, *n)  # noqa: E731
        word = lambda *w: of(Tag.KEYWORD, *w)  # noqa: E731
        return {
            "attributes-charset": of(Tag.CHARSET, "utf-8"), "attributes-natural-language": of(Tag.LANGUAGE, "en"),
            "printer-uri-supported": of(Tag.URI, uri), "uri-security-supported": word("none"), "uri-authentication-supported": word("none"),
            "printer-name": of(Tag.NAME, kind.name), "printer-info": of(Tag.TEXT, kind.said), "printer-make-and-model": of(Tag.TEXT, f"Simulated {kind.said.lower()}"),
            "printer-location": of(Tag.TEXT, "Lantern Quay"), "printer-geo-location": of(Tag.UNKNOWN, None), "printer-organization": of(Tag.TEXT, ""),
            "printer-organizational-unit": of(Tag.TEXT, ""), "printer-device-id": of(Tag.TEXT, f"MFG:Simulated;MDL:{kind.said};CMD:PDF,JPEG,PWGRaster;"),
            "printer-more-info": of(Tag.URI, host), "printer-supply-info-uri": of(Tag.URI, host), "printer-icons": of(Tag.URI, f"{host}/icon.png"),
            "printer-uuid": of(Tag.URI, _urn(kind.name)), "printer-state": of(Tag.ENUM, engine.state), "printer-state-reasons": word(*engine.reasons),
            "printer-state-message": of(Tag.TEXT, "" if engine.reasons == ("none",) else ", ".join(engine.reasons)),
            "printer-state-change-time": whole(1), "printer-state-change-date-time": of(Tag.DATE, datetime.fromtimestamp(engine.began, UTC)),
            "printer-config-change-time": whole(1), "printer-config-change-date-time": of(Tag.DATE, datetime.fromtimestamp(engine.began, UTC)),
            "printer-is-accepting-jobs": of(Tag.BOOLEAN, True), "queued-job-count": whole(queued),
            "printer-up-time": whole(max(1, round(engine.now() - engine.began))), "printer-current-time": of(Tag.DATE, datetime.fromtimestamp(engine.now(), UTC)),
            "ipp-versions-supported": word("1.1", "2.0"), "ipp-features-supported": word("ipp-everywhere"),
            "operations-supported": of(Tag.ENUM, *OPERATIONS), "charset-configured": of(Tag.CHARSET, "utf-8"), "charset-supported": of(Tag.CHARSET, "utf-8", "us-ascii"),
            "natural-language-configured": of(Tag.LANGUAGE, "en"), "generated-natural-language-supported": of(Tag.LANGUAGE, "en"),
            "document-format-default": of(Tag.MIME, "application/octet-stream"), "document-format-supported": of(Tag.MIME, *self.engine.kind.takes),
            "compression-supported": word("none", "deflate", "gzip"), "pdl-override-supported": word("attempted"),
            "multiple-document-jobs-supported": of(Tag.BOOLEAN, False), "multiple-operation-time-out": whole(120), "multiple-operation-time-out-action": word("abort-job"),
            "which-jobs-supported": word("completed", "not-completed"), "job-ids-supported": of(Tag.BOOLEAN, True),
            "preferred-attributes-supported": of(Tag.BOOLEAN, False), "color-supported": of(Tag.BOOLEAN, True), "pages-per-minute": whole(6), "pages-per-minute-color": whole(6),
            "identify-actions-default": word("display"), "identify-actions-supported": word("display"), "pwg-raster-document-resolution-supported": of(Tag.RESOLUTION, (300, 300, 3), (600, 600, 3)),
            "pwg-raster-document-sheet-back": word("normal"), "pwg-raster-document-type-supported": word("sgray_8", "srgb_8", "rgb_8"),
            "job-creation-attributes-supported": word(*ASKS), "media-col-supported": word("media-size", "media-source", "media-type", "media-bottom-margin", "media-left-margin", "media-right-margin", "media-top-margin"),
            "media-default": word(names[0]), "media-ready": word(*names), "media-supported": word(*dict.fromkeys(names)), "media-col-default": of(Tag.COLLECTION, papers[0]),
            "media-col-ready": of(Tag.COLLECTION, *papers), "media-col-database": of(Tag.COLLECTION, *papers), "media-size-supported": of(Tag.COLLECTION, *[p["media-size"][0].data for p in papers]),
            "media-type-supported": word(*types), "media-source-supported": word(*[p.id for p in kind.papers]),
            **{f"media-{side}-margin-supported": whole(0, 300) for side in ("bottom", "left", "right", "top")},
            "copies-default": whole(1), "copies-supported": of(Tag.RANGE, (1, 99)), "sides-default": word("one-sided"), "sides-supported": word("one-sided"),
            "orientation-requested-default": of(Tag.NO_VALUE, None), "orientation-requested-supported": of(Tag.ENUM, 3, 4, 5, 6),
            "output-bin-default": word("face-up"), "output-bin-supported": word("face-up"), "finishings-default": of(Tag.ENUM, 3), "finishings-supported": of(Tag.ENUM, 3),
            "print-color-mode-default": word("color"), "print-color-mode-supported": word("auto", "color", "monochrome"),
            "print-content-optimize-default": word("auto"), "print-content-optimize-supported": word("auto"),
            "print-rendering-intent-default": word("auto"), "print-rendering-intent-supported": word("auto"), "print-scaling-default": word("none"),
            "print-scaling-supported": word("auto", "none"), "print-quality-default": of(Tag.ENUM, 5), "print-quality-supported": of(Tag.ENUM, 4, 5),
            "printer-resolution-default": of(Tag.RESOLUTION, (kind.dpi, kind.dpi, 3)), "printer-resolution-supported": of(Tag.RESOLUTION, *sorted({(300, 300, 3), (kind.dpi, kind.dpi, 3)})),
            "page-ranges-supported": of(Tag.BOOLEAN, True), "overrides-supported": word("document-number", "document-numbers", "pages"), "job-priority-supported": whole(1), "job-priority-default": whole(50),
            "printer-get-attributes-supported": word("document-format"), "printer-settable-attributes-supported": word("none"), "job-constraints-supported": of(Tag.NO_VALUE, None),
            "marker-names": of(Tag.NAME, *[c.name for c in colours]), "marker-colors": of(Tag.NAME, *[c.colour for c in colours]), "marker-types": word(*[c.kind for c in colours]),
            "marker-levels": whole(*[engine.level(c) for c in colours]), "marker-low-levels": whole(*[10 if c.channel else 0 for c in colours]), "marker-high-levels": whole(*[100 for _ in colours]),
            "printer-supply": of(Tag.OCTETS, *[_supply(i, c.name, c.kind, engine.level(c)) for i, c in enumerate(colours, 1)]),
            "printer-supply-description": of(Tag.TEXT, *[c.name for c in colours]),
            "printer-input-tray": of(Tag.OCTETS, *[f"index={i};type=sheetFeedAutoRemovableTray;maxcapacity={round(p.most)};level={round(p.left)};name={p.id};".encode() for i, p in enumerate(kind.papers, 1)]),
        }  # fmt: skip


def pwg_name(width_mm: float, length_mm: float) -> str:
    """PWG 5101.1: a class, a name, both sizes."""
    if (width_mm, length_mm) == (210, 297):
        return "iso_a4_210x297mm"
    if (width_mm, length_mm) == (215.9, 279.4):
        return "na_letter_8.5x11in"
    return f"custom_{width_mm:g}x{length_mm:g}mm_{width_mm:g}x{length_mm:g}mm"


def _media(width_mm: float, length_mm: float, source: str, type: str) -> Attributes:
    size = {"x-dimension": of(Tag.INTEGER, round(width_mm * 100)), "y-dimension": of(Tag.INTEGER, round(length_mm * 100))}  # fmt: skip
    margins = {f"media-{side}-margin": of(Tag.INTEGER, 0) for side in ("bottom", "left", "right", "top")}
    return {"media-size": of(Tag.COLLECTION, size), **margins, "media-source": of(Tag.KEYWORD, source), "media-type": of(Tag.KEYWORD, type)}  # fmt: skip


def _supply(index: int, name: str, kind: str, level: int) -> bytes:
    fills = "waste" in kind
    sort = {"toner": "toner", "opc": "opc", "ink-cartridge": "inkCartridge", "ink-tank": "ink"}.get(kind, "wasteToner")
    held = "receptacleThatIsFilled" if fills else "supplyThatIsConsumed"
    return f"index={index};class={held};type={sort};unit=percent;maxcapacity=100;level={level};colorantname={name};".encode()


def _urn(of_what: str) -> str:
    return f"urn:uuid:{uuid.uuid5(uuid.NAMESPACE_URL, of_what)}"


def _one(said: Any, name: str) -> Any:
    values = said.get(name, ()) if isinstance(said, dict) else ()
    return values[0].data if values else None


GROUPS = {"all", "printer-description", "job-template", "job-description", "media-col-database", "printer-defaults"}
LARGE = {"media-col-database"}


def _wanted(head: Attributes, found: Attributes, usual: tuple[str, ...]) -> Attributes:
    names = [str(v.data) for v in head.get("requested-attributes", ())] or list(usual)
    if not names or "all" in names:
        return {k: v for k, v in found.items() if k not in LARGE or k in names}
    template = lambda k: k.endswith(("-default", "-supported", "-ready")) and k.rsplit("-", 1)[0] in DESCRIBES_JOB  # noqa: E731
    return {
        k: v for k, v in found.items()
        if k in names or (k not in LARGE and (
            ("job-template" in names and (template(k) or k in DESCRIBES_JOB)) or ("printer-description" in names and not template(k))
            or ("job-description" in names and k not in DESCRIBES_JOB)))
    }  # fmt: skip


def _unpacked(document: bytes, head: Attributes) -> bytes:
    how = _one(head, "compression")
    if how not in ("gzip", "deflate"):
        return document
    try:
        return zlib.decompress(document, 47 if how == "gzip" else -15)
    except zlib.error:
        try:
            return zlib.decompress(document)
        except zlib.error:
            raise No(BAD_DOCUMENT, "the document cannot be unpacked") from None


async def _whole(request: Request) -> bytes:
    body = bytearray()
    async for part in request.stream():
        body += part
        if len(body) > MOST_DOCUMENT:
            break
    return bytes(body)
