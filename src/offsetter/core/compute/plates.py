"""From artwork to plates, in strips over threads: resample, inks, white, limit, sums.

Strips overlap by as many rows as the choke reaches, so the result does not depend on their height.
"""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from offsetter.core.compute import white as white_plate
from offsetter.core.compute.bending import bent
from offsetter.core.compute.cielab import TABLE, cloth_difference_table, far_cells, lightness_tables
from offsetter.core.compute.colour import Colours, DriverColours, ink_colours
from offsetter.core.compute.dots import FAINT, KNOCKED, OVER, PRINTED, alike_where_clear, fill_inks, lay_white
from offsetter.core.compute.light_inks import LIGHT, split_light
from offsetter.core.compute.plate_spec import ColourSpec, PlateMeasure, PlateSpec, WhiteSpec
from offsetter.core.compute.resample import Sized
from offsetter.core.compute.tone import curve_table
from offsetter.core.compute.turning import turned
from offsetter.core.facts import profile_bytes
from offsetter.core.facts.inks import LIGHT_STRENGTH
from offsetter.core.units import MM_PER_INCH

Bytes = NDArray[np.uint8]
STRIP_ROWS = 112
THREADS = 2
SMALL_PX = 300_000
FEW_ROWS = 8
"""Whose shares of white stay where the processor has them at hand."""
_NO_TABLE, _NO_CELLS = np.zeros((TABLE, TABLE, TABLE), np.float32), np.zeros((1, 1, 1), np.bool_)
_ALL = np.zeros((1, 1), np.float32)


@dataclass(frozen=True, slots=True)
class Plates:
    """planes: (rows, columns, channels of the spec), 255 full ink, as the wearer sees them unless as printed."""

    planes: Bytes
    measure: PlateMeasure


@dataclass(frozen=True, slots=True)
class Inked:
    """A whole picture's inks, with its white as no choke has taken from it: the same at whatever size it is printed.

    planes: as of Plates, upright, the white's still empty; white (rows, columns): its share, 0 to 1; levels, dots, counts, highest: of it so far.
    """

    planes: Bytes
    white: NDArray[np.float32]
    levels: NDArray[np.int64]
    dots: NDArray[np.int64]
    counts: NDArray[np.int64]
    highest: int


def make_plates(
    rgba: Bytes,
    spec: PlateSpec,
    profile: bytes | Colours,
    *,
    scale: float = 1.0,
    inked: Inked | None = None,
    mask: Bytes | None = None,
    as_printed: bool = False,
    into: Bytes | None = None,
    report: Callable[[int, int], None] = lambda done, whole: None,
) -> Plates:
    """Plates of the picture (rows, columns, 4; sRGB, straight alpha), already cropped.

    scale below 1 makes a preview: the picture is taken as it is and every distance is shortened by scale; inked may
    then hold the same picture's inks by a spec of the same inked_key. mask (rows, columns, at any size): of the
    picture as it is given, 255 where all the white may lie. as_printed gives the planes as they lie on
    the carrier: mirrored where the spec says so. into: an array of nothing that the planes are written to, instead of one in memory.
    report is called with rows done and rows in all, from the calling thread.
    """
    is_preview = scale != 1.0
    flat_dots = rgba.shape[0] * rgba.shape[1]
    dot_mm2 = (spec.width_um / 1000 / rgba.shape[1]) ** 2
    if is_preview:
        sized = Sized(rgba, rgba.shape[1], rgba.shape[0])
    else:
        flat_dots, dot_mm2 = spec.width_px * spec.height_px, (spec.width_um / 1000 / spec.width_px) ** 2
        sized = _as_it_lies(rgba, spec)
    rows, columns = sized.shape
    colours = profile if isinstance(profile, Colours) else ink_colours(profile)
    if mask is not None and spec.white is not None:
        mask = _mask_as_it_lies(mask, spec, columns, rows, is_preview=is_preview)
    work = _Strips(sized, spec, colours, scale, mask, as_printed and spec.mirrored, into, inked)
    done = 0
    tops = range(0, rows, work.high)
    for height in map(work.fill, tops) if work.high == rows else _pool().map(work.fill, tops):
        done += height
        report(done, rows)
    return Plates(work.planes, work.measured(dot_mm2, flat_dots, "preview" if is_preview else "device"))


