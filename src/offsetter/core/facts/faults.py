from typing import Literal

from pydantic import Field

from offsetter.core.facts.methods import Method
from offsetter.core.values import Frozen


class Fault(Frozen):
    """Something that is seen, the stages it is seen at, which methods can have it, and the cure."""

    seen: str = Field(min_length=3, max_length=60)
    at: tuple[str, ...] = Field(min_length=1)
    """Stages by the beginning of their id; print and handling are none of a recipe's."""
    lies: tuple[str, ...] = ()
    kinds: tuple[Literal["cloth", "hard"], ...] = ()
    marking: str = ""
    white: bool = False
    carrier: bool = False
    saves: bool = False
    """Pressing once more, in full, can save the piece."""
    cure: str

    def can_befall(self, method: Method, kind: Literal["cloth", "hard"], *, has_white: bool) -> bool:
        """On a blank of this kind; has_white says whether white is printed as a plate."""
        return (
            (not self.lies or method.lies in self.lies)
            and (not self.kinds or kind in self.kinds)
            and self.marking in method.marking
            and (has_white or not self.white)
            and (not self.carrier or not method.prepares_first)
        )

    def is_at(self, stage: str) -> bool:
        return stage.startswith(self.at)
