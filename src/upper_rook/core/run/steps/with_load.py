"""A gain that is clean at open terminals, and the volts that its load leaves clean."""

from dataclasses import dataclass

from upper_rook.core.common.units import format_value, from_db
from upper_rook.core.run.readings.records import Eye, Outcome, Reading, standing, standing_volts
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.extra_readings import CLIPS, LOADED, noted
from upper_rook.core.run.steps.step import Step

BY_CLIPPING = (Outcome.CLIPPED_FIRST, Outcome.LIMITED)
_GUARD_DB, _NEAR_DB = 0.25, 0.15
"""Turned down by so much more for what an eye misses; a gain turned down to so near is turned down."""


@dataclass(frozen=True)
class WithLoad:
    """Volts RMS at which an amplifier clips with nothing at its terminals and with its load; a gain's last reading."""

    open_v: float | None
    """None where it was only seen with load resistors."""
    loaded_v: float
    last: Reading
    saved: bool
    """Whether the volts where it clips were saved beside the gain, and not only said by how it ended."""

    @property
    def is_above(self) -> bool:
        """Whether the gain is still above the volts that its load leaves clean."""
        return self.last.value - (self.last.uncertainty or 0.0) > self.loaded_v * from_db(_NEAR_DB)

    @property
    def is_there(self) -> bool:
        """Whether the gain was turned down to those volts, and not far below."""
        low = self.loaded_v * from_db(-2 * _GUARD_DB)
        return not self.is_above and self.last.value + (self.last.uncertainty or 0.0) > low

    @property
    def order(self) -> str:
        """Sentence that says how far to turn down."""
        down = f"Turn the gain down to {format_value(self.loaded_v, 'V', 3)}, and save that"
        if self.open_v is None:
            return f"with load resistors it clips below these volts. {down}"
        return (
            f"it clips at {format_value(self.open_v, 'V', 3)} with nothing at its terminals, and lower with the "
            f"speakers on. {down}"
        )


def with_load(snapshot: JobSnapshot, step: Step) -> WithLoad | None:
    """Both for a step of volts; None where nobody saw its amplifier clip."""
    figures, open_v = snapshot.figures(step.path or ""), clips_at_v(snapshot, step.key)
    resistors_v = clips_with_resistors_v(snapshot, step.key)
    if resistors_v is not None:
        last = standing_volts(snapshot.readings, step.key)[-1]
        return WithLoad(None, resistors_v * from_db(-_GUARD_DB), last, saved=True)
    if figures is None or open_v is None:
        return None
    last = standing_volts(snapshot.readings, step.key)[-1]
    saved = noted(snapshot, step.key, CLIPS)
    loaded_v = open_v * from_db(-figures.load_takes_db - _GUARD_DB)
    return WithLoad(open_v, loaded_v, last, saved=saved is not None and _taken(saved) == _taken(last))


def clips_at_v(snapshot: JobSnapshot, key: str) -> float | None:
    """
    Highest clean volts at open terminals, as far as a person saw where a gain's amplifier clips; None where nobody did.

    As saved beside the gain, else the highest reading that ended by clipping. Only readings count that were taken as
    the last one was: under the same sheet, on the same records.
    """
    readings, marks = standing_volts(snapshot.readings, key), standing(snapshot.marks, key)
    if not readings:
        return None
    saved, taken = noted(snapshot, key, CLIPS), _taken(readings[-1])
    if saved is not None and _taken(saved) == taken:
        return saved.value
    ended = max((mark.arrival for mark in marks if mark.outcome in BY_CLIPPING), default=0)
    clean = (reading for reading in readings if reading.arrival < ended and reading.seen is not Eye.CLIPPED)
    return max((reading.value for reading in clean if _taken(reading) == taken), default=None)


def clips_with_resistors_v(snapshot: JobSnapshot, key: str) -> float | None:
    """Highest clean volts with load resistors, where a person saved them as the gain's last reading was taken."""
    readings, saved = standing_volts(snapshot.readings, key), noted(snapshot, key, LOADED)
    if saved is None or not readings or _taken(saved) != _taken(readings[-1]):
        return None
    return saved.value


def _taken(reading: Reading) -> tuple[object, ...]:
    return reading.sheet_version, reading.builds_on
