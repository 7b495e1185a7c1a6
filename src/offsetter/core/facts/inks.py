"""The inks that a printer may hold, in the order in which they are told. Light inks are thin ones of the same hue."""

from collections.abc import Mapping
from typing import Annotated, NamedTuple

from pydantic import Field

InkChannel = Annotated[str, Field(pattern=r"^[A-Z][A-Za-z]{0,7}$")]
FOUR = ("C", "M", "Y", "K")
WHITE = "W"


class Ink(NamedTuple):
    name: str
    rgb: tuple[int, int, int]
    """How a solid of it is drawn on a screen: from memory."""
    cmyk: tuple[float, float, float, float]
    """What stands for it where a program knows four inks: from memory."""
    full: str = ""
    """Of a light ink: the full one, whose light tones it takes."""


INKS: dict[str, Ink] = {
    "C": Ink("cyan", (0, 150, 220), (1, 0, 0, 0)),
    "M": Ink("magenta", (220, 20, 130), (0, 1, 0, 0)),
    "Y": Ink("yellow", (255, 225, 30), (0, 0, 1, 0)),
    "K": Ink("black", (25, 25, 25), (0, 0, 0, 1)),
    "O": Ink("orange", (245, 120, 20), (0, 0.55, 1, 0)),
    "G": Ink("green", (0, 150, 70), (1, 0, 1, 0)),
    "R": Ink("red", (210, 30, 40), (0, 1, 1, 0)),
    "B": Ink("blue", (40, 60, 160), (1, 0.8, 0, 0)),
    "V": Ink("violet", (100, 50, 150), (0.75, 1, 0, 0)),
    "LC": Ink("light cyan", (150, 210, 240), (0.35, 0, 0, 0), "C"),
    "LM": Ink("light magenta", (245, 170, 205), (0, 0.35, 0, 0), "M"),
    "LK": Ink("light black", (150, 150, 150), (0, 0, 0, 0.35), "K"),
    "W": Ink("white", (250, 250, 250), (0.25, 0, 0, 0)),
}
COLOURS = tuple(c for c in INKS if c != WHITE)
LIGHT_STRENGTH = 0.35
"""Of a light ink against its full one, as share of colorant: from memory, makers give a quarter to a half."""
BY_NAME = {ink.name: channel for channel, ink in INKS.items()}


def name_of(channel: str) -> str:
    return INKS[channel].name if channel in INKS else channel


def split_off(held: tuple[str, ...], inks: tuple[str, ...]) -> tuple[str, ...]:
    """Light inks that are held and that a profile of these inks knows nothing of: their full ones share their tones with them."""
    return tuple(c for c in held if INKS[c].full in inks and c not in inks)


def alike(channel: str, known: Mapping[str, object]) -> str:
    """The ink whose value goes for this one while it has none of its own: itself, its full ink, else cyan."""
    full = INKS[channel].full if channel in INKS else ""
    return next((c for c in (channel, full) if c in known), "C")
