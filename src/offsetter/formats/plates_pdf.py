"""Plates as PDF with a spot colour named White that overprints; one print, or a whole run a cut length a page."""

import io
from collections.abc import Iterable
from itertools import product
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import imagecodecs
import numpy as np
import pikepdf
from numpy.typing import NDArray
from pikepdf import Array, Dictionary, Name, Stream
from reportlab.pdfgen.canvas import Canvas

from offsetter.core.compute.contour import CutPath, dense
from offsetter.core.compute.sheet import Place, Points, RunLayout
from offsetter.core.compute.tiles import Tile
from offsetter.core.facts.inks import FOUR, INKS, WHITE
from offsetter.core.values import Frozen
from offsetter.formats.plates_tiff import let_go, plate_name
from offsetter.formats.qr import draw_qr
from offsetter.formats.typeface import settable, use_font, wide_pt

POINTS_PER_MM = 72 / 25.4
WHITE_ON_SCREEN = [0.25, 0.0, 0.0, 0.0]
LABEL_SIZE_PT = 8
QR_SHARE = 0.92
"""Of the strip: what is left is bare."""
QR_FROM_MM = 28
"""Beside a narrower print its words need the room."""
TICK_MM = 2.5
CMYK = b"CMYK"
"""As a profile's header says what it is of (ICC.1, 7.2.6)."""
CUT_STEP_MM = 0.1
MOST_HELD = 100_000_000
"""Bytes of plates, before they are packed, that wait in memory for a run to be written."""
BAND_BYTES = 100_000_000
"""Of a print that is larger, in one picture of the file."""
CROP_FROM_MM, CROP_TO_MM = 1.0, 5.0
"""Where a crop mark begins and ends, off its corner: from memory."""


class SortLabel(Frozen):
    name: str
    placing: str
    title: str = ""
    """Of its job, where a run carries several."""


class RunLabels(Frozen):
    title: str
    run: str
    mirrored: bool
    """The placing is read through the carrier, from its back: it is set as the picture is."""
    sorts: tuple[SortLabel, ...]
    crop_marks: bool = False
    """At the corners of every print, for whoever trims them with a rule."""


def write_pdf(
    path: Path, planes: NDArray[np.uint8], width_mm: float, height_mm: float, channels: tuple[str, ...], profile: bytes | None = None
) -> None:  # fmt: skip
    """One page, exactly as large as the print. channels: of planes; none where they are a driver's RGB, which profile is then of."""
    with TemporaryDirectory(dir=path.parent) as beside:
        prints = _Prints(Path(beside), profile)
        prints.add("Print", planes, channels)
        pdf = prints.pdf
        form = prints.form("Print", width_mm, height_mm)
        page = pdf.add_blank_page(page_size=(width_mm * POINTS_PER_MM, height_mm * POINTS_PER_MM))
        page.Resources = Dictionary(XObject=Dictionary(Print=form))
        page.Contents = Stream(pdf, b"/Print Do")
        del pdf.Root.Prints
        _intend(pdf, profile)
        pdf.save(path, compress_streams=False)


def write_run_pdf(
    path: Path, plates: Iterable[tuple[NDArray[np.uint8], tuple[str, ...]]], layout: RunLayout, labels: RunLabels, profile: bytes | None = None,
    cuts: tuple[tuple[CutPath, ...], ...] = (),
) -> None:  # fmt: skip
    """A page a cut length, as wide as the roll. plates: of each sort, unturned, with its channels.

    Beside every print and outside it: what it is, ticks on its centre line, an arrow to its top, its distance from the collar.
    """
    turned = {p.sort: p.quarters for p in layout.places}
    with TemporaryDirectory(dir=path.parent) as beside:
        prints = _Prints(Path(beside), profile)
        for sort, (planes, channels) in enumerate(plates):
            prints.add(f"Print{sort}", np.rot90(planes, turned[sort]) if turned[sort] else planes, channels)
        forms = {
            f"/Print{sort}": prints.form(f"Print{sort}", size.width_um / 1000, size.height_um / 1000, size.outline)
            for sort, size in enumerate(layout.sorts)
        }
        _write_pages(prints.pdf, forms, path, layout, labels, profile, cuts)


