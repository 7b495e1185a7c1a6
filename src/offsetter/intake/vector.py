"""PDF pages and SVG drawings into pixels, at any size: they stay vector, and a larger print is drawn anew.

Runs in the child process alone: pdfium and resvg read hostile files, and pdfium is not safe among threads.
"""

import base64
import math
import re
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from offsetter.core.units import MM_PER_INCH
from offsetter.core.values import Finding, Refusal
from offsetter.core.values.pixels import most_enlarged
from offsetter.intake.names import FONT
from offsetter.intake.spots import part_pdf, under_colour

Bytes = NDArray[np.uint8]
KEPT = "Nothing was added to the job."
MEASURED_PX = 3000
"""Longer side at which a drawing is measured."""
MOST_PAGES = 200
MOST_SVG_BYTES = 20 * 1024 * 1024
CSS_PX_PER_INCH = 96.0  # CSS Values and Units 4: one px is 1/96 in
FONT_FAMILY = "Atkinson Hyperlegible Next"
GENERIC = {"serif", "sans-serif", "monospace", "cursive", "fantasy", "system-ui", "inherit", "initial"}
UNITS_MM = {"": MM_PER_INCH / CSS_PX_PER_INCH, "px": MM_PER_INCH / CSS_PX_PER_INCH, "mm": 1.0, "cm": 10.0, "in": MM_PER_INCH,
            "pt": MM_PER_INCH / 72, "pc": MM_PER_INCH / 6, "q": 0.25}  # fmt: skip
LENGTH = re.compile(r"^\s*([0-9.eE+-]+)\s*(px|mm|cm|in|pt|pc|q)?\s*$", re.I)
INSIDE = re.compile(r"^\s*(#[\w.-]+|data:image/(png|jpeg|jpg);base64,[\w+/=\s]+)\s*$")
OUTSIDE_CSS = re.compile(r"@import[^;]*;?|url\(\s*['\"]?(?!#)[^)]*\)", re.I)
FAMILY = re.compile(r"font-family\s*:\s*([^;]+)", re.I)


@dataclass(frozen=True, slots=True)
class Drawing:
    """One page at the size asked for: rgba (rows, columns, 4; straight alpha), and what the file says of itself."""

    rgba: Bytes
    kind: str
    real_mm: tuple[float, float]
    pages: int
    notes: tuple[Finding, ...]
    raster_ppi: float | None = None
    """Of the coarsest picture placed on the page, at the page's own size; None: there is none."""
    white: Bytes | None = None
    """Rows, columns, 255 full ink: the page's own white, which stands under the colours of rgba; None: it has none."""
    white_name: str = ""
    scale: float = 1.0
    """How many times larger than it is measured at it was drawn: the one asked for, or the largest that can be held."""


def kind_of(path: Path) -> str:
    """pdf, svg, or empty for something else, by what the file begins with."""
    with path.open("rb") as file:
        head = file.read(8192)
    if b"%PDF-" in head[:1024]:
        return "pdf"
    text = head.lstrip(b"\xef\xbb\xbf \t\r\n")
    return "svg" if text.startswith(b"<") and b"<svg" in head else ""


def draw(path: Path, name: str, *, page: int = 1, scale: float = 1.0) -> Drawing:
    """The page at MEASURED_PX on its longer side, times scale. Raises Refusal in three parts."""
    return _pdf(path, name, page, scale) if kind_of(path) == "pdf" else _svg(path, name, scale)


