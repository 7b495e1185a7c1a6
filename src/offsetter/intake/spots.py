"""A file's own white: a spot colour or a further ink that the customer named so, apart from what is seen of the file.

Runs in the child process alone, like everything that reads a file from outside.
"""

import re
from collections.abc import Callable
from dataclasses import dataclass
from io import BytesIO
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from offsetter.intake import limits

Bytes = NDArray[np.uint8]
WHITES = re.compile(r"\b(white|weiss|weiß|blanc|blanco|bianco|branco)\b", re.IGNORECASE)
"""What a white ink is called in the languages that lettering is read in."""
DEEPEST = 8
"""Forms inside of forms that are followed."""
MOST_INKS = 16
INK_NAMES, SEPARATED = 333, 5  # TIFF 6.0, section 16
SPOT_ALONE = {"FunctionType": 2, "Domain": (0, 1), "C0": (1,), "C1": (0,), "N": 1}
"""Drawn alone, full ink is black on white."""
FILLS, STROKES = {"f", "F", "f*"}, {"S", "s"}
BOTH = {"B": ("f", "S"), "B*": ("f*", "S"), "b": ("f", "s"), "b*": ("f*", "s")}
SHOWS = {"Tj", "TJ", "'", '"'}
MIXED = "\0"
"""Stands for a colour space of several inks, white among them: it paints both on the page without its white and on the white alone."""
NO_TEXT = 3
"""Rendering mode that paints nothing (ISO 32000-1, table 106)."""


def is_white(name: str) -> bool:
    return bool(WHITES.search(name.replace("_", " ").replace("-", " ")))


def under_colour(rgba: Bytes, white: Bytes) -> Bytes:
    """The picture on its white: where the white ink lies and no colour covers it, white is seen. rgba straight alpha."""
    over = rgba[..., 3:].astype(np.float32) / 255
    under = white[..., None].astype(np.float32) / 255 * (1 - over)
    alpha = over + under
    colour = (rgba[..., :3] * over + 255 * under) / np.maximum(alpha, 1e-6)
    return np.dstack([np.rint(colour), np.rint(alpha * 255)]).astype(np.uint8)


@dataclass(frozen=True, slots=True)
class Inks:
    """A separated TIFF of more than four inks: cmyk (rows, columns, 4) and its white (rows, columns), 255 full ink."""

    cmyk: Bytes
    white: Bytes | None
    white_name: str
    profile: bytes | None


def tiff_inks(path: Path) -> Inks | None:
    """None for any other file. White is the ink that is named so, or the one further ink that has no name."""
    import tifffile

    try:
        with tifffile.TiffFile(path) as file:
            page: Any = file.pages.first
            inks = int(page.samplesperpixel)
            if (
                int(page.photometric) != SEPARATED
                or not 5 <= inks <= MOST_INKS
                or page.bitspersample not in (8, 16)
                or any(page.extrasamples[:1])
            ):
                return None
            if page.imagewidth * page.imagelength > limits.MAX_PIXELS:
                return None
            tag = page.tags.get(INK_NAMES)
            names = [n for n in str(tag.value).split("\0") if n] if tag else []
            planes, profile = page.asarray(), page.iccprofile
    except (tifffile.TiffFileError, ValueError, KeyError, IndexError, OSError, RuntimeError):
        return None  # what cannot be read this way is said by what reads pictures
    if int(page.planarconfig) == 2:
        planes = np.moveaxis(planes, 0, -1)
    if planes.dtype == np.uint16:
        planes = (planes >> 8).astype(np.uint8)
    at = next((i for i, n in enumerate(names[:inks]) if i > 3 and is_white(n)), 4 if not names and inks == 5 else None)
    white = None if at is None else np.ascontiguousarray(planes[..., at])
    name = "" if at is None else names[at] if names else "the fifth ink"
    return Inks(np.ascontiguousarray(planes[..., :4]), white, name, profile)


@dataclass(frozen=True, slots=True)
class Parted:
    """One page as two files: without its white, and its white alone, full ink black on white."""

    name: str
    colour: bytes
    white: bytes


def part_pdf(path: Path, page: int) -> Parted | None:
    """A page whose white is a spot colour of its own; None where it has none, or cannot be taken apart."""
    import pikepdf

    try:
        with pikepdf.open(path) as document:
            names = _spots_of(document.pages[page - 1].obj, 0)
            white = next((n for n in names if is_white(n)), "")
        if not white:
            return None
        return Parted(
            white,
            _only(path, page, white, lambda n: n != white, alone=False),
            _only(path, page, white, lambda n: n in (white, MIXED), alone=True),
        )
    except (pikepdf.PdfError, KeyError, ValueError, TypeError, AttributeError, IndexError, RecursionError):
        return None


