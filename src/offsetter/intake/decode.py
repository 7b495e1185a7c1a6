"""A picture file into upright sRGB pixels with straight alpha, and what reading it found."""

import mmap
import warnings
from dataclasses import dataclass
from io import BytesIO
from pathlib import Path

import cv2
import imagecodecs
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageChops, ImageCms, ImageOps, UnidentifiedImageError

from offsetter.core.facts import profile_bytes
from offsetter.core.sentences import say
from offsetter.core.values import Finding, Refusal
from offsetter.intake import limits, vector
from offsetter.intake.spots import Inks, tiff_inks, under_colour

Bytes = NDArray[np.uint8]
FORMATS = ("PNG", "JPEG", "TIFF", "WEBP")
KEPT = say("Nothing was added to the job.")
BEGINNINGS = (b"\x89PNG", b"\xff\xd8", b"II*\0", b"MM\0*", b"RIFF")
ORIENTATION_TAG = 0x0112
MORE_INKS = say("more than four")


@dataclass(frozen=True, slots=True)
class Picture:
    """rgba: rows, columns, 4; sRGB, straight alpha. profile: name of the embedded one."""

    rgba: Bytes
    mode: str
    profile: str | None
    notes: tuple[Finding, ...]
    is_vector: bool = False
    """Drawn at the size asked for: it has no pixels of its own."""
    real_mm: tuple[float, float] | None = None
    """Width and height that the file says it has."""
    pages: int = 1
    raster_ppi: float | None = None
    """Of the coarsest picture that a drawing's page holds."""
    white: Bytes | None = None
    """Rows, columns, 255 full ink: the white that the file itself brings; None: it brings none."""
    white_name: str = ""
    scale: float = 1.0
    """How many times larger than it is measured at a drawing was drawn."""