class _Prints:
    """The pictures of a file's prints. Large ones are in bands, and what is packed goes to a file beside now and then: neither a long
    roll's plates nor one large print's are ever in memory together."""

    def __init__(self, beside: Path, profile: bytes | None) -> None:
        self.pdf = pikepdf.new()
        self.pdf.Root.Prints = Dictionary()
        self._beside, self._profile, self._held, self._files = beside, profile, 0, 0
        self._bands: dict[str, list[tuple[float, float]]] = {}
        self._white: dict[str, bool] = {}

    def add(self, name: str, planes: NDArray[np.uint8], channels: tuple[str, ...]) -> None:
        """planes: rows, columns, channels, as they lie; no channels: of a driver's RGB."""
        rows, columns, inks = planes.shape
        deep = max(1, BAND_BYTES // (columns * inks))
        has_white = WHITE in channels
        colours = channels[:-1] if has_white else channels
        self.pdf.Root.Prints[f"/{name}"] = Dictionary()
        self._bands[name], self._white[name] = [], has_white
        for at, top in enumerate(range(0, rows, deep)):
            # One row more than its own, which the next lays over it: no seam is ever bare.
            end = min(rows, top + deep + 1)
            band, images = planes[top:end], self.pdf.Root.Prints[f"/{name}"]
            images[f"/Colour{at or ''}"] = _image(self.pdf, band[..., : len(colours) or inks], self._space(colours))
            if has_white:
                images[f"/White{at or ''}"] = _image(self.pdf, band[..., -1], _spot(Name.White, WHITE_ON_SCREEN))
            self._bands[name].append((1 - end / rows, (end - top) / rows))
            let_go(planes)
            self._held += band.nbytes
            if self._held > MOST_HELD:
                self._put_down()

    def form(self, name: str, width_mm: float, height_mm: float, outline: Points = ()) -> pikepdf.Object:
        """A print at its size. outline: what of its box is its own; bare dots of a picture would else wipe out a neighbour's ink."""
        wide, high = width_mm * POINTS_PER_MM, height_mm * POINTS_PER_MM
        content = []
        if outline:
            points = [f"{x / 1000 * POINTS_PER_MM:.4f} {y / 1000 * POINTS_PER_MM:.4f}" for x, y in outline]
            path = " ".join(f"{point} {'l' if at else 'm'}" for at, point in enumerate(points))
            content.append(f"{path} h W n")
        for of in ("Colour", "White")[: 1 + self._white[name]]:
            for at, (low, deep) in enumerate(self._bands[name]):
                over = "/Over gs " if of == "White" else ""
                content.append(f"q {over}{wide:.5f} 0 0 {deep * high:.5f} 0 {low * high:.5f} cm /{of}{at or ''} Do Q")
        over_white = Dictionary(Type=Name.ExtGState, OP=True, op=True, OPM=1)
        form = Stream(
            self.pdf, "\n".join(content).encode(), Type=Name.XObject, Subtype=Name.Form, BBox=[0, 0, wide, high],
            Resources=Dictionary(XObject=self.pdf.Root.Prints[f"/{name}"], ExtGState=Dictionary(Over=over_white)),
        )  # fmt: skip
        return self.pdf.make_indirect(form)

    def _space(self, colours: tuple[str, ...]) -> pikepdf.Object:
        if colours == FOUR:
            return Name.DeviceCMYK
        if colours:
            return _many_inks(self.pdf, colours)
        if not self._profile:
            return Name.DeviceRGB
        # Tagged with the printer's own profile: a program that manages colour then leaves the values alone.
        return Array([Name.ICCBased, self.pdf.make_indirect(Stream(self.pdf, self._profile, N=3, Alternate=Name.DeviceRGB))])  # fmt: skip

    def _put_down(self) -> None:
        self._files += 1
        path = self._beside / f"{self._files}.pdf"
        self.pdf.save(path, compress_streams=False)
        self.pdf.close()
        self.pdf, self._held = pikepdf.open(path, access_mode=pikepdf.AccessMode.stream), 0


def _write_pages(
    pdf: pikepdf.Pdf, forms: dict[str, pikepdf.Object], path: Path, layout: RunLayout, labels: RunLabels, profile: bytes | None,
    cuts: tuple[tuple[CutPath, ...], ...],
) -> None:  # fmt: skip
    del pdf.Root.Prints
    # Held open until the run is written: its pages are copied from it.
    labelled = pikepdf.open(io.BytesIO(_labels(layout, labels)))
    for cut, length_um in enumerate(layout.cut_lengths_um, 1):
        page = pdf.add_blank_page(page_size=(layout.media_um / 1000 * POINTS_PER_MM, length_um / 1000 * POINTS_PER_MM))
        marks = pdf.copy_foreign(labelled.pages[cut - 1].as_form_xobject())
        page.Resources = Dictionary(XObject=Dictionary({**forms, "/Labels": marks}))
        drawn = ["/Labels Do"]
        for place, tile in _on(layout, cut):
            x, y = _pt(place.x_um), _pt(place.y_um)
            clip = (
                f"{_pt(tile.x_um):.4f} {_pt(tile.y_um):.4f} {_pt(tile.width_um):.4f} {_pt(tile.height_um):.4f} re W n "
                if tile
                else ""
            )
            drawn.append(f"q {clip}1 0 0 1 {x:.4f} {y:.4f} cm /Print{place.sort} Do Q")
        if cuts:
            page.Resources.ColorSpace = Dictionary(Cut=_spot(Name.Cut, [0.0, 1.0, 0.0, 0.0]))
            page.Resources.ExtGState = Dictionary(Over=Dictionary(OP=True, op=True, OPM=1))
            drawn.append(_cut_lines(cuts[cut - 1], length_um / 1000))
        page.Contents = Stream(pdf, "\n".join(drawn).encode())
    _intend(pdf, profile)
    pdf.save(path, compress_streams=False)


def _on(layout: RunLayout, cut: int) -> list[tuple[Place, Tile | None]]:
    """What lies on a length: whole prints, or one part of a print with where the whole of it would lie."""
    if not layout.tiles:
        return [(p, None) for p in layout.places if p.cut == cut]
    tile = layout.tiles[cut - 1]
    whole = layout.places[tile.number - 1]
    return [
        (whole.model_copy(update={"cut": cut, "x_um": tile.x_um - tile.left_um, "y_um": tile.y_um - tile.low_um}), tile)
    ]


def _pt(um: int) -> float:
    return um / 1000 * POINTS_PER_MM


def _intend(pdf: Any, profile: bytes | None) -> None:
    """What the inks' figures mean: the print condition that they were separated for (ISO 32000-1, 14.11.5). A driver's RGB says
    it at its own pictures."""
    if profile is None or profile[16:20] != CMYK:
        return
    ours = pdf.make_indirect(Stream(pdf, profile, N=len(CMYK), Alternate=Name.DeviceCMYK))
    pdf.Root.OutputIntents = Array([Dictionary(
        Type=Name.OutputIntent, S=Name.GTS_PDFX, OutputConditionIdentifier="Custom", Info="Its profile is enclosed",
        DestOutputProfile=ours,
    )])  # fmt: skip


def _cut_lines(lines: tuple[CutPath, ...], length_mm: float) -> str:
    """In a plate of their own over everything; a cutter's marks are printed in black instead."""
    said = []
    for line in lines:
        points = [(x * POINTS_PER_MM, (length_mm - y) * POINTS_PER_MM) for x, y in dense(line, CUT_STEP_MM)]
        path = " ".join(f"{x:.3f} {y:.3f} {'l' if at else 'm'}" for at, (x, y) in enumerate(points))
        said.append(f"0 0 0 1 k {path} h f" if line.role == "mark" else f"/Cut CS 1 SCN 0.25 w {path} h S")
    return "q /Over gs\n" + "\n".join(said) + "\nQ"


def _labels(layout: RunLayout, labels: RunLabels) -> bytes:
    """What stands around the prints, a page a cut length; cut away later, so in black alone."""
    data = io.BytesIO()
    page = Canvas(data, invariant=1)
    for cut, length_um in enumerate(layout.cut_lengths_um, 1):
        page.setPageSize((layout.media_um / 1000 * POINTS_PER_MM, length_um / 1000 * POINTS_PER_MM))
        page.setFillColorCMYK(0, 0, 0, 1)
        page.setStrokeColorCMYK(0, 0, 0, 1)
        page.setLineWidth(0.6)
        here = _on(layout, cut)
        for place in (p for p, tile in here if labels.crop_marks and not tile and not layout.sorts[p.sort].strip):
            _crop_marks(page, place, layout)
        for place, tile in here:
            if tile:
                _part_label(page, place, tile, layout, labels)
        # No strip, no labels: garments carry none, nor prints that fill their sheet.
        for place in (p for p, tile in here if layout.label_um and not tile):
            page.saveState()
            page.translate(place.x_um / 1000 * POINTS_PER_MM, place.y_um / 1000 * POINTS_PER_MM)
            if layout.sorts[place.sort].strip is None:
                _label(page, place, layout, labels)
            else:
                _label_beside(page, place, layout, labels)
            page.restoreState()
        page.showPage()
    page.save()
    return data.getvalue()


def _crop_marks(page: Canvas, place: Place, layout: RunLayout) -> None:
    """In line with the sides of one print, and never in its neighbour."""
    size = layout.sorts[place.sort]
    left, low = place.x_um / 1000, place.y_um / 1000
    right, up = left + size.width_um / 1000, low + size.height_um / 1000
    far = min(CROP_TO_MM, layout.gap_um / 2000)
    if far <= CROP_FROM_MM:
        return
    lines = [
        (x, y + way * CROP_FROM_MM, x, y + way * far) for x in (left, right) for y, way in ((low, -1), (up, 1))
    ] + [(x + way * CROP_FROM_MM, y, x + way * far, y) for y in (low, up) for x, way in ((left, -1), (right, 1))]
    page.lines([tuple(v * POINTS_PER_MM for v in line) for line in lines])


def _part_label(page: Canvas, place: Place, tile: Tile, layout: RunLayout, labels: RunLabels) -> None:
    """Which part it is, and ticks in its margins where its neighbours end."""
    sort = labels.sorts[place.sort]
    parts = [t for t in layout.tiles if t.number == tile.number]
    tick = TICK_MM * POINTS_PER_MM
    left, low, wide, high = (_pt(v) for v in (tile.x_um, tile.y_um, tile.width_um, tile.height_um))
    for other in parts:
        begin, end = other.left_um - tile.left_um, other.left_um + other.width_um - tile.left_um
        for at in (
            a
            for a in (begin, end)
            if other.row == tile.row and abs(other.column - tile.column) == 1 and 0 <= a <= tile.width_um
        ):
            page.line(left + _pt(at), low - tick, left + _pt(at), low)
            page.line(left + _pt(at), low + high, left + _pt(at), low + high + tick)
        begin, end = other.low_um - tile.low_um, other.low_um + other.height_um - tile.low_um
        for at in (
            a
            for a in (begin, end)
            if other.column == tile.column and abs(other.row - tile.row) == 1 and 0 <= a <= tile.height_um
        ):
            page.line(left - tick, low + _pt(at), left, low + _pt(at))
            page.line(left + wide, low + _pt(at), left + wide + tick, low + _pt(at))
    if not layout.label_um:
        return
    columns, rows = max(t.column for t in parts) + 1, max(t.row for t in parts) + 1
    across = f"column {tile.column + 1} of {columns} from the left" if columns > 1 else ""
    along = f"row {tile.row + 1} of {rows} from below" if rows > 1 else ""
    said = f"{sort.title or labels.title} · {labels.run}-{tile.number} · {sort.name} · part {parts.index(tile) + 1} of {len(parts)}: {' · '.join(filter(None, (across, along)))}, as printed"
    page.saveState()
    page.translate(left, low)
    _fitted(page, settable(said), 12, -_pt(layout.label_um) * 0.6, wide - 24)
    page.restoreState()


def _label(page: Canvas, place: Place, layout: RunLayout, labels: RunLabels) -> None:
    """What stands around one print, from its lower left corner."""
    size, sort = layout.sorts[place.sort], labels.sorts[place.sort]
    wide, high = size.width_um / 1000 * POINTS_PER_MM, size.height_um / 1000 * POINTS_PER_MM
    tick = min(TICK_MM, layout.gap_um / 2000) * POINTS_PER_MM
    below = layout.label_um / 1000 * POINTS_PER_MM
    # Upright, the top of the picture is up; turned a quarter it lies to the left.
    middle, centre = wide / 2, high / 2
    ticks = (
        [(middle, 0.0, middle, -below * 0.35), (middle, high, middle, high + tick)] if not place.turned
        else [(0.0, centre, -tick, centre), (wide, centre, wide + tick, centre)]
    )  # fmt: skip
    page.lines([t for t in ticks if t[:2] != t[2:]])
    corners = ((1, 0), (4, 6), (7, 0)) if not place.turned else ((4, -3), (-2, 0), (4, 3))
    arrow = page.beginPath()
    arrow.moveTo(corners[0][0], corners[0][1] - below * 0.5)
    for x, y in corners[1:]:
        arrow.lineTo(x, y - below * 0.5)
    arrow.close()
    page.drawPath(arrow, stroke=0, fill=1)
    _words(
        page,
        place,
        layout,
        labels,
        wide,
        f"{sort.placing} · {'top this way' if not place.turned else 'top to the left'}",
    )


def _label_beside(page: Canvas, place: Place, layout: RunLayout, labels: RunLabels) -> None:
    """What stands in a strip of its own beside an outline, and turns with the print; from the lower left corner of its box as it lies."""
    size, sort = layout.sorts[place.sort], labels.sorts[place.sort]
    wide, high = size.width_um / 1000 * POINTS_PER_MM, size.height_um / 1000 * POINTS_PER_MM
    angle, (own_wide, own_high) = 90 * place.quarters + size.slant, map(_pt, size.upright_um(place.quarters))
    page.translate(wide / 2, high / 2)
    page.rotate(angle)
    page.translate(-own_wide / 2, -own_high / 2)
    strip = size.strip
    assert strip is not None
    page.translate(strip.x_um / 1000 * POINTS_PER_MM, strip.y_um / 1000 * POINTS_PER_MM)
    below = layout.label_um / 1000 * POINTS_PER_MM
    arrow = page.beginPath()
    arrow.moveTo(1, -below * 0.5)
    for x, y in ((4, 6), (7, 0)):
        arrow.lineTo(x, y - below * 0.5)
    arrow.close()
    page.drawPath(arrow, stroke=0, fill=1)
    _words(page, place, layout, labels, strip.wide_um / 1000 * POINTS_PER_MM, f"{sort.placing} · top this way")


def _words(page: Canvas, place: Place, layout: RunLayout, labels: RunLabels, wide: float, placing: str) -> None:
    """Of one label, below where the page's origin is now, with its code where there is room."""
    sort, below = labels.sorts[place.sort], layout.label_um / 1000 * POINTS_PER_MM
    said = settable(
        f"{sort.title or labels.title} · {labels.run}-{place.number} · {sort.name} · length {place.cut} of {len(layout.cut_lengths_um)}"
    )
    placing = settable(placing)
    side = below * QR_SHARE
    room = wide - 12
    if wide >= QR_FROM_MM * POINTS_PER_MM:
        draw_qr(page, f"{labels.run}-{place.number}", wide - side, -below + (below - side) / 2, side)
        room -= side + 2
    _fitted(page, said, 12, -below * 0.44, room)
    if labels.mirrored:
        page.translate(wide - (wide - 12 - room), 0)
        page.scale(-1, 1)
        _fitted(page, placing, 0, -below * 0.88, room)
    else:
        _fitted(page, placing, 12, -below * 0.88, room)


def _fitted(page: Canvas, text: str, x: float, y: float, room: float) -> None:
    """As large as labels are, or as the room beside the print lets it be."""
    page.setFont(
        use_font(), min(LABEL_SIZE_PT, max(1.0, LABEL_SIZE_PT * room / max(1e-6, wide_pt(text, LABEL_SIZE_PT))))
    )
    page.drawString(x, y, text)


def _spot(name: pikepdf.Name, on_screen: list[float]) -> pikepdf.Object:
    """A plate of its own. on_screen: C, M, Y, K that stand for it where there is none."""
    tint = Dictionary(FunctionType=2, Domain=[0, 1], C0=[0, 0, 0, 0], C1=on_screen, N=1)
    return Array([Name.Separation, name, Name.DeviceCMYK, tint])


def _many_inks(pdf: pikepdf.Pdf, colours: tuple[str, ...]) -> pikepdf.Object:
    """A picture of more than four inks (ISO 32000-1, 8.6.6.5, DeviceN). Where a program knows four, each solid of several inks is the
    sum of what stands for them, and between solids it is straight."""
    on = np.array(list(product((0, 1), repeat=len(colours))))[:, ::-1]  # the first ink runs fastest (7.10.2)
    stand = np.minimum(1.0, on @ np.array([INKS[c].cmyk for c in colours]))
    tint = pdf.make_indirect(Stream(
        pdf, np.rint(stand * 255).astype(np.uint8).tobytes(), FunctionType=0, Domain=[0, 1] * len(colours), Range=[0, 1] * 4, Size=[2] * len(colours),
        BitsPerSample=8,
    ))  # fmt: skip
    return Array([Name.DeviceN, Array([Name(f"/{plate_name(c)}") for c in colours]), Name.DeviceCMYK, tint])


def _image(pdf: pikepdf.Pdf, samples: NDArray[np.uint8], space: pikepdf.Object) -> pikepdf.Object:
    rows, columns = samples.shape[:2]
    packed = bytes(imagecodecs.zlib_encode(np.ascontiguousarray(samples), level=1))  # type: ignore[arg-type]
    return pdf.make_indirect(Stream(
        pdf, packed, Type=Name.XObject, Subtype=Name.Image, Width=columns, Height=rows, BitsPerComponent=8,
        ColorSpace=space, Filter=Name.FlateDecode,
    ))  # fmt: skip
