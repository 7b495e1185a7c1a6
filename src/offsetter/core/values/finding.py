from typing import Any, Literal

from offsetter.core.values.frozen import Frozen

Severity = Literal["note", "caution", "blocker"]


class Patch(Frozen):
    """A decision that one key applies and undo takes back: fields of one station's document."""

    station: str
    changes: dict[str, Any]


class Finding(Frozen):
    """Something a station found. message says what, why gives the reason, fix_text what can be done."""

    code: str
    severity: Severity
    message: str
    why: str
    fix_text: str = ""
    patch: Patch | None = None
    where: tuple[tuple[float, float], ...] = ()
    """Points on the print in mm from its upper left corner, as the wearer sees it."""