def ink_picture(rgba: Bytes, spec: PlateSpec, colours: Colours, ink: Bytes) -> Inked:
    """A preview's inks, from the picture and what its colours are in inks."""
    return _Strips(Sized(rgba, rgba.shape[1], rgba.shape[0]), spec, colours, 1.0, None, False, None).inked(rgba, ink)


def warm() -> None:
    """Have what makes plates loaded, and compiled on a machine's first day: nobody's first look waits for it."""
    spec = PlateSpec(
        artwork="none", crop_px=(0, 0, WARM_PX, WARM_PX), width_um=2_700, dpi=300, mirrored=False, colour=ColourSpec(profile="ours"),
        white=WhiteSpec(cloth="#000000", choke_um=250, knock_out_delta_e=9, faint_floor=0.1, guard_um=500),
    )  # fmt: skip
    make_plates(np.full((WARM_PX, WARM_PX, 4), 255, np.uint8), spec, profile_bytes(), scale=0.5)


WARM_PX = 32


def _as_it_lies(rgba: Bytes, spec: PlateSpec) -> Sized:
    """At the dots it is printed at, bent where what it goes on tapers, and turned where it lies at a slant."""
    sized = Sized(rgba, spec.width_px, spec.height_px)
    if spec.lies_upright:
        return sized
    lying = _lying(sized.rows(0, spec.height_px), spec)
    return Sized(lying, lying.shape[1], lying.shape[0])


def _lying(picture: Bytes, spec: PlateSpec) -> Bytes:
    """Before it is mirrored: a mirror turns a slant round."""
    if spec.bend is not None:
        picture = bent(picture, spec.bend, spec.width_um / 1000, spec.height_um / 1000)
    return turned(picture, -spec.slant if spec.mirrored else spec.slant) if spec.slant else picture


def _mask_as_it_lies(mask: Bytes, spec: PlateSpec, columns: int, rows: int, *, is_preview: bool) -> Bytes:
    if is_preview or spec.lies_upright:
        return white_plate.fitted(mask, columns, rows)
    flat = white_plate.fitted(mask, spec.width_px, spec.height_px)
    return white_plate.fitted(np.ascontiguousarray(_lying(flat[..., None], spec)[..., 0]), columns, rows)


def driver_picture(
    rgba: Bytes, spec: PlateSpec, driver: DriverColours, *, as_printed: bool = True, into: Bytes | None = None
) -> Bytes:
    """What a printer that separates by itself is sent: its RGB (rows, columns, 3) at the printed size, on bare paper.

    rgba and into as for make_plates, already cropped. Mirrored where the spec says so.
    """
    sized = _as_it_lies(rgba, spec)
    out = np.empty((*sized.shape, 3), np.uint8) if into is None else into
    for top in range(0, sized.shape[0], STRIP_ROWS):
        strip = sized.rows(top, min(sized.shape[0], top + STRIP_ROWS))
        share = strip[..., 3:].astype(np.float32) / 255
        inked = driver.to_rgb(np.ascontiguousarray(strip), spec.colour)
        seen = np.rint(inked * share + 255 * (1 - share)).astype(np.uint8)
        out[top : top + STRIP_ROWS] = seen[:, ::-1] if as_printed and spec.mirrored else seen
    return out


def planes_shape(spec: PlateSpec) -> tuple[int, int, int]:
    """Of the full-size planes of what lies upright: rows, columns, inks."""
    return spec.height_px, spec.width_px, len(spec.channels)


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(THREADS, thread_name_prefix="plates")


class _Counted(NamedTuple):
    """Of one strip: levels and dots by plane, counts of dots, the highest total, dots that the guard saved."""

    levels: NDArray[np.int64]
    dots: NDArray[np.int64]
    counts: NDArray[np.int64]
    highest: int
    saved: int


