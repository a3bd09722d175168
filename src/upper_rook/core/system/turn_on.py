"""How a converter, a processor or an amplifier is woken."""

from enum import StrEnum


class TurnOn(StrEnum):
    """How it, and what follows it, is woken."""

    LEAD = "lead"
    """By a turn-on lead."""
    SENSING = "sensing"
    """By the direct voltage on speaker leads."""
