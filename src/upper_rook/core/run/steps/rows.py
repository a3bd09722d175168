"""Common ground of the steps that ask for several readings."""

from typing_extensions import override

from upper_rook.core.common.units import format_value
from upper_rook.core.metrology.comparison import Comparison, Fit, compare
from upper_rook.core.run.freshness.dependencies import Dependencies, Spoiled, spoiled_by
from upper_rook.core.run.readings.records import Answer, Reading, standing
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.kind import Kind
from upper_rook.core.run.steps.step import Row, RowState, State, Step, StepState

_SETTLED = (Fit.INSIDE, Fit.UNSURE)

TOO_EARLY = "Read before the clean maximum was known, so it settles nothing. Read it again at the clean maximum."


def last_readings(snapshot: JobSnapshot, step: str) -> dict[str, Reading]:
    """The last reading that counts of each row of a step."""
    return {
        reading.circumstances.row: reading for reading in standing(snapshot.readings, step) if reading.circumstances.row
    }


class RowsKind(Kind):
    """A kind of step that asks for several readings."""

    def rests_on(self, snapshot: JobSnapshot, step: Step) -> Dependencies:
        """Dependencies of the readings of a step."""
        return ()

    def meaning(self, snapshot: JobSnapshot, step: Step, row: Row, reading: Reading) -> tuple[str, ...]:
        """Usual meaning of a reading that misses its target, or that has none."""
        return ()

    def in_words(self, snapshot: JobSnapshot, step: Step, readings: dict[str, Reading]) -> str:
        """Conclusion from all readings of a step; readings are by their rows' keys."""
        return ""

    def counts(self, then: JobSnapshot, step: Step) -> bool:
        """Whether a reading taken in a snapshot can settle anything; one that can't is shown, and no more."""
        return True

    def otherwise(self, snapshot: JobSnapshot, row: Row, reading: Reading) -> str:
        """That a reading was taken otherwise than its row wants, so that it settles nothing; empty where it wasn't."""
        return snapshot.otherwise(reading, row.wants.tone)

    @override
    def left(self, snapshot: JobSnapshot, step: Step, state: StepState) -> str:
        return f"{step.title}: {state.sentence}" if state.reading is not None and state.state is State.DONE else ""

    @override
    def state(self, snapshot: JobSnapshot, step: Step) -> StepState:
        """It is done when every row that isn't optional was read and meets its target, or was left with a reason."""
        readings = last_readings(snapshot, step.key)
        early = {row for row, reading in readings.items() if not self.counts(_then(snapshot, reading), step)}
        rows = [
            self._row_state(snapshot, step, row, readings.get(row.key), early=row.key in early) for row in step.rows
        ]
        counted = {
            row.key: readings[row.key]
            for row, row_state in zip(step.rows, rows, strict=True)
            if row_state.reading and not row_state.otherwise
        }
        spoiled = self._spoiled(snapshot, step, [reading for row, reading in readings.items() if row not in early])
        open_rows = [
            row for row, state in zip(step.rows, rows, strict=True) if not row.optional and not _is_settled(state)
        ]
        return StepState(
            step=step.key,
            state=State.OUTDATED if spoiled else State.OPEN if open_rows or not readings else State.DONE,
            sentence=_sentence(step, open_rows, rows, self.in_words(snapshot, step, counted)),
            spoiled=spoiled,
            rows=tuple(rows),
            reading=max(readings.values(), key=lambda reading: reading.arrival, default=None),
        )

    def _row_state(
        self, snapshot: JobSnapshot, step: Step, row: Row, reading: Reading | None, *, early: bool
    ) -> RowState:
        otherwise = self.otherwise(snapshot, row, reading) if reading else ""
        comparison = None if otherwise else compared(row, reading)
        missed = comparison is not None and comparison.fit not in _SETTLED
        return RowState(
            row=row.key,
            reading=reading,
            comparison=comparison,
            left=_reason_left(snapshot, step, row, reading),
            otherwise=otherwise,
            early=early,
            meanings=self.meaning(snapshot, step, row, reading)
            if reading and not otherwise and (missed or row.target is None)
            else (),
        )

    def _spoiled(self, snapshot: JobSnapshot, step: Step, readings: list[Reading]) -> tuple[Spoiled, ...]:
        """Differences since then, each once."""
        found: dict[str, Spoiled] = {}
        now = self.rests_on(snapshot, step)
        for reading in readings:
            for spoiled in spoiled_by(self.rests_on(_then(snapshot, reading), step), now):
                found.setdefault(spoiled.place, spoiled)
        return tuple(found.values())


def _reason_left(snapshot: JobSnapshot, step: Step, row: Row, reading: Reading | None) -> str:
    """Why a row's last reading was left as it is, or empty."""
    marks = [mark for mark in standing(snapshot.marks, step.key) if mark.item == row.key and mark.answer is Answer.LEFT]
    stays = marks and reading is not None and marks[-1].arrival > reading.arrival
    return marks[-1].note if stays else ""


def compared(row: Row, reading: Reading | None) -> Comparison | None:
    """A row's reading against its target; None without one of them."""
    if reading is None or row.target is None:
        return None
    return compare(reading.value, reading.uncertainty, row.target.value, row.target.limits, row.target.turn)


def _is_settled(state: RowState) -> bool:
    if state.reading is None or state.early or state.otherwise:
        return False
    return state.comparison is None or state.comparison.fit in _SETTLED or bool(state.left)


def _then(snapshot: JobSnapshot, reading: Reading) -> JobSnapshot:
    """The snapshot that a reading was taken in."""
    return snapshot.at(reading.sheet_version, reading.builds_on or ())


def _shown(row: Row, value: float) -> str:
    """A value that was picked in its words, any other as a figure."""
    return next((choice.text for choice in row.choices if choice.value == value), format_value(value, row.unit))


def _sentence(step: Step, open_rows: list[Row], rows: list[RowState], told: str) -> str:
    if not any(row.reading for row in rows):
        return step.to_do
    if any(row.early for row in rows):
        return TOO_EARLY
    otherwise = next(
        ((row, row_state) for row, row_state in zip(step.rows, rows, strict=True) if row_state.otherwise), None
    )
    if otherwise:
        return f"{otherwise[0].name}: {otherwise[1].otherwise}."
    if open_rows:
        names = ", ".join(open_row.name for open_row in open_rows)
        return f"{told} Still to do: {names}.".strip()
    shown = ", ".join(
        _shown(row, row_state.reading.value)
        for row, row_state in zip(step.rows, rows, strict=True)
        if row_state.reading
    )
    return f"{shown}. {told}".strip()
