"""A run as pictures, for printers that take no PDF: PWG Raster (PWG 5102.4), a page for each of its own, or one JPEG.

The values of the dots are handed on as they are: the run was made in the printer's own RGB already.
"""

import io
import struct
from collections.abc import Iterator
from pathlib import Path
from typing import Literal

import numpy as np
import pikepdf
import pypdfium2
from numpy.typing import NDArray
from pikepdf import Name
from PIL import Image

from offsetter.core.values import Refusal

RasterType = Literal["rgb_8", "srgb_8"]
SYNC = b"RaS2"
HEADER_BYTES = 1796
SPACES: dict[RasterType, int] = {"rgb_8": 1, "srgb_8": 19}
CHUNKY, HIGH_QUALITY = 0, 5
CHUNK = 128
"""Dots that one run, or one stretch of different dots, holds at most."""
MOST_REPEATS = 256
BAND_ROWS = 512
JPEG_QUALITY = 96
MOST_JPEG_SIDE = 65_000
KEPT = "Nothing was sent."
POINTS = 72


def write_pwg(source: Path, out: Path, dpi: int, kind: RasterType) -> None:
    """Every page of a run's PDF at its own size. Raises Refusal for one with plates that no picture carries."""
    with _opened(source) as pdf, out.open("wb") as file:
        file.write(SYNC)
        for page in pdf:
            wide_pt, high_pt = page.get_size()
            wide, high = round(wide_pt / POINTS * dpi), round(high_pt / POINTS * dpi)
            file.write(_header(wide, high, (wide_pt, high_pt), dpi, SPACES[kind], len(pdf)))
            file.writelines(_packed(_bands(page, dpi, wide, high)))


def write_jpeg(source: Path, out: Path, dpi: int) -> None:
    """The only page of a run's PDF. Raises Refusal as write_pwg does, and for a page that no JPEG holds."""
    with _opened(source) as pdf:
        wide, high = (round(side / POINTS * dpi) for side in pdf[0].get_size())
        if max(wide, high) > MOST_JPEG_SIDE:
            raise Refusal("too-long", "This length is more than one picture holds.", KEPT, "Cut the run into shorter lengths.")  # fmt: skip
        whole = np.concatenate(list(_bands(pdf[0], dpi, wide, high)))
    Image.fromarray(whole).save(out, "JPEG", quality=JPEG_QUALITY, subsampling=0, dpi=(dpi, dpi))


def _opened(source: Path) -> pypdfium2.PdfDocument:
    """With its tags of colour taken off, so that nothing on the way reads values as colours and changes them."""
    plain = io.BytesIO()
    with pikepdf.open(source) as pdf:
        for thing in pdf.objects:
            if not isinstance(thing, pikepdf.Stream) or thing.get("/Subtype") != Name.Image:
                continue
            space = thing.ColorSpace
            is_rgb = space == Name.DeviceRGB or (isinstance(space, pikepdf.Array) and space[0] == Name.ICCBased and space[1].N == 3)  # fmt: skip
            if not is_rgb:
                raise Refusal("plates-in-no-picture", "This run is made in inks and plates, which no picture carries.", KEPT, "Give this printer its own RGB profile at Colour, or print the file from its own program.")  # fmt: skip
            thing.ColorSpace = Name.DeviceRGB
        pdf.save(plain)
    return pypdfium2.PdfDocument(plain.getvalue())


def _bands(page: pypdfium2.PdfPage, dpi: int, wide: int, high: int) -> Iterator[NDArray[np.uint8]]:
    """Rows by columns by RGB from the top, some at a time: memory does not grow with the length."""
    for top in range(0, high, BAND_ROWS):
        rows = min(BAND_ROWS, high - top)
        bitmap = pypdfium2.PdfBitmap.new_native(wide, rows, pypdfium2.raw.FPDFBitmap_BGR)
        bitmap.fill_rect((255, 255, 255, 255), 0, 0, wide, rows)
        # The whole page laid so that this band of it falls on the bitmap.
        pypdfium2.raw.FPDF_RenderPageBitmap(bitmap, page, 0, -top, wide, high, 0, pypdfium2.raw.FPDF_PRINTING)
        yield np.ascontiguousarray(bitmap.to_numpy()[:, :, ::-1])


def _packed(bands: Iterator[NDArray[np.uint8]]) -> Iterator[bytes]:
    """Rows that are alike are said once, and how often; in a row, dots that are alike the same way."""
    last, times = b"", 0
    for band in bands:
        for row in band:
            said = row.tobytes()
            if said == last and times < MOST_REPEATS:
                times += 1
                continue
            if times:
                yield bytes((times - 1,)) + _row(last)
            last, times = said, 1
    if times:
        yield bytes((times - 1,)) + _row(last)


def _row(said: bytes) -> bytes:
    step, out = CHUNK * 3, bytearray()
    for at in range(0, len(said), step):
        part = said[at : at + step]
        dots = len(part) // 3
        if part == part[:3] * dots:
            out += bytes((dots - 1,)) + part[:3]
        else:
            # Two different dots at least: the count is said as 257 less.
            out += bytes((257 - dots,)) + part
    return bytes(out)


def _header(wide: int, high: int, size_pt: tuple[float, float], dpi: int, space: int, pages: int) -> bytes:
    """PWG 5102.4, 4.3: what is left at nought is reserved, or says nothing."""
    head = bytearray(HEADER_BYTES)
    head[0:9] = b"PwgRaster"
    for at, numbers in (
        (276, (dpi, dpi)), (340, (1,)), (352, tuple(round(s) for s in size_pt)), (372, (wide, high)), (384, (8, 24, wide * 3, CHUNKY, space)), (420, (3,)),
        (452, (pages, 1, 1)), (464, (0, 0, wide, high)), (480, (0xFFFFFF, HIGH_QUALITY)),
    ):  # fmt: skip
        struct.pack_into(f">{len(numbers)}I", head, at, *numbers)
    return bytes(head)
