"""Putting a picture right before it is printed: what was decided of it, applied anew whenever the file is read."""

import cv2
import numpy as np
from numpy.typing import NDArray

from offsetter.core.compute.art_ref import Fixes
from offsetter.core.compute.resample import grow
from offsetter.core.sentences import say
from offsetter.core.values import Refusal

Bytes = NDArray[np.uint8]
FRAME_PX = 2
MOST_PIXELS = 140_000_000  # twice A3 at 600 dpi
FLAT_SHARE = 0.98  # of a picture's edge in one colour: from memory
FLAT_DELTA = 6.0  # a compressed flat ground wanders by about this much in Lab: from memory
LEAST_PIECE_PX = 6  # fewer are a compressed edge's speckles: from memory


def apply_fixes(rgba: Bytes, fixes: Fixes, scale: float = 1.0) -> Bytes:
    """The picture (rows, columns, 4; sRGB, straight alpha) put right; scale: how much larger it is than when it was decided."""
    if fixes.enlarge is not None:
        rgba, scale = enlarged(rgba, fixes.enlarge), scale * fixes.enlarge
    if fixes.ground is not None:
        rgba = without_ground(rgba, fixes.ground, inside=fixes.inside)
    if fixes.harden:
        rgba = hardened(rgba)
    if fixes.thicken_px is not None:
        rgba = thickened(rgba, fixes.thicken_px * scale)
    return rgba


def enlarged(rgba: Bytes, times: float) -> Bytes:
    """The picture times as large by Lanczos' window of eight, colours lit by their alpha meanwhile. Raises Refusal when it gets too large."""
    rows, columns = (round(v * times) for v in rgba.shape[:2])
    if rows * columns > MOST_PIXELS:
        raise Refusal("too-large", say("Enlarged, the picture would have {rows} million pixels.", rows=f'{rows * columns / 1000000.0:.0f}'), say("It was left as it is."),
                      say("Enlarge it less, or print it smaller."))  # fmt: skip
    return grow(rgba, columns, rows, cv2.INTER_LANCZOS4)


def flat_ground(rgba: Bytes) -> tuple[tuple[int, int, int], float] | None:
    """The colour all round an opaque picture and the share it covers from the edge inwards; None when there is none."""
    f = FRAME_PX
    frame = np.concatenate(
        [rgba[:f].reshape(-1, 4), rgba[-f:].reshape(-1, 4), rgba[:, :f].reshape(-1, 4), rgba[:, -f:].reshape(-1, 4)]
    )
    if frame[:, 3].min() < 250:
        return None
    colour = np.median(frame[:, :3], axis=0).astype(np.uint8)
    if float((_apart(frame[None, :, :3], colour) <= FLAT_DELTA).mean()) < FLAT_SHARE:
        return None
    share = float(_ground_mask(_apart(rgba[..., :3], colour), FLAT_DELTA).mean())
    return ((int(colour[0]), int(colour[1]), int(colour[2])), round(share, 4)) if share < 0.999 else None


def ground_inside(rgba: Bytes, tolerance: float) -> int:
    """Pieces of an opaque picture's flat ground that do not reach its edge; 0 where there is no such ground."""
    found = flat_ground(rgba)
    if found is None:
        return 0
    apart = _apart(rgba[..., :3], np.array(found[0], np.uint8))
    return len(_pieces_inside(apart, tolerance)[1])


def without_ground(rgba: Bytes, tolerance: float, *, inside: bool = False) -> Bytes:
    """The flat ground made clear from the edge inwards; the rim that was mixed with it is unmixed, so no halo stays.

    inside: its pieces that the picture closes in go as well.
    """
    found = flat_ground(rgba)
    if found is None:
        return rgba
    colour = np.array(found[0], np.float32)
    apart = _apart(rgba[..., :3], np.array(found[0], np.uint8))
    ground = _ground_mask(apart, tolerance)
    if inside:
        labels, pieces = _pieces_inside(apart, tolerance)
        ground |= np.isin(labels, pieces)
    rim = cv2.dilate(ground.astype(np.uint8), np.ones((5, 5), np.uint8)).astype(bool) & ~ground
    # A rim pixel lies on the way from the ground to the nearest colour that is the picture's own.
    inner = (~ground & ~rim).astype(np.uint8)
    out = rgba.copy()
    out[ground] = 0
    if not inner.any() or not rim.any():
        return out
    own = _nearest(rgba[..., :3], inner)
    mine, way = rgba[..., :3][rim].astype(np.float32) - colour, own[rim].astype(np.float32) - colour
    share = np.clip((mine * way).sum(axis=1) / np.maximum((way * way).sum(axis=1), 1.0), 0, 1)
    out[..., :3][rim] = own[rim]
    out[..., 3][rim] = np.rint(share * 255).astype(np.uint8)
    return out


