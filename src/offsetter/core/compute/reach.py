"""The nearest colour that the inks can print, searched in ink and not in a profile's own table, and what to ask for to come near it."""

from itertools import product

import numpy as np
from numpy.typing import NDArray

from offsetter.core.compute.cielab import delta_e_2000, lab_of_srgb, srgb_of_lab
from offsetter.core.compute.colour import Colours, DriverColours
from offsetter.core.compute.plate_spec import ColourSpec
from offsetter.core.facts import Lab
from offsetter.core.values import Frozen

STEPS = (0.12, 0.06, 0.03, 0.015, 0.008, 0.004)
ASKS = 16
ROUNDS = 12
"""Moves at one step size before the next: each move takes the best of all neighbours."""


class Reached(Frozen):
    device_pct: tuple[float, ...]
    lab: Lab
    delta_e: float


def nearest_reachable(colours: Colours | DriverColours, lab: Lab, spec: ColourSpec) -> Reached:
    """The printable colour nearest to lab in CIEDE2000, relative to the ground, under the spec's ink limit."""
    asked = np.array(lab, dtype=np.float64)
    channels = colours.channels
    here = colours.of_lab(asked.reshape(1, 1, 3), spec)[0, 0]
    moves = np.array(list(product((-1, 0, 1), repeat=channels)), dtype=np.float64)
    if channels > 4:  # two at a time: all of eight inks' neighbours would be 6,561
        moves = moves[np.count_nonzero(moves, axis=1) <= 2]
    best, best_lab, best_at = np.inf, asked, here
    for step in STEPS:
        for _ in range(ROUNDS):
            tried = np.clip(here + moves * step, 0, 1)
            if channels >= 4:
                tried = tried[tried.sum(axis=1) <= spec.ink_limit_pct / 100 + 1e-9]
                if not len(tried):
                    tried = here[None] * (spec.ink_limit_pct / 100 / max(1e-9, here.sum()))
            found, apart = _apart(colours, tried, asked)
            at = int(apart.argmin())
            if apart[at] >= best - 1e-6:
                break
            best, best_lab, best_at = float(apart[at]), found[at], tried[at]
            here = best_at
    return Reached(
        device_pct=tuple(round(float(v) * 100, 1) for v in best_at), delta_e=round(best, 2),
        lab=(round(float(best_lab[0]), 2), round(float(best_lab[1]), 2), round(float(best_lab[2]), 2)),
    )  # fmt: skip


def what_to_ask(colours: Colours | DriverColours, lab: Lab, spec: ColourSpec) -> tuple[Lab, float]:
    """The Lab to put in the picture so that its print comes nearest to lab, and how near (CIEDE2000).

    A picture is eight bits of sRGB and goes through the spec's intent and black point: what is asked is not what is printed.
    """
    wanted = np.array(lab, dtype=np.float64)
    asked, best, best_at = wanted.copy(), np.inf, wanted
    for _ in range(ASKS):
        held = np.rint(srgb_of_lab(asked))
        printed = colours.lab_of(colours.of_lab(lab_of_srgb(held).reshape(1, 1, 3), spec))[0, 0]
        apart = float(delta_e_2000(printed, wanted))
        if apart < best - 1e-3:
            best, best_at = apart, asked.copy()
        asked = np.clip(asked + 0.7 * (wanted - printed), (0, -128, -128), (100, 127, 127))
    return (round(float(best_at[0]), 2), round(float(best_at[1]), 2), round(float(best_at[2]), 2)), round(best, 2)


def _apart(
    colours: Colours | DriverColours, tried: NDArray[np.float64], asked: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    found = colours.lab_of(tried[None])[0]
    return found, delta_e_2000(found, asked)