def _pdf(path: Path, name: str, page: int, scale: float) -> Drawing:
    import pypdfium2 as pdfium

    try:
        document = pdfium.PdfDocument(path)
        count = len(document)
    except pdfium.PdfiumError as broken:
        if "password" in str(broken).lower():
            raise Refusal(
                "locked", f"“{name}” is locked with a password.", KEPT, "Ask for the file without one."
            ) from broken
        raise Refusal(
            "broken-file",
            f"“{name}” is damaged: its pages cannot be read.",
            KEPT,
            "Ask for the file again, or for a PNG.",
        ) from broken
    if count > MOST_PAGES:
        raise Refusal(
            "too-many-pages",
            f"“{name}” has {count} pages; up to {MOST_PAGES} are read.",
            KEPT,
            "Send the page that is meant alone.",
        )
    if not 1 <= page <= count:
        raise Refusal(
            "no-such-page", f"“{name}” has {count} pages and no page {page}.", KEPT, f"Choose a page from 1 to {count}."
        )
    try:
        sheet = document[page - 1]
        wide, high = sheet.get_size()
        real = (wide / 72 * MM_PER_INCH, high / 72 * MM_PER_INCH)
        scale = _fitting(wide, high, scale, name)
        coarsest = _coarsest_in_pdf(sheet)
        parted = part_pdf(path, page)
        if parted is not None:
            sheet = pdfium.PdfDocument(parted.colour)[0]
        at = MEASURED_PX * scale / max(wide, high)
        rgba = sheet.render(scale=at, fill_color=(0, 0, 0, 0), maybe_alpha=True, rev_byteorder=True).to_numpy()
        white = None
        if parted is not None:
            alone = pdfium.PdfDocument(parted.white)[0].render(
                scale=at, fill_color=(255, 255, 255, 255), grayscale=True
            )
            white = np.ascontiguousarray(255 - alone.to_numpy().reshape(rgba.shape[:2]))
    except pdfium.PdfiumError as broken:
        raise Refusal(
            "broken-file", f"Page {page} of “{name}” is damaged.", KEPT, "Ask for the file again, or for a PNG."
        ) from broken
    if rgba.shape[2] == 3:
        rgba = np.dstack([rgba, np.full(rgba.shape[:2], 255, np.uint8)])
    if white is not None:
        rgba = under_colour(rgba, white)
    white_name = parted.name if parted else ""
    notes = []
    if count > 1:
        notes.append(
            _note("pages", f"Page {page} of {count} is used", "A print has one page.", "Choose another page at Order.")
        )
    spots = [s for s in _spots(path, page) if s != white_name]
    if spots:
        notes.append(_note("spot-colours", f"Spot colours are named in the file: {', '.join(spots)}", "They are drawn with the colour that stands in for them.",
                           "Compare them with what the customer means.", severity="caution"))  # fmt: skip
    return Drawing(np.ascontiguousarray(rgba), "PDF", real, count, tuple(notes), coarsest, white, white_name, scale)


LEAST_PX = 4
"""A picture of fewer pixels is a flat fill."""


def _coarsest_in_pdf(sheet: Any) -> float | None:
    """Pixels an inch of the coarsest picture on a page, as it is placed."""
    import pypdfium2.raw as raw

    found = []
    for thing in sheet.get_objects(filter=[raw.FPDF_PAGEOBJ_IMAGE]):
        wide_px, high_px = thing.get_px_size()
        if wide_px * high_px <= LEAST_PX:
            continue
        placed, around = thing.get_matrix(), thing.container
        while around is not None:  # a form is placed by its own matrix, in whatever holds it
            placed, around = placed.multiply(around.get_matrix()), around.container
        a, b, c, d, _, _ = placed.get()
        across, down = math.hypot(a, b) / 72, math.hypot(c, d) / 72
        if across > 0 and down > 0:
            found.append(min(wide_px / across, high_px / down))
    return round(min(found), 2) if found else None


def _spots(path: Path, page: int) -> tuple[str, ...]:
    """Names of the page's spot colours."""
    import pikepdf

    found: dict[str, None] = {}

    def look(space: object) -> None:
        if isinstance(space, pikepdf.Array) and len(space) > 1:
            if space[0] == "/Separation":
                found[str(space[1]).removeprefix("/")] = None
            elif space[0] == "/DeviceN":
                found.update(dict.fromkeys(str(n).removeprefix("/") for n in space[1]))

    try:
        with pikepdf.open(path) as document:
            resources: Any = document.pages[page - 1].get("/Resources", {})
            for space in dict(resources.get("/ColorSpace", {})).values():
                look(space)
            for thing in dict(resources.get("/XObject", {})).values():
                look(thing.get("/ColorSpace"))
                for space in dict(thing.get("/Resources", {}).get("/ColorSpace", {})).values():
                    look(space)
    except (pikepdf.PdfError, KeyError, ValueError, TypeError, RecursionError):
        return ()
    return tuple(n for n in found if n not in ("All", "None", "Cyan", "Magenta", "Yellow", "Black"))


