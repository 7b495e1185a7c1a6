"""Colour through littleCMS: transforms, the three looks of a print, and single colours.

Looks take the printed CMYK: ink filters light, white covers, the cloth shows through what is left.
"""

import threading
from io import BytesIO
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms
from pydantic import Field

from offsetter.core.compute.artwork import ColourShare
from offsetter.core.compute.cielab import (
    delta_e_2000,
    lab_of_srgb,
    linear_of_srgb,
    rgb_of_hex,
    srgb_of_linear,
)
from offsetter.core.compute.dots import full_dots, mix_look
from offsetter.core.compute.plate_spec import ColourSpec, Intent
from offsetter.core.values import Frozen, Refusal

Bytes = NDArray[np.uint8]
Look = Literal["carrier", "pressed", "cloth"]
LOOKS: tuple[Look, ...] = ("carrier", "pressed", "cloth")

INTENTS: dict[Intent, ImageCms.Intent] = {
    "perceptual": ImageCms.Intent.PERCEPTUAL,
    "relative": ImageCms.Intent.RELATIVE_COLORIMETRIC,
    "saturation": ImageCms.Intent.SATURATION,
    "absolute": ImageCms.Intent.ABSOLUTE_COLORIMETRIC,
}
_LINEAR_STEPS = 4096
_TO_LINEAR = linear_of_srgb(np.arange(256) / 255).astype(np.float32)
_TO_SRGB = np.rint(srgb_of_linear(np.arange(_LINEAR_STEPS) / (_LINEAR_STEPS - 1)) * 255).astype(np.uint8)
IN_GAMUT_DELTA_E = 2.0  # a round trip nearer than this is printable: from memory, near what an eye sees side by side


def open_profile(data: bytes, *, must_be: str = "CMYK") -> ImageCms.ImageCmsProfile:
    """An ICC profile from its bytes. Raises Refusal when it is broken or of another colour space."""
    try:
        profile = ImageCms.ImageCmsProfile(BytesIO(data))
        space = str(profile.profile.xcolor_space).strip()
    except (OSError, ImageCms.PyCMSError, ValueError) as broken:
        raise Refusal("broken-profile", "The profile cannot be read: its header or tags are broken.",
                      "Nothing was changed.", "Export it again from where it came, or choose another.") from broken  # fmt: skip
    if space != must_be:
        raise Refusal("wrong-profile", f"The profile is for {space}; this printer takes {must_be}.",
                      "Nothing was changed.", f"Choose a profile of class printer for {must_be}.")  # fmt: skip
    return profile


class Colours:
    """Transforms of one profile, made once and lent out: littleCMS keeps a cache in a transform, so one user each."""

    def __init__(self, profile: bytes) -> None:
        self._data = profile
        open_profile(profile)
        self._idle: dict[tuple[str, str, bool], list[Any]] = {}
        self._lock = threading.Lock()

    def to_ink(self, rgba: Bytes, spec: ColourSpec) -> Bytes:
        """CMYK (0 to 255, full ink) of sRGB with alpha; alpha does not enter."""
        if spec.composite_black:
            return np.full((*rgba.shape[:2], 4), round(min(400.0, spec.ink_limit_pct) / 4 * 2.55), np.uint8)
        return self._apply("to-ink", rgba, "RGBA", spec.intent, spec.black_point)

    def lab_to_ink(self, lab: tuple[float, float, float], spec: ColourSpec) -> Bytes:
        """CMYK of one Lab colour, by way of littleCMS' 8-bit Lab."""
        byte = np.array([[[round(lab[0] * 2.55), round(lab[1]) & 255, round(lab[2]) & 255]]], np.uint8)
        return self._apply("lab-to-ink", byte, "LAB", spec.intent, spec.black_point)

    def to_screen(self, cmyk: Bytes) -> Bytes:
        """sRGB of printed CMYK relative to the ground it lies on, so that no ink is white."""
        return self._apply("to-screen", cmyk, "CMYK", "relative", False)

    def to_lab(self, cmyk: Bytes, intent: Intent = "relative") -> NDArray[np.float64]:
        """Lab (D50) of printed CMYK. Pillow gives whole steps of a* and b*: less than two colour engines differ by."""
        raw = self._apply("to-lab", cmyk, "CMYK", intent, False).astype(np.float64)
        signed = np.where(raw[..., 1:] > 127, raw[..., 1:] - 256, raw[..., 1:])
        return np.concatenate([raw[..., :1] / 2.55, signed], axis=2)

    def _apply(self, kind: str, picture: Bytes, mode: str, intent: Intent, black_point: bool) -> Bytes:
        height, width = picture.shape[:2]
        if mode == "LAB":
            image = Image.frombytes("LAB", (width, height), picture.tobytes())
        else:
            image = Image.frombuffer(mode, (width, height), np.ascontiguousarray(picture), "raw", mode, 0, 1)
        key = (kind, intent, black_point)
        with self._lock:
            idle = self._idle.setdefault(key, [])
            transform = idle.pop() if idle else None
        if transform is None:
            transform = self._made(kind, intent, black_point)
        try:
            return np.asarray(ImageCms.applyTransform(image, transform))
        finally:
            with self._lock:
                self._idle[key].append(transform)

    def _made(self, kind: str, intent: Intent, black_point: bool) -> Any:
        printer, srgb = open_profile(self._data), ImageCms.createProfile("sRGB")
        lab = ImageCms.createProfile("LAB", 5000)
        ends: dict[str, tuple[Any, Any, str, str]] = {
            "to-ink": (srgb, printer, "RGBA", "CMYK"),
            "to-screen": (printer, srgb, "CMYK", "RGB"),
            "lab-to-ink": (lab, printer, "LAB", "CMYK"),
            "to-lab": (printer, lab, "CMYK", "LAB"),
        }
        flags = ImageCms.Flags.BLACKPOINTCOMPENSATION if black_point else ImageCms.Flags.NONE
        return ImageCms.buildTransform(*ends[kind], INTENTS[intent], flags)


