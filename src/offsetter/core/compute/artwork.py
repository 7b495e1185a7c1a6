"""Facts of an artwork: measured once a file, free of any method, size or cloth."""

from collections.abc import Callable
from functools import cached_property
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from offsetter.core.compute.cielab import delta_e_2000, lab_of_srgb, rgb_of_hex
from offsetter.core.compute.fixes import flat_ground
from offsetter.core.compute.holes import hole_sizes
from offsetter.core.compute.strokes import ThinRung, thin_ladder
from offsetter.core.sentences import say
from offsetter.core.units import MM_PER_INCH
from offsetter.core.values import Finding, Frozen

Bytes = NDArray[np.uint8]
Transparency = Literal["none", "hard", "soft"]
BINS = 24
VISIBLE_ALPHA = 8  # under 3 % nothing is seen: it does not count as content
VANISHES_DELTA_E = 9.0  # nearer than this to the cloth a shape is not made out at arm's length: from memory
SOFT_SHARE = 0.02  # more half-clear pixels than anti-aliasing leaves round edges
GROUND_MATTERS = 0.02  # less than this all round is a frame, not a ground: from memory
GROUND_PX = 40  # more than the widest rung of the ladder
LIGHTER_L = 5.0  # in L*: what the eye tells apart side by side with ease, from memory
READABLE_L = 20.0  # apart from the cloth in L*: what lettering needs to be read from two metres, from memory
SPOT_PX, SPOT_LEVELS = 9, 60.0  # of 192 px, a twentieth of the width: a detail that an eye compares, from memory
SYMMETRY_LEVELS = 6.0  # mean difference, in 255ths, under which picture and mirror image look alike


LOOKS = 5
"""That measure_artwork takes at a picture."""


class ColourShare(Frozen):
    rgb: tuple[int, int, int]
    share: float


class FlatGround(Frozen):
    colour: str
    share: float