def _svg(path: Path, name: str, scale: float) -> Drawing:
    import resvg_py
    from defusedxml import DefusedXmlException
    from defusedxml import ElementTree as safe

    if path.stat().st_size > MOST_SVG_BYTES:
        raise Refusal(
            "too-large",
            f"“{name}” is larger than {MOST_SVG_BYTES // 2**20} MB of drawing.",
            KEPT,
            "Save it without embedded pictures.",
        )
    try:
        root = safe.fromstring(path.read_bytes())
    except DefusedXmlException as hostile:
        raise Refusal(
            "hostile-file",
            f"“{name}” defines entities, which a drawing does not need.",
            KEPT,
            "Export it as a plain SVG.",
        ) from hostile
    except (safe.ParseError, ValueError, RecursionError) as broken:
        raise Refusal(
            "broken-file", f"“{name}” is damaged: it is no well-formed SVG.", KEPT, "Export it anew."
        ) from broken
    if not str(root.tag).endswith("svg"):
        raise Refusal("not-a-picture", f"“{name}” is XML, but no drawing.", KEPT, "Export it as SVG or PNG.")
    real = _svg_size(root, name)
    dropped, lost = _cleaned(root)
    coarsest = _coarsest_in_svg(root, real)
    scale = _fitting(*real, scale, name)
    width = max(1, round(MEASURED_PX * scale * real[0] / max(real)))
    try:
        # Width and height of its own would fight with the width asked for.
        png = resvg_py.svg_to_bytes(
            svg_string=_text(root), width=width, skip_system_fonts=True, font_files=[str(FONT)],
            font_family=FONT_FAMILY, serif_family=FONT_FAMILY, sans_serif_family=FONT_FAMILY, cursive_family=FONT_FAMILY, fantasy_family=FONT_FAMILY,
            monospace_family=FONT_FAMILY,
        )  # fmt: skip
    except ValueError as broken:
        raise Refusal(
            "broken-file", f"“{name}” cannot be drawn: {broken}.", KEPT, "Export it anew, with text as outlines."
        ) from broken
    read = cv2.imdecode(np.frombuffer(png, np.uint8), cv2.IMREAD_UNCHANGED)
    if read is None or read.ndim != 3:
        raise Refusal("broken-file", f"“{name}” cannot be drawn.", KEPT, "Export it anew.")
    rgba = np.asarray(cv2.cvtColor(read, cv2.COLOR_BGRA2RGBA), dtype=np.uint8)
    notes = []
    if lost:
        notes.append(_note("font-missing", f"{'The font' if len(lost) == 1 else 'Fonts'} {', '.join(lost)} {'is' if len(lost) == 1 else 'are'} not here: drawn in {FONT_FAMILY}",
                           "Only shipped fonts are drawn with.", "Ask for the file with its text as outlines.", severity="caution"))  # fmt: skip
    if dropped:
        notes.append(_note("outside-reference", f"{dropped} {'reference' if dropped == 1 else 'references'} to something outside the file {'is' if dropped == 1 else 'are'} left out",
                           "A drawing is read alone: nothing is fetched.", "Ask for the file with its pictures embedded.", severity="caution"))  # fmt: skip
    return Drawing(np.ascontiguousarray(rgba), "SVG", real, 1, tuple(notes), coarsest, scale=scale)


def _coarsest_in_svg(root: Any, real: tuple[float, float]) -> float | None:
    """Pixels an inch of the coarsest embedded picture, as it is placed; turning does not matter, slanting is not followed."""
    box = [float(n) for n in re.findall(r"[-+0-9.eE]+", root.get("viewBox") or "")[:4] if _is_number(n)]
    if len(box) != 4 or box[2] <= 0:
        return None
    found: list[float] = []

    def look(element: Any, scale: float) -> None:
        scale *= _scale_of(element.get("transform") or "")
        if str(element.tag).rsplit("}", 1)[-1] == "image":
            size = _embedded_px(next((v for k, v in element.attrib.items() if k.rsplit("}", 1)[-1] == "href"), ""))
            match = LENGTH.match(element.get("width") or "")
            if size and size[0] * size[1] > LEAST_PX and match and _is_number(match[1]):
                user = float(match[1]) * UNITS_MM[(match[2] or "").lower()] / UNITS_MM[""]
                across = user * scale * real[0] / box[2] / MM_PER_INCH
                if across > 0:
                    found.append(size[0] / across)
        for child in element:
            look(child, scale)

    look(root, 1.0)
    return round(min(found), 2) if found else None


def _scale_of(transform: str) -> float:
    """How much larger a transform makes things, whatever it does besides."""
    scale = 1.0
    for name, given in re.findall(r"(matrix|scale)\(([^)]*)\)", transform):
        v = [float(n) for n in re.findall(r"[-+0-9.eE]+", given) if _is_number(n)]
        if name == "scale" and v:
            scale *= math.sqrt(abs(v[0] * v[-1]))
        elif len(v) == 6:
            scale *= math.sqrt(abs(v[0] * v[3] - v[1] * v[2]))
    return scale


