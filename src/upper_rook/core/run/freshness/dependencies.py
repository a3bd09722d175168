"""
Dependencies of a reading: typed values of the sheet it was taken under and of the records it builds on.

Nothing of this is stored. It is worked out from the sheet of the reading's version and from today's by the same
function, so that a version of this program which looks at more makes no old reading outdated. Two sets are compared by
value; the words for a difference are made when it is shown.
"""

from collections.abc import Iterable
from enum import StrEnum

from upper_rook.core.common.units import Frozen, format_hertz, format_signed, format_value, ratio_db
from upper_rook.core.signal.grid import GRID_HZ

LEVEL_WITHIN_DB = 0.05
"""Volts and levels that differ by less are the same: half of what a good meter promises."""
FREQUENCY_WITHIN = 0.005
"""Tones that differ by less than this part are the same."""

Value = str | float | int | bool | tuple[float, ...] | None


class DependencyKind(StrEnum):
    """How a value is compared and shown."""

    EXACT = "exact"
    FLAG = "flag"
    VOLTS = "volts"
    LEVEL = "level"
    """In dB."""
    HERTZ = "hertz"
    RESPONSE = "response"
    """Levels in dB over GRID_HZ."""
    STEPS = "steps"
    """As a source shows it, with its sign."""


class Dependency(Frozen):
    """One thing that a reading rests on."""

    place: str
    """Its place, by the ids of the parts: `sources.radio.tone.bass`."""
    label: str
    """The trade's name for it."""
    value: Value
    kind: DependencyKind = DependencyKind.EXACT
    within_v: float = 0.0
    """Volts of doubt that a measured value carries on top of the tolerance."""
    name: str | None = None
    """Name of a part, where the value is its id: shown, never compared."""
    unknown: str = "none"
    """Name for it while there is no value."""

    @property
    def shown(self) -> str:
        """The value in words."""
        value = self.value
        if value is None:
            return self.unknown
        if isinstance(value, bool):
            return "on" if value else "off"
        if self.kind is DependencyKind.EXACT or isinstance(value, str | tuple):
            return self.name or str(value).replace("_", " ")
        return {
            DependencyKind.VOLTS: lambda: format_value(value, "V"),
            DependencyKind.LEVEL: lambda: f"{format_signed(value, 1)} dB",
            DependencyKind.HERTZ: lambda: format_hertz(value),
            DependencyKind.STEPS: lambda: format_signed(value),
        }.get(self.kind, lambda: str(value))()

    def same(self, other: "Dependency") -> bool:
        """Whether both have the same value, within the stated tolerance."""
        was, now = self.value, other.value
        if isinstance(was, tuple) and isinstance(now, tuple):
            return abs(was[(place := furthest(was, now))] - now[place]) <= LEVEL_WITHIN_DB
        if isinstance(was, str | bool | tuple | None) or isinstance(now, str | bool | tuple | None):
            return was == now
        if self.kind is DependencyKind.VOLTS and was > 0 and now > 0:
            # Two measured values agree within √(Ua² + Ub²) (JCGM 100).
            doubt_v = float((self.within_v**2 + other.within_v**2) ** 0.5)
            return abs(ratio_db(now, was)) <= LEVEL_WITHIN_DB or abs(now - was) <= doubt_v
        if self.kind is DependencyKind.LEVEL:
            return abs(now - was) <= LEVEL_WITHIN_DB
        if self.kind is DependencyKind.HERTZ and was > 0:
            return abs(now / was - 1) <= FREQUENCY_WITHIN
        return was == now


Dependencies = tuple[Dependency, ...]


class Spoiled(Frozen):
    """Something that a reading rests on and that differs now."""

    place: str
    label: str
    was: str
    now: str
    remedy: str = ""
    """Remedy, where that isn't plain."""


def furthest(was: tuple[float, ...], now: tuple[float, ...]) -> int:
    """Where on the grid two responses are furthest apart."""
    return max(range(len(was)), key=lambda place: abs(was[place] - now[place]))


def spoiled_by(was: Iterable[Dependency], now: Iterable[Dependency]) -> tuple[Spoiled, ...]:
    """Differences between two sets in either direction: a missing value and a new one differ as well."""
    before, after = (
        {dependency.place: dependency for dependency in was},
        {dependency.place: dependency for dependency in now},
    )
    told = []
    for place in {**before, **after}:
        old, new = before.get(place), after.get(place)
        if old and new and old.same(new):
            continue
        if old and new and isinstance(old.value, tuple) and isinstance(new.value, tuple):
            told.append(_bent(old, old.value, new.value))
            continue
        label = old.label if old else new.label if new else place
        told.append(
            Spoiled(place=place, label=label, was=old.shown if old else "none", now=new.shown if new else "none")
        )
    return tuple(told)


def _bent(response: Dependency, was: tuple[float, ...], now: tuple[float, ...]) -> Spoiled:
    """Two responses, shown where they are furthest apart."""
    place = furthest(was, now)
    hertz = format_hertz(float(GRID_HZ[place]))
    words = [f"{format_signed(level[place], 1)} dB" for level in (was, now)]
    return Spoiled(place=response.place, label=f"{response.label}, at {hertz}", was=words[0], now=words[1])