class ArtworkFacts(Frozen):
    file: str
    """Hash of the original."""
    name: str
    pixels: tuple[int, int]
    mode: str
    profile: str | None
    content_px: tuple[int, int, int, int]
    """Left, top, right, bottom of what is visible."""
    transparency: Transparency
    alpha_counts: tuple[int, ...]
    """Pixels at each alpha from 0 to 255."""
    colours: tuple[ColourShare, ...]
    symmetric: bool
    strokes: tuple[ThinRung, ...]
    gaps: tuple[ThinRung, ...]
    notes: tuple[Finding, ...]
    """What reading the file already found (16 bit, turned, animated ...)."""
    is_vector: bool = False
    """Drawn anew at every print size: the pixels are those it was measured at."""
    raster_ppi: float | None = None
    """Of the coarsest picture placed on a drawing's page, at the page's own size; None: it holds none."""
    real_mm: tuple[float, float] | None = None
    """Width and height that the file says it has."""
    pages: int = 1
    ground: FlatGround | None = None
    """A flat colour all round, which the customer may not have meant."""
    ground_inside: int = 0
    """Pieces of the flat ground that the picture closes in and that were not taken out with it."""
    holes: tuple[tuple[float, int], ...] = ()
    """Clear patches that the picture closes in: largest area in px2, how many."""
    white_name: str = ""
    """What the file calls the white ink that it brings along; empty: it brings none."""

    def ppi_at(self, print_mm: float, crop_px: tuple[int, int, int, int]) -> float | None:
        """Pixels an inch of what is printed crop_px of the file at print_mm wide, by its coarsest part; None: a drawing through and through."""
        across = crop_px[2] - crop_px[0]
        if not self.is_vector:
            return across / print_mm * MM_PER_INCH
        if self.raster_ppi is None or self.real_mm is None:
            return None
        return self.raster_ppi * self.real_mm[0] * across / self.pixels[0] / print_mm

    @property
    def content_width_px(self) -> int:
        return self.content_px[2] - self.content_px[0]

    @property
    def content_height_px(self) -> int:
        return self.content_px[3] - self.content_px[1]

    def faint_share(self, floor: float) -> float:
        """Share of the visible pixels whose alpha is under floor (0 to 1)."""
        counts = np.array(self.alpha_counts)
        visible = int(counts[VISIBLE_ALPHA:].sum())
        below = int(counts[VISIBLE_ALPHA : max(VISIBLE_ALPHA, round(floor * 255))].sum())
        return below / visible if visible else 0.0

    def vanishing_share(self, cloth: str) -> float:
        """Share of what is visible that lies within CIEDE2000 9 of the cloth's colour."""
        if not self.colours:
            return 0.0
        if cloth not in self._vanishing:
            self._vanishing[cloth] = self._vanishing_on(cloth)
        return self._vanishing[cloth]

    @cached_property
    def _vanishing(self) -> dict[str, float]:
        """Of the cloths that were asked about."""
        return {}

    def _vanishing_on(self, cloth: str) -> float:
        labs, shares = self._labs
        return float(shares[delta_e_2000(labs, lab_of_srgb(rgb_of_hex(cloth))) < VANISHES_DELTA_E].sum())

    def lighter_share(self, cloth: str) -> float:
        """Share of the colours that are lighter than the cloth by more than anybody would overlook."""
        if not self.colours:
            return 0.0
        labs, shares = self._labs
        return float(shares[labs[:, 0] > lab_of_srgb(rgb_of_hex(cloth)).reshape(3)[0] + LIGHTER_L].sum())

    @cached_property
    def _labs(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Of its colours, and the share of each."""
        labs = lab_of_srgb(np.array([c.rgb for c in self.colours])).reshape(-1, 3)
        return labs, np.array([c.share for c in self.colours])


def like_cloth(colours: "tuple[ColourShare, ...]", cloth: str) -> float:
    """Share of the colours that stand out from the cloth by hue alone: within READABLE_L of its lightness.

    What is the cloth's own colour is no lettering, and is left out.
    """
    if not colours:
        return 0.0
    labs, shares = lab_of_srgb(np.array([c.rgb for c in colours])).reshape(-1, 3), np.array([c.share for c in colours])
    ground = lab_of_srgb(rgb_of_hex(cloth)).reshape(3)
    seen = delta_e_2000(labs, ground) >= VANISHES_DELTA_E
    near = np.abs(labs[:, 0] - ground[0]) < READABLE_L
    return float(shares[seen & near].sum() / max(1e-9, shares[seen].sum()))


def measure_artwork(
    rgba: Bytes, *, file: str, name: str, mode: str, profile: str | None, notes: tuple[Finding, ...] = (), is_vector: bool = False,
    real_mm: tuple[float, float] | None = None, pages: int = 1, ground_inside: int = 0, raster_ppi: float | None = None, white_name: str = "", report: Callable[[ArtworkFacts, int, str], None] = lambda so_far, done, what: None,
) -> ArtworkFacts:  # fmt: skip
    """Measure a picture (rows, columns, 4; sRGB, straight alpha). Something must be visible in it.

    report is called after each of LOOKS looks with the facts so far: what is not looked at yet has none.
    """
    alpha = np.ascontiguousarray(rgba[..., 3])
    content = content_box(alpha)
    left, top, right, bottom = content
    # Counted in floats: right to one pixel in sixteen million, in a tenth of the time.
    counts = cv2.calcHist([alpha], [0], None, [256], [0, 256]).ravel().astype(np.int64)
    inner = alpha[top:bottom, left:right]
    facts = ArtworkFacts(
        file=file, name=name, pixels=(rgba.shape[1], rgba.shape[0]), mode=mode, profile=profile,
        content_px=content, transparency=transparency_of(counts), alpha_counts=tuple(int(c) for c in counts), colours=(), symmetric=False,
        strokes=(), gaps=(), notes=notes, is_vector=is_vector, real_mm=real_mm, pages=pages, ground=_flat(rgba),
        ground_inside=ground_inside, raster_ppi=raster_ppi, white_name=white_name,
    )  # fmt: skip
    report(facts, 1, say("its edges"))
    looks: tuple[tuple[str, Callable[[], dict[str, object]]], ...] = (
        (say("its colours"), lambda: {"colours": _colours(rgba), "symmetric": _is_symmetric(rgba, content)}),
        (say("its holes"), lambda: {"holes": hole_sizes(inner)}),
        (say("its strokes"), lambda: {"strokes": _moved(thin_ladder(inner), left, top)}),
        (say("its gaps"), lambda: {"gaps": _moved(thin_ladder(_ground(inner)), left - GROUND_PX, top - GROUND_PX)}),
    )
    for done, (what, look) in enumerate(looks, 2):
        facts = facts.model_copy(update=look())
        report(facts, done, what)
    return facts


def _flat(rgba: Bytes) -> FlatGround | None:
    found = flat_ground(rgba)
    if found is None or found[1] < GROUND_MATTERS:
        return None
    (r, g, b), share = found
    return FlatGround(colour=f"#{r:02X}{g:02X}{b:02X}", share=share)


def content_box(alpha: Bytes) -> tuple[int, int, int, int]:
    """Left, top, right, bottom of what is visible; the whole picture when nothing is."""
    seen = (alpha >= VISIBLE_ALPHA).astype(np.uint8)
    x, y, width, height = cv2.boundingRect(seen)
    if width == 0:
        return 0, 0, alpha.shape[1], alpha.shape[0]
    return x, y, x + width, y + height


def transparency_of(counts: NDArray[np.int64]) -> Transparency:
    """none: no pixel is clear. hard: clear or not, but for anti-aliased edges. soft: fades."""
    whole, clear = int(counts.sum()), int(counts[:VISIBLE_ALPHA].sum())
    between = int(counts[VISIBLE_ALPHA:248].sum())
    if clear + between == 0:
        return "none"
    visible = max(1, whole - clear)
    return "soft" if between / visible > SOFT_SHARE else "hard"


def _ground(alpha: Bytes) -> Bytes:
    """The ground between strokes as a shape; a broad frame keeps the open ground outside from looking narrow."""
    wide = (GROUND_PX,) * 4
    return np.asarray(cv2.copyMakeBorder(255 - alpha, *wide, cv2.BORDER_CONSTANT, value=255))


def _moved(rungs: tuple[ThinRung, ...], left: int, top: int) -> tuple[ThinRung, ...]:
    return tuple(
        r.model_copy(update={"spots": tuple(
            s.model_copy(update={"x_px": s.x_px + left, "y_px": s.y_px + top}) for s in r.spots)})
        for r in rungs
    )  # fmt: skip


def _colours(rgba: Bytes) -> tuple[ColourShare, ...]:
    step = max(1, int(np.sqrt(rgba.shape[0] * rgba.shape[1] / 1_000_000)))
    seen = rgba[::step, ::step].reshape(-1, 4)
    seen = seen[seen[:, 3] >= VISIBLE_ALPHA]
    if not len(seen):
        return ()
    index = (seen[:, :3].astype(np.int32) * BINS) >> 8
    key = (index[:, 0] * BINS + index[:, 1]) * BINS + index[:, 2]
    weight = np.bincount(key, weights=seen[:, 3].astype(np.float64), minlength=BINS**3)
    sums = [np.bincount(key, weights=seen[:, i] * seen[:, 3].astype(np.float64), minlength=BINS**3) for i in range(3)]
    used = np.flatnonzero(weight)
    used = used[np.argsort(-weight[used])][:1500]
    whole = float(weight.sum())
    return tuple(
        ColourShare(rgb=tuple(round(float(s[k] / weight[k])) for s in sums), share=round(float(weight[k]) / whole, 6))
        for k in used
    )  # fmt: skip


def _is_symmetric(rgba: Bytes, content: tuple[int, int, int, int]) -> bool:
    """Whether a wrong mirror would go unseen."""
    left, top, right, bottom = content
    part = rgba[top:bottom, left:right]
    small = cv2.resize(part, (192, max(1, round(192 * part.shape[0] / part.shape[1]))), interpolation=cv2.INTER_AREA)
    lit = small[..., :3].astype(np.float32) * (small[..., 3:4] / np.float32(255))
    both = np.concatenate([lit, small[..., 3:4].astype(np.float32)], axis=2)
    apart = np.abs(both - both[:, ::-1])
    # A detail on one side alone gives a mirror away, however little of the picture it is.
    spot = cv2.blur(np.ascontiguousarray(apart.max(axis=2)), (SPOT_PX, SPOT_PX)).max()
    return bool(apart.mean() < SYMMETRY_LEVELS and spot < SPOT_LEVELS)