def hardened(rgba: Bytes) -> Bytes:
    """Fades become whole or nothing, with the edge where they were half clear; edges that are sharp already stay as they are."""
    alpha = np.ascontiguousarray(rgba[..., 3])
    near = np.ones((5, 5), np.uint8)
    # An anti-aliased edge has whole and clear beside it; a fade has neither.
    is_sharp = (cv2.dilate(alpha, near) >= 235) & (cv2.erode(alpha, near) <= 20)
    whole = np.where(alpha > 127, 255, 0).astype(np.uint8)
    out = rgba.copy()
    out[..., 3] = np.where(is_sharp, alpha, cv2.GaussianBlur(whole, (3, 3), 0.6))
    return out


def thickened(rgba: Bytes, width_px: float) -> Bytes:
    """Strokes and dots narrower than width_px brought to that width along their middle, in the colour that lies nearest."""
    alpha = np.ascontiguousarray(rgba[..., 3])
    shape = (alpha > 127).astype(np.uint8)
    half = width_px / 2
    inside = cv2.distanceTransform(shape, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    core = (inside > half).astype(np.uint8)
    reached = (
        cv2.distanceTransform(1 - core, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
        if core.any()
        else np.full(alpha.shape, 1e6, np.float32)
    )
    thin = (shape > 0) & (reached > half + 1.0)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(thin.astype(np.uint8), connectivity=8)
    # A corner of something broad looks thin for a moment; a stroke goes on for longer than it shall be wide.
    longest = np.maximum(stats[:, cv2.CC_STAT_WIDTH], stats[:, cv2.CC_STAT_HEIGHT])
    keeps = longest > width_px
    keeps[0] = False
    # What has nothing broad to hang on to is a dot of its own, however short.
    _, apart = cv2.connectedComponents(shape, connectivity=8)
    alone = ~np.isin(apart, np.unique(apart[core > 0])) & (shape > 0)
    thin = (keeps[labels] if count > 1 else np.zeros_like(thin)) | alone
    if not thin.any():
        return rgba
    ridge = (inside >= cv2.dilate(inside, np.ones((3, 3), np.uint8)) - 1e-4) & thin
    away = cv2.distanceTransform(1 - ridge.astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    # A ridge is one or two pixels wide: a quarter less is right to a quarter for both.
    grown = np.clip(half - 0.25 - away + 0.5, 0, 1)
    raised = np.maximum(alpha, np.rint(grown * 255).astype(np.uint8))
    out = rgba.copy()
    fresh = raised > alpha
    out[..., :3][fresh] = _nearest(rgba[..., :3], (alpha > 127).astype(np.uint8))[fresh]
    out[..., 3] = raised
    return out


def _apart(rgb: Bytes, colour: Bytes) -> NDArray[np.float32]:
    """CIE76 of every pixel from one colour."""
    lab = cv2.cvtColor(np.ascontiguousarray(rgb, dtype=np.float32) / np.float32(255), cv2.COLOR_RGB2LAB)
    one = cv2.cvtColor(colour.reshape(1, 1, 3).astype(np.float32) / np.float32(255), cv2.COLOR_RGB2LAB)
    return np.asarray(np.linalg.norm(lab - one, axis=2), dtype=np.float32)


def _ground_mask(apart: NDArray[np.float32], tolerance: float) -> NDArray[np.bool_]:
    """What is near the ground's colour and hangs together with the picture's edge."""
    near = (apart <= tolerance).astype(np.uint8)
    _, labels = cv2.connectedComponents(near, connectivity=4)
    edge = np.unique(np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]]))
    return np.isin(labels, edge[edge > 0])


def _pieces_inside(apart: NDArray[np.float32], tolerance: float) -> tuple[NDArray[np.int32], list[int]]:
    """Labelled patches near the ground's colour, and those of them that the picture closes in."""
    near = (apart <= tolerance).astype(np.uint8)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(near, connectivity=4)
    edge = set(np.unique(np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]])).tolist())
    sizes = stats[:, cv2.CC_STAT_AREA]
    return np.asarray(labels, dtype=np.int32), [
        i for i in range(1, count) if i not in edge and sizes[i] >= LEAST_PIECE_PX
    ]


def _nearest(rgb: Bytes, known: Bytes) -> Bytes:
    """Every pixel's colour taken from the nearest one that is known."""
    _, labels = cv2.distanceTransformWithLabels(1 - known, cv2.DIST_L2, cv2.DIST_MASK_5, labelType=cv2.DIST_LABEL_PIXEL)
    table = np.zeros((int(labels.max()) + 1, 3), np.uint8)
    table[labels[known > 0]] = rgb[known > 0]
    return np.asarray(table[labels], dtype=np.uint8)
