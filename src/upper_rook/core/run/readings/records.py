"""Records of the bench: readings and marks. Neither is ever edited; they are struck out with a reason."""

import math
from collections.abc import Iterable, Set
from enum import StrEnum
from functools import lru_cache
from operator import attrgetter
from typing import Annotated, Any, Generic, Protocol, Self, TypeVar
from uuid import UUID

from pydantic import Field, model_validator

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.moments import Moment
from upper_rook.core.common.units import QUANTITIES, Frozen, Key, LongKey, Name
from upper_rook.core.run.readings.circumstances import Circumstances, Volume
from upper_rook.core.run.readings.older_records import brought_up
from upper_rook.core.run.readings.points import Point
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.clean_maximum import Basis

Version = Annotated[int, Field(ge=1, le=2_000_000_000)]
Reason = Annotated[Name, Field(min_length=1)]
Number = Annotated[float, Field(ge=-1e6, le=1e6, strict=True)]
Sequence = Annotated[int, Field(ge=1, le=2**53, strict=True)]
"""Counts what one device took, in the order in which it took it."""


class Quantity(StrEnum):
    """Quantity that was read."""

    AC_VOLTS = "ac_volts"
    DC_VOLTS = "dc_volts"
    OHMS = "ohms"
    HERTZ = "hertz"
    SECONDS = "seconds"
    CONTINUITY = "continuity"
    """1 for a connection, 0 for none."""
    DECIBELS = "decibels"
    """By how much something was turned down."""
    CHOICE = "choice"
    """Number of what was picked, of those that its row offers."""
    LEVEL = "level"
    """Level of a noise in its band, dBV."""
    NUMBERS = "numbers"
    """By how many numbers of a volume scale two things differ."""
    POSITION = "position"
    """Position of a knob: 0 fully down, 1 fully up."""
    VERDICT = "verdict"
    """Only what was seen or heard; the value says nothing."""


LARGEST_ERROR = 0.2
"""A meter that is known to be further off is no meter."""

_BOUNDS = {
    # A display that shows no AC volts at all is not a reading of them.
    Quantity.AC_VOLTS: (QUANTITIES["volts"].lowest, QUANTITIES["volts"].highest),
    Quantity.DC_VOLTS: (-1000.0, 1000.0),
    Quantity.OHMS: (0.0, 1e6),
    Quantity.HERTZ: (QUANTITIES["hertz"].lowest, QUANTITIES["hertz"].highest),
    Quantity.SECONDS: (0.0, 86_400.0),
    Quantity.CONTINUITY: (0.0, 1.0),
    Quantity.DECIBELS: (0.0, 60.0),
    Quantity.CHOICE: (0.0, 20.0),
    Quantity.LEVEL: (-160.0, 60.0),
    Quantity.NUMBERS: (-100.0, 100.0),
    Quantity.POSITION: (0.0, 1.0),
    Quantity.VERDICT: (0.0, 0.0),
}


UNITS = {
    Quantity.AC_VOLTS: "V RMS",
    Quantity.DC_VOLTS: "V",
    Quantity.OHMS: "Ω",
    Quantity.HERTZ: "Hz",
    Quantity.SECONDS: "s",
    Quantity.DECIBELS: "dB",
    Quantity.LEVEL: "dBV",
}
"""Units of those that have one."""


class Eye(StrEnum):
    """Verdict on the wave."""

    CLEAN = "clean"
    CLIPPED = "clipped"
    UNSEEN = "unseen"
    """Nobody could see it: only a meter was at hand."""


class Evidence(StrEnum):
    """Evidence for that verdict."""

    EYE = "eye"
    EAR = "ear"
    LAMP = "lamp"
    CAPTURE = "capture"
    VOLUME_STEPS = "ladder"
    SECOND_METER = "second_meter"


class NewReading(Frozen):
    """A reading as it is sent: named by its sender, so that sending it twice is harmless."""

    id: UUID
    step: LongKey
    quantity: Quantity = Quantity.AC_VOLTS
    value: Number
    """In the quantity's unit: volts RMS, volts, ohms, hertz, seconds."""
    instrument: Key
    circumstances: Circumstances
    seen: Eye = Eye.UNSEEN
    evidence: Evidence | None = None
    builds_on: Annotated[tuple[UUID, ...], Field(max_length=16)] | None = None
    """The records that the step rested on when it was taken; None when its sender doesn't know."""
    sheet_version: Version
    """The version of the job's sheet it was taken under."""
    taken_at: Moment
    """By the clock of the device: information, never an order."""
    by: Name = ""
    device: UUID | None = None
    """Device it was taken on; None where the sender doesn't say."""
    sequence: Sequence | None = None

    @model_validator(mode="before")
    @classmethod
    def _older(cls, document: Any) -> Any:
        return brought_up(document)

    @model_validator(mode="after")
    def _in_bounds(self) -> Self:
        low, high = _BOUNDS[self.quantity]
        if not math.isfinite(self.value) or not low <= self.value <= high:
            raise BadInput(
                f"{self.value:g} is out of bounds: it must be at least {low:g} and at most {high:g}", "value"
            )
        displayed = self.circumstances.displayed
        if displayed is not None and abs(displayed - self.value) > LARGEST_ERROR * abs(self.value):
            raise BadInput(
                f"The display shows {displayed:g} and {self.value:g} was saved: correct the meter’s known error.",
                "circumstances",
            )
        return self


