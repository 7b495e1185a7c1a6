"""The work at a press as it goes on: written by the screen that leads it, read by one that follows or takes over."""

from typing import Literal

from pydantic import Field

from offsetter.core.acts import RanStage
from offsetter.core.values import Frozen

MOST_ON_RACK = 60
MOST_TOGETHER = 400
"""Transfers of one cut length that go through the oven together."""


class Beside(Frozen):
    """Another thing of the same load."""

    id: str = Field(max_length=40)
    slot: str = Field(max_length=80)


class OnTheWay(Frozen):
    """A load, most often one piece, between its first stage and its record."""

    id: str = Field(max_length=40)
    slot: str = Field(max_length=80)
    others: tuple[Beside, ...] = Field((), max_length=MOST_TOGETHER)
    """What lies in the same pressing beside it."""
    order: int
    stage: int = Field(ge=0, le=400)
    """The stage that comes next, or runs."""
    ran: tuple[RanStage, ...] = Field((), max_length=800)
    where: Literal["press", "rack", "parked"]
    place: int | None = None
    """Its numbered place on the rack."""
    since: float | None = None
    """When it was laid there, in the browser's milliseconds."""
    warm_at: float | None = None
    """When a touch last found it warm."""
    again: bool = False
    """Its stages are being done once more."""


class PressState(Frozen):
    dial_c: float | None = None
    """What the press is set to."""
    pieces: tuple[OnTheWay, ...] = Field((), max_length=MOST_ON_RACK)
    started_at: float | None = None
    """When the stage on the press began, in the browser's milliseconds; None while nothing runs."""
    done: int = 0
    """Pieces finished in this session."""
    load: int | None = Field(None, ge=1, le=MOST_ON_RACK)
    """Things laid in one pressing; None: as many as the platen takes."""
    size: str = Field("", max_length=80)
    """The slot that the next piece is taken from."""
