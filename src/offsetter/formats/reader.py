"""Who a paper is written for: the units and the language of whoever asked for it; millimetres and English where nobody in particular did."""

from contextvars import ContextVar
from dataclasses import dataclass

from offsetter.core.quantities import METRIC, Units, told
from offsetter.core.sentences import ENGLISH, Language


@dataclass(frozen=True, slots=True)
class Reader:
    units: Units = METRIC
    language: Language = ENGLISH

    def told(self, text: str) -> str:
        return told(text, self.units, self.language)


_NOBODY = Reader()
READER: ContextVar[Reader] = ContextVar("reader", default=_NOBODY)


def for_reader(text: str) -> str:
    """A sentence in this reader's units and language; what came with the program too."""
    reader = READER.get()
    return reader.language.value(reader.told(text))
