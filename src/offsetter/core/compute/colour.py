"""Colour through littleCMS: from a picture to ink shares or to a driver's RGB, and back to what is seen."""

import threading
from io import BytesIO
from typing import Any

import imagecodecs
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms, ImageFilter

from offsetter.core.compute.artwork import ColourShare
from offsetter.core.compute.cielab import delta_e_2000, lab_of_srgb
from offsetter.core.compute.ink_engine import End, InkTransform
from offsetter.core.compute.plate_spec import ColourSpec, Intent
from offsetter.core.compute.shifts import shifted
from offsetter.core.sentences import say
from offsetter.core.values import Refusal

Bytes = NDArray[np.uint8]
Floats = NDArray[np.float64]

INTENTS: dict[Intent, ImageCms.Intent] = {
    "perceptual": ImageCms.Intent.PERCEPTUAL,
    "relative": ImageCms.Intent.RELATIVE_COLORIMETRIC,
    "saturation": ImageCms.Intent.SATURATION,
    "absolute": ImageCms.Intent.ABSOLUTE_COLORIMETRIC,
}
IN_GAMUT_DELTA_E = 2.0  # a round trip nearer than this is printable: from memory, near what an eye sees side by side
_NODES, _MOST_MISSED = 33, 25.5
_BLACK_POINT = 0x2000  # littleCMS 2: cmsFLAGS_BLACKPOINTCOMPENSATION
_LAB_PROFILE = ImageCms.ImageCmsProfile(ImageCms.createProfile("LAB", 5000)).tobytes()


def open_profile(data: bytes, *, must_be: str = "CMYK") -> ImageCms.ImageCmsProfile:
    """An ICC profile from its bytes. Raises Refusal when it is broken or of another colour space."""
    try:
        profile = ImageCms.ImageCmsProfile(BytesIO(data))
        space = str(profile.profile.xcolor_space).strip()
    except (OSError, ImageCms.PyCMSError, ValueError) as broken:
        raise Refusal("broken-profile", say("The profile cannot be read: its header or tags are broken."),
                      say("Nothing was changed."), say("Export it again from where it came, or choose another.")) from broken  # fmt: skip
    if space != must_be:
        raise Refusal("wrong-profile", say("The profile is for {space}; this printer takes {must_be}.", space=space, must_be=must_be),
                      say("Nothing was changed."), say("Choose a profile of class printer for {must_be}.", must_be=must_be))  # fmt: skip
    return profile


def space_of(data: bytes) -> str:
    """The profile's own colour space, from its header (ICC.1, bytes 16 to 19)."""
    return data[16:20].decode("latin-1").strip()