class _Strips:
    def __init__(
        self, sized: Sized, spec: PlateSpec, colours: Colours, scale: float, mask: Bytes | None, mirror: bool, into: Bytes | None,
        inked: Inked | None = None,
    ) -> None:  # fmt: skip
        self._sized, self._spec, self._colours, self._inked = sized, spec, colours, inked
        self._mirror = mirror
        # Handing a few small strips to other threads takes longer than filling them.
        self.high = sized.shape[0] if inked or sized.shape[0] * sized.shape[1] < SMALL_PX else STRIP_ROWS
        self._mask = mask if spec.white and mask is not None else None
        if self._mask is not None and mirror:
            self._mask = np.ascontiguousarray(self._mask[:, ::-1])
        self._curves = (
            curve_table(spec.colour.curves)
            if spec.colour.curves and not spec.colour.composite_black
            else np.zeros((1, len(spec.colour.separates)), np.uint8)
        )
        white = spec.white
        self.planes = np.zeros((*sized.shape, len(spec.channels)), np.uint8) if into is None else into
        inks = spec.colour.separates
        self._black = inks.index("K") if "K" in inks else -1
        self._full = np.array(spec.colour.splits, np.int64)
        dots_per_mm = spec.dpi * scale / MM_PER_INCH
        self._choke_px = white.choke_um / 1000 * dots_per_mm if white else 0.0
        self._guard_px = white.guard_um / 1000 * dots_per_mm if white else 0.0
        self._pad = white_plate.pad_rows(self._choke_px, self._guard_px)
        self._knock = white.knock_out_delta_e if white and white.knock_out_delta_e is not None else -1.0
        self._table = cloth_difference_table(white.cloth) if white and self._knock >= 0 else _NO_TABLE
        beyond = self._knock + white_plate.KNOCK_OUT_RAMP
        self._far = far_cells(white.cloth, beyond) if white and self._knock >= 0 else _NO_CELLS
        self._luminance, self._lightness = lightness_tables()
        self._level = (white.level_pct if white else 0.0) / 100
        if white and white.by == "lights" and white.lights_from is not None:
            self._lightness, self._level = white_plate.lights(self._lightness, white.lights_from), 0.0
        self._limit = round(spec.colour.ink_limit_pct * 2.55)
        self._totals: list[_Counted] = []

    def fill(self, top: int) -> int:
        """Make the strip that begins at row top; gives its height."""
        end, white = min(top + self.high, self._sized.shape[0]), self._spec.white
        # With as many rows above and below as the choke reaches.
        pad = self._pad if white and self._choke_px != 0 else 0
        above = max(0, top - pad)
        around = np.ascontiguousarray(self._sized.rows(above, min(self._sized.shape[0], end + pad)))
        strip = around[top - above : end - above]
        levels, dots, counts = self._nothing()
        highest = saved = 0
        if strip[..., 3].any() or (white and self._choke_px < 0):
            kept = None
            if white and self._choke_px != 0:
                kept, saved = self._kept(around[..., 3], top - above, end - above, white.faint_floor)
            planes, limit = self.planes[top:end], self._limit
            if self._inked is not None:
                done = self._inked
                planes[:] = done.planes
                levels, dots, counts, highest = done.levels.copy(), done.dots.copy(), done.counts.copy(), done.highest
                self._lay_white(done.white, kept, planes, levels, dots, counts)
            else:
                ink = self._colours.to_ink(alike_where_clear(strip), self._spec.colour)
                share = np.empty((FEW_ROWS, strip.shape[1]), np.float32)
                for first in range(0, len(strip), FEW_ROWS):
                    few = slice(first, first + FEW_ROWS)
                    highest = max(
                        highest, self._fill_inks(strip[few], ink[few], planes[few], share, levels, dots, counts)
                    )
                    self._lay_white(
                        share[: len(strip[few])], None if kept is None else kept[few], planes[few], levels, dots, counts
                    )
            if len(self._full):
                split_light(planes, len(self._spec.colour.separates), self._full, LIGHT, LIGHT_STRENGTH, limit, levels, dots)  # fmt: skip
            if self._mask is not None:
                plate = white_plate.masked(np.ascontiguousarray(planes[..., -1]), self._mask[top:end])
                planes[..., -1] = plate
                levels[-1], dots[-1] = int(plate.sum(dtype=np.int64)), int(np.count_nonzero(plate))
        self._totals.append(_Counted(levels, dots, counts, highest, saved))
        return int(end - top)

    def inked(self, rgba: Bytes, ink: Bytes) -> Inked:
        levels, dots, counts = self._nothing()
        white = np.empty(rgba.shape[:2], np.float32)
        highest = self._fill_inks(rgba, ink, self.planes, white, levels, dots, counts)
        return Inked(self.planes, white, levels, dots, counts, highest)

    def _nothing(self) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
        many = self.planes.shape[2]
        return np.zeros(many, np.int64), np.zeros(many, np.int64), np.zeros(4, np.int64)

    def _fill_inks(
        self, strip: Bytes, ink: Bytes, planes: Bytes, share: NDArray[np.float32],
        levels: NDArray[np.int64], dots: NDArray[np.int64], counts: NDArray[np.int64],
    ) -> int:  # fmt: skip
        white = self._spec.white
        return int(fill_inks(
            strip, ink, self._curves, self._black, white is not None, self._luminance, self._lightness, self._level,
            self._table, self._far, self._knock, white_plate.KNOCK_OUT_RAMP, white.faint_floor if white else 0.0, self._limit,
            self._mirror, planes, share, levels, dots, counts,
        ))  # fmt: skip

    def _lay_white(
        self, share: NDArray[np.float32], kept: NDArray[np.float32] | None, planes: Bytes,
        levels: NDArray[np.int64], dots: NDArray[np.int64], counts: NDArray[np.int64],
    ) -> None:  # fmt: skip
        if self._spec.white:
            lay_white(
                share, _ALL if kept is None else kept, kept is not None, self._mirror, planes, levels, dots, counts
            )

    def _kept(self, alpha: Bytes, top: int, end: int, floor: float) -> tuple[NDArray[np.float32] | None, int]:
        """Of the rows from top to end: the share of white that the choke leaves, and how many dots the guard saved."""
        support = white_plate.support_of(np.ascontiguousarray(alpha), round(floor * 255))
        kept, guarded = white_plate.keep_share(support, self._choke_px, self._guard_px)
        saved = 0 if guarded is None else int(np.count_nonzero(guarded[top:end]))
        # Only its own rows are kept: strips of an A3 page in two threads add up.
        return None if kept is None else kept[top:end].copy(), saved

    def measured(self, dot_mm2: float, whole: int, quality: str) -> PlateMeasure:
        """whole: dots of the print before it is bent, so that its shares are the same however it lies."""
        white = self._spec.white
        if white and self._choke_px < 0:
            self._spread(-self._choke_px, white.faint_floor)
        levels = np.sum([t.levels for t in self._totals], axis=0)
        dots = np.sum([t.dots for t in self._totals], axis=0)
        counts = np.sum([t.counts for t in self._totals], axis=0)
        if white and self._choke_px < 0:
            plate = self.planes[..., -1]
            levels[-1], dots[-1] = int(plate.sum(dtype=np.int64)), int(np.count_nonzero(plate))
        names = self._spec.channels
        visible = max(1, int(counts[PRINTED] + counts[FAINT] + counts[KNOCKED]))
        return PlateMeasure.model_validate({
            "quality": quality,
            "coverage_pct": {n: round(float(levels[i]) / 255 / whole * 100, 3) for i, n in enumerate(names)},
            "area_mm2": {n: round(float(dots[i]) * dot_mm2, 2) for i, n in enumerate(names)},
            "total_max_pct": round(max((t.highest for t in self._totals), default=0) / 2.55, 1),
            "over_limit_share": round(float(counts[OVER]) / max(1, int(counts[PRINTED])), 5),
            "thin_kept": sum(t.saved for t in self._totals),
            "faint_cut_share": round(float(counts[FAINT]) / visible, 5),
            "knocked_out_share": round(float(counts[KNOCKED]) / visible, 5),
        })  # fmt: skip

    def _spread(self, spread_px: float, floor: float) -> None:
        rows = self._sized.shape[0]
        strips = [self._sized.rows(top, min(rows, top + STRIP_ROWS))[..., 3] for top in range(0, rows, STRIP_ROWS)]
        support = white_plate.support_of(np.concatenate(strips), round(floor * 255))
        if self._mirror:
            support = np.ascontiguousarray(support[:, ::-1])
        plate = white_plate.spread(np.ascontiguousarray(self.planes[..., -1]), support, spread_px)
        self.planes[..., -1] = plate
