"""A nozzle check: the sheet that a printer prints, and what a scan of it says of its nozzles.

Lines stand in stairs, one under the other with a gap, so that a scan at 200 dpi and more tells them apart. Three discs and a ring in
black say where the sheet lies in the scan, and which way up; a row of squares beside them says which sheet it is. A channel is read
in the light that its ink takes away; white is laid over a dark ground of its own, and read as what is brighter.
"""

import math
from itertools import permutations
from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from offsetter.core.facts.inks import INKS
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal, digest

Bytes = NDArray[np.uint8]
Floats = NDArray[np.float64]

STAIRS = 8
LINE_MM, LINE_THICK_MM = 3.0, 2 * 25.4 / 600
GAP_MM, STEP_MM = 0.5, 0.7
MARK_MM, HOLE_MM = 3.0, 1.5
EDGE_MM = 8.0
"""From the sheet's edge to the middle of a mark."""
SQUARES, SQUARE_MM = 12, 2.0
PATCH_MM = 4.0
BESIDE_MM = 0.24
"""How far to both sides of a line its ground is looked at: half way to the next."""
MISSING_BELOW = 0.4
"""Of the line that most others are as strong as: references, nozzle check."""
LEAST_NOISE_TIMES = 4.0
PATCH_LEAST = 12.0
"""Grey levels that a full patch differs from its ground at least, where its ink was printed at all."""
LEAST_DPI = 150

LIGHT_OF = {"C": 0, "M": 1, "Y": 2, "R": 1, "G": 0, "B": 0, "V": 1, "O": 2, "LC": 0, "LM": 1, "c": 0, "m": 1}
"""Channel to the band (red, green, blue) that its ink takes most from; others by grey."""
INK_RGB = {c: ink.rgb for c, ink in INKS.items()} | {"c": INKS["LC"].rgb, "m": INKS["LM"].rgb}
"""c and m: light inks as sheets of the first versions name them."""
Channel = Literal["C", "M", "Y", "K", "W", "O", "G", "R", "B", "V", "LC", "LM", "LK", "c", "m"]


class Row(Frozen):
    """A channel's lines, by nozzle from 1: the left end of each in mm from the upper left corner, and its full patch."""

    channel: Channel
    lines_mm: tuple[tuple[float, float], ...] = Field(min_length=1, max_length=1000)
    patch_mm: tuple[float, float]
    """Upper left corner of a square printed by all its nozzles."""
    ground_mm: tuple[float, float, float, float] | None = None
    """A dark ground under it: left, top, width, height."""


class NozzleSheet(Frozen):
    width_mm: float = Field(gt=30, le=2000)
    height_mm: float = Field(gt=30, le=2000)
    marks_mm: tuple[tuple[float, float], ...] = Field(min_length=4, max_length=4)
    """Middles: the ring at the upper left, then discs at the upper right, lower left, lower right."""
    rows: tuple[Row, ...] = Field(min_length=1, max_length=12)
    code: int = Field(ge=0, lt=2**SQUARES)

    @property
    def lines(self) -> int:
        return sum(len(r.lines_mm) for r in self.rows)


class NozzleReading(Frozen):
    missing: dict[str, tuple[int, ...]]
    """Channel to nozzles, from 1, whose line is not there."""
    lines: int
    was_turned: bool
    """The sheet lay upside down in the scan."""
    was_mirrored: bool
    dpi: float
    corners_px: tuple[tuple[float, float], ...]
    """Where the four marks lie in the scan."""
    missing_px: dict[str, tuple[tuple[float, float], ...]]
    """Middles of the lines that are not there, in the scan."""