def decode(path: Path, name: str, *, page: int = 1, scale: float = 1.0, negative: bool = False) -> Picture:
    """Read a PNG, JPEG, TIFF, WebP, PDF or SVG. Raises Refusal for what cannot be printed from, in three parts.

    page: of a PDF, from 1; scale: a drawing is drawn so many times larger than it is measured at, or as large as can be held; a
    picture never is.
    negative: a JPEG's four inks count the other way round.
    """
    if not path.exists():
        raise Refusal("no-such-file", say("There is no file “{name}”.", name=name), KEPT, say("Check the name."))
    size = path.stat().st_size
    if size == 0:
        raise Refusal(
            "empty-file",
            say("“{name}” is empty.", name=name),
            KEPT,
            say("Ask for the file again: it was cut off on its way."),
        )
    if size > limits.MAX_BYTES:
        raise Refusal("too-large", say("“{name}” is {size} MB; up to {max_bytes} MB are read.", name=name, size=f'{size / 2 ** 20:.0f}', max_bytes=limits.MAX_BYTES // 2 ** 20),
                      KEPT, say("Save it without layers, or at the size it is printed at 300 ppi."))  # fmt: skip
    if vector.kind_of(path):
        return _drawn(vector.draw(path, name, page=page, scale=scale), name)
    if _beginning(path).startswith((b"II*\0", b"MM\0*")) and (inks := tiff_inks(path)) is not None:
        return _of_inks(inks, name)
    warnings.simplefilter("ignore", Image.DecompressionBombWarning)
    Image.MAX_IMAGE_PIXELS = None  # the limits below are ours, and looked at before any pixel is decoded
    try:
        with Image.open(path, formats=FORMATS) as image:
            _check_size(image.size, name)
            return _read(image, path, name, negative)
    except UnidentifiedImageError as unknown:
        if _beginning(path).startswith(BEGINNINGS):
            raise _damaged(name) from unknown
        raise Refusal("not-a-picture", say("“{name}” is not a PNG, JPEG, TIFF, WebP, PDF or SVG, whatever its ending says.", name=name),
                      KEPT, say("Open it where it was made and export it as PNG.")) from unknown  # fmt: skip
    except (OSError, SyntaxError, ValueError, EOFError, MemoryError, cv2.error) as broken:
        raise _damaged(name) from broken


def _beginning(path: Path) -> bytes:
    with path.open("rb") as file:
        return file.read(4)


def _damaged(name: str) -> Refusal:
    return Refusal("broken-file", say("“{name}” is damaged: it ends early or its data do not fit together.", name=name),
                   KEPT, say("Ask for the file again, or export it anew."))  # fmt: skip


def _drawn(drawing: vector.Drawing, name: str) -> Picture:
    if not drawing.rgba[..., 3].any():
        raise Refusal(
            "nothing-visible",
            say("“{name}” is empty: there is nothing to print.", name=name),
            KEPT,
            say("Check that the right page or layer was exported."),
        )
    return Picture(
        drawing.rgba,
        say("{kind}, drawn at any size", kind=drawing.kind),
        None,
        drawing.notes,
        True,
        drawing.real_mm,
        drawing.pages,
        drawing.raster_ppi,
        drawing.white,
        drawing.white_name,
        drawing.scale,
    )


def _check_size(size: tuple[int, int], name: str) -> None:
    width, height = size
    if width * height > limits.MAX_PIXELS or max(size) > limits.MAX_SIDE:
        raise Refusal("too-many-pixels", say("“{name}” is {width} x {height} pixels; up to {max_pixels} million are read.", name=name, width=width, height=height, max_pixels=limits.MAX_PIXELS // 10 ** 6),
                      KEPT, say("Scale it to its print size at 300 ppi and send it again."))  # fmt: skip


def _read(image: Image.Image, path: Path, name: str, negative: bool) -> Picture:
    notes: list[Finding] = []
    mode, bits = image.mode, _bits(image)
    described = say("{bits}-bit {in_words}", bits=bits, in_words=_in_words(mode))
    frames = int(getattr(image, "n_frames", 1))
    if frames > 1:
        notes.append(_note("first-frame", say("The file holds {frames} pictures; the first is used", frames=frames),
                           say("A print has one picture."), say("Send another file if a later one is meant.")))  # fmt: skip
        image.seek(0)
    if bits == 16:
        notes.append(
            _note(
                "sixteen-bit",
                say("16 bits a channel are rounded to 8"),
                say("The plates have 8 bits; no difference is seen in print."),
            )
        )
    embedded = image.info.get("icc_profile")
    turned = 1 if image.format == "PNG" and not _has_exif(path) else image.getexif().get(ORIENTATION_TAG, 1)
    profile_name, is_srgb = _name_of(embedded)
    plain = mode in ("RGB", "RGBA") and bits == 8 and image.format == "PNG" and "transparency" not in image.info
    if plain and is_srgb and turned == 1:
        rgba = _fast(path)
    else:
        if turned not in (0, 1):
            notes.append(
                _note("turned", say("The camera's turn is applied"), say("The file says it was held another way."))
            )
            image = ImageOps.exif_transpose(image)
        rgba = _to_srgb(image, embedded, is_srgb, mode, notes, negative)
    if not rgba[..., 3].any():
        raise Refusal("nothing-visible", say("“{name}” is fully transparent: there is nothing to print.", name=name), KEPT,
                      say("Check that the right layer was exported."))  # fmt: skip
    if min(rgba.shape[:2]) < 16:
        notes.append(_note("tiny", say("The picture is only {shape} x {shape2} pixels", shape=rgba.shape[1], shape2=rgba.shape[0]), say("Every pixel will be seen as a square."),
                           say("Ask for a larger file."), severity="caution"))  # fmt: skip
    return Picture(np.ascontiguousarray(rgba), described, profile_name, tuple(notes))


def _of_inks(inks: Inks, name: str) -> Picture:
    """A picture of more than four inks: its colours by the four, standing on its white. Inks have no alpha: where none is laid, nothing is."""
    _check_size((inks.cmyk.shape[1], inks.cmyk.shape[0]), name)
    notes: list[Finding] = []
    image = Image.fromarray(inks.cmyk, "CMYK")
    rgba = _to_srgb(image, inks.profile, False, "CMYK", notes, negative=False)
    laid = inks.cmyk.max(axis=2, keepdims=True) > 0
    rgba = np.dstack([rgba[..., :3], np.where(laid, 255, 0).astype(np.uint8)])
    if inks.white is not None:
        rgba = under_colour(rgba, inks.white)
    if not rgba[..., 3].any():
        raise Refusal("nothing-visible", say("“{name}” holds no ink: there is nothing to print.", name=name), KEPT, say("Check that the right layer was exported."))  # fmt: skip
    return Picture(
        np.ascontiguousarray(rgba), say("{more_inks} inks", more_inks=MORE_INKS), _name_of(inks.profile)[0], tuple(notes), white=inks.white, white_name=inks.white_name
    )  # fmt: skip


def _has_exif(path: Path) -> bool:
    """Whether a PNG holds an eXIf chunk, by its chunk headers alone: Pillow would decode the whole picture to say."""
    with path.open("rb") as file:
        file.seek(8)
        while len(header := file.read(8)) == 8:
            if header[4:] == b"eXIf":
                return True
            file.seek(int.from_bytes(header[:4], "big") + 4, 1)
    return False


def _fast(path: Path) -> Bytes:
    """By a decoder that gives the dots as they are used, a fifth quicker than OpenCV's."""
    with path.open("rb") as file, mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as whole:
        try:
            read = np.asarray(imagecodecs.png_decode(whole), np.uint8)
        except imagecodecs.PngError as broken:
            raise OSError("cut off") from broken
    return read if read.shape[2] == 4 else np.asarray(cv2.cvtColor(read, cv2.COLOR_RGB2RGBA), np.uint8)


def _to_srgb(
    image: Image.Image, embedded: bytes | None, is_srgb: bool, mode: str, notes: list[Finding], negative: bool
) -> Bytes:
    if mode == "CMYK":
        source = embedded or profile_bytes()
        if embedded is None:
            notes.append(_note("cmyk-unnamed", say("CMYK without a profile is read as our own film condition"), say("CMYK numbers mean a colour only with their profile."),
                               say("Ask which profile the file was made for."), severity="caution"))  # fmt: skip
        else:
            notes.append(
                _note(
                    "cmyk",
                    say("The file is CMYK; it is turned into sRGB by its own profile"),
                    say("Colours outside sRGB are drawn in."),
                )
            )
        if image.format == "JPEG" and negative:
            image = ImageChops.invert(image)
        elif image.format == "JPEG" and "adobe" not in image.info:
            notes.append(_note("cmyk-inverted", say("The JPEG does not say which way its CMYK counts"), say("Most count inverted, and so it is read. Does it look like a negative?"),
                               say("Read the inks the other way round"), severity="caution"))  # fmt: skip
        rgb = _through(image, source, "CMYK")
        return np.asarray(rgb.convert("RGBA"))
    if _bits(image) == 16:
        levels = np.asarray(image.convert("I") if image.mode.startswith("I") else image)
        image = Image.fromarray((levels >> 8 if levels.max() > 255 else levels).astype(np.uint8))
    rgba = image.convert("RGBA")
    if embedded and not is_srgb:
        try:
            alpha = rgba.getchannel("A")
            rgba = _through(rgba.convert("RGB"), embedded, "RGB").convert("RGBA")
            rgba.putalpha(alpha)
            notes.append(_note("converted", say("The file's own colour space is turned into sRGB"), say("It came in “{name_of}”.", name_of=_name_of(embedded)[0]),
                               say("Nothing to do; very strong colours are drawn in a little.")))  # fmt: skip
        except ImageCms.PyCMSError:
            notes.append(_note("odd-profile", say("The embedded profile does not fit the picture and is left aside"), say("The picture is read as sRGB."),
                               say("Compare the colours with what the customer sees."), severity="caution"))  # fmt: skip
    return np.asarray(rgba)


def _through(image: Image.Image, profile: bytes, mode: str) -> Image.Image:
    try:
        source = ImageCms.ImageCmsProfile(BytesIO(profile))
    except OSError as broken:
        raise ImageCms.PyCMSError(say("broken profile")) from broken
    done = ImageCms.profileToProfile(image, source, ImageCms.createProfile("sRGB"), renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
                                     outputMode="RGB", flags=ImageCms.Flags.BLACKPOINTCOMPENSATION)  # fmt: skip
    if done is None:
        raise ImageCms.PyCMSError(say("no way from {mode}", mode=mode))
    return done


def _name_of(embedded: bytes | None) -> tuple[str | None, bool]:
    """The embedded profile's name, and whether the picture can be taken as sRGB as it is."""
    if not embedded:
        return None, True
    try:
        profile = ImageCms.ImageCmsProfile(BytesIO(embedded))
        name = (ImageCms.getProfileDescription(profile) or "").strip() or say("a nameless profile")
    except (OSError, ImageCms.PyCMSError):
        return say("a broken profile"), False
    return name, "srgb" in name.lower()


def _bits(image: Image.Image) -> int:
    if image.mode.startswith(("I", "F")):
        return 16
    if image.format == "PNG":
        # Pillow keeps 16-bit colour only in the raw mode of its tile ("RGB;16B"); the pixels come as 8 bit.
        tiles = getattr(image, "tile", [])
        return 16 if tiles and "16" in str(tiles[0][3]) else 8
    if image.format == "TIFF":
        bits = getattr(image, "tag_v2", {}).get(258, (8,))
        return 16 if max(bits if isinstance(bits, tuple) else (bits,)) > 8 else 8
    return 8


def _in_words(mode: str) -> str:
    return {
        "RGBA": "RGB with alpha",
        "L": "grey",
        "LA": "grey with alpha",
        "P": "indexed colour",
        "1": "black and white",
    }.get(mode, mode)


def _note(code: str, message: str, why: str, fix: str = "", *, severity: str = "note") -> Finding:
    return Finding.model_validate({"code": code, "severity": severity, "message": message, "why": why, "fix_text": fix})
