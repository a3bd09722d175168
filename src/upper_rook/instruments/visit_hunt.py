"""Whether a visit's check shows what was moved on the simulated bench since a careful person finished the run."""

import itertools
from collections.abc import Callable
from enum import StrEnum

import numpy as np

from upper_rook.core.common.units import Frozen, format_signed
from upper_rook.core.metrology.meters import profile
from upper_rook.core.run.readings.points import TerminalsPoint
from upper_rook.core.run.readings.records import Answer
from upper_rook.core.run.result.progress import Run
from upper_rook.core.run.steps.step import Row, Step, StepKind, StepState
from upper_rook.core.run.visits.chapters import BACK, CHECK_KEY, STILL_OFF
from upper_rook.core.run.visits.selection import FIRST
from upper_rook.instruments.auto_operator import AutoOperator
from upper_rook.instruments.simulated import BenchState, Fault, bench_for, dials_of, probe_at, scale_of

_GAIN_DB, _TURNED_OCTAVES = 1.0, 1 / 3


class Moved(StrEnum):
    """The thing that is moved between two visits."""

    NOTHING = "nothing"
    GAIN = "gain"
    """By 1 dB."""
    FILTER = "filter"
    """By a third of an octave."""
    TRIM = "trim"
    """A converter's trim back at its lowest, or a level trim of the way of playing."""
    LOUDNESS = "loudness"
    PLAYER = "player"
    """Another player, phone or track."""


class Found(Frozen):
    """One check on one bench."""

    moved: Moved
    detail: str
    first: int
    """Readings that a check begins with."""
    noticed: bool
    """Whether these show that something moved."""
    readings: int
    """Readings in all, with those that tell explanations apart."""
    named: bool
    """Whether what moved is among the explanations."""
    sentence: str


class Visitor(AutoOperator):
    """The person who did a run, with the vehicle back on the bench on another day."""

    def __init__(self, done: AutoOperator) -> None:
        super().__init__(done.sheet, done.seed, scope=done.scope)
        self.readings, self.marks = list(done.readings), list(done.marks)
        self.gains = dict(done.gains)
        self.dials = {path: list(dials) for path, dials in done.dials.items()}
        self.state = BenchState.model_validate(done.state.model_dump())
        # Counts go on where the run's ended.
        arrivals = [*(record.arrival for record in done.readings), *(record.arrival for record in done.marks)]
        self._count = itertools.count(1 + max(arrivals, default=0))
        self._at = done._at

    def check(self) -> list[StepState]:
        """The check's state after each reading that it asks for."""
        # A visit is begun before its step is there.
        self.keep_mark(CHECK_KEY, item=BACK, answer=Answer.DONE)
        self.keep_mark(CHECK_KEY, item=STILL_OFF, answer=Answer.DONE)
        states: list[StepState] = []
        while True:
            step, state = _check_of(self.run())
            states.append(state)
            read = {row.row for row in state.rows if row.reading}
            row = next((row for row in step.rows if not row.optional and row.key not in read), None)
            if row is None:
                return states
            self._read_again(step, row)

    def type_again(
        self, step: Step, row: Row, volts: float, volume: int | None = None, meter: str = "simulated"
    ) -> None:
        """Types volts at a row of the check, read by a meter, at the row's volume or at another."""
        so = row.wants.model_copy(update={"row": row.key, "volume": volume or row.wants.volume})
        doubt = profile(meter).uncertainty_v(volts, row.wants.tone.frequency_hz) if row.wants.tone else None
        self._keep(step, row.point, so, quantity=row.quantity, value=volts, uncertainty=doubt)

    def _read_again(self, step: Step, row: Row) -> None:
        path = row.point.path if isinstance(row.point, TerminalsPoint) else None
        if path:
            knobs = {"gain": self.gains.get(path, 0.0), "dials": tuple(self.dials.get(path, ()))}
            self.turn(path=path, **knobs)
        else:
            source, output = row.point.source, row.point.output  # type: ignore[union-attr]
            paths = self.sheet.chain.paths
            self.turn(path=next(other.id for other in paths if (other.source, other.output) == (source, output)))
        self.turn(probe=probe_at(row.point), tone=row.wants.tone, volume=row.wants.volume, way=row.wants.way)
        self._read(step, row.point, row.wants, row=row)


