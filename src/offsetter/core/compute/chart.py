"""Test charts: which patches, and where they stand on the sheet."""

from itertools import product
from math import ceil, floor
from typing import Any, Literal

import numpy as np
from pydantic import Field

from offsetter.core.compute.tone import printed_tones
from offsetter.core.facts import Curve, Feed, Lab, Space
from offsetter.core.facts.inks import FOUR
from offsetter.core.quantities import a_length, a_size
from offsetter.core.values import Frozen, Refusal, digest

ChartKind = Literal["condition", "strip"]
PATCH_MM, LEAST_MM, GAP_MM, LABEL_MM, MARK_MM = 12.0, 7.0, 1.0, 6.0, 8.0
"""A hand-held probe's opening with its foot wants 7 mm at least: from memory."""
MOST_WIDE_MM = 297.0
"""On a roll a chart stays as wide as a hand reaches with a probe."""
RAMP = tuple(range(10, 101, 10))
TOTALS = (120, 160, 200, 220, 240, 260, 280, 300, 340, 400)
MIXED = (25, 50, 75)


class Patch(Frozen):
    label: str
    """Row letter and column number, as printed beside the patches."""
    asked: tuple[float, ...]
    """Device values before any correction, 0 to 100: the profile's inks, or red, green and blue."""
    printed: tuple[float, ...]
    """What is sent: asked, through the condition's curves."""
    group: str = "mixed"
    """bare, a ramp of each ink (ramp-C), limit, mixed."""
    lab: Lab | None = None
    """Of a strip: the colour this patch tries."""


class Chart(Frozen):
    """Patches row by row; lengths in mm."""

    id: str
    kind: ChartKind
    title: str
    space: Space
    inks: tuple[str, ...] = ()
    """Of more than four: channels in the profile's order."""
    light: tuple[str, ...] = ()
    """Light inks that are split off the patches' full ones when they are printed."""
    condition: str
    condition_version: int
    profile: str
    columns: int = Field(ge=1)
    patch_mm: float = Field(gt=0)
    width_mm: float
    height_mm: float
    left_mm: float = 0.0
    """What the printer leaves free at the left and at the top."""
    top_mm: float = 0.0
    mirrored: bool
    white: bool
    """A white plate lies under every patch."""
    patches: tuple[Patch, ...] = Field(min_length=1, max_length=2000)

    @property
    def channels(self) -> tuple[str, ...]:
        return self.inks or tuple(self.space)

    @property
    def rows(self) -> int:
        return ceil(len(self.patches) / self.columns)

    def at_mm(self, index: int) -> tuple[float, float]:
        """Left and top of a patch on the sheet as it is read."""
        row, column = divmod(index, self.columns)
        step = self.patch_mm + GAP_MM
        return self.left_mm + MARK_MM + LABEL_MM + column * step, self.top_mm + MARK_MM + LABEL_MM + row * step


def condition_patches(space: Space, inks: tuple[str, ...] = FOUR) -> list[tuple[str, tuple[float, ...]]]:
    """Group and device values of the chart that tells a whole condition: each ink's ramp, and mixtures of the first four."""
    if space == "RGB":
        steps = (0.0, 25.0, 50.0, 75.0, 100.0)
        greys = [("mixed", (v, v, v)) for v in (12.5, 37.5, 62.5, 87.5)]
        return [
            ("bare", (100.0, 100.0, 100.0)),
            *(("mixed", p) for p in product(steps, repeat=3) if p != (100.0,) * 3),
            *greys,
        ]
    many = len(inks)
    found: list[tuple[str, tuple[float, ...]]] = [("bare", (0.0,) * many)]
    for i, ink in enumerate(inks):
        found += [(f"ramp-{ink}", tuple(float(v) if j == i else 0.0 for j in range(many))) for v in RAMP]
    four: list[tuple[str, tuple[float, ...]]] = [("limit", _ladder(total)) for total in TOTALS]
    four += [("mixed", (float(c), float(m), float(y), 0.0)) for c, m, y in product(MIXED, repeat=3)]
    solids = ((100, 100, 0, 0), (100, 0, 100, 0), (0, 100, 100, 0), (60, 45, 45, 20), (40, 30, 30, 0), (20, 15, 15, 0))
    four += [("mixed", tuple(float(v) for v in s)) for s in solids]
    places = [FOUR.index(i) if i in FOUR else -1 for i in inks]
    return found + [(group, tuple(shares[p] if p >= 0 else 0.0 for p in places)) for group, shares in four]


