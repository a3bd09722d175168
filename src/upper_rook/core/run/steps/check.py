"""The check of a visit: the few readings of before that, taken again, show most of what may have moved."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from hashlib import blake2s

from typing_extensions import override

from upper_rook.core.common.cautions import Caution
from upper_rook.core.common.units import format_hertz, format_value, from_db, ratio_db
from upper_rook.core.metrology.comparison import Limits, Turn
from upper_rook.core.plan.target import Target
from upper_rook.core.run.freshness.dependencies import Spoiled
from upper_rook.core.run.readings.points import OutputPoint
from upper_rook.core.run.readings.records import Answer, Reading, standing
from upper_rook.core.run.readings.step_keys import BLEND_KEY
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import rows
from upper_rook.core.run.steps.gain import Gains
from upper_rook.core.run.steps.kind import VISIT, Kind, Place
from upper_rook.core.run.steps.match import Matches
from upper_rook.core.run.steps.prove import Proofs
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
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.path import Path
from upper_rook.core.system.playing import INPUT_WORDS, InputKind

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
        return tuple(_points(self.snapshot.until(self.visit.arrival)))

    @cached_property
    def changes(self) -> tuple[PossibleChange, ...]:
        return possible_changes(self.snapshot.sheet.chain, self.points)

    @cached_property
    def read(self) -> dict[str, Reading]:
        """The last reading of each point since the vehicle came back."""
        return {key: one for key, one in self.since.items() if not self.otherwise(key)}

    @cached_property
    def since(self) -> dict[str, Reading]:
        """The same with those that were read otherwise than before."""
        last = rows.last_readings(self.snapshot, CHECK_KEY)
        return {key: one for key, one in last.items() if one.arrival > self.visit.arrival}

    def otherwise(self, key: str) -> str:
        """How a reading was taken otherwise than the one of before, so that it tells nothing; empty where it wasn't."""
        point, now = next((one for one in self.points if one.key == key), None), self.since.get(key)
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
        known = {one.key for one in self.selected.order}
        return (*self.selected.order, *(one for one in self.points if one.key in self.read and one.key not in known))

    @cached_property
    def found(self) -> tuple[Explanation, ...]:
        """Single changes that explain what was read so far."""
        return explanations({key: one.value for key, one in self.read.items()}, self.taken, self.changes)

    @cached_property
    def taken(self) -> tuple[CheckPoint, ...]:
        """The points that were read again, each with that reading."""
        return tuple(replace(one, again=self.read[one.key]) for one in self.points if one.key in self.read)

    @cached_property
    def missed(self) -> tuple[CheckPoint, ...]:
        """The points that read something else than before."""
        return tuple(
            one for one in self.taken if abs(ratio_db(self.read[one.key].value, one.expected_v)) > one.allowed_db
        )

    @cached_property
    def further(self) -> CheckPoint | None:
        """A point still to read that would tell explanations apart."""
        return telling_apart(self.found, [one for one in self.points if one.key not in self.read])

    @cached_property
    def rows(self) -> tuple[Row, ...]:
        first = {one.key for one in self.order[:FIRST]}
        more = self.further
        wanted = first | ({more.key} if more and first <= set(self.read) else set())
        every = self.order if more is None or more in self.order else (*self.order, more)
        taken = {one.key: one for one in self.taken}
        return tuple(_row(taken.get(one.key, one), optional=one.key not in wanted) for one in every)


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


def _points(then: JobSnapshot) -> Iterator[CheckPoint]:
    """Every reading of volts that can be taken again: proofs first, then gains and other channels, then sources."""
    proofs = list(_of_proofs(then))
    yield from proofs
    known = {(one.reading.point.model_dump_json(), round(one.hertz)) for one in proofs}
    for one in _of_volts(then):
        if (one.reading.point.model_dump_json(), round(one.hertz)) not in known:
            yield one
    yield from _of_sources(then)


def _key(reading: Reading) -> str:
    """A row's key, by what its reading was of: ids change where a job is brought in from an archive."""
    of = f"{reading.step}|{reading.circumstances.row}|{reading.volume}"
    return f"again-{blake2s(of.encode(), digest_size=12).hexdigest()}"


def _of_proofs(then: JobSnapshot) -> Iterator[CheckPoint]:
    kind = Proofs()
    for _, step in kind.steps(then):
        state, path = kind.state(then, step), then.path(step.path or "")
        if path is None or state.state is State.OUTDATED:
            continue
        for row, one in zip(step.rows, state.rows, strict=True):
            if one.reading and not one.otherwise and not one.early:
                name = f"{path.name or 'Path'}, {row.name}"
                yield _at_terminals(one.reading, step, path, name, _blended_db(then, path, one.reading))


def _of_volts(then: JobSnapshot) -> Iterator[CheckPoint]:
    kinds: tuple[Kind, ...] = (Gains(), Matches())
    for kind in kinds:
        for _, step in kind.steps(then):
            state, path = kind.state(then, step), then.path(step.path or "")
            reading = state.reading
            if path is None or reading is None or state.state is not State.DONE or reading.tone is None:
                continue
            if reading.value <= 0:
                continue
            shift = _filters_in_db(then, path, reading.tone.frequency_hz) + _blended_db(then, path, reading)
            yield _at_terminals(reading, step, path, f"{step.name}, {format_hertz(reading.tone.frequency_hz)}", shift)


