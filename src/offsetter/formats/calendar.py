"""A plan as iCalendar (RFC 5545)."""

from datetime import datetime

from offsetter.core.values import Frozen


class Entry(Frozen):
    uid: str
    begins: datetime
    ends: datetime
    title: str
    where: str = ""
    text: str = ""


def write_calendar(name: str, entries: tuple[Entry, ...], now: datetime) -> bytes:
    # Loaded by the first plan that is taken along: the server's start does not wait for it.
    from icalendar import Calendar, Event

    made = Calendar()
    made.add("prodid", "-//Offsetter//Day plan//EN")
    made.add("version", "2.0")
    made.add("x-wr-calname", name)
    for entry in entries:
        event = Event()
        event.add("uid", entry.uid)
        event.add("dtstamp", now)
        event.add("dtstart", entry.begins)
        event.add("dtend", entry.ends)
        event.add("summary", entry.title)
        if entry.where:
            event.add("location", entry.where)
        if entry.text:
            event.add("description", entry.text)
        made.add_component(event)
    found: bytes = made.to_ical()
    return found