def _ladder(total: float) -> tuple[float, ...]:
    """So much ink of all four: the three colours alike, black with them up to full."""
    each = min(100.0, total / 4)
    return (each,) * 4


STRIP_COLUMNS = 5


def strip_labs(target: Lab, step: float = 2.5) -> list[Lab]:
    """The colour and its neighbours: lighter and darker rows, redder, greener, yellower, bluer columns."""
    around = [(0.0, 0.0), (step, 0.0), (-step, 0.0), (0.0, step), (0.0, -step)]
    return [
        (float(np.clip(target[0] + dl, 0, 100)), target[1] + da, target[2] + db)
        for dl in (0.0, step, -step)
        for da, db in around
    ]


def size_chart(count: int, wide_mm: float, high_mm: float) -> tuple[int, float]:
    """Columns, and the patch's side, for so many patches on a sheet. Raises Refusal when the sheet is too small for them."""
    patch = PATCH_MM
    while patch >= LEAST_MM:
        columns = floor((wide_mm - 2 * (MARK_MM + LABEL_MM) + GAP_MM) / (patch + GAP_MM))
        if columns >= 1:
            columns = min(columns, count)
            if ceil(count / columns) * (patch + GAP_MM) - GAP_MM + 2 * (MARK_MM + LABEL_MM) <= high_mm:
                return columns, patch
        patch -= 0.5
    raise Refusal("sheet-too-small", f"{count} patches do not fit on {a_size(wide_mm, high_mm)}.", "No chart was made.",
                  f"Load a larger sheet: a patch is at least {a_length(LEAST_MM)}.")  # fmt: skip


def label_of(index: int, columns: int) -> str:
    """Row letters A to Z, then AA; columns from 1."""
    row, column = divmod(index, columns)
    letters = ""
    row += 1
    while row:
        row, rest = divmod(row - 1, 26)
        letters = chr(65 + rest) + letters
    return f"{letters}{column + 1}"


def lay_chart(
    patches: list[tuple[str, tuple[float, ...], Lab | None]], feed: Feed, curves: tuple[Curve, ...], *, most_columns: int = 99, **about: Any
) -> Chart:  # fmt: skip
    """A chart of group, asked values and tried colour, laid on what the feed takes: a sheet whole, a roll as long as it needs.

    about: the fields of Chart that lay nothing.
    """
    roll = feed.kind == "roll"
    wide, high = min(feed.printable_mm, MOST_WIDE_MM), MOST_WIDE_MM if roll else feed.length_mm - 2 * feed.margin_mm
    columns, side = size_chart(len(patches), wide, high)
    columns = min(columns, most_columns)
    rows = ceil(len(patches) / columns)
    used = rows * (side + GAP_MM) - GAP_MM + 2 * (MARK_MM + LABEL_MM)
    made = tuple(
        Patch(
            label=label_of(i, columns),
            asked=asked,
            printed=asked if about["space"] == "RGB" else printed_tones(curves, asked),
            group=group,
            lab=lab,
        )
        for i, (group, asked, lab) in enumerate(patches)
    )
    key = digest("chart", made, columns, side, about)
    return Chart(
        id=key[:20], columns=columns, patch_mm=side, width_mm=feed.media_mm, height_mm=used + 2 * feed.margin_mm if roll else feed.length_mm,
        left_mm=(feed.media_mm - feed.printable_mm) / 2, top_mm=feed.margin_mm, patches=made, **about,
    )  # fmt: skip
