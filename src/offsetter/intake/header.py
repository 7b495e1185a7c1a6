"""What a file's header alone says, in a moment: size, mode, profile, pages. Nothing of the picture is decoded.

Forked from a server that has loaded what reads headers already: a fresh interpreter would take longer than the answer may.
"""

import multiprocessing
from io import BytesIO
from multiprocessing.connection import Connection
from pathlib import Path

from PIL import Image, ImageCms

from offsetter.core.values import Frozen
from offsetter.intake import limits, vector

WITHIN_S = 5.0
FORMATS = ("PNG", "JPEG", "TIFF", "WEBP")


class Header(Frozen):
    kind: str
    """PNG, JPEG, TIFF, WEBP, PDF, SVG; empty where the header says nothing."""
    pixels: tuple[int, int] | None = None
    real_mm: tuple[float, float] | None = None
    """Of a PDF's first page."""
    mode: str = ""
    profile: str | None = None
    pages: int = 1


def read_header(source: Path) -> Header:
    """The header of a file from outside, read in a process with limits; an empty one where that fails or takes too long."""
    context = multiprocessing.get_context("forkserver")
    ours, theirs = context.Pipe(duplex=False)
    process = context.Process(target=_tell, args=(str(source), theirs), daemon=True)
    process.start()
    theirs.close()
    try:
        return Header.model_validate(ours.recv()) if ours.poll(WITHIN_S) else Header(kind="")
    except (EOFError, OSError):
        return Header(kind="")
    finally:
        process.kill()
        process.join()


def promised_pixels(source: Path) -> int | None:
    """Of a picture, by its header; None for a drawing, and where the header says nothing."""
    if vector.kind_of(source):
        return None
    Image.MAX_IMAGE_PIXELS = None
    try:
        with Image.open(source, formats=FORMATS) as image:
            return int(image.size[0] * image.size[1])
    except Exception:  # what is wrong with it is said by what reads it whole
        return None


def _tell(source: str, pipe: Connection) -> None:
    limits.confine()
    try:
        pipe.send(_told(Path(source)))
    except Exception:  # the whole file is looked at next, and that says what is wrong with it
        pipe.send({"kind": ""})


def _told(source: Path) -> dict[str, object]:
    kind = vector.kind_of(source)
    if kind == "pdf":
        import pypdfium2

        pdf = pypdfium2.PdfDocument(source)
        width, height = pdf.get_page_size(0)
        return {"kind": "PDF", "pages": len(pdf), "real_mm": [round(v * 25.4 / 72, 1) for v in (width, height)]}
    if kind:
        return {"kind": kind.upper()}
    Image.MAX_IMAGE_PIXELS = None
    with Image.open(source, formats=FORMATS) as image:
        embedded = image.info.get("icc_profile")
        name = ImageCms.ImageCmsProfile(BytesIO(embedded)).profile.profile_description if embedded else None
        return {"kind": image.format or "", "pixels": image.size, "mode": image.mode, "profile": name}
