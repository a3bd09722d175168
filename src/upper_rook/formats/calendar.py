"""Vehicles that are due, as a calendar (RFC 5545) that other programs read. It names no customers."""

from collections.abc import Iterable
from datetime import datetime, timedelta
from uuid import UUID

from icalendar import Calendar, Event

from upper_rook.core.customers.due import Due

_PRODUCT = "-//Upper Rook//Due vehicles//EN"


def due_calendar(due: Iterable[Due], installation: UUID, now: datetime) -> bytes:
    """One whole-day event for each vehicle, under an id that stays the same while the day moves."""
    calendar = Calendar()
    calendar.add("prodid", _PRODUCT)
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", "Vehicles due")
    for vehicle in due:
        event = Event()
        event.add("uid", f"{vehicle.job}@{installation}")
        event.add("dtstamp", now)
        event.add("dtstart", vehicle.due_on)
        event.add("dtend", vehicle.due_on + timedelta(days=1))
        event.add("summary", f"Due: {vehicle.vehicle or 'vehicle without a name'}")
        event.add("transp", "TRANSPARENT")
        calendar.add_component(event)
    return bytes(calendar.to_ical())
