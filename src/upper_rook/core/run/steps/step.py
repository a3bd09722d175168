"""A step of the run as data, and its state."""

from enum import StrEnum
from uuid import UUID

from upper_rook.core.common.cautions import Caution
from upper_rook.core.common.units import Frozen, Key, LongKey
from upper_rook.core.metrology.comparison import Comparison
from upper_rook.core.plan.target import Target
from upper_rook.core.run.clean_maxima.volume_step_state import VolumeSteps
from upper_rook.core.run.freshness.dependencies import Spoiled
from upper_rook.core.run.freshness.effects import Effect
from upper_rook.core.run.readings.circumstances import Circumstances
from upper_rook.core.run.readings.points import Point
from upper_rook.core.run.readings.records import Answer, Outcome, Quantity, Reading
from upper_rook.core.run.readings.tried_setting import SettingKind
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.clean_maximum import CleanMaximum
from upper_rook.core.system.playing import InputKind


class StepKind(StrEnum):
    """How a step is worked. Each has its module in `steps` and its component in the front end."""

    CHECKLIST = "checklist"
    VOLUME_STEPS = "volume_steps"
    """Volume numbers up until the source clips."""
    GAIN = "gain"
    """Turn the gain until the target shows."""
    MATCH = "match"
    """The other channel of the same knob: look, turn nothing."""
    SUPPLY = "supply"
    """The supply's volts, running and at rest."""
    PLUG = "plug"
    """The wires of a plug: what each of them is."""
    SURVEY = "survey"
    """The speakers of a factory system: what each plays."""
    FACTORY = "factory"
    """The wires of a factory system: their signal, its volts, and the time until they sleep."""
    SOURCE_SWEEP = "source_sweep"
    """A source over its whole band."""
    CONVERTER = "converter"
    """A converter's outputs, trimmed to one level."""
    CORNER = "corner"
    """A filter on an amplifier, set by voltage."""
    CABIN = "cabin"
    """The groups in the cabin, by the spectrum of noise."""
    BLEND = "blend"
    """The louder group turned down."""
    TRIMS = "trims"
    """A source's trims and settings: what each costs or gives."""
    OTHER_WAYS = "other_ways"
    """Ways of playing without a tone, compared by ear."""
    KNOB_POSITIONS = "knob_positions"
    """Where every knob and switch was left."""
    PROVE = "prove"
    """Everything in use: tones over the band of a path, compared with what they should give."""
    LACKING = "lacking"
    """A path that can't be planned yet, and what it lacks."""
    CHECK = "check"
    """A vehicle that came back: the few readings that tell whether anything moved."""


class CheckItem(Frozen):
    """One line of a checklist."""

    key: LongKey
    text: str
    why: str = ""
    asks: str = ""
    """Label of the words to be written beside it; empty where a tick is enough."""
    blank: str = ""
    """Meaning of an empty entry."""


class RowChoice(Frozen):
    """A value that can be picked instead of typed."""

    value: float
    text: str


class PlayedBand(Frozen):
    """The band that a group of speakers plays."""

    low_hz: float
    high_hz: float


class Row(Frozen):
    """One of several readings that a step asks for."""

    key: Key
    name: str
    """Name of the reading in a few words."""
    quantity: Quantity = Quantity.AC_VOLTS
    unit: str = "V"
    point: Point
    probe: str = ""
    """Where to measure, where it isn't where its step says."""
    wants: Circumstances
    play: str = ""
    """The tone in words."""
    scope: str | None = None
    """Settings of the scope to begin with, where that is the job's meter."""
    target: Target | None = None
    """None where the reading is only noted."""
    note: str = ""
    """Words in place of a target that isn't known yet."""
    optional: bool = False
    choices: tuple[RowChoice, ...] = ()
    """Values to pick from, where it is picked."""
    band: PlayedBand | None = None
    """The band that a recording of noise answers it by."""


class NamedOutput(Frozen):
    """An output of a source that can be picked."""

    id: Key
    name: str


class OwnRows(Frozen):
    """Rows that people may add: a setting as the source shows it, at an output, by a way of playing, with a tone."""

    settings: tuple[SettingKind, ...]
    outputs: tuple[NamedOutput, ...]
    ways: tuple[InputKind, ...]
    """Empty where the ways aren't distinguished."""
    tones: tuple[Tone, ...]


class RowState(Frozen):
    """State of one of them."""

    row: Key
    reading: Reading | None = None
    """The last that counts."""
    comparison: Comparison | None = None
    left: str = ""
    """Why it counts although it missed its target."""
    otherwise: str = ""
    """That another tone played, so that it settles nothing."""
    early: bool = False
    """Whether it was read before the clean maximum was known, and so settles nothing."""
    meanings: tuple[str, ...] = ()
    """Usual meaning of such a reading."""


