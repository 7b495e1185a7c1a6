"""Sheets that are used up by counting, as they lie at each press: how often each was used since it was taken new."""

from datetime import datetime

from offsetter.core.acts import Act, Pressed, Renewed
from offsetter.core.values import Frozen


class SheetUse(Frozen):
    """since: when a new one was last said to be taken; None: never."""

    press: str
    cover: str
    since: datetime | None = None
    used: int = 0


def uses_in(act: Act, sheet: SheetUse) -> int:
    """Times that a pressed act used this very sheet: the one that lies there now."""
    body = act.body
    if (
        not isinstance(body, Pressed)
        or body.press != sheet.press
        or (sheet.since is not None and act.at <= sheet.since)
    ):
        return 0
    return sum(sheet.cover in r.covers for r in body.stages if r.temperature_c is not None)


def covers_in(act: Act) -> tuple[tuple[str, str], ...]:
    """Press and cover of each counted sheet that an act is about."""
    body = act.body
    if isinstance(body, Renewed):
        return ((body.press, body.cover),)
    if isinstance(body, Pressed):
        return tuple(
            dict.fromkeys((body.press, c) for r in body.stages if r.temperature_c is not None for c in r.covers)
        )
    return ()


def fold_sheets(acts: tuple[Act, ...]) -> dict[tuple[str, str], SheetUse]:
    """Every counted sheet from the standing acts of all jobs."""
    found = {at: SheetUse(press=at[0], cover=at[1]) for a in acts for at in covers_in(a)}
    for act in acts:
        if isinstance(act.body, Renewed):
            known = found[act.body.press, act.body.cover]
            if known.since is None or act.at > known.since:
                found[known.press, known.cover] = known.model_copy(update={"since": act.at})
    for act in acts:
        for at in covers_in(act):
            found[at] = found[at].model_copy(update={"used": found[at].used + uses_in(act, found[at])})
    return found