def _check_of(run: Run) -> tuple[Step, StepState]:
    pairs = zip(run.steps, run.states, strict=True)
    return next((step, state) for step, state in pairs if step.kind is StepKind.CHECK)


def hunt_on_visit(done: AutoOperator, moved: Moved, seed: int) -> Found | None:
    """
    A check of what `done` had finished, with one thing moved; None where the system has no such thing.

    `seed` picks the knob and the way that it was turned.
    """
    visitor, dice = Visitor(done), np.random.default_rng([seed, list(Moved).index(moved)])
    detail = _MOVES[moved](visitor, dice)
    if detail is None:
        return None
    states = visitor.check()
    first, last = min(FIRST, len(states) - 1), states[-1]
    names = " ".join(explanation.words for explanation in last.checked.moved) if last.checked else ""
    early = states[first].checked
    return Found(
        moved=moved,
        detail=detail,
        first=first,
        noticed=early is not None and early.missed > 0,
        readings=len(states) - 1,
        named=any(words in names for words in _CALLED[moved]),
        sentence=last.sentence,
    )


_CALLED: dict[Moved, tuple[str, ...]] = {
    Moved.NOTHING: (),
    Moved.GAIN: ("gain of",),
    Moved.FILTER: ("-pass of",),
    Moved.TRIM: ("trim of", "level of", "source’s level"),
    Moved.LOUDNESS: ("loudness",),
    Moved.PLAYER: ("level of", "source’s level"),
}


def _nothing(_visitor: Visitor, _dice: np.random.Generator) -> str | None:
    return "nothing"


def _gain(visitor: Visitor, dice: np.random.Generator) -> str | None:
    path = str(dice.choice(sorted(visitor.gains))) if visitor.gains else None
    if path is None:
        return None
    amplifier = bench_for(visitor.sheet, visitor.seed, visitor.state.model_copy(update={"path": path})).amplifier
    scale_db = 20 * np.log10(amplifier.sensitivity_down_v / amplifier.sensitivity_up_v)
    by_db = _GAIN_DB * float(dice.choice([-1, 1]))
    knob = visitor.gains[path]
    if not 0 <= knob + by_db / scale_db <= 1:
        by_db = -by_db
    visitor.gains[path] = min(1.0, max(0.0, knob + by_db / scale_db))
    return f"{path} {format_signed(by_db, 1)} dB"


def _filter(visitor: Visitor, dice: np.random.Generator) -> str | None:
    dials = [
        (path, place)
        for path, known in sorted(visitor.dials.items())
        for place, turned in enumerate(known)
        if turned is not None
    ]
    if not dials:
        return None
    path_id, place = dials[int(dice.integers(len(dials)))]
    path = visitor.path(path_id)
    low, high = scale_of(dials_of(path)[place])
    octaves = _TURNED_OCTAVES * float(dice.choice([-1, 1]))
    turned = visitor.dials[path_id][place] or 0.0
    by = octaves / float(np.log2(high / low))
    if not 0 <= turned + by <= 1:
        by = -by
    visitor.dials[path_id][place] = min(1.0, max(0.0, turned + by))
    return f"{path_id} {place} {format_signed(octaves, 2)} octaves"


def _trim(visitor: Visitor, _dice: np.random.Generator) -> str | None:
    if visitor.state.trims:
        visitor.turn(trims=dict.fromkeys(visitor.state.trims, 0.0))
        return "converters’ trims down"
    visitor.turn(faults=(Fault.LEVEL_TRIM,))
    return "level trim of the way of playing"


def _faulty(*faults: Fault) -> Callable[[Visitor, np.random.Generator], str | None]:
    def move(visitor: Visitor, dice: np.random.Generator) -> str | None:
        fault = faults[int(dice.integers(len(faults)))]
        visitor.turn(faults=(fault,))
        return fault.value

    return move


_MOVES: dict[Moved, Callable[[Visitor, np.random.Generator], str | None]] = {
    Moved.NOTHING: _nothing,
    Moved.GAIN: _gain,
    Moved.FILTER: _filter,
    Moved.TRIM: _trim,
    Moved.LOUDNESS: _faulty(Fault.LOUDNESS),
    Moved.PLAYER: _faulty(Fault.PHONE_VOLUME, Fault.NORMALISER, Fault.QUIET_TRACK),
}
