"""In which form a printer takes a run: its PDF, or pictures where it takes none."""

from dataclasses import dataclass
from pathlib import Path

from offsetter.core.printer_told import Told
from offsetter.core.sentences import say
from offsetter.formats.pwg_raster import RasterType, write_jpeg, write_pwg

PDF, RASTER, JPEG, ANY = "application/pdf", "image/pwg-raster", "image/jpeg", "application/octet-stream"
RASTER_TYPES: tuple[RasterType, ...] = ("rgb_8", "srgb_8")
"""The device's own before the screen's: the values are the device's."""


@dataclass(frozen=True, slots=True)
class Form:
    format: str
    dpi: int = 0
    kind: RasterType = "rgb_8"

    @property
    def said(self) -> str:
        """For whoever watches over it; empty where nothing is to be known."""
        if self.format == PDF:
            return ""
        return say("It takes pictures and no PDF: it is sent dot by dot at {dpi} dpi.", dpi=self.dpi)


def form_of(told: Told, mode_dpi: int, sheets: int) -> Form | None:
    """None: it takes nothing that can be made here."""
    if not told.formats or PDF in told.formats:
        return Form(PDF)
    kind = next((k for k in RASTER_TYPES if k in told.raster_types), None)
    if RASTER in told.formats and kind:
        enough = [d for d in told.raster_dpi if d >= mode_dpi]
        dpi = min(enough) if enough else max(told.raster_dpi, default=0)
        if dpi:
            return Form(RASTER, dpi, kind)
    if JPEG in told.formats and sheets == 1:
        return Form(JPEG, mode_dpi)
    return Form(PDF) if ANY in told.formats and RASTER not in told.formats else None


def written(form: Form, pdf: Path, folder: Path) -> Path:
    """The run's pages in that form. Raises Refusal where they cannot be."""
    if form.format == RASTER:
        write_pwg(pdf, folder / "run.pwg", form.dpi, form.kind)
        return folder / "run.pwg"
    if form.format == JPEG:
        write_jpeg(pdf, folder / "run.jpg", form.dpi)
        return folder / "run.jpg"
    return pdf
