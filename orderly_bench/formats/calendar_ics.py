"""Days as an iCalendar file (RFC 5545), by the package of that name."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, timedelta


@dataclass(frozen=True)
class Event:
    """One whole day: a name that stays the same for the same job, its day, and its words."""

    uid: str
    day: date
    words: str
    more: str = ""


def calendar(name: str, events: Iterable[Event], now: datetime) -> bytes:
    """The file; every event is a whole day.

    Parameters
    ----------
    name : str
        Of the calendar.
    now : datetime
        When it is written, with its zone.
    """
    from icalendar import Calendar
    from icalendar import Event as Entry

    made = Calendar()
    made.add("prodid", "-//Orderly Bench//EN")
    made.add("version", "2.0")
    made.add("x-wr-calname", name)
    for event in events:
        entry = Entry()
        entry.add("uid", event.uid)
        entry.add("dtstamp", now)
        entry.add("dtstart", event.day)
        entry.add("dtend", event.day + timedelta(days=1))
        entry.add("summary", event.words)
        if event.more:
            entry.add("description", event.more)
        made.add_component(entry)
    return bytes(made.to_ical())
