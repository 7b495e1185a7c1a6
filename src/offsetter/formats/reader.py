"""Who a paper is written for: the units of whoever asked for it, and millimetres where nobody in particular did."""

from contextvars import ContextVar

from offsetter.core.quantities import METRIC, Units, told

READER: ContextVar[Units] = ContextVar("reader", default=METRIC)


def for_reader(text: str) -> str:
    """A sentence in this reader's units."""
    return told(text, READER.get())
