"""Light inks: what they take over from their full ink, so that light tones are made of many small dots and not of few dark ones.

With strength s of the light ink, a tone t is full + s x light. The light ink rises to its most at t = s, and falls from there
to nothing at t = 1; it never takes more ink than the limit leaves, and what it does not take the full ink keeps: the tone is
the same either way. (Common practice, no source, for the shape; the sum is arithmetic.)
"""

import numba
import numpy as np
from numpy.typing import NDArray

from offsetter.core.facts.inks import INKS, LIGHT_STRENGTH

Bytes = NDArray[np.uint8]


def light_of(tone: float) -> float:
    """Share of light ink for a tone from 0 to 1."""
    return tone / LIGHT_STRENGTH if tone <= LIGHT_STRENGTH else (1 - tone) / (1 - LIGHT_STRENGTH)


LIGHT = np.array([light_of(level / 255) for level in range(256)])
"""The same for each of 256 levels."""


@numba.njit(nogil=True, cache=True, fastmath=False)
def split_light(
    planes: Bytes, inks: int, full: NDArray[np.int64], share: NDArray[np.float64], strength: float, limit: int,
    levels: NDArray[np.int64], dots: NDArray[np.int64],
) -> None:  # fmt: skip
    """Split planes (rows, columns, channels): the first inks are the profile's, after them one light plane for each of full, their
    place. limit: of the sum in 255ths. levels and dots (a channel): what was counted before, brought up to date."""
    for y in range(planes.shape[0]):
        for x in range(planes.shape[1]):
            total = 0
            for i in range(inks):
                total += planes[y, x, i]
            if total == 0:
                continue
            wanted = 0.0
            for k in range(full.shape[0]):
                wanted += share[planes[y, x, full[k]]] * 255.0 * (1.0 - strength)
            if wanted <= 0.0:
                continue
            # Each light dot adds itself and takes its strength off the full ink.
            part = min(1.0, max(0.0, (limit - total - full.shape[0]) / wanted))  # less what rounding may add
            for k in range(full.shape[0]):
                at = full[k]
                tone = int(planes[y, x, at])
                light = int(share[tone] * part * 255.0)
                rest = max(0, int(tone - strength * light + 0.5))
                if light == 0:
                    continue
                planes[y, x, at], planes[y, x, inks + k] = rest, light
                levels[at] += rest - tone
                dots[at] -= (tone > 0) and (rest == 0)
                levels[inks + k] += light
                dots[inks + k] += 1


def split(shares: dict[str, float], light: tuple[str, ...]) -> dict[str, float]:
    """Of one patch, each ink's share from 0 to 1, with the light inks beside; no limit is kept."""
    found = dict(shares)
    for ink in light:
        full, tone = INKS[ink].full, shares[INKS[ink].full]
        found[ink] = light_of(tone)
        found[full] = tone - LIGHT_STRENGTH * found[ink]
    return found


def joined(inks: Bytes, light: Bytes, full: tuple[int, ...]) -> Bytes:
    """Tones that were split, as they were before: inks (rows, columns, inks) with the light ones' strength given back."""
    out = inks.astype(np.float32)
    for k, at in enumerate(full):
        out[..., at] += LIGHT_STRENGTH * light[..., k]
    return np.minimum(np.rint(out), 255).astype(np.uint8)