class _Transforms:
    """Transforms of one profile, made once and lent out: littleCMS keeps a cache in a transform, so one user each."""

    space, channels = "CMYK", 4

    def __init__(self, profile: bytes) -> None:
        self._data = profile
        open_profile(profile, must_be=self.space)
        self._idle: dict[tuple[str, str, bool], list[Any]] = {}
        self._lock = threading.Lock()

    def to_screen(self, device: Bytes) -> Bytes:
        """sRGB of printed device values relative to the ground they lie on, so that bare ground is white."""
        return self._apply("to-screen", device, self.space, "relative", False)

    def to_lab(self, device: Bytes, intent: Intent = "relative") -> Floats:
        """Lab (D50) of printed device values (rows, columns, channels; 0 to 255), in doubles."""
        return self.lab_of(device / 255.0, intent)

    def lab_of(self, shares: NDArray[np.floating[Any]], intent: Intent = "relative") -> Floats:
        """Lab (D50) of device values from 0 to 1 (rows, columns, channels), in doubles."""
        # littleCMS takes ink in per cent and light from 0 to 1.
        scaled = np.ascontiguousarray(shares, np.float64) * (100.0 if self.space == "CMYK" else 1.0)
        return np.asarray(imagecodecs.cms_transform(
            scaled, self._data, _LAB_PROFILE, colorspace=self.space.lower(), outcolorspace="lab", outdtype="f8", intent=int(INTENTS[intent]),
        ))  # fmt: skip

    def of_lab(self, lab: Floats, spec: ColourSpec) -> Floats:
        """Device values from 0 to 1 of Lab colours (rows, columns, 3)."""
        raw = np.asarray(imagecodecs.cms_transform(
            np.ascontiguousarray(lab, np.float64), _LAB_PROFILE, self._data, colorspace="lab", outcolorspace=self.space.lower(), outdtype="f8",
            intent=int(INTENTS[spec.intent]), flags=_BLACK_POINT if spec.black_point else 0,
        ))  # fmt: skip
        return np.asarray(np.clip(raw / (100.0 if self.space == "CMYK" else 1.0), 0, 1))

    def warm(self) -> None:
        """Make every transform a proof may ask for: each takes as long as a whole answer may."""
        asked: list[tuple[str, Intent, bool]] = [("to-device", i, point) for i in INTENTS for point in (True, False)]
        for kind, intent, point in [*asked, ("to-screen", "relative", False)]:
            made = self._made(kind, intent, point)
            with self._lock:
                self._idle.setdefault((kind, intent, point), []).append(made)

    def _apply(self, kind: str, picture: Bytes, mode: str, intent: Intent, black_point: bool) -> Bytes:
        key = (kind, intent, black_point)
        with self._lock:
            idle = self._idle.setdefault(key, [])
            transform = idle.pop() if idle else None
        if transform is None:
            transform = self._made(kind, intent, black_point)
        try:
            return self._run(transform, picture, mode)
        finally:
            with self._lock:
                self._idle[key].append(transform)

    def _run(self, transform: Any, picture: Bytes, mode: str) -> Bytes:
        height, width = picture.shape[:2]
        if mode == "RGB":
            image = Image.frombytes("RGB", (width, height), np.ascontiguousarray(picture).tobytes())
        else:
            image = Image.frombuffer(mode, (width, height), np.ascontiguousarray(picture), "raw", mode, 0, 1)
        return np.asarray(ImageCms.applyTransform(image, transform))

    def _made(self, kind: str, intent: Intent, black_point: bool) -> Any:
        printer, srgb = open_profile(self._data, must_be=self.space), ImageCms.createProfile("sRGB")
        ends: dict[str, tuple[Any, Any, str, str]] = {
            "to-device": (srgb, printer, "RGBA" if self.space == "CMYK" else "RGB", self.space),
            "to-screen": (printer, srgb, self.space, "RGB"),
        }
        flags = ImageCms.Flags.BLACKPOINTCOMPENSATION if black_point else ImageCms.Flags.NONE
        return ImageCms.buildTransform(*ends[kind], INTENTS[intent], flags)


class Colours(_Transforms):
    """What becomes of colours by ink shares."""

    def to_ink(self, rgba: Bytes, spec: ColourSpec) -> Bytes:
        """Inks (0 to 255, full ink) of sRGB with alpha; alpha does not enter. The tones are those of the profile, uncorrected."""
        if spec.composite_black:
            return np.full(
                (*rgba.shape[:2], self.channels), round(min(400.0, spec.ink_limit_pct) / self.channels * 2.55), np.uint8
            )
        return self._apply("to-device", shifted(rgba, spec.shifts), "RGBA", spec.intent, spec.black_point)


class DriverColours(_Transforms):
    """What becomes of colours on a printer whose driver takes RGB and separates by itself."""

    space, channels = "RGB", 3

    def to_rgb(self, rgba: Bytes, spec: ColourSpec) -> Bytes:
        """The driver's RGB (0 to 255) of sRGB with alpha; alpha does not enter."""
        rgb = np.ascontiguousarray(shifted(rgba, spec.shifts)[..., :3])
        return self._apply("to-device", rgb, "RGB", spec.intent, spec.black_point)


