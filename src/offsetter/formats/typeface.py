"""The shipped typeface in PDF: registered once, measured by its own metrics, letters it lacks brought to ones it has."""

import io
import unicodedata
from functools import cache
from importlib.resources import files

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

from offsetter.formats.reader import for_reader

FONT = "OffsetterText"


def use_font() -> str:
    """The name under which a canvas finds it."""
    if FONT not in pdfmetrics.getRegisteredFontNames():
        data = (files("offsetter.intake") / "fonts" / "names.ttf").read_bytes()
        pdfmetrics.registerFont(TTFont(FONT, io.BytesIO(data)))
    return FONT


def wide_pt(text: str, size_pt: float) -> float:
    return float(pdfmetrics.stringWidth(for_reader(text), use_font(), size_pt))


def settable(text: str) -> str:
    """The text in the reader's units and in letters that the typeface has: without an accent where only that is missing; a box stands for what is left."""
    known = _letters()
    text = for_reader(text)
    return "".join(c if ord(c) in known else _plain(c, known) for c in text)


def _plain(letter: str, known: frozenset[int]) -> str:
    base = unicodedata.normalize("NFKD", letter)[:1]
    return base if base and ord(base) in known else "□" if ord("□") in known else letter


@cache
def _letters() -> frozenset[int]:
    use_font()
    return frozenset(pdfmetrics.getFont(FONT).face.charToGlyph)
