"""The visits of a build as a calendar file (RFC 5545): each as a day-long event on the day it is due, repeated as often as it is due."""

from datetime import UTC, date, datetime, time, timedelta

from icalendar import Alarm, Calendar, Event, vText

from kegcart.core.log.visits import Visit

DAYS_BEFORE = 2
"""A calendar speaks of a visit so many days before."""


def visits_calendar(design_id: str, name: str, visits: list[Visit], today: date) -> bytes:
    """A calendar of visits; what is overdue stands on this day. Read in again it takes the place of what it was before."""
    calendar = Calendar()
    calendar.add("prodid", "-//Keg Cart//visits//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", vText(f"{name}: visits"))
    for visit in visits:
        on = max(visit.due, today)
        event = Event()
        event.add("uid", f"{visit.of.key}.{design_id}@kegcart")
        event.add("dtstamp", datetime.combine(today, time(), UTC))
        event.add("dtstart", on)
        event.add("dtend", on + timedelta(1))
        event.add("rrule", {"freq": "daily", "interval": visit.of.every_days})
        event.add("summary", f"{name}: {visit.of.label}")
        event.add("description", visit.of.text)
        event.add("transp", "TRANSPARENT")
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", f"{name}: {visit.of.label}")
        alarm.add("trigger", timedelta(-DAYS_BEFORE))
        event.add_component(alarm)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
