"""A simulated colour probe: it "reads" a printed chart by an invented printer that gains tone, pools and wanders from week to week.

It is sent a chart as CGATS text and answers with the same patches measured, like any probe on the network.
"""

import hashlib
import random
import shlex

from standins.inks import driven_by_rgb, lab_of, printed_xyz

GAIN = (0.225, 0.175, 0.125, 0.19)
"""At a half, C, M, Y, K: the profile was made at 0.15 each."""
WANDERS = (0.009, 0.004, -0.005, 0.002)
"""What a week adds to it."""
HOLDS = 2.3
"""Ink, of 4, over which it pools and turns lighter."""
NOISE = 0.12
"""Standard deviation of a reading, in each of L, a and b."""


def read_patch(device: list[float], label: str, weeks: float) -> tuple[float, float, float]:
    """Lab of one patch; device: four ink shares or red, green, blue, 0 to 1."""
    inks = device if len(device) == 4 else driven_by_rgb(device)
    gain = (
        tuple(g + w * weeks for g, w in zip(GAIN, WANDERS, strict=True))
        if len(device) == 4
        else tuple(0.15 + w * weeks for w in WANDERS)
    )
    total = sum(inks)
    held = [v * HOLDS / total for v in inks] if total > HOLDS else inks
    light, a, b = lab_of(printed_xyz(held, gain))
    light += max(0.0, total - HOLDS) * 2.5
    # The same patch read twice in a week gives the same: a demo that can be followed.
    seed = hashlib.sha256(f"{label}{device}{weeks:.2f}".encode()).digest()
    chance = random.Random(seed)
    return light + chance.gauss(0, NOISE), a + chance.gauss(0, NOISE), b + chance.gauss(0, NOISE)


def measured(text: str, weeks: float) -> str:
    """The chart's text with LAB_L, LAB_A and LAB_B beside every patch."""
    lines = text.splitlines()
    fields = lines[lines.index("BEGIN_DATA_FORMAT") + 1].split()
    start, end = lines.index("BEGIN_DATA") + 1, lines.index("END_DATA")
    space = "CMYK" if "CMYK_C" in fields else "RGB"
    at = [fields.index(f"{space}_{n}") for n in space]
    label = fields.index("SAMPLE_LOC")
    out = ["CGATS.17", 'ORIGINATOR "Simulated probe"', f"NUMBER_OF_FIELDS {len(fields) + 3}", "BEGIN_DATA_FORMAT",
           " ".join([*fields, "LAB_L", "LAB_A", "LAB_B"]), "END_DATA_FORMAT", f"NUMBER_OF_SETS {end - start}", "BEGIN_DATA"]  # fmt: skip
    for line in lines[start:end]:
        row = shlex.split(line)
        lab = read_patch([float(row[i]) / 100 for i in at], row[label], weeks)
        out.append(" ".join([*row, *(f"{v:.3f}" for v in lab)]))
    return "\n".join([*out, "END_DATA", ""])
