"""One thing to know about a system before a wire is touched."""

from collections.abc import Iterable
from enum import StrEnum

from pydantic import Field, computed_field

from upper_rook.core.common.finding_kinds import FindingKind, Part
from upper_rook.core.common.units import Frozen, Key, LongKey

_LONGEST = 180
"""Characters of a key, with room for the number of a second one."""


class Severity(StrEnum):
    """How much a finding matters."""

    STOP = "stop"
    """Must not be built or run like this."""
    RISK = "risk"
    NOTE = "note"


class Finding(Frozen):
    """One thing to know, with its reason and its remedy."""

    kind: FindingKind
    about: tuple[str | int, ...] = Field(default=(), exclude=True)
    """The parts and places that make it one of its kind."""
    key: LongKey = ""
    """Its kind and what it is about, or where it holds; unique within a plan."""
    severity: Severity
    title: str
    reason: str
    remedy: str
    hand_over: bool = False
    """Whether whoever gets the vehicle should hear of it."""
    paths: tuple[Key, ...] = ()
    """The paths it holds for; none where it concerns the whole system."""
    consequences: tuple["Finding", ...] = ()
    """Findings that follow from it and go away with it."""

    @computed_field
    def part(self) -> Part:
        """The part of the system that puts it right."""
        return self.kind.part

    def model_post_init(self, _context: object) -> None:
        """Make the key where none was given."""
        if not self.key:
            object.__setattr__(self, "key", ".".join((self.kind, *map(str, self.about)))[:_LONGEST])


def ranked(found: Iterable[Finding]) -> tuple[Finding, ...]:
    """The gravest first."""
    gravity = list(Severity)
    return tuple(sorted(found, key=lambda finding: gravity.index(finding.severity)))


def gravest(*severities: Severity) -> Severity:
    """The gravest of some."""
    return min(severities, key=list(Severity).index)
