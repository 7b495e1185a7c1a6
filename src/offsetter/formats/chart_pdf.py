"""A test chart as a PDF at its exact size: raw device values, with a spot plate named White under the patches."""

from io import BytesIO

from reportlab.lib.colors import CMYKColor, CMYKColorSep, Color
from reportlab.pdfgen.canvas import Canvas

from offsetter.core.compute.chart import GAP_MM, LABEL_MM, MARK_MM, Chart, label_of
from offsetter.core.compute.light_inks import split
from offsetter.core.facts.inks import FOUR, INKS
from offsetter.formats.plates_tiff import plate_name
from offsetter.formats.typeface import settable, use_font

POINTS_PER_MM = 72 / 25.4


def write_chart_pdf(chart: Chart) -> bytes:
    """One page; no profile changes the values on it. Mirrored where the carrier is."""
    data = BytesIO()
    wide, high = chart.width_mm * POINTS_PER_MM, chart.height_mm * POINTS_PER_MM
    page = Canvas(data, pagesize=(wide, high), pageCompression=1, invariant=1)
    page.setTitle(chart.title)
    page.setAuthor("Offsetter")
    if chart.mirrored:
        page.transform(-1, 0, 0, 1, wide, 0)
    page.scale(POINTS_PER_MM, POINTS_PER_MM)
    side, step = chart.patch_mm, chart.patch_mm + GAP_MM
    left, top = chart.at_mm(0)
    used_wide, used_high = chart.columns * step - GAP_MM, chart.rows * step - GAP_MM
    if len(chart.channels) + len(chart.light) > len(FOUR) and not chart.white:
        page.setFillOverprint(True)
        page.setOverprintMask(True)
    if chart.white:
        # Below on the page, so that a screen shows the patches; they overprint, so that its plate stays whole.
        edge = LABEL_MM + MARK_MM
        page.setFillColor(CMYKColorSep(0.25, 0, 0, 0, spotName="White", density=1))
        page.rect(
            left - edge,
            chart.height_mm - top - used_high - edge,
            used_wide + 2 * edge,
            used_high + 2 * edge,
            stroke=0,
            fill=1,
        )
        page.setFillOverprint(True)
        page.setOverprintMask(True)
    for patch, (x, y) in ((p, chart.at_mm(i)) for i, p in enumerate(chart.patches)):
        for colour in _colours(chart, patch.printed):
            page.setFillColor(colour)
            page.rect(x, chart.height_mm - y - side, side, side, stroke=0, fill=1)
    _marks(page, chart, left, top, used_wide, used_high)
    page.showPage()
    page.save()
    return data.getvalue()


def _marks(page: Canvas, chart: Chart, left: float, top: float, wide: float, high: float) -> None:
    """Row letters, column numbers, four corner discs; the first patch's corner wears a ring."""
    black = Color(0, 0, 0) if chart.space == "RGB" else CMYKColor(0, 0, 0, 1)
    page.setFillColor(black)
    page.setStrokeColor(black)
    page.setFont(use_font(), 3.2)
    step, up = chart.patch_mm + GAP_MM, chart.height_mm
    for column in range(chart.columns):
        page.drawCentredString(left + column * step + chart.patch_mm / 2, up - top + 1.6, str(column + 1))
    for row in range(chart.rows):
        letters = label_of(row * chart.columns, chart.columns).rstrip("0123456789")
        page.drawRightString(left - 1.6, up - top - row * step - chart.patch_mm / 2 - 1.1, letters)
    page.drawString(left, up - top - high - 5, settable(chart.title[:110]))
    for x in (left - LABEL_MM - MARK_MM / 2, left + wide + LABEL_MM + MARK_MM / 2):
        for y in (top - LABEL_MM - MARK_MM / 2, top + high + LABEL_MM + MARK_MM / 2):
            page.circle(x, up - y, 1.5, stroke=0, fill=1)
    page.setLineWidth(0.5)
    page.circle(left - LABEL_MM - MARK_MM / 2, up - (top - LABEL_MM - MARK_MM / 2), 3, stroke=1, fill=0)


def _colours(chart: Chart, device: tuple[float, ...]) -> list[Color]:
    """Laid one over the other: the four inks as they are, each further one as a spot colour of its plate's name."""
    if chart.space == "RGB":
        return [Color(*(v / 100 for v in device))]
    shares = split({c: v / 100 for c, v in zip(chart.channels, device, strict=True)}, chart.light)
    spots = [CMYKColorSep(*INKS[c].cmyk, spotName=plate_name(c), density=v) for c, v in shares.items() if c not in FOUR and v > 0]  # fmt: skip
    return [CMYKColor(*(shares[c] for c in FOUR)), *spots]
