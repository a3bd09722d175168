"""A vehicle that is due."""

from datetime import date
from uuid import UUID

from upper_rook.core.common.units import Frozen


class Due(Frozen):
    """A job whose vehicle was promised for a day and is still here."""

    job: UUID
    vehicle: str
    due_on: date
