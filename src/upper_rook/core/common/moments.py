"""Moments as people and devices tell them."""

from datetime import UTC, datetime
from typing import Annotated

from pydantic import AfterValidator, AwareDatetime


def _within_reason(moment: datetime) -> datetime:
    if not 2000 <= moment.year <= 2100:
        raise ValueError("the date must lie between 2000 and 2100: set this device's clock")
    return moment.astimezone(UTC)


Moment = Annotated[AwareDatetime, AfterValidator(_within_reason)]
"""A time of day with its zone, kept in UTC; a clock that is decades off is refused."""
