"""The check of a visit: the few readings of before that, taken again, show most of what may have moved."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

from typing_extensions import override

from upper_rook.core.common.cautions import Caution
from upper_rook.core.common.units import format_db, format_value, from_db
from upper_rook.core.metrology.comparison import Limits, Turn
from upper_rook.core.plan.target import Target
from upper_rook.core.run.freshness.dependencies import Spoiled
from upper_rook.core.run.readings.records import Answer, Reading, standing
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import rows
from upper_rook.core.run.steps.earlier_points import earlier_points
from upper_rook.core.run.steps.kind import VISIT, Kind, Place
from upper_rook.core.run.steps.step import (
    Answered,
    Checked,
    CheckItem,
    Contradicted,
    Moved,
    Need,
    Row,
    RowState,
    State,
    Step,
    StepKind,
    StepState,
)
from upper_rook.core.run.visits.chapters import BACK, CHECK_KEY, STILL_OFF, Visit, visits_of
from upper_rook.core.run.visits.check_point import CheckPoint
from upper_rook.core.run.visits.explanation import Explanation, explanations, telling_apart
from upper_rook.core.run.visits.possible_changes import PossibleChange, possible_changes
from upper_rook.core.run.visits.selection import FIRST, Selected

_ITEMS = (
    CheckItem(key=BACK, text="The vehicle is back", asks="Complaint or reason", blank="nothing was said"),
    CheckItem(key=STILL_OFF, text="Speakers are off the amplifiers"),
)
_NAMED = 3
"""So many explanations stand in the sentence, the one that fits best first."""
_TURN = Turn(below="less than before", above="more than before")


@dataclass(frozen=True)
class _Check:
    """The check of one visit: the readings to take again, and those that were taken."""

    snapshot: JobSnapshot
    visit: Visit

    @cached_property
    def points(self) -> tuple[CheckPoint, ...]:
        """Readings of before that still hold."""
        return tuple(earlier_points(self.snapshot.until(self.visit.arrival)))

    @cached_property
    def changes(self) -> tuple[PossibleChange, ...]:
        return possible_changes(self.snapshot.sheet.chain, self.points)

    @cached_property
    def read(self) -> dict[str, Reading]:
        """The last reading of each point since the vehicle came back."""
        return {key: reading for key, reading in self.since.items() if not self.otherwise(key)}

    @cached_property
    def since(self) -> dict[str, Reading]:
        """The same with those that were read otherwise than before."""
        last = rows.last_readings(self.snapshot, CHECK_KEY)
        return {key: reading for key, reading in last.items() if reading.arrival > self.visit.arrival}

    def otherwise(self, key: str) -> str:
        """How a reading was taken otherwise than the one of before, so that it tells nothing; empty where it wasn't."""
        point, now = next((point for point in self.points if point.key == key), None), self.since.get(key)
        if point is None or now is None:
            return ""
        if now.volume is not None and point.reading.volume not in (None, now.volume):
            return f"read at volume {now.volume}. Set the volume to {point.reading.volume} and read again"
        return self.snapshot.otherwise(now, point.reading.tone)

    @cached_property
    def selected(self) -> Selected:
        return Selected(self.points, self.changes)

    @cached_property
    def order(self) -> tuple[CheckPoint, ...]:
        """The points in the order in which they are worth reading; what was read stays among them."""
        chosen = self.selected.order
        also_read = (point for point in self.points if point.key in self.read and point not in chosen)
        return (*chosen, *also_read)

    @cached_property
    def found(self) -> tuple[Explanation, ...]:
        """Single changes that explain what was read; fewer than the first readings are explained by too much."""
        return explanations(self.taken, self.changes) if self.is_begun else ()

    @cached_property
    def is_begun(self) -> bool:
        """Whether the readings that a check begins with were taken."""
        return all(point.key in self.read for point in self.order[:FIRST])

    @cached_property
    def taken(self) -> tuple[CheckPoint, ...]:
        """The points that were read again, each with that reading."""
        return tuple(replace(point, again=self.read[point.key]) for point in self.points if point.key in self.read)

    @cached_property
    def missed(self) -> tuple[CheckPoint, ...]:
        """The points that read something else than before."""
        return tuple(point for point in self.taken if abs(point.moved_db) > point.allowed_db)

    @cached_property
    def further(self) -> CheckPoint | None:
        """A point still to read that would tell explanations apart."""
        return telling_apart(self.found, [point for point in self.points if point.key not in self.read])

    @cached_property
    def rows(self) -> tuple[Row, ...]:
        first = {point.key for point in self.order[:FIRST]}
        more = self.further
        wanted = first | ({more.key} if more else set())
        every = self.order if more is None or more in self.order else (*self.order, more)
        taken = {point.key: point for point in self.taken}
        return tuple(_row(taken.get(point.key, point), optional=point.key not in wanted) for point in every)


def _row(point: CheckPoint, *, optional: bool) -> Row:
    now = point.reading.circumstances
    wants = now.model_copy(update={"row": None, "displayed": None, "hanging": None, "supply_v": None})
    value, allowed = point.expected_v, from_db(point.allowed_db)
    was = format_value(point.reading.value, "V")
    counted = f", which is {format_value(value, 'V')} with the filters as they are used" if point.shift_db else ""
    return Row(
        key=point.key,
        name=point.name,
        point=point.reading.point,
        probe=point.probe,
        wants=wants,
        play=wants.play,
        target=Target(
            value=value,
            unit="V",
            limits=Limits(low=value / allowed, high=value * allowed),
            method="Check",
            turn=_TURN,
            because=(f"it read {was} on {point.reading.taken_at.date():%d %b %Y}{counted}",),
        ),
        optional=optional,
    )