def _embedded_px(href: str) -> tuple[int, int] | None:
    if not href.startswith("data:"):
        return None
    try:
        read = cv2.imdecode(np.frombuffer(base64.b64decode(href.split(",", 1)[1]), np.uint8), cv2.IMREAD_UNCHANGED)
    except (ValueError, IndexError, cv2.error):
        return None
    return None if read is None else (int(read.shape[1]), int(read.shape[0]))


def _svg_size(root: object, name: str) -> tuple[float, float]:
    """Width and height in mm: as the drawing says, or its view box at 96 px an inch (CSS)."""
    get = root.get  # type: ignore[attr-defined]
    box = [float(n) for n in re.findall(r"[-+0-9.eE]+", get("viewBox") or "")[:4] if _is_number(n)]
    sides = []
    for key, at in (("width", 2), ("height", 3)):
        match = LENGTH.match(get(key) or "")
        if match and _is_number(match[1]):
            sides.append(float(match[1]) * UNITS_MM[(match[2] or "").lower()])
        elif len(box) == 4:
            sides.append(box[at] * UNITS_MM[""])
    if len(sides) != 2 or min(sides) <= 0 or max(sides) > 100_000:
        raise Refusal(
            "no-size", f"“{name}” does not say how large it is.", KEPT, "Export it with a width and a height."
        )
    if len(box) == 4 and box[2] > 0 and box[3] > 0 and "%" in f"{get('width')}{get('height')}":
        sides = [box[2] * UNITS_MM[""], box[3] * UNITS_MM[""]]
    if len(box) != 4:
        plain = [s / UNITS_MM[""] for s in sides]
        root.set("viewBox", f"0 0 {plain[0]:.4f} {plain[1]:.4f}")  # type: ignore[attr-defined]
    return sides[0], sides[1]


def _is_number(text: str) -> bool:
    try:
        return abs(float(text)) < 1e9
    except ValueError:
        return False


def _cleaned(root: object) -> tuple[int, tuple[str, ...]]:
    """Take out what points outside the file and scripts; gives how much, and fonts that are not shipped."""
    dropped, families = 0, dict[str, None]()
    for parent in list(root.iter()):  # type: ignore[attr-defined]
        for child in list(parent):
            if str(child.tag).rsplit("}", 1)[-1] in ("script", "foreignObject"):
                parent.remove(child)
        for key, value in list(parent.attrib.items()):
            plain = key.rsplit("}", 1)[-1]
            if plain == "href" and not INSIDE.match(value):
                del parent.attrib[key]
                dropped += 1
            elif OUTSIDE_CSS.search(value):
                parent.attrib[key] = OUTSIDE_CSS.sub("none", value)
                dropped += 1
            if plain == "font-family":
                families.update(dict.fromkeys(_lost(value)))
                parent.attrib[key] = FONT_FAMILY
            elif plain == "style" and (found := FAMILY.search(value)):
                families.update(dict.fromkeys(_lost(found[1])))
                parent.attrib[key] = FAMILY.sub(f"font-family:{FONT_FAMILY}", value)
        if str(parent.tag).endswith("style") and parent.text:
            dropped += len(OUTSIDE_CSS.findall(parent.text))
            for found in FAMILY.findall(parent.text):
                families.update(dict.fromkeys(_lost(found)))
            parent.text = FAMILY.sub(f"font-family:{FONT_FAMILY}", OUTSIDE_CSS.sub("", parent.text))
    return dropped, tuple(families)


def _lost(families: str) -> list[str]:
    """The family asked for first, when it is not shipped."""
    first = families.split(",")[0].strip().strip("'\"").split("}")[0].strip()
    return [] if not first or first.lower() in GENERIC or first.startswith("Atkinson Hyperlegible") else [first]


def _text(root: object) -> str:
    from xml.etree import ElementTree

    for key in ("width", "height"):
        root.attrib.pop(key, None)  # type: ignore[attr-defined]
    return ElementTree.tostring(root, encoding="unicode")  # type: ignore[call-overload,no-any-return]


def _fitting(wide: float, high: float, scale: float, name: str) -> float:
    """The scale, or the largest below it at which a picture may be held: what is larger still in print is enlarged from there."""
    narrow = min(wide, high) / max(wide, high)
    if narrow * MEASURED_PX * scale < 1:
        raise Refusal("no-size", f"“{name}” is a line without width.", KEPT, "Check the page's size.")
    return min(scale, most_enlarged(MEASURED_PX, narrow * MEASURED_PX))


def _note(code: str, message: str, why: str, fix: str = "", *, severity: str = "note") -> Finding:
    return Finding.model_validate({"code": code, "severity": severity, "message": message, "why": why, "fix_text": fix})
