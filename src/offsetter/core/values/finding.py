from typing import Any, Literal

from offsetter.core.values.frozen import Frozen

Severity = Literal["note", "caution", "blocker"]
RANK: dict[Severity, int] = {"note": 0, "caution": 1, "blocker": 2}


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
    degree: float = 0.0
    """How bad it is, in a measure of its own: more is worse than what was accepted."""
    is_new: bool = False
    """Worse than what was accepted at this station, or not there then."""


class Seen(Frozen):
    """A finding as it was when somebody said that the station is right."""

    code: str
    severity: Severity
    degree: float = 0.0

    def covers(self, finding: Finding) -> bool:
        """The finding is no worse than it was then; a twentieth more is the same (a preview measures no truer)."""
        same = RANK[finding.severity] <= RANK[self.severity]
        return same and finding.degree <= self.degree + abs(self.degree) / 20 + 1e-6
