"""Pages of a list, the last touched first: where the next one begins."""

from datetime import datetime
from uuid import UUID

from upper_rook.core.common.errors import BadInput

Place = tuple[datetime, UUID]


def named(changed_at: datetime, key: UUID) -> str:
    """The place behind a row, as it is given out."""
    return f"{changed_at.isoformat()}_{key}"


def place_of(after: str) -> Place:
    """The place that was given out. Raises BadInput for one that wasn't."""
    moment, _, key = after.rpartition("_")
    try:
        place = datetime.fromisoformat(moment), UUID(key)
    except ValueError:
        place = None
    if place is None or place[0].tzinfo is None:
        raise BadInput("This isn’t a place in the list: load it from its beginning.", "after")
    return place