class Reading(NewReading):
    """A reading as it is kept."""

    point: Point
    uncertainty: float | None
    """Expanded (k = 2), in the value's unit, or None outside what the instrument's data sheet covers."""
    struck: str | None = None
    """Why it no longer counts, or None."""
    arrival: int = 0
    """Its place among all records by their arrival, those of one device in its own sequence: higher is newer."""

    @property
    def volume(self) -> int | None:
        """Volume number of the source."""
        return self.circumstances.volume

    @property
    def tone(self) -> Tone | None:
        """The tone that was playing."""
        return self.circumstances.tone


class Answer(StrEnum):
    """An answer to one line of a checklist."""

    DONE = "done"
    ABSENT = "absent"
    """There is no such thing on this vehicle."""
    LEFT = "left"
    """Left as it is, with the reason."""


class Outcome(StrEnum):
    """Why a gain counts although its target was not met."""

    CLIPPED_FIRST = "clipped_first"
    AT_STOP = "at_stop"
    """The knob is at an end: short of the target fully up, or above it fully down, as the reading says."""
    ABOVE_AT_LOWEST = "above_at_lowest"
    LIMITED = "limited"
    """Its limiter holds it back: the volts stop or fall at one more click."""


class NewMark(Frozen):
    """Something a person said about a step: exactly one of answer, basis, outcome or skipped."""

    id: UUID
    step: LongKey
    item: LongKey | None = None
    """The checklist line that `answer` belongs to."""
    answer: Answer | None = None
    basis: Basis | None = None
    """Takes the source's clean maximum, with `volume`."""
    volume: Volume | None = None
    outcome: Outcome | None = None
    skipped: bool = False
    note: Name = ""
    sheet_version: Version
    taken_at: Moment
    by: Name = ""
    device: UUID | None = None
    sequence: Sequence | None = None

    @model_validator(mode="after")
    def _one_thing(self) -> Self:
        said = [self.answer is not None, self.basis is not None, self.outcome is not None, self.skipped]
        if sum(said) != 1:
            raise ValueError("a mark says exactly one thing: an answer, a basis, an outcome or skipped")
        if (self.answer is None) != (self.item is None):
            raise ValueError("an answer needs the checklist line that it belongs to")
        if (self.basis is None) != (self.volume is None):
            raise ValueError("taking a clean maximum needs its volume number")
        if (self.skipped or self.answer is Answer.LEFT) and not self.note:
            raise ValueError("say why in a few words")
        return self


class Mark(NewMark):
    """A mark as it is kept."""

    struck: str | None = None
    arrival: int = 0
    """Its place among all records, as a reading's."""


class _Made(Protocol):
    @property
    def by(self) -> str: ...
    @property
    def arrival(self) -> int: ...


def by_whom(record: _Made, from_file: int) -> str:
    """Name of who made a record; of one up to the arrival number `from_file`, only a file says so."""
    return f"{record.by}, as the file says" if record.by and record.arrival <= from_file else record.by


Record = TypeVar("Record", Reading, Mark)


class _Itself(Generic[Record]):
    """A tuple of records as a key: equal to no other, so that nothing is compared."""

    def __init__(self, records: tuple[Record, ...]) -> None:
        self.records: tuple[Record, ...] = records

    def __hash__(self) -> int:
        return id(self.records)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Itself) and self.records is other.records


@lru_cache(maxsize=16)
def _by_step(records: _Itself[Record]) -> dict[str, list[Record]]:
    """The records that still count by their steps, oldest first. Every step asks, and a job may have thousands."""
    found: dict[str, list[Record]] = {}
    for record in records.records:
        if record.struck is None:
            found.setdefault(record.step, []).append(record)
    for own in found.values():
        own.sort(key=attrgetter("arrival"))
    return found


def standing(records: tuple[Record, ...], step: str) -> list[Record]:
    """The records of `step` that still count, oldest first."""
    return list(_by_step(_Itself(records)).get(step, ()))


def worked_steps(records: tuple[Record, ...]) -> Set[str]:
    """The steps of which a record still counts."""
    return _by_step(_Itself(records)).keys()


def standing_volts(readings: tuple[Reading, ...], step: str) -> list[Reading]:
    """The standing readings of a step's own volts, without what was noted beside them, oldest first."""
    own = (reading for reading in standing(readings, step) if reading.circumstances.row is None)
    return [reading for reading in own if reading.quantity is not Quantity.VERDICT]


def last_verdict(readings: tuple[Reading, ...], step: str) -> Reading | None:
    """The last standing reading of a step's own, where that was heard and has no volts."""
    own = [reading for reading in standing(readings, step) if reading.circumstances.row is None]
    return own[-1] if own and own[-1].quantity is Quantity.VERDICT else None


def latest_by_volume(readings: Iterable[Reading]) -> dict[int, Reading]:
    """
    The last reading taken at each volume number, by number, with the last that was said of the wave there.

    Volts and verdict are two facts: volts that are read again without a look at the wave leave what was seen.
    """
    found: dict[int, Reading] = {}
    for reading in sorted(readings, key=lambda reading: reading.arrival):
        if reading.volume is not None:
            found[reading.volume] = _as_seen(reading, found.get(reading.volume))
    return found


def _as_seen(reading: Reading, before: Reading | None) -> Reading:
    """A reading with what was said of the wave before, where it says nothing of it."""
    if before is None or reading.seen is not Eye.UNSEEN or before.seen is Eye.UNSEEN:
        return reading
    return reading.model_copy(update={"seen": before.seen, "evidence": before.evidence})
