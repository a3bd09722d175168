"""Moments as people and devices tell them."""

from datetime import UTC, date, datetime
from typing import Annotated

from pydantic import AfterValidator, AwareDatetime


def _within_reason(moment: datetime) -> datetime:
    try:
        # The year counts where it is kept: a zone may move it.
        moment = moment.astimezone(UTC)
    except OverflowError:
        moment = moment.replace(year=1, tzinfo=UTC)
    if not 1970 <= moment.year <= 2199:
        raise ValueError("the date must lie between 1970 and 2199: set this device’s clock")
    return moment


Moment = Annotated[AwareDatetime, AfterValidator(_within_reason)]
"""A time of day with its zone, kept in UTC. A clock may be years off: nothing is ordered by it."""


def _day_within_reason(day: date) -> date:
    if not 1970 <= day.year <= 2199:
        raise ValueError("the day must lie between 1970 and 2199")
    return day


Day = Annotated[date, AfterValidator(_day_within_reason)]
"""A day on the calendar of the workshop."""


_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


def format_day(day: date | None) -> str:
    """A day in words, whatever the machine's language: 3 May 2026; nothing for None."""
    return f"{day.day} {_MONTHS[day.month - 1]} {day.year}" if day else ""
