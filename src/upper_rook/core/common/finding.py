"""One thing to know about a system before a wire is touched."""

from collections.abc import Iterable
from enum import StrEnum

from upper_rook.core.common.units import Frozen, Key, LongKey


class Severity(StrEnum):
    """How much a finding matters."""

    STOP = "stop"
    """Must not be built or run like this."""
    RISK = "risk"
    NOTE = "note"


class Finding(Frozen):
    """One thing to know, with its reason and its remedy."""

    key: LongKey
    severity: Severity
    title: str
    reason: str
    remedy: str
    hand_over: bool = False
    """Whether whoever gets the vehicle should hear of it."""
    paths: tuple[Key, ...] = ()
    """The paths it holds for; none where it concerns the whole system."""
    part: str = ""
    """The part of the system that it is put right in: source, between, amplifier, speakers, filters, methods."""
    consequences: tuple["Finding", ...] = ()
    """What follows from it and goes away with it."""


def ranked(found: Iterable[Finding]) -> tuple[Finding, ...]:
    """The gravest first."""
    gravity = list(Severity)
    return tuple(sorted(found, key=lambda one: gravity.index(one.severity)))


def gravest(*severities: Severity) -> Severity:
    """The gravest of some."""
    return min(severities, key=list(Severity).index)