class ColourAnswer(Frozen):
    cmyk_pct: tuple[float, float, float, float]
    lab: tuple[float, float, float]
    rgb: tuple[int, int, int]
    delta_e_2000: float
    """Between what was asked and what the inks give."""
    in_gamut: bool


def answer_for(
    profile: bytes,
    spec: ColourSpec,
    *,
    rgb: tuple[int, int, int] | None = None,
    cmyk_pct: tuple[float, float, float, float] | None = None,
    lab: tuple[float, float, float] | None = None,
) -> ColourAnswer:
    """What one colour becomes in ink; give exactly one of rgb (0..255), cmyk_pct (0..100) or lab (D50)."""
    colours = Colours(profile)
    if rgb is not None:
        asked = lab_of_srgb(rgb)
        cmyk = colours.to_ink(np.array([[[*rgb, 255]]], np.uint8), spec)
    elif lab is not None:
        asked = np.array(lab, dtype=np.float64)
        cmyk = colours.lab_to_ink(lab, spec)
    else:
        cmyk = np.rint(np.array([[cmyk_pct]], dtype=np.float64) * 2.55).astype(np.uint8)
        asked = None
    absolute: Intent = "absolute" if spec.intent == "absolute" else "relative"
    got = colours.to_lab(cmyk, absolute)[0, 0]
    apart = 0.0 if asked is None else float(delta_e_2000(asked, got))
    seen = colours.to_screen(cmyk)[0, 0]
    shares = [round(float(v) / 2.55, 2) for v in cmyk[0, 0]]
    return ColourAnswer(
        cmyk_pct=(shares[0], shares[1], shares[2], shares[3]),
        lab=(round(float(got[0]), 2), round(float(got[1]), 2), round(float(got[2]), 2)),
        rgb=(int(seen[0]), int(seen[1]), int(seen[2])),
        delta_e_2000=round(apart, 3),
        in_gamut=apart <= IN_GAMUT_DELTA_E,
    )


def out_of_gamut_share(profile: bytes, shares: tuple[ColourShare, ...]) -> float:
    """Share of the picture whose colours the inks miss by more than CIEDE2000 2 (relative, with black point)."""
    if not shares:
        return 0.0
    rgb = np.array([[c.rgb for c in shares]], np.uint8)
    apart = print_difference(Colours(profile), rgb, ColourSpec(profile=""))[0]
    return round(float(np.array([c.share for c in shares])[apart > IN_GAMUT_DELTA_E].sum()), 4)


def print_difference(colours: Colours, rgb: Bytes, spec: ColourSpec) -> NDArray[np.float64]:
    """CIEDE2000 between sRGB colours (rows, columns, 3) and what the inks make of them."""
    opaque = np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)])
    return delta_e_2000(lab_of_srgb(rgb), colours.to_lab(colours.to_ink(opaque, spec)))


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


def look_at(look: Look, colours: Colours, planes: Bytes, alpha: Bytes, ground: Ground) -> Bytes:
    """RGBA of a print as it is seen (last axis of planes: C, M, Y, K and, with a white plate, W; alpha: the artwork's own).

    carrier: the printed side of the film: white lies over the colour. pressed: colour over full white, as on a
    proof. cloth: colour over the white there is, over the cloth, in linear light. Where the artwork fades, its dots
    stand apart: each is full colour on full white, and between them lies the ground.
    """
    alpha = np.ascontiguousarray(alpha)
    if planes.shape[2] == 4:
        covers = ground.white == "sheet" or ground.sheet_colour
        under = alpha if covers else np.zeros_like(alpha)
        planes = np.dstack([planes, under])
    planes = full_dots(np.ascontiguousarray(planes), alpha)
    if ground.sheet_colour and look != "carrier":
        seen = np.broadcast_to(np.array(rgb_of_hex(ground.sheet_colour), np.uint8), (*alpha.shape, 3)).copy()
    else:
        seen = colours.to_screen(np.ascontiguousarray(planes[..., :4]))
    base = _TO_LINEAR[list(rgb_of_hex(ground.cloth))]
    # Only a white plate lies over the colour on the carrier; a sheet that is white lies under it.
    opacity = 0.0 if look == "carrier" and (ground.white != "plate" or ground.sheet_colour) else ground.opacity
    out = np.zeros((*planes.shape[:2], 4), np.uint8)
    mix_look(LOOKS.index(look), planes, alpha, seen, base, opacity, ground.strength, _TO_LINEAR, _TO_SRGB, out)
    return out
