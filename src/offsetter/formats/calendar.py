"""A plan as iCalendar (RFC 5545)."""

from datetime import datetime

from offsetter.core.values import Frozen
from offsetter.formats.reader import for_reader


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
    # Said before lines are folded: no fold may come between a sentence and its values.
    for entry in entries:
        event = Event()
        event.add("uid", entry.uid)
        event.add("dtstamp", now)
        event.add("dtstart", entry.begins)
        event.add("dtend", entry.ends)
        event.add("summary", for_reader(entry.title))
        if entry.where:
            event.add("location", for_reader(entry.where))
        if entry.text:
            event.add("description", for_reader(entry.text))
        made.add_component(event)
    found: bytes = made.to_ical()
    return found
