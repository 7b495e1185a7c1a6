"""The three looks of a print: ink filters light, white covers, the cloth shows through what is left."""

from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from offsetter.core.compute.cielab import linear_of_srgb, rgb_of_hex, srgb_of_linear
from offsetter.core.compute.colour import Colours
from offsetter.core.compute.dots import full_dots, mix_look
from offsetter.core.compute.light_inks import joined
from offsetter.core.compute.plate_spec import ColourSpec
from offsetter.core.compute.tone import uncorrected
from offsetter.core.values import Frozen

Bytes = NDArray[np.uint8]
Look = Literal["carrier", "pressed", "cloth"]
LOOKS: tuple[Look, ...] = ("carrier", "pressed", "cloth")
_LINEAR_STEPS = 4096
_TO_LINEAR = linear_of_srgb(np.arange(256) / 255).astype(np.float32)
_TO_SRGB = np.rint(srgb_of_linear(np.arange(_LINEAR_STEPS) / (_LINEAR_STEPS - 1)) * 255).astype(np.uint8)


class Ground(Frozen):
    """What a print ends up on, and what lies under its colour."""

    cloth: str = "#FFFFFF"
    opacity: float = Field(1.0, ge=0, le=1)
    """Of the white."""
    white: Literal["plate", "sheet", "none"] = "plate"
    strength: float = Field(1.0, ge=0, le=1)
    """What the cloth keeps of a dye's strength: its share of polyester (linear, from memory)."""
    sheet_colour: str = ""
    """Of the coloured sheet that sticks to the toner, where one gives the colour."""
    is_dye: bool = False
    """It lies on its paper dull and with its hues astray until heat drives it in."""


DULL_SHARE, DULL_GREY = 0.45, 0.30
"""A dye on its paper: this share of its light is an even grey of this light. From memory; practice says dull, and gives no figure."""


PLAIN = ColourSpec(profile="")


def asked_ink(planes: Bytes, spec: ColourSpec = PLAIN) -> Bytes:
    """The profile's inks (rows, columns, inks) that were asked for, from planes that were split and corrected for the printer."""
    inks = len(spec.separates)
    ink = np.ascontiguousarray(planes[..., :inks])
    if spec.light:
        ink = joined(ink, planes[..., inks : inks + len(spec.light)], spec.splits)
    return np.asarray(cv2.LUT(ink, uncorrected(spec.curves)[None])) if spec.curves else ink


def look_at(
    look: Look, colours: Colours, planes: Bytes, alpha: Bytes, ground: Ground, *, printed: Bytes | None = None, spec: ColourSpec = PLAIN
) -> Bytes:  # fmt: skip
    """RGBA of a print as it is seen (last axis of planes: what spec lays and, with a white plate, W; alpha: the artwork's own).

    carrier: the printed side of the film: white lies over the colour. pressed: colour over full white, as on a
    proof. cloth: colour over the white there is, over the cloth, in linear light. Where the artwork fades, its dots
    stand apart: each is full colour on full white, and between them lies the ground. printed: sRGB on white of a
    printer that separates by itself, in place of what the planes give.
    """
    alpha = np.ascontiguousarray(alpha)
    if planes.shape[2] == len(spec.lays):
        covers = ground.white == "sheet" or ground.sheet_colour
        under = alpha if covers else np.zeros_like(alpha)
        planes = np.dstack([planes, under])
    planes = full_dots(np.ascontiguousarray(planes), alpha)
    if ground.sheet_colour and look != "carrier":
        seen = np.broadcast_to(np.array(rgb_of_hex(ground.sheet_colour), np.uint8), (*alpha.shape, 3)).copy()
    elif printed is not None:
        seen = np.ascontiguousarray(printed)
    else:
        seen = colours.to_screen(asked_ink(planes, spec))
    if look == "carrier" and ground.is_dye:
        light = _TO_LINEAR[seen] * (1 - DULL_SHARE) + DULL_SHARE * DULL_GREY
        light = np.where(seen.min(axis=2, keepdims=True) > 250, _TO_LINEAR[seen], light)
        seen = _TO_SRGB[np.rint(light * (_LINEAR_STEPS - 1)).astype(np.int32)]
    base = _TO_LINEAR[list(rgb_of_hex(ground.cloth))]
    # Only a white plate lies over the colour on the carrier; a sheet that is white lies under it.
    opacity = 0.0 if look == "carrier" and (ground.white != "plate" or ground.sheet_colour) else ground.opacity
    out = np.zeros((*planes.shape[:2], 4), np.uint8)
    mix_look(LOOKS.index(look), planes, alpha, seen, base, opacity, ground.strength, _TO_LINEAR, _TO_SRGB, out)
    return out
