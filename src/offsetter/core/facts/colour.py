"""What a shop knows of its colour: profiles, print conditions with their corrections, customers' colours."""

from datetime import datetime
from functools import lru_cache
from typing import Annotated, Literal

from pydantic import Field, field_validator

from offsetter.core.facts.inks import FOUR, INKS
from offsetter.core.facts.machines import Printer
from offsetter.core.values import Frozen, digest

Space = Literal["CMYK", "RGB", "5CLR", "6CLR", "7CLR", "8CLR"]
"""As an ICC profile's header names it."""
Lab = tuple[float, float, float]
"""Under D50."""
GivenLab = tuple[
    Annotated[float, Field(ge=0, le=100)],
    Annotated[float, Field(ge=-128, le=127)],
    Annotated[float, Field(ge=-128, le=127)],
]
"""As somebody types it."""
Curve = tuple[tuple[float, float], ...]
"""Asked tone to printed tone, both 0 to 100, rising."""


class ProfileTag(Frozen):
    signature: str
    size_bytes: int


class Profile(Frozen):
    """An ICC profile as its header and tags tell it; its bytes are kept by its id."""

    id: str
    """Hash of the bytes."""
    name: str
    file_name: str = ""
    device_class: str = "prtr"
    space: Space
    inks: tuple[str, ...] = ()
    """Of more than four: channels in its order, where it names them (ICC.1, 10.5)."""
    connection: str = "Lab"
    version: str
    white_lab: Lab
    """Of the medium."""
    size_bytes: int
    tags: tuple[ProfileTag, ...] = ()
    intents: tuple[str, ...] = ()
    copyright: str = ""
    added_at: datetime | None = None
    added_by: str = ""

    def inks_on(self, printer: Printer) -> tuple[str, ...] | None:
        """What it separates into on a printer; None: it is for other inks. Light inks may be left to be split off afterwards."""
        if self.space == "RGB":
            return None
        if self.space == "CMYK":
            return FOUR
        if self.inks:
            return self.inks if {*self.inks} <= {*printer.inks} else None
        many, full = int(self.space[0]), tuple(i for i in printer.inks if not INKS[i].full)
        return next((inks for inks in (printer.inks, full) if len(inks) == many), None)


class Condition(Frozen):
    """How one printer prints on one medium in one mode: its profile, and what was corrected since it was made."""

    id: str
    version: int
    printer: str
    media: str
    mode: str
    profile: str = ""
    """Hash; empty: none is assigned."""
    curves: tuple[Curve, ...] = ()
    """A channel C, M, Y, K each; empty: printed as asked."""
    ink_limit_pct: float | None = Field(None, ge=100, le=400)
    """Found from a ramp on this medium; None: the method's."""
    why: str = ""
    """What this version changed."""
    measurement: str = ""
    """The measurement that it was worked out from."""
    at: datetime | None = None
    by: str = ""

    @property
    def changes_dots(self) -> tuple[object, ...]:
        """Two versions alike in this print the same dots."""
        return self.profile, self.curves, self.ink_limit_pct


@lru_cache(maxsize=1_000)
def condition_id(printer: str, media: str, mode: str) -> str:
    return digest("condition", printer, media, mode)[:20]


class BrandColour(Frozen):
    """A colour that a customer holds a shop to."""

    id: str
    customer: str = Field(min_length=1, max_length=120)
    name: str = Field(min_length=1, max_length=60)
    lab: Lab
    within_delta_e: float = Field(3.0, gt=0, le=20)
    """How far off it may be, in CIEDE2000."""

    @field_validator("lab")
    @classmethod
    def is_a_colour(cls, lab: Lab) -> Lab:
        if not (0 <= lab[0] <= 100 and all(-128 <= v <= 127 for v in lab[1:])):
            raise ValueError("L goes from 0 to 100, a and b from -128 to 127")
        return lab


class Drift(Frozen):
    """How far a condition has wandered since it was last corrected, at its newest measurement."""

    mean_delta_e: float
    at: datetime
    wants_correction: bool


class Measurement(Frozen):
    """A chart that was measured."""

    id: str
    chart: str
    kind: str = "condition"
    """Of the chart: a whole condition, or a strip."""
    condition: str
    condition_version: int
    """In force when the chart was made."""
    file: str
    """Hash of its patches as CGATS text."""
    probe: str
    at: datetime
    by: str
    count: int
    mean: float
    p95: float
    worst: float
    """Against what the profile says of the patches, CIEDE2000."""
    drift: float | None = None
    """Mean against the state last corrected; None for that state itself."""