def _at_terminals(reading: Reading, step: Step, path: Path, name: str, shift_db: float) -> CheckPoint:
    return CheckPoint(
        key=_key(reading),
        name=name,
        reading=reading,
        step=step.key,
        probe=f"{path.name or 'Path'}: {step.probe}",
        source=path.source,
        output=path.output,
        path=path.id,
        shift_db=shift_db,
    )


def _filters_in_db(then: JobSnapshot, path: Path, hertz: float) -> float:
    """By how much the amplifier's filters change the gain's tone when they are in: a gain is set with them open."""
    figures = then.figures(path.id)
    if figures is None:
        return 0.0
    shape = figures.levels.shape
    place = shape.place(hertz)
    return float(shape.in_use_db[place] - shape.opened_db[place])


def _blended_db(then: JobSnapshot, path: Path, reading: Reading) -> float:
    """By how much a path was turned down by ear after a reading."""
    down = rows.last_readings(then, BLEND_KEY).get(path.id)
    return -down.value if down and down.arrival > reading.arrival else 0.0


def _of_sources(then: JobSnapshot) -> Iterator[CheckPoint]:
    kept = {one.id: one for one in then.readings}
    names = {
        (source.id, output.id): output.name or source.name or "Source"
        for source in then.sheet.chain.sources
        for output in source.outputs
    }
    for taken in then.clean_maxima:
        reading = next((kept[one] for one in taken.records if one in kept), None)
        if reading is None or not isinstance(reading.point, OutputPoint) or reading.tone is None:
            continue
        if reading.value <= 0:
            continue
        name = names.get((reading.point.source, reading.point.output), "Source")
        yield CheckPoint(
            key=_key(reading),
            name=f"{name} itself, {_tone_and_way(reading.tone, reading.circumstances.way)}",
            reading=reading,
            step=reading.step,
            probe=f"{name}: the source’s own plug, pulled out of what it feeds",
            source=reading.point.source,
            output=reading.point.output,
            path=None,
        )


def _tone_and_way(tone: Tone, way: InputKind | None) -> str:
    hertz = format_hertz(tone.frequency_hz)
    return f"{hertz} by {INPUT_WORDS[way]}" if way else hertz


def _cautions(snapshot: JobSnapshot, check: _Check) -> tuple[Caution, ...]:
    every = (one for point in check.order if point.path for one in snapshot.plan.cautions_of(point.path))
    return tuple(dict.fromkeys(every))


def _speakers_off(snapshot: JobSnapshot, visit: Visit) -> Need | None:
    """That the speakers are off on this visit: what was said on another day says nothing now."""
    said = (one for one in standing(snapshot.marks, CHECK_KEY) if one.item == STILL_OFF)
    if any(one.arrival > visit.arrival for one in said):
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
                along=next((one.path for one in check.order if one.path), None),
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
            reading=max(check.read.values(), key=lambda one: one.arrival, default=None),
            checked=Checked(
                moved=tuple(Moved(words=one.words, step=one.change.step) for one in check.found),
                missed=len(check.missed),
                not_shown=tuple(one.name for one in check.selected.unseen(check.taken or check.order[:FIRST])),
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
    for one in check.missed:
        now = check.read[one.key]
        by = Spoiled(
            place="check",
            label=f"Check: {one.name}",
            was=format_value(one.expected_v, "V"),
            now=format_value(now.value, "V"),
            remedy="Put back what moved and read the check again, or set this again.",
        )
        for step in dict.fromkeys((one.step, *((alone,) if alone else ()))):
            yield Contradicted(step=step, by=by, arrival=now.arrival)


def _sentence(check: _Check, open_rows: list[Row]) -> str:
    if not check.points:
        return "Nothing was measured before that could be read again."
    if not check.read:
        return "Nothing read yet on this visit."
    left = f" Still to read: {', '.join(one.name for one in open_rows)}." if open_rows else ""
    count = len(check.read)
    if not check.missed:
        told = f"{count} of {count} as before." if open_rows else f"Nothing that these {count} readings show has moved."
        return told + left
    by = check.missed[0]
    off_db = ratio_db(check.read[by.key].value, by.expected_v)
    way = "less" if off_db < 0 else "more"
    lead = f"{by.name} reads {abs(off_db):.1f} dB {way}"
    return f"{lead} than before{_explained(check.found)}{left}"


def _explained(found: Sequence[Explanation]) -> str:
    """The end of a sentence: the changes that explain what was read, the one that fits best first."""
    if not found:
        return ". No single change explains every reading: check level by level from the source."
    words = [one.words for one in found[:_NAMED]]
    if len(found) > _NAMED:
        words.append(f"{len(found) - _NAMED} more")
    return f": {words[0]}." if len(words) == 1 else f". One of these explains it: {'; '.join(words)}."
