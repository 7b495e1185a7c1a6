"""Media as the shop knows them by sight: a card for each roll and sheet."""

import re

from pydantic import Field

from offsetter.core.values import Frozen, digest

_PLAIN = re.compile(r"^[a-z0-9-]{1,40}$")
Photo = Field("", pattern=r"^[0-9a-f]*$", max_length=64)
"""A photograph's file; empty: none was taken."""


def medium_id(media: str) -> str:
    """Under which a medium's card is kept: its own word where that can be one."""
    return media if _PLAIN.match(media) else digest("medium", media)[:24]


class Medium(Frozen):
    """How its faces are told apart, in words and by the shop's own photographs, and what somebody measured on it."""

    media: str = Field(min_length=1, max_length=60)
    print_face: str = Field("", max_length=160)
    """What the face that takes the print looks and feels like."""
    back_face: str = Field("", max_length=160)
    print_photo: str = Photo
    back_photo: str = Photo
    thickness_um: float | None = Field(None, gt=0, le=5_000)
    opacity_pct: float | None = Field(None, ge=0, le=100)
    """Of an opaque sheet or film: how much of what lies under it is hidden."""
    note: str = Field("", max_length=300)
    """What else is known of it: two sheets loaded, its curl, how it is kept."""