def _spots_of(holder: Any, depth: int) -> list[str]:
    """Spot colours that a page or form and its forms, pictures and shadings name."""
    resources = holder.get("/Resources", {})
    found = [n for space in dict(resources.get("/ColorSpace", {})).values() for n in _inks(space)]
    for thing in (*dict(resources.get("/XObject", {})).values(), *dict(resources.get("/Shading", {})).values()):
        found += _inks(thing.get("/ColorSpace"))
        if thing.get("/Subtype") == "/Form" and depth < DEEPEST:
            found += _spots_of(thing, depth + 1)
    return list(dict.fromkeys(found))


def _inks(space: Any) -> list[str]:
    """The names of a colour space of spot colours; of a table of colours, those of what it is a table of."""
    import pikepdf

    if not isinstance(space, pikepdf.Array) or len(space) < 2:
        return []
    if space[0] == "/Indexed":
        return _inks(space[1])
    named = [space[1]] if space[0] == "/Separation" else list(space[1]) if space[0] == "/DeviceN" else []
    return [str(n).removeprefix("/") for n in named]


def _ink(space: Any, white: str) -> str | None:
    """Whose a colour space is: one spot colour's, white's with others (MIXED), or none that matters here."""
    names = _inks(space)
    return names[0] if len(names) == 1 else MIXED if white in names else None


def _only(path: Path, page: int, white: str, wanted: Callable[[str], bool], *, alone: bool) -> bytes:
    """The page with nothing painted but by inks that are wanted ("" is any that is no spot colour). alone: they are drawn as black."""
    import pikepdf

    with pikepdf.open(path) as document:
        whole = document.pages[page - 1]
        _Painter(document, white, wanted, alone=alone).keep(whole.obj, 0, ("", ""), {})
        out = pikepdf.new()
        out.pages.append(whole)
        made = BytesIO()
        out.save(made)
    return made.getvalue()