class ManyInks(Colours):
    """The same by a profile of five to eight inks, through littleCMS itself: Pillow has no mode for them."""

    def __init__(self, profile: bytes) -> None:
        self.space = space_of(profile)
        self.channels = inks_in(self.space)
        super().__init__(profile)

    def lab_of(self, shares: NDArray[np.floating[Any]], intent: Intent = "relative") -> Floats:
        made = self._through("inks", "lab", intent, doubles=True, black_point=False)
        return np.asarray(made.apply(np.asarray(shares, np.float64) * 100.0))

    def of_lab(self, lab: Floats, spec: ColourSpec) -> Floats:
        made = self._through("lab", "inks", spec.intent, doubles=True, black_point=spec.black_point)
        return np.asarray(np.clip(made.apply(lab) / 100.0, 0, 1))

    def _made(self, kind: str, intent: Intent, black_point: bool) -> Any:
        ends: dict[str, tuple[End, End]] = {"to-device": ("srgb", "inks"), "to-screen": ("inks", "srgb")}
        return self._through(*ends[kind], intent, doubles=False, black_point=black_point)

    def _run(self, transform: Any, picture: Bytes, mode: str) -> Bytes:
        return np.asarray(transform.apply(picture))

    def _through(self, source: End, target: End, intent: Intent, *, doubles: bool, black_point: bool) -> InkTransform:
        return InkTransform(
            self._data, self.channels, source, target, int(INTENTS[intent]), doubles=doubles, black_point=black_point
        )


def inks_in(space: str) -> int:
    """Inks of a profile's colour space; 0 where it is of something else than four to eight inks."""
    return {"CMYK": 4, "5CLR": 5, "6CLR": 6, "7CLR": 7, "8CLR": 8}.get(space, 0)


def ink_colours(profile: bytes) -> Colours:
    """The transforms of a profile of inks, however many. Raises Refusal for one of something else."""
    return ManyInks(profile) if inks_in(space_of(profile)) > 4 else Colours(profile)


def transforms_of(profile: bytes) -> Colours | DriverColours:
    """The transforms that fit a profile's own colour space. Raises Refusal for one that is neither of inks nor RGB."""
    return DriverColours(profile) if space_of(profile) == "RGB" else ink_colours(profile)


def out_of_gamut_share(colours: Colours | DriverColours, shares: tuple[ColourShare, ...], spec: ColourSpec) -> float:
    """Share of the picture whose colours the print misses by more than CIEDE2000 2."""
    if not shares:
        return 0.0
    rgb = np.array([[c.rgb for c in shares]], np.uint8)
    apart = print_difference(colours, rgb, spec)[0]
    return round(float(np.array([c.share for c in shares])[apart > IN_GAMUT_DELTA_E].sum()), 4)


def missed_by(colours: Colours | DriverColours, rgb: Bytes, spec: ColourSpec) -> NDArray[np.float32]:
    """CIEDE2000 that each dot of a picture (rows, columns, 3) is missed by, read off a table of 33 steps a channel."""
    axis = np.linspace(0, 255, _NODES)
    blue, green, red = np.meshgrid(axis, axis, axis, indexing="ij")
    nodes = np.rint(np.stack([red, green, blue], axis=-1)).astype(np.uint8).reshape(1, -1, 3)
    apart = np.minimum(print_difference(colours, nodes, spec)[0], _MOST_MISSED) / _MOST_MISSED
    table = ImageFilter.Color3DLUT(_NODES, np.repeat(apart, 3).tolist())
    picture = Image.fromarray(np.ascontiguousarray(rgb)).filter(table)
    return np.asarray(picture)[..., 0].astype(np.float32) * (_MOST_MISSED / 255)


def print_difference(colours: Colours | DriverColours, rgb: Bytes, spec: ColourSpec) -> NDArray[np.float64]:
    """CIEDE2000 between sRGB colours (rows, columns, 3) and what the inks make of them."""
    opaque = np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)])
    device = colours.to_ink(opaque, spec) if isinstance(colours, Colours) else colours.to_rgb(opaque, spec)
    return delta_e_2000(lab_of_srgb(rgb), colours.to_lab(device))
