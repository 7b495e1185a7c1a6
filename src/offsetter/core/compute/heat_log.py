"""A heat probe's log, parted into the run in which a press heats and the one in which it cools."""

from bisect import bisect_right

from offsetter.core.facts import HeatReading
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal

NEAR_TOP_K = 4.0
"""The thermostat holds a platen within this: a heating run ends where it begins to hold, a cooling run begins where it ends."""
LEAST_CHANGE_K = 30.0
EVERY_MIN = 0.5
MOST_A_RUN = 90
LONGEST_MIN = 240.0
KEPT = say("The press keeps its earlier readings.")


class Logged(Frozen):
    """One reading. room_c: of the second sensor, beside the press; None where the probe has none."""

    minute: float
    celsius: float
    room_c: float | None = None


class HeatRuns(Frozen):
    readings: tuple[HeatReading, ...]
    room_c: float | None


def runs_of(log: tuple[Logged, ...]) -> HeatRuns:
    """The newest heating and the cooling after it, each from minute 0, thinned to what a fit needs. Raises Refusal where a run is missing."""
    if not log:
        raise Refusal("no-log", say("The probe has logged nothing."), KEPT, say("Hold it to the platen, start its log, and heat the press."))  # fmt: skip
    top = max(r.celsius for r in log)
    high = [at for at, r in enumerate(log) if r.celsius >= top - NEAR_TOP_K]
    first, last = high[0], high[-1]
    # Before the top: from the coldest reading on, the last of those that are as cold.
    start = min(range(first + 1), key=lambda at: (log[at].celsius, -at))
    up = tuple(r for r in log[start : first + 1] if log[first].minute - r.minute <= LONGEST_MIN)
    down = tuple(r for r in _falling(log[last:]) if r.minute - log[last].minute <= LONGEST_MIN)
    for name, run, what in (("heating", up, say("Let it heat from cold")), ("cooling", down, say("Switch the heater off and let it cool"))):  # fmt: skip
        if abs(run[-1].celsius - run[0].celsius) < LEAST_CHANGE_K:
            raise Refusal("half-a-log", say("The probe's log holds no {name} run of {least_change} K or more.", name=name, least_change=f'{LEAST_CHANGE_K:.0f}'), KEPT, say("{what} with the log running, then take it again.", what=what))  # fmt: skip
    rooms = sorted(r.room_c for r in (*up, *down) if r.room_c is not None)
    return HeatRuns(
        readings=tuple(
            HeatReading(run=run, minute=round(r.minute - part[0].minute, 2), celsius=round(r.celsius, 1))
            for run, part in (("heating", up), ("cooling", down))
            for r in _thinned(part)
        ),
        room_c=round(rooms[len(rooms) // 2], 1) if rooms else None,
    )


def _falling(log: tuple[Logged, ...]) -> tuple[Logged, ...]:
    """Until it rises again for good: it was heated once more, or the probe came off."""
    lowest = 0
    for at, r in enumerate(log):
        if r.celsius <= log[lowest].celsius:
            lowest = at
        elif r.celsius > log[lowest].celsius + NEAR_TOP_K:
            break
    return log[: lowest + 1]


def _thinned(run: tuple[Logged, ...]) -> tuple[Logged, ...]:
    """A reading every so often, the first and the last among them."""
    minutes = [r.minute for r in run]
    step = max(EVERY_MIN, (minutes[-1] - minutes[0]) / (MOST_A_RUN - 1))
    at, kept = 0, [0]
    while (at := bisect_right(minutes, minutes[kept[-1]] + step - 1e-9)) < len(run):
        kept.append(at)
    if kept[-1] != len(run) - 1:
        kept.append(len(run) - 1)
    return tuple(run[k] for k in kept)
