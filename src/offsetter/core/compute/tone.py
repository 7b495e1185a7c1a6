"""What measured patches say of a print condition: tones, the curves that correct them, the ink it holds, and how far it is off.

Tone value: Murray, Davies (1936), on the tristimulus value that the ink takes most from (X for cyan, Y for magenta and black, Z for
yellow), as ISO 12647-1 allows for a colorimeter; the choice of channels, and that for other inks, is from memory.
"""

from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

from offsetter.core.compute.cielab import delta_e_2000, xyz_of_lab
from offsetter.core.facts import Curve, Lab
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal

Floats = NDArray[np.float64]
TAKES_FROM = {"C": 0, "M": 1, "Y": 2, "K": 1, "O": 2, "G": 0, "R": 1, "B": 1, "V": 1, "LC": 0, "LM": 1, "LK": 1}
KNOTS = tuple(range(0, 101, 5))
STEEPEST = 2.5  # a curve that would lift a tone to more than this times what was asked is no correction: from memory
DEEPER_L = 0.6  # L* that more ink has to win on a ramp to be worth laying: from memory
DRIFT_LIMIT = 2.0  # mean CIEDE2000 to the state last corrected, from which a new correction is asked for: from memory


class PatchDifference(Frozen):
    label: str
    asked: Lab
    got: Lab
    delta_e: float


class DifferenceReport(Frozen):
    """How far measured patches lie from what was asked of them, in CIEDE2000."""

    mean: float
    p95: float
    worst: float
    patches: tuple[PatchDifference, ...]


def report_of(asked: Mapping[str, Lab], got: Mapping[str, Lab]) -> DifferenceReport:
    """Every patch that both name. Raises Refusal when they share none."""
    labels = [label for label in asked if label in got]
    if not labels:
        raise Refusal(
            "no-patches",
            say("None of the chart's patches were measured."),
            say("Nothing was saved."),
            say("Measure the chart that was printed."),
        )
    apart = delta_e_2000([asked[n] for n in labels], [got[n] for n in labels])
    patches = tuple(
        PatchDifference(label=n, asked=_rounded(asked[n]), got=_rounded(got[n]), delta_e=round(float(d), 3))
        for n, d in zip(labels, apart, strict=True)
    )
    return DifferenceReport(mean=round(float(apart.mean()), 3), p95=round(float(np.percentile(apart, 95)), 3),
                            worst=round(float(apart.max()), 3), patches=patches)  # fmt: skip


def tone_values(ink: str, ramp: ArrayLike, bare: Lab, solid: Lab) -> Floats:
    """Printed tone, 0 to 100, of Lab patches of one ink (n, 3) between the bare ground and the solid."""
    at = TAKES_FROM[ink]
    ground, full = xyz_of_lab(bare)[at], xyz_of_lab(solid)[at]
    return np.asarray(100 * (ground - xyz_of_lab(ramp)[..., at]) / (ground - full))


def correcting_curve(asked: Sequence[float], printed: Sequence[float], measured: ArrayLike, wanted: ArrayLike) -> Curve:
    """The curve from asked to printed tone that makes a condition's tones what is wanted of them.

    asked: the ramp's steps, 0 to 100, rising, both ends among them; printed: the device tones that were sent for them;
    measured: the tone values they gave; wanted: those that they should have given. Raises Refusal for a ramp that does not rise.
    """
    steps, device, gave, should = (np.asarray(v, dtype=np.float64) for v in (asked, printed, measured, wanted))
    # Noise near the ends may turn a step round; a true ramp never falls.
    rising = np.maximum.accumulate(gave)
    if rising[-1] <= 0 or np.any(gave < rising - 4.0):
        raise Refusal("not-a-ramp", say("The steps of an ink do not get darker one after another."), say("The condition is as it was."),
                      say("Look whether the chart was read the right way round, and measure it again."))  # fmt: skip
    rising = rising + np.arange(len(rising)) * 1e-6
    back = _monotone(rising, device)
    target = _monotone(steps, np.maximum.accumulate(should))
    knots = np.array(KNOTS, dtype=np.float64)
    found = np.clip(back(np.clip(target(knots), rising[0], rising[-1])), 0, np.minimum(100, knots * STEEPEST))
    found[0], found[-1] = 0.0, 100.0
    return tuple(zip(map(float, KNOTS), (round(float(v), 2) for v in np.maximum.accumulate(found)), strict=True))


@lru_cache(maxsize=32)
def curve_table(curves: tuple[Curve, ...]) -> NDArray[np.uint8]:
    """256 levels a channel, shape (256, channels): what is printed for what is asked."""
    levels = np.arange(256) / 2.55
    return np.stack([np.rint(_through(c, levels) * 2.55).astype(np.uint8) for c in curves], axis=1)


@lru_cache(maxsize=32)
def uncorrected(curves: tuple[Curve, ...]) -> NDArray[np.uint8]:
    """The way back, shape (256, channels): what was asked for what is printed."""
    levels = np.arange(256) / 2.55
    back = [tuple((y, x) for x, y in c) for c in curves]
    return np.stack([np.rint(_through(c, levels) * 2.55).astype(np.uint8) for c in back], axis=1)


def printed_tones(curves: tuple[Curve, ...], asked_pct: Sequence[float]) -> tuple[float, ...]:
    """Device tones, 0 to 100, of asked ones; unchanged where nothing is corrected."""
    if not curves:
        return tuple(asked_pct)
    return tuple(round(float(_through(c, np.array([v]))[0]), 2) for c, v in zip(curves, asked_pct, strict=True))


def _through(curve: Curve, asked: Floats) -> Floats:
    xs, ys = np.array([p[0] for p in curve]), np.array([p[1] for p in curve])
    # Equal knots carry nothing: interpolation wants them rising.
    keep = np.concatenate([[True], np.diff(xs) > 1e-9])
    return np.asarray(np.clip(_monotone(xs[keep], ys[keep])(np.clip(asked, xs[0], xs[-1])), 0, 100))


def _monotone(xs: ArrayLike, ys: ArrayLike) -> Callable[[ArrayLike], Floats]:
    """Through the points, and no further up or down between two of them."""
    from scipy.interpolate import PchipInterpolator  # a fifth of the program's memory, and most plates bend no tone

    return PchipInterpolator(xs, ys)  # type: ignore[no-any-return]


def ink_limit_of(totals: Sequence[float], lightness: Sequence[float]) -> float | None:
    """The ink that a medium holds, in %, from a ramp of growing totals: where more ink makes it no darker.

    None when it gets darker to the ramp's end. A fall that comes back is noise; one that does not is pooling.
    """
    pairs = sorted(zip(totals, lightness, strict=True))
    best_at, best = pairs[0]
    for total, light in pairs[1:]:
        if best - light >= DEEPER_L:
            best_at, best = total, light
    return None if best_at == pairs[-1][0] else float(best_at)


def _rounded(lab: Lab) -> Lab:
    return round(float(lab[0]), 2), round(float(lab[1]), 2), round(float(lab[2]), 2)
