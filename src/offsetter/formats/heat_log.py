"""A heat probe's log as CSV: minute, celsius, and room_c where it has a second sensor. The first row names its columns."""

import csv
import math

from offsetter.core.compute.heat_log import Logged
from offsetter.core.values import Refusal

MOST_ROWS = 20_000
LOWEST_C, HIGHEST_C = -10.0, 350.0
KEPT = "Nothing was read."


def read_log(data: bytes, name: str) -> tuple[Logged, ...]:
    """In the order of time. Raises Refusal for what is no such log."""

    def bad(said: str) -> Refusal:
        return Refusal("bad-log", f"What {name} sends is no log of heat: {said}.", KEPT, "Send CSV with the columns minute and celsius.")  # fmt: skip

    try:
        rows = csv.DictReader(data.decode("utf-8-sig").splitlines(), strict=True)
        columns = [c.strip().casefold() for c in rows.fieldnames or ()]
        if not {"minute", "celsius"} <= set(columns) or len(set(columns)) < len(columns):
            raise bad("its first row does not name the columns minute and celsius")
        rows.fieldnames = columns
        log: list[Logged] = []
        for number, row in enumerate(rows, 2):
            if number > MOST_ROWS + 1:
                raise bad(f"more than {MOST_ROWS} rows")
            minute, celsius = float(row["minute"]), float(row["celsius"])
            room = float(row["room_c"]) if row.get("room_c") else None
            if not math.isfinite(minute) or not all(LOWEST_C <= c <= HIGHEST_C for c in (celsius, *((room,) if room is not None else ()))):  # fmt: skip
                raise bad(f"row {number} holds what no press can be")
            if log and minute <= log[-1].minute:
                raise bad(f"the minutes do not rise at row {number}")
            log.append(Logged(minute=minute, celsius=celsius, room_c=room))
    except (UnicodeDecodeError, csv.Error, TypeError, ValueError) as wrong:
        raise bad("a row holds no number") from wrong
    return tuple(log)


def write_log(log: tuple[Logged, ...]) -> str:
    with_room = any(r.room_c is not None for r in log)
    lines = [f"{r.minute:g},{r.celsius:g}" + (f",{r.room_c:g}" if with_room and r.room_c is not None else "") for r in log]  # fmt: skip
    return "\n".join(["minute,celsius" + (",room_c" if with_room else ""), *lines, ""])