def sheet_for(channels: tuple[str, ...], lines: int = 96, name: str = "") -> NozzleSheet:
    """A sheet of so many lines a channel. name: what makes its code differ from other sheets'.

    Raises Refusal for channels that are not known, named twice, or too many lines.
    """
    if not channels or len(set(channels)) < len(channels) or any(c not in INK_RGB for c in channels):
        raise _refused("unknown-channels", say("These are no channels of a printer."), say("Name each once, of {ink_rgb}.", ink_rgb=', '.join(INK_RGB)))  # fmt: skip
    if not 1 <= lines <= 480:
        raise _refused(
            "too-many-lines", say("{lines} lines a channel do not go on a sheet.", lines=lines), say("Take 1 to 480.")
        )
    columns = math.ceil(lines / STAIRS)
    width = max(90.0, 2 * EDGE_MM + 24 + columns * (LINE_MM + GAP_MM))
    block = STAIRS * STEP_MM + 3.0
    top = EDGE_MM + 9.0
    rows = []
    for at, channel in enumerate(channels):
        y = top + at * (block + 2.0)
        x = EDGE_MM + 14.0
        spots = tuple(
            (round(x + (i // STAIRS) * (LINE_MM + GAP_MM), 3), round(y + 1.5 + (i % STAIRS) * STEP_MM, 3)) for i in range(lines)
        )  # fmt: skip
        ground = (x - 9.0, y - 0.5, columns * (LINE_MM + GAP_MM) + 10.0, block + 1.0) if channel == "W" else None
        rows.append(Row(channel=channel, lines_mm=spots, patch_mm=(x - 7.0, y + 1.0), ground_mm=ground))
    height = max(70.0, top + len(channels) * (block + 2.0) + EDGE_MM + 4.0)
    # A square one could lie in four ways.
    height += 7.0 if abs(width - height) < 5 else 0.0
    marks = tuple((x, y) for y in (EDGE_MM, height - EDGE_MM) for x in (EDGE_MM, width - EDGE_MM))
    code = int(digest("nozzles", channels, lines, name), 16) % (2**SQUARES - 2) + 1
    return NozzleSheet(width_mm=width, height_mm=height, marks_mm=marks, rows=tuple(rows), code=code)


def draw_sheet(sheet: NozzleSheet, dpi: int, missing: dict[str, tuple[int, ...]] | None = None, paper: int = 250) -> Bytes:  # fmt: skip
    """The sheet as it looks when it is printed, RGB at dpi; missing: channel to nozzles that print nothing."""
    drawn = np.full((round(sheet.height_mm / 25.4 * dpi), round(sheet.width_mm / 25.4 * dpi), 3), paper, np.uint8)
    scale = dpi / 25.4

    def box(x: float, y: float, w: float, h: float, rgb: tuple[int, int, int]) -> None:
        left, up = round(x * scale), round(y * scale)
        drawn[up : up + max(1, round(h * scale)), left : left + max(1, round(w * scale))] = rgb

    for at, (x, y) in enumerate(sheet.marks_mm):
        middle = (round(x * scale), round(y * scale))
        cv2.circle(drawn, middle, round(MARK_MM / 2 * scale), INK_RGB["K"], -1, cv2.LINE_AA)
        if at == 0:
            cv2.circle(drawn, middle, round(HOLE_MM / 2 * scale), (paper,) * 3, -1, cv2.LINE_AA)
    for at, (x, y) in enumerate(_squares(sheet)):
        if sheet.code >> at & 1:
            box(x, y, SQUARE_MM, SQUARE_MM, INK_RGB["K"])
    for row in sheet.rows:
        gone = set((missing or {}).get(row.channel, ()))
        if row.ground_mm:
            box(*row.ground_mm, INK_RGB["K"])
        if len(gone) < len(row.lines_mm):
            box(*row.patch_mm, PATCH_MM, PATCH_MM, INK_RGB[row.channel])
        for number, (x, y) in enumerate(row.lines_mm, 1):
            if number not in gone:
                box(x, y, LINE_MM, LINE_THICK_MM, INK_RGB[row.channel])
    return drawn


def read_sheet(scan: Bytes, sheet: NozzleSheet) -> NozzleReading:
    """Which lines are not there. scan: (rows, columns, 3) RGB, lying any of four ways, a little skewed, or mirrored.

    Raises Refusal, three parts, where the marks are not found, the sheet is another one, or the scan is too weak to say.
    """
    found = _marks(scan)
    seen = _lies(found, sheet)
    if seen is None:
        raise _refused("no-marks", say("The three discs and the ring are not where this sheet has them."),
                       say("Scan the whole sheet flat, at 200 dpi or more; and take the sheet that belongs to this file."))  # fmt: skip
    to_scan, corners, turned, mirrored, dpi = seen
    if dpi < LEAST_DPI:
        raise _refused("too-coarse", say("The scan has {dpi} dots an inch: lines of two dots are lost in it.", dpi=f'{dpi:.0f}'), say("Scan at 200 dpi or more."))  # fmt: skip
    code = _code(scan, sheet, to_scan)
    if code != sheet.code:
        raise _refused("wrong-sheet", say("This is another sheet: its squares say {code}, and this file's say {code2}.", code=code, code2=sheet.code),
                       say("Give the file that was made with the sheet."))  # fmt: skip
    missing: dict[str, tuple[int, ...]] = {}
    missing_px: dict[str, tuple[tuple[float, float], ...]] = {}
    for row in sheet.rows:
        gone = _missing(scan, row, to_scan)
        missing[row.channel] = tuple(i + 1 for i in gone)
        middles = [(row.lines_mm[i][0] + LINE_MM / 2, row.lines_mm[i][1] + LINE_THICK_MM / 2) for i in gone]
        missing_px[row.channel] = tuple((round(x, 1), round(y, 1)) for x, y in _moved(to_scan, middles)) if gone else ()
    return NozzleReading(
        missing=missing, lines=sheet.lines, was_turned=turned, was_mirrored=mirrored, dpi=round(dpi, 1), corners_px=corners, missing_px=missing_px,
    )  # fmt: skip


def _marks(scan: Bytes) -> list[tuple[float, float, float, bool]]:
    """Round dark things: middle, diameter in px, and whether there is a hole in it."""
    grey = cv2.GaussianBlur(cv2.cvtColor(scan, cv2.COLOR_RGB2GRAY), (3, 3), 0)
    # Marks are black: what a coloured ink darkens is left out by the brightest of the three bands.
    dark = cv2.GaussianBlur(scan.max(axis=2), (3, 3), 0)
    level, _ = cv2.threshold(dark, 0, 255, cv2.THRESH_BINARY_INV | cv2.THRESH_OTSU)
    mask = (dark < level).astype(np.uint8)
    outlines, tree = cv2.findContours(mask, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    found = []
    for at, line in enumerate(outlines):
        x, y, w, h = cv2.boundingRect(line)
        if tree[0][at][3] >= 0 or min(w, h) < 8 or not 0.8 < w / h < 1.25:
            continue
        area, round_ = cv2.contourArea(line), math.pi / 4 * w * h
        if not 0.88 < area / round_ < 1.12:
            continue
        inside = grey[y + h // 2 - h // 8 : y + h // 2 + h // 8 + 1, x + w // 2 - w // 8 : x + w // 2 + w // 8 + 1]
        moments = cv2.moments(line)
        middle = (moments["m10"] / moments["m00"], moments["m01"] / moments["m00"])
        found.append((*middle, (w + h) / 2, bool(inside.mean() > level)))
    return found


Lies = tuple[Floats, tuple[tuple[float, float], ...], bool, bool, float]


def _lies(found: list[tuple[float, float, float, bool]], sheet: NozzleSheet) -> Lies | None:
    """How the sheet lies in the scan, from the ring and three discs that fit its measures best."""
    rings, discs = [f for f in found if f[3]], [f for f in found if not f[3]]
    best: tuple[float, Lies] | None = None
    page = np.array(sheet.marks_mm, np.float32)
    side = math.dist(sheet.marks_mm[0], sheet.marks_mm[1])
    for ring in rings[:6]:
        alike = [d for d in discs if 0.8 < d[2] / ring[2] < 1.25][:12]
        for three in permutations(alike, 3):
            spots = np.array([ring[:2], *(d[:2] for d in three)], np.float32)
            wide, high = math.dist(spots[0], spots[1]), math.dist(spots[0], spots[2])
            dpmm = wide / side
            # The marks' own size says the scale as well: sheets of other measures are turned away.
            if dpmm <= 0 or not 0.85 < ring[2] / (MARK_MM * dpmm) < 1.18:
                continue
            off = abs(high / dpmm / math.dist(sheet.marks_mm[0], sheet.marks_mm[2]) - 1)
            corner = spots[1] + spots[2] - spots[0]
            off += math.dist(corner, spots[3]) / wide
            if off < 0.06 and (best is None or off < best[0]):
                across, down = spots[1] - spots[0], spots[2] - spots[0]
                mirrored = float(across[0] * down[1] - across[1] * down[0]) < 0
                to_scan = cv2.getPerspectiveTransform(page, spots).astype(np.float64)
                corners = tuple((round(float(x), 1), round(float(y), 1)) for x, y in spots)
                turned = bool(down[1] < 0) if abs(down[1]) > abs(down[0]) else bool(down[0] > 0)
                best = (off, (to_scan, corners, turned, mirrored, dpmm * 25.4))
    return best[1] if best else None


def _moved(to_scan: Floats, spots: list[tuple[float, float]] | Floats) -> Floats:
    moved = cv2.perspectiveTransform(np.asarray(spots, np.float64).reshape(-1, 1, 2), to_scan)
    return np.asarray(moved, np.float64).reshape(-1, 2)


def _squares(sheet: NozzleSheet) -> list[tuple[float, float]]:
    """Upper left corners of the code's squares: beside the ring, the first one always dark and the last one never."""
    x, y = sheet.marks_mm[0]
    return [(x + 6 + i * (SQUARE_MM + 1.0), y - SQUARE_MM / 2) for i in range(SQUARES)]


def _code(scan: Bytes, sheet: NozzleSheet, to_scan: Floats) -> int:
    grey = cv2.cvtColor(scan, cv2.COLOR_RGB2GRAY)
    marks = _sampled(grey, _moved(to_scan, [(x, y) for x, y in sheet.marks_mm[1:]]))
    paper = _sampled(grey, _moved(to_scan, [(x + 3.2, y + 3.2) for x, y in sheet.marks_mm[:1]]))
    half = (float(np.median(marks)) + float(np.median(paper))) / 2
    middles = _sampled(grey, _moved(to_scan, [(x + SQUARE_MM / 2, y + SQUARE_MM / 2) for x, y in _squares(sheet)]))
    return sum(1 << at for at, value in enumerate(middles) if value < half)


def _sampled(band: NDArray[Any], spots: Floats) -> Floats:
    """Grey levels at places between dots; outside the scan its edge."""
    from scipy.ndimage import map_coordinates

    return np.asarray(
        map_coordinates(band, [spots[:, 1], spots[:, 0]], np.float64, order=1, mode="nearest"), np.float64
    )


def _missing(scan: Bytes, row: Row, to_scan: Floats) -> list[int]:
    """Of a channel: lines (from 0) that are not there. Raises Refusal where its ink is too weak in the scan to say."""
    light = LIGHT_OF.get(row.channel)
    band = scan[:, :, light] if light is not None else cv2.cvtColor(scan, cv2.COLOR_RGB2GRAY)
    band = np.ascontiguousarray(band)
    sign = -1.0 if row.channel == "W" else 1.0
    along = np.arange(0.3, LINE_MM - 0.29, 0.15)
    across = np.arange(-BESIDE_MM, BESIDE_MM + 0.001, 0.02) + LINE_THICK_MM / 2
    grid = np.stack(np.meshgrid(along, across), -1).reshape(-1, 2)
    spots = (np.array(row.lines_mm)[:, None, :] + grid[None, :, :]).reshape(-1, 2)
    levels = _sampled(band, _moved(to_scan, spots)).reshape(len(row.lines_mm), len(across), len(along))
    profile = np.median(levels, axis=2)
    ends = np.concatenate([profile[:, :4], profile[:, -4:]], axis=1)
    ground = np.median(ends, axis=1)
    middle = profile[:, 6:-6]
    score = sign * (ground - (middle.min(axis=1) if sign > 0 else middle.max(axis=1)))
    patch = _sampled(band, _moved(to_scan, [(row.patch_mm[0] + PATCH_MM * f, row.patch_mm[1] + PATCH_MM * g) for f in (0.35, 0.5, 0.65) for g in (0.35, 0.5, 0.65)]))  # fmt: skip
    full = sign * (float(np.median(ground)) - float(np.median(patch)))
    if full < PATCH_LEAST:
        # Not even the patch that all of them print: nothing of this ink came.
        return list(range(len(row.lines_mm)))
    noise = 1.4826 * float(np.median(np.abs(ends - ground[:, None])))
    strong = float(np.quantile(score, 0.75))
    if strong < max(LEAST_NOISE_TIMES * noise, 0.08 * full):
        raise _refused("too-weak", say("The lines of {channel} are too weak in this scan to say which are missing.", channel=row.channel),
                       say("Scan at 300 dpi or more without sharpening or automatic contrast."))  # fmt: skip
    return [i for i, s in enumerate(score) if s < MISSING_BELOW * strong]


def _refused(code: str, happened: str, to_do: str) -> Refusal:
    return Refusal(code, happened, say("Nothing was read."), to_do)