class _Painter:
    """Goes through what a page paints and leaves out what is not wanted."""

    def __init__(self, document: Any, white: str, wanted: Callable[[str], bool], *, alone: bool) -> None:
        self._document, self._white, self._wanted, self._alone = document, white, wanted, alone
        self._been: set[tuple[int, int]] = set()

    def keep(self, holder: Any, depth: int, inks: tuple[str, str], around: dict[str, str | None]) -> None:
        """holder: a page or a form; inks: spot colours of its fills and strokes as it begins, empty for none; around: colour spaces of
        what it lies in, by which a form without its own is read."""
        import pikepdf

        resources: Any = holder.get("/Resources", pikepdf.Dictionary())
        own = {k: _ink(v, self._white) for k, v in dict(resources.get("/ColorSpace", {})).items()}
        for key, name in own.items():
            self._as_drawn(resources["/ColorSpace"], key, name)
        spaces = around | own
        kept: list[Any] = []
        fill, stroke = inks
        mode = 0
        outer: list[tuple[str, str, int]] = []
        for one in pikepdf.parse_content_stream(holder):
            operands, told = list(one.operands), str(one.operator)
            if told == "q":
                outer.append((fill, stroke, mode))
            elif told == "Q" and outer:
                fill, stroke, mode = outer.pop()
            elif told == "cs":
                fill = spaces.get(str(operands[0])) or ""
            elif told == "CS":
                stroke = spaces.get(str(operands[0])) or ""
            elif told in ("g", "rg", "k"):
                fill = ""
            elif told in ("G", "RG", "K"):
                stroke = ""
            elif told == "Tr":
                mode = int(operands[0])
            kept += self._painted(one, told, operands, resources, depth, (fill, stroke), mode, spaces)
        stream = pikepdf.unparse_content_stream(kept)
        if holder.get("/Type") == "/Page" or "/Contents" in holder:
            holder["/Contents"] = self._document.make_stream(stream)
        else:
            holder.write(stream)

    def _painted(self, one: Any, told: str, operands: list[Any], resources: Any, depth: int, inks: tuple[str, str], mode: int, spaces: dict[str, str | None]) -> list[Any]:  # fmt: skip
        """What is left of one instruction."""
        fills, strokes = (self._wanted(ink) for ink in inks)
        if told in FILLS:
            return [one] if fills else [_plain("n")]
        if told in STROKES:
            return [one] if strokes else [_plain("n")]
        if told in BOTH:
            if fills and strokes:
                return [one]
            fill, stroke = BOTH[told]
            return [_plain(fill if fills else stroke if strokes else "n")]
        if told in SHOWS:
            by_stroke = mode in (1, 5)
            if (strokes if by_stroke else fills) or mode == NO_TEXT:
                return [one]
            return [_plain("Tr", NO_TEXT), one, _plain("Tr", mode)]
        if told == "sh":
            shading: Any = dict(resources.get("/Shading", {})).get(str(operands[0]))
            ink = _ink(shading.get("/ColorSpace"), self._white) if shading is not None else None
            self._as_drawn(shading, "/ColorSpace", ink)
            return [one] if self._wanted(ink or "") else []
        if told == "Do":
            return [one] if self._is_drawn(operands, resources, depth, inks, spaces) else []
        if told == "INLINE IMAGE":
            return [one] if self._wanted("") else []
        return [one]

    def _is_drawn(
        self, operands: list[Any], resources: Any, depth: int, inks: tuple[str, str], spaces: dict[str, str | None]
    ) -> bool:
        thing: Any = dict(resources.get("/XObject", {})).get(str(operands[0]))
        if thing is None:
            return True
        if thing.get("/Subtype") == "/Form":
            if depth >= DEEPEST:
                return self._wanted("")
            if thing.objgen not in self._been:
                self._been.add(thing.objgen)
                self.keep(thing, depth + 1, inks, spaces)
            return True
        if bool(thing.get("/ImageMask", False)):
            return self._wanted(inks[0])
        ink = _ink(thing.get("/ColorSpace"), self._white)
        self._as_drawn(thing, "/ColorSpace", ink)
        return self._wanted(ink or "")

    def _as_drawn(self, holder: Any, key: str, ink: str | None) -> None:
        """A spot colour that is drawn alone is drawn as black, whatever stands in for it in the file; white goes out of a mixture."""
        if ink is None or (ink != MIXED and not (self._alone and self._wanted(ink))):
            return
        space = holder[key]
        table = space if space[0] == "/Indexed" else None
        base = table[1] if table is not None else space
        made = self._alone_in_black(base) if self._alone else self._without_white(base)
        if table is None:
            holder[key] = made
        else:
            table[1] = made

    def _alone_in_black(self, space: Any) -> Any:
        """The same inks, shown by one of them: full ink black."""
        import pikepdf

        names = _inks(space)
        if len(names) == 1:
            tint = pikepdf.Dictionary({f"/{k}": list(v) if isinstance(v, tuple) else v for k, v in SPOT_ALONE.items()})
            return pikepdf.Array([pikepdf.Name.Separation, space[1], pikepdf.Name.DeviceGray, tint])
        count, at = len(names), names.index(self._white)
        said = f"{{ {count - 1 - at} index 1 exch sub {count + 1} 1 roll {'pop ' * count}}}"
        tint = self._document.make_stream(said.encode(), FunctionType=4, Domain=[0, 1] * count, Range=[0, 1])
        return pikepdf.Array([pikepdf.Name.DeviceN, pikepdf.Array(list(space[1])), pikepdf.Name.DeviceGray, tint])

    def _without_white(self, space: Any) -> Any:
        """The same inks, shown as if no white were among them. Raises ValueError for a function that is none of these inks'."""
        import pikepdf

        names, tint = _inks(space), space[3]
        count, at = len(names), names.index(self._white)
        if int(tint["/FunctionType"]) == 4:
            code = bytes(tint.read_bytes()).strip()
            first = f"{{ {count - at} -1 roll pop 0 {count - at} 1 roll ".encode()
            made = self._document.make_stream(first + code[1:], FunctionType=4, Domain=list(tint["/Domain"]), Range=list(tint["/Range"]))  # fmt: skip
        elif int(tint["/FunctionType"]) == 0:
            made = self._document.make_stream(bytes(tint.read_bytes()), {k: v for k, v in tint.items() if k not in ("/Length", "/Filter", "/DecodeParms")})  # fmt: skip
            encode = list(tint.get("/Encode", [v for size in tint["/Size"] for v in (0, int(size) - 1)]))
            # Whatever is asked of it, it reads where there is none.
            made["/Encode"] = [encode[2 * at] if i == 2 * at + 1 else v for i, v in enumerate(encode)]
        else:
            raise ValueError("a function of one ink")
        return pikepdf.Array([pikepdf.Name.DeviceN, pikepdf.Array(list(space[1])), space[2], made])


def _plain(operator: str, *operands: int) -> Any:
    import pikepdf

    return pikepdf.ContentStreamInstruction(list(operands), pikepdf.Operator(operator))
