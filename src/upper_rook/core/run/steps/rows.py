"""What steps that ask for several readings have in common."""

from collections.abc import Callable

from upper_rook.core.common.units import format_value
from upper_rook.core.metrology.comparison import Comparison, Fit, compare
from upper_rook.core.run.dependencies import Dependencies, Spoiled, spoiled_by
from upper_rook.core.run.job_snapshot import JobSnapshot
from upper_rook.core.run.records import Answer, Reading, standing
from upper_rook.core.run.step import Row, RowState, State, Step, StepState

_SETTLED = (Fit.INSIDE, Fit.UNSURE)

TOO_EARLY = "Read before the clean maximum was known, so it settles nothing. Read it again at the clean maximum."
RestsOn = Callable[[JobSnapshot], Dependencies]
Meaning = Callable[[Row, Reading], tuple[str, ...]]


def last_readings(snapshot: JobSnapshot, step: str) -> dict[str, Reading]:
    """The last reading that stands of each row of a step."""
    return {one.circumstances.row: one for one in standing(snapshot.readings, step) if one.circumstances.row}


def state_of(
    snapshot: JobSnapshot,
    step: Step,
    rests_on: RestsOn,
    meaning: Meaning = lambda _row, _reading: (),
    *,
    told: str = "",
    counts: Callable[[JobSnapshot], bool] = lambda _then: True,
) -> StepState:
    """
    How a step of several readings stands; `told` is what all of them come to.

    `counts` says whether a reading taken in a snapshot can settle anything; one that can't is shown, and no more.

    It is done when every row that isn't optional was read and meets its target, or was left as it is with a reason.
    """
    readings = last_readings(snapshot, step.key)
    early = {row for row, one in readings.items() if not counts(_then(snapshot, one))}
    left = {
        one.item: one
        for one in standing(snapshot.marks, step.key)
        if one.item is not None and one.answer is Answer.LEFT
    }
    rows = []
    for row in step.rows:
        reading = readings.get(row.key)
        mark = left.get(row.key)
        stays = mark is not None and reading is not None and mark.arrival > reading.arrival
        comparison = _compared(row, reading)
        missed = comparison is not None and comparison.fit not in _SETTLED
        rows.append(
            RowState(
                row=row.key,
                reading=reading,
                comparison=comparison,
                left=mark.note if stays and mark else "",
                early=row.key in early,
                meanings=meaning(row, reading) if reading and (missed or row.target is None) else (),
            )
        )
    spoiled = _spoiled(snapshot, {row: one for row, one in readings.items() if row not in early}, rests_on)
    open_rows = [row for row, state in zip(step.rows, rows, strict=True) if not row.optional and not _is_settled(state)]
    return StepState(
        step=step.key,
        state=State.OUTDATED if spoiled else State.OPEN if open_rows or not readings else State.DONE,
        sentence=_sentence(step, open_rows, rows, told),
        spoiled=spoiled,
        rows=tuple(rows),
        reading=max(readings.values(), key=lambda one: one.arrival, default=None),
    )


def left_in_words(_situation: JobSnapshot, step: Step, state: StepState) -> str:
    """A step and what its readings came to, for the sheet; nothing while it wasn't worked."""
    return f"{step.title}: {state.sentence}" if state.reading is not None and state.state is State.DONE else ""


def _compared(row: Row, reading: Reading | None) -> Comparison | None:
    if reading is None or row.target is None:
        return None
    return compare(reading.value, reading.uncertainty, row.target.value, row.target.limits, row.target.turn)


def _is_settled(state: RowState) -> bool:
    if state.reading is None or state.early:
        return False
    return state.comparison is None or state.comparison.fit in _SETTLED or bool(state.left)


def _then(snapshot: JobSnapshot, reading: Reading) -> JobSnapshot:
    """The snapshot that a reading was taken in."""
    return snapshot.at(reading.sheet_version, reading.builds_on or ())


def _spoiled(snapshot: JobSnapshot, readings: dict[str, Reading], rests_on: RestsOn) -> tuple[Spoiled, ...]:
    """What differs since, each thing once."""
    found: dict[str, Spoiled] = {}
    now = rests_on(snapshot)
    for reading in readings.values():
        for one in spoiled_by(rests_on(_then(snapshot, reading)), now):
            found.setdefault(one.place, one)
    return tuple(found.values())


def _sentence(step: Step, open_rows: list[Row], rows: list[RowState], told: str) -> str:
    if not any(one.reading for one in rows):
        return step.to_do
    if any(one.early for one in rows):
        return TOO_EARLY
    if open_rows:
        names = ", ".join(one.name for one in open_rows)
        return f"{told} Still to do: {names}.".strip()
    shown = ", ".join(
        format_value(one.reading.value, row.unit) for row, one in zip(step.rows, rows, strict=True) if one.reading
    )
    return f"{shown}. {told}".strip()