def _cautions(snapshot: JobSnapshot, check: _Check) -> tuple[Caution, ...]:
    every = (caution for point in check.order if point.path for caution in snapshot.plan.cautions_of(point.path))
    return tuple(dict.fromkeys(every))


def _speakers_off(snapshot: JobSnapshot, visit: Visit) -> Need | None:
    """That the speakers are off on this visit: what was said on another day says nothing now."""
    said = (mark for mark in standing(snapshot.marks, CHECK_KEY) if mark.item == STILL_OFF)
    if any(mark.arrival > visit.arrival for mark in said):
        return None
    return Need(
        sentence="Disconnect the speakers first: a steady tone burns them.",
        step=CHECK_KEY,
        item=STILL_OFF,
        answer="Speakers are off",
        counts=True,
    )


class Checks(Kind):
    kind = StepKind.CHECK

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        check = _check_of(snapshot)
        if check is None:
            return
        need, first = _speakers_off(snapshot, check.visit), next(iter(check.rows), None)
        chain = snapshot.sheet.chain
        yield (
            (VISIT, 0),
            Step(
                key=CHECK_KEY,
                kind=StepKind.CHECK,
                along=next((point.path for point in check.order if point.path), None),
                name="Check",
                title="Has anything moved?",
                do=(
                    "Change no setting. Play each tone at its volume and save the volts.",
                    "These readings were chosen because together they show most of what can have moved.",
                ),
                probe=first.probe if first else None,
                point=first.point if first else None,
                wants=first.wants if first else None,
                play=first.play if first else None,
                top_volume=max((source.top_volume for source in chain.feeding()), default=None),
                items=_ITEMS,
                rows=check.rows,
                cautions=_cautions(snapshot, check),
                needs=(need,) if need and check.rows else (),
                optional=True,
            ),
        )

    @override
    def state(self, snapshot: JobSnapshot, step: Step) -> StepState:
        check = _check_of(snapshot)
        if check is None:
            return StepState(step=step.key, state=State.OPEN, sentence=step.to_do)
        states = tuple(_row_state(check, row) for row in step.rows)
        open_rows = [row for row in step.rows if not row.optional and row.key not in check.read]
        return StepState(
            step=step.key,
            # Nothing waits for a check that has nothing to read.
            state=State.OPEN if check.points and (open_rows or not check.read) else State.DONE,
            sentence=_sentence(check, open_rows),
            answers=(Answered(item=BACK, answer=Answer.DONE, note=check.visit.note),),
            rows=states,
            reading=max(check.read.values(), key=lambda reading: reading.arrival, default=None),
            checked=Checked(
                moved=tuple(Moved(words=found.words, step=found.change.step) for found in check.found),
                missed=len(check.missed),
                not_shown=tuple(change.name for change in check.selected.unseen(check.taken or check.order[:FIRST])),
                contradicts=tuple(_contradicted(check)),
            ),
        )

    @override
    def left(self, snapshot: JobSnapshot, step: Step, state: StepState) -> str:
        visits = visits_of(snapshot.marks)
        if not visits or state.reading is None or state.state is not State.DONE:
            return ""
        return f"Checked on {visits[-1].day:%d %b %Y}: {state.sentence}"


@lru_cache(maxsize=4)
def _check_of(snapshot: JobSnapshot) -> _Check | None:
    visits = visits_of(snapshot.marks)
    return _Check(snapshot, visits[-1]) if visits else None


def _row_state(check: _Check, row: Row) -> RowState:
    reading, otherwise = check.since.get(row.key), check.otherwise(row.key)
    comparison = None if otherwise else rows.compared(row, reading)
    return RowState(row=row.key, reading=reading, comparison=comparison, otherwise=otherwise)


def _contradicted(check: _Check) -> Iterator[Contradicted]:
    """The steps whose readings no longer hold, and the one that set what moved, where only one thing explains it."""
    alone = check.found[0].change.step if len(check.found) == 1 else None
    for point in check.missed:
        now = check.read[point.key]
        by = Spoiled(
            place="check",
            label=f"Check: {point.name}",
            was=format_value(point.expected_v, "V"),
            now=format_value(now.value, "V"),
            remedy="Put back what moved and read the check again, or set this again.",
        )
        for step in dict.fromkeys((point.step, *((alone,) if alone else ()))):
            yield Contradicted(step=step, by=by, arrival=now.arrival)


def _sentence(check: _Check, open_rows: list[Row]) -> str:
    if not check.points:
        return "Nothing was measured before that could be read again."
    if not check.read:
        return "Nothing read yet on this visit."
    left = f" Still to read: {', '.join(row.name for row in open_rows)}." if open_rows else ""
    count = len(check.read)
    if not check.missed:
        told = f"{count} of {count} as before." if open_rows else f"Nothing that these {count} readings show has moved."
        return told + left
    by = check.missed[0]
    lead = f"{by.name} reads {format_db(abs(by.moved_db))} {'less' if by.moved_db < 0 else 'more'}"
    if not check.is_begun:
        return f"{lead} than before.{left}"
    return f"{lead} than before{_explained(check.found)}{left}"


def _explained(found: Sequence[Explanation]) -> str:
    """The end of a sentence: the changes that explain what was read, the one that fits best first."""
    if not found:
        return ". No single change explains every reading: check level by level from the source."
    words = [explanation.words for explanation in found[:_NAMED]]
    if len(found) > _NAMED:
        words.append(f"{len(found) - _NAMED} more")
    return f": {words[0]}." if len(words) == 1 else f". One of these explains it: {'; '.join(words)}."
