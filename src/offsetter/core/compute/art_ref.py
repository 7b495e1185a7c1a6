"""What a job prints of a file, and what is put right in it first: decided, and undone at will. Nothing of it reads a picture."""

import re

from pydantic import Field

from offsetter.core.sentences import say
from offsetter.core.values import Frozen

REF = re.compile(r"^([0-9a-z]+)(?:-(\d+))?((?:_[eghint][\d.]*)*)$")


class Fixes(Frozen):
    enlarge: float | None = Field(None, gt=1, le=4)
    """Drawn this many times as large first, by Lanczos' window of eight: edges get smooth, no detail is added."""
    ground: float | None = Field(None, ge=1, le=60)
    """Take the flat ground out: how far a colour may lie from it, in Lab (CIE76)."""
    inside: bool = False
    """The ground's pieces that the picture closes in, as in an a, b or o, are taken out with it."""
    negative: bool = False
    """A four-ink JPEG counts its inks the other way round: applied as it is read."""
    harden: bool = False
    """Faint edges become whole or nothing."""
    thicken_px: float | None = Field(None, ge=1, le=200)
    """Strokes narrower than this are brought to it, in pixels of the file, enlarged or not."""

    @property
    def is_none(self) -> bool:
        return self == Fixes()


class ArtRef(Frozen):
    """What a job prints of a file: its hash, a page, and what was put right. As text it is a folder's name."""

    file: str
    page: int = 1
    fixes: Fixes = Fixes()

    def __str__(self) -> str:
        f = self.fixes
        said = [
            f"e{f.enlarge:g}" if f.enlarge is not None else "",
            f"g{f.ground:g}" if f.ground is not None else "",
            "h" if f.harden else "",
            "i" if f.inside else "",
            "n" if f.negative else "",
            f"t{f.thicken_px:g}" if f.thicken_px is not None else "",
        ]
        return self.file + (f"-{self.page}" if self.page != 1 else "") + "".join(f"_{s}" for s in said if s)

    @classmethod
    def read(cls, text: str) -> "ArtRef":
        """The other way round. Raises ValueError for what no job can name."""
        found = REF.match(text)
        if found is None:
            raise ValueError(say("“{text}” names no artwork", text=text))
        values = {s[0]: s[1:] for s in found[3].split("_") if s}
        return cls(file=found[1], page=int(found[2] or 1), fixes=Fixes(
            enlarge=float(values["e"]) if "e" in values else None,
            ground=float(values["g"]) if "g" in values else None, harden="h" in values, inside="i" in values, negative="n" in values,
            thicken_px=float(values["t"]) if "t" in values else None))  # fmt: skip