class Need(Frozen):
    """Something that has to be so before a reading of a step is taken."""

    sentence: str
    step: LongKey
    """The step that settles it."""
    item: LongKey | None = None
    """The line of that checklist that a word settles."""
    answer: str = ""
    """That word."""
    counts: bool
    """Whether a reading taken all the same can settle the step."""


class Step(Frozen):
    """One step of the run."""

    key: LongKey
    kind: StepKind
    path: Key | None = None
    """The path it sets, or None for what serves several."""
    along: Key | None = None
    """A path that leads through its point, for the map and the bench."""
    stage: str = ""
    """The stage of the work it belongs to, in a word or two."""
    name: str
    """One or two words, for the step map."""
    title: str
    do: tuple[str, ...] = ()
    """Short orders, in sequence."""
    probe: str | None = None
    """Where to measure, in words."""
    point: Point | None = None
    wants: Circumstances | None = None
    """Circumstances that it should be measured under; their volume is where to start when `volume_free`."""
    volume_free: bool = False
    """Whether the volume is what is varied."""
    top_volume: int | None = None
    """The end of the source's volume scale, where something is measured."""
    play: str | None = None
    """The tone in words."""
    scope: str | None = None
    """Settings of the scope to begin with, where that is the job's meter."""
    target: Target | None = None
    outcomes: tuple[Outcome, ...] = ()
    """Why its target may be missed and the reading stand all the same."""
    items: tuple[CheckItem, ...] = ()
    rows: tuple[Row, ...] = ()
    """Readings in their order, where there is more than one."""
    own_rows: OwnRows | None = None
    """Rows that people may add, where they may."""
    beside: tuple[Row, ...] = ()
    """Optional readings beside its own: the place of the knob, the volts with a lower tone."""
    cautions: tuple[Caution, ...] = ()
    builds_on: tuple[UUID, ...] = ()
    """The records it rests on as it is now: a reading taken for it carries them."""
    after: tuple[LongKey, ...] = ()
    """The steps that it rests on."""
    needs: tuple[Need, ...] = ()
    """Needs before it is measured, the first thing first."""
    optional: bool = False
    """Whether a run is complete without it."""
    by_ear: bool = False
    """Whether it is heard: a verdict instead of volts, one speaker on."""
    field: str = ""
    """Where on the sheet what it lacks is filled in."""

    @property
    def to_do(self) -> str:
        """Action it waits for while nothing was read."""
        return self.needs[0].sentence if self.needs else "No reading yet."


class State(StrEnum):
    """Its mark on the step map."""

    OPEN = "open"
    DONE = "done"
    OUTDATED = "outdated"
    SKIPPED = "skipped"

    @classmethod
    def _missing_(cls, value: object) -> "State | None":
        """The name that summaries of earlier versions have."""
        return cls.OUTDATED if value == "stale" else None


class Answered(Frozen):
    """The answer that counts for one checklist line."""

    item: str
    answer: Answer
    note: str


class Moved(Frozen):
    """One thing that explains every reading of a check on its own."""

    words: str
    """The thing, and by how much it moved."""
    step: LongKey | None = None
    """The step that sets it; None for a setting of the source."""


class Contradicted(Frozen):
    """A step that a later reading speaks against."""

    step: LongKey
    by: Spoiled
    arrival: int
    """Place of that reading among all records: what was read for the step since then stands."""


class Checked(Frozen):
    """Result of a visit's check."""

    moved: tuple[Moved, ...] = ()
    """Each explains all readings on its own; empty where nothing moved, or where no single thing does."""
    missed: int = 0
    """How many readings differ from those of before."""
    not_shown: tuple[str, ...] = ()
    """Things that may have moved and that the readings so far would not show."""
    contradicts: tuple[Contradicted, ...] = ()


class StepState(Frozen):
    """State of one step."""

    step: LongKey
    state: State
    sentence: str
    spoiled: tuple[Spoiled, ...] = ()
    effect: Effect | None = None
    """Effect of the change on the setting, where it can be worked out."""
    answers: tuple[Answered, ...] = ()
    reading: Reading | None = None
    """The reading that counts for the step."""
    comparison: Comparison | None = None
    outcome: Outcome | None = None
    turn_down_to_v: float | None = None
    """Volts that the load leaves clean, where its clipping was seen and the gain is still above them."""
    position: Reading | None = None
    """Where its knob was left, as far as that was noted."""
    clips_with_resistors: Reading | None = None
    """Its highest clean volts with a load resistor on every channel."""
    clips_at: Reading | None = None
    """The volts where it clips with the gain turned further up, as far as they were read."""
    half: Reading | None = None
    """The volts with the tone 6 dB lower, as far as they were read."""
    meanings: tuple[str, ...] = ()
    """Usual meaning of a reading that missed."""
    rows: tuple[RowState, ...] = ()
    volume_steps: VolumeSteps | None = None
    """State of the volume steps."""
    clean_maximum: CleanMaximum | None = None
    """The clean maximum that was taken there."""
    checked: Checked | None = None
    """Result of a visit's check."""
