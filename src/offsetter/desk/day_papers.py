"""The day to take along: as a calendar, and on paper."""

from datetime import UTC, datetime

from offsetter.core.working_day import DAY_MIN, Started
from offsetter.desk.day_view import TodayView
from offsetter.formats.calendar import Entry, write_calendar
from offsetter.formats.day_pdf import HandsSheet, SheetRow, write_day


def calendar_of(seen: TodayView, shop: str, now: datetime) -> bytes:
    """Every stretch of hands, as an entry each."""
    begin = Started(midnight=seen.midnight, now_min=seen.now_min)
    people, machines = {p.id: p.name for p in seen.people}, {m.id: m.name for m in seen.machines}
    entries = tuple(
        Entry(
            uid=f"{b.job}-{b.step}-{at}@offsetter", begins=begin.at(h.start_min).astimezone(UTC), ends=begin.at(h.end_min).astimezone(UTC),
            title=f"{b.name}: {b.title}", where=machines.get(b.machine, ""), text=people.get(h.person, ""),
        )
        for b in seen.blocks
        for at, h in enumerate(b.hands)
    )  # fmt: skip
    return write_calendar(shop, entries, now)


def sheet_of(seen: TodayView, shop: str, made: datetime, days: int = 1) -> bytes:
    """What each pair of hands does on the next days that have work, as PDF."""
    begin = Started(midnight=seen.midnight, now_min=seen.now_min)
    machines = {m.id: m.name for m in seen.machines}
    shown = sorted({b.start_min // DAY_MIN for b in seen.blocks})[:days]
    sheets = []
    for person in (p for p in seen.people if p.here):
        rows = tuple(
            SheetRow(
                begins=begin.at(h.start_min), ends=begin.at(h.end_min), what=b.name, whose=b.title, where=machines.get(b.machine, ""),
                runs_until=begin.at(b.end_min) if not b.hands_all and h.start_min == b.start_min else None,
            )
            for b in seen.blocks
            for h in b.hands
            if h.person == person.id and h.start_min // DAY_MIN in shown
        )  # fmt: skip
        sheets.append(HandsSheet(name=person.name, rows=tuple(sorted(rows, key=lambda r: r.begins))))
    return write_day(shop, seen.verdict, made, tuple(sheets))
