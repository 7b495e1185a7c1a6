"""Names: a customer's list read row by row, and each name drawn as a picture in the shipped type."""

import io
from functools import cache
from importlib.resources import files
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from offsetter.core.decisions import MOST_PIECES, Named, OrderDoc
from offsetter.core.facts import Blank
from offsetter.core.values import Refusal
from offsetter.intake.tables import Limits, read_table

FONT = Path(str(files("offsetter.intake"))) / "fonts" / "names.ttf"
"""The typeface that ships: of names, and of a drawing's lettering."""
MOST_NAMES = 500
MOST_BYTES = 200_000
MOST_LETTERS = 40
CAPITAL_PX = 354
"""Height a name is drawn at: a capital of 30 mm at 300 dpi; a higher one is enlarged, a name has straight edges enough."""
KEPT = "The list was not taken; the job is as it was."
COLUMNS = {
    "name": "text",
    "text": "text",
    "size": "size",
    "colour": "line",
    "color": "line",
    "blank": "line",
    "number": "number",
}


def read_names(data: bytes, order: OrderDoc, blanks: dict[str, Blank]) -> tuple[Named, ...]:
    """Numbered pieces from a CSV with the columns name and size, and colour where the order has several blanks.

    blanks: line to its blank. Raises Refusal that names the row.
    """
    table = read_table(data, COLUMNS, Limits("names", MOST_BYTES, MOST_NAMES, KEPT, "names"))
    if "text" not in table.heads:
        raise _refusal("names-no-head", "The first row must name the columns, and none of them is “name”.",
                       "Give it a first row such as: name,size")  # fmt: skip
    if not table.rows:
        raise _refusal("names-empty", "The list has no name in it.", "Add a row for every piece.")
    return tuple(_named(at, cells, order, blanks) for at, (_, cells) in enumerate(table.rows, 2))


def letters_not_drawn(text: str) -> str:
    """The letters of a name that the shipped type does not have: they would print as nothing."""
    return "".join(sorted({c for c in text if not c.isprintable() or (ord(c) not in _letters() and not c.isspace())}))


def _named(row: int, cells: dict[str, str], order: OrderDoc, blanks: dict[str, Blank]) -> Named:
    text = " ".join(cells.get("text", "").split())
    if not text or len(text) > MOST_LETTERS:
        raise _refusal(
            "names-row",
            f"Row {row} has {'no name' if not text else f'{len(text)} letters'}.",
            f"Give it 1 to {MOST_LETTERS} letters.",
        )
    if text[0] in "=+-@":
        raise _refusal(
            "names-formula",
            f"Row {row} begins with “{text[0]}”: that is a formula, not a name.",
            "Write the name as plain text.",
        )
    unknown = letters_not_drawn(text)
    if unknown:
        raise _refusal(
            "names-letters",
            f"Row {row} holds “{unknown[0]}”, which the shipped type does not have.",
            "Write it in Latin letters.",
        )
    line = _line(row, cells.get("line", "").strip().lower(), order, blanks)
    size = cells.get("size", "").strip().upper()
    sizes = {s.upper(): s for s in blanks[line].sizes}
    if size not in sizes:
        raise _refusal(
            "names-size",
            f"Row {row} asks for size “{size}”; {blanks[line].name} comes in {', '.join(blanks[line].sizes)}.",
            "Correct the size.",
        )
    return Named(number=row - 1, line=line, size=sizes[size], text=text)


def _line(row: int, told: str, order: OrderDoc, blanks: dict[str, Blank]) -> str:
    if len(order.lines) == 1:
        return order.lines[0].id
    found = [i for i, b in blanks.items() if told and told in (b.colour_name.lower(), i)]
    if len(found) != 1:
        raise _refusal("names-colour", f"Row {row} does not say which blank: “{told}”.",
                       f"Add a column “colour” with {', '.join(b.colour_name for b in blanks.values())}.")  # fmt: skip
    return found[0]


def draw_name(text: str, colour: str) -> tuple[bytes, int, int]:
    """The name as PNG, in the shipped type and tight to its letters, with its width and height in pixels."""
    face = _face()
    left, top, right, bottom = face.getbbox(text)
    mask = Image.new("L", (int(right - left) + 2, int(bottom - top) + 2), 0)
    ImageDraw.Draw(mask).text((1 - left, 1 - top), text, font=face, fill=255)
    rgba = np.empty((mask.height, mask.width, 4), np.uint8)
    rgba[..., :3] = [int(colour[i : i + 2], 16) for i in (1, 3, 5)]
    rgba[..., 3] = np.asarray(mask)
    out = io.BytesIO()
    Image.fromarray(rgba).save(out, "PNG")
    return out.getvalue(), mask.width, mask.height


@cache
def _face() -> ImageFont.FreeTypeFont:
    trial = ImageFont.truetype(FONT, 1000)
    _, top, _, bottom = trial.getbbox("H")
    return ImageFont.truetype(FONT, round(1000 * CAPITAL_PX / (bottom - top)))


@cache
def _letters() -> frozenset[int]:
    from fontTools.ttLib import TTFont

    return frozenset(TTFont(FONT).getBestCmap())


def _refusal(code: str, happened: str, to_do: str) -> Refusal:
    return Refusal(code, happened, KEPT, to_do)


assert MOST_NAMES <= MOST_PIECES
