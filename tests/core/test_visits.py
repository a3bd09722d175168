"""A vehicle that came back: which readings a check takes again, and what it makes of them."""

from functools import lru_cache

import numpy as np
import pytest
from scipy import signal

from upper_rook.core.run.readings.points import TerminalsPoint
from upper_rook.core.run.readings.records import Answer
from upper_rook.core.run.result.chapters import Chapter, chapters
from upper_rook.core.run.result.result import result
from upper_rook.core.run.steps.step import Row, State, Step, StepState
from upper_rook.core.run.visits.chapters import BACK, CHECK_KEY
from upper_rook.core.run.visits.check_point import CheckPoint
from upper_rook.core.run.visits.possible_changes import possible_changes
from upper_rook.core.run.visits.selection import FIRST
from upper_rook.core.signal.filters import Pass, Shape
from upper_rook.core.system.choices import Choices, Meter
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.layouts import template
from upper_rook.instruments.auto_operator import AutoOperator
from upper_rook.instruments.visit_hunt import Moved, Visitor, hunt_on_visit


@lru_cache
def done(layout: str = "front-sub") -> AutoOperator:
    """A person who has finished the run of a layout."""
    operator = AutoOperator(JobSheet(vehicle="Test van", chain=template(layout).chain), 3, scope=True)
    operator.work()
    return operator


def check_of(visitor: Visitor) -> tuple[Step, StepState]:
    run = visitor.run()
    return next((step, state) for step, state in zip(run.steps, run.states, strict=True) if step.key == CHECK_KEY)


def chapters_of(operator: AutoOperator) -> tuple[Chapter, ...]:
    snapshot, run = operator.snapshot(), operator.run()
    return chapters(snapshot, run, result(snapshot, run))


def back(layout: str = "front-sub") -> Visitor:
    """The vehicle back, nothing read yet."""
    visitor = Visitor(done(layout))
    visitor.keep_mark(CHECK_KEY, item=BACK, answer=Answer.DONE, note="quieter than before")
    return visitor


def read(visitor: Visitor, volts: dict[str, float], volume: int | None = None, meter: str = "simulated") -> StepState:
    """Types volts at rows of the check, by their names."""
    for name, value in volts.items():
        step, _ = check_of(visitor)
        row = next(row for row in step.rows if row.name == name)
        visitor.type_again(step, row, value, volume, meter)
    return check_of(visitor)[1]


def first(visitor: Visitor) -> list[Row]:
    return [row for row in check_of(visitor)[0].rows if not row.optional]


def wanted(rows: list[Row]) -> dict[str, float]:
    return {row.name: row.target.value for row in rows if row.target}


def test_without_a_visit_there_is_no_check_and_a_run_ends_where_it_did() -> None:
    run = done().run()
    assert CHECK_KEY not in [step.key for step in run.steps]
    assert run.current == run.steps[-1].key


def test_a_visit_asks_for_four_readings_at_most_and_says_what_they_leave_unseen() -> None:
    visitor = back()
    step, state = check_of(visitor)
    required = first(visitor)
    assert 2 <= len(required) <= FIRST
    assert step.needs[0].item == "speakers-off"
    assert state.state is State.OPEN
    # Three knobs and a source can't all be looked at by few readings, treble above the sub neither.
    assert state.checked
    assert all(state.checked.not_shown)
    # A finished run is still finished: a check is nobody's duty.
    assert visitor.run().complete
    assert visitor.run().current == CHECK_KEY


def test_as_before_is_said_and_nothing_is_to_redo() -> None:
    visitor = back()
    state = read(visitor, wanted(first(visitor)))
    assert state.state is State.DONE
    assert state.checked
    assert not state.checked.moved
    assert not state.checked.missed
    assert "Nothing that these" in state.sentence
    assert visitor.run().complete


def test_all_levels_lower_is_the_source_and_what_was_read_is_to_redo_until_it_is_as_before() -> None:
    visitor = back()
    rows = first(visitor)
    low = {name: value / 2 for name, value in wanted(rows).items()}
    state = read(visitor, low)
    assert state.checked
    assert "source’s level" in state.checked.moved[0].words
    assert "6.0 dB less" in state.checked.moved[0].words
    assert state.checked.missed == len(rows)
    redo = {redo.step for redo in visitor.run().redo}
    assert redo
    assert not visitor.run().complete
    assert all(contradicted.by.now for contradicted in state.checked.contradicts)
    # Put back and read again, it all holds as it did.
    state = read(visitor, {row.name: row.target.value for row in check_of(visitor)[0].rows if row.target})
    assert not state.checked or not state.checked.missed
    assert visitor.run().complete


@pytest.mark.parametrize("by_db", [-1.0, -3.3, -10.5])
def test_a_gain_that_was_turned_down_is_named_with_its_decibels(by_db: float) -> None:
    visitor = back("front")
    rows = first(visitor)
    source = [row.name for row in rows if row.point.kind == "output"]
    volts = {name: value * (1 if name in source else 10 ** (by_db / 20)) for name, value in wanted(rows).items()}
    state = read(visitor, volts)
    assert state.checked
    gains = [moved for moved in state.checked.moved if moved.words.startswith("gain of ")]
    assert len(gains) == 1
    told = float(gains[0].words.split()[-3].replace(",", "."))
    assert told == pytest.approx(-by_db, abs=0.3)


def test_a_reading_at_another_volume_tells_nothing_and_says_so() -> None:
    visitor = back()
    row = first(visitor)[0]
    assert row.wants.volume
    state = read(visitor, {row.name: 1.0}, volume=row.wants.volume - 3)
    assert state.checked
    assert not state.checked.missed
    mine = next(row_state for row_state in state.rows if row_state.row == row.key)
    assert f"Set the volume to {row.wants.volume}" in mine.otherwise


def test_a_meter_that_promises_less_than_the_first_one_raises_no_alarm() -> None:
    visitor = back()
    row = first(visitor)[0]
    assert row.target
    low = {row.name: 0.94 * row.target.value}
    assert read(visitor, low).checked.missed == 1  # type: ignore[union-attr]
    visitor = back()
    # Old or doubtful: 5 % and five digits (its profile).
    state = read(visitor, low, meter="doubtful")
    assert state.checked
    assert not state.checked.missed


def test_where_nothing_was_measured_a_visit_says_so_and_waits_for_nothing() -> None:
    sheet = JobSheet(vehicle="Test van", chain=template("front").chain, choices=Choices(meter=Meter.EAR))
    heard = AutoOperator(sheet, 1, scope=False)
    heard.work()
    visitor = Visitor(heard)
    visitor.keep_mark(CHECK_KEY, item=BACK, answer=Answer.DONE)
    step, state = check_of(visitor)
    assert not step.rows
    assert "Nothing was measured" in state.sentence
    assert visitor.run().current != CHECK_KEY


def test_a_first_reading_that_differs_is_explained_once_the_others_are_there() -> None:
    visitor = back()
    row, *others = first(visitor)
    assert row.target
    state = read(visitor, {row.name: 0.8 * row.target.value})
    assert state.checked
    assert (state.checked.missed, state.checked.moved) == (1, ())
    assert f"{row.name} reads 1.9 dB less than before. Still to read: " in state.sentence
    assert all(other.name in state.sentence for other in others)


def test_a_second_visit_begins_anew() -> None:
    visitor = back()
    read(visitor, {name: value / 2 for name, value in wanted(first(visitor)).items()})
    visitor.keep_mark(CHECK_KEY, item=BACK, answer=Answer.DONE)
    _, state = check_of(visitor)
    assert not any(row.reading for row in state.rows)
    found = chapters_of(visitor)
    assert [chapter.number for chapter in found] == [0, 1, 2]
    assert found[1].note == "quieter than before"
    assert any(output.outdated for output in found[1].outputs)
    assert not any(output.outdated for output in found[0].outputs)
    assert {output.name: output.voltage_v for output in found[0].outputs} == {
        output.name: output.voltage_v for output in chapters_of(done())[0].outputs
    }


@pytest.mark.parametrize(
    ("moved", "layout"),
    [
        (Moved.NOTHING, "front-sub"),
        (Moved.GAIN, "front-sub"),
        (Moved.FILTER, "front-sub"),
        (Moved.LOUDNESS, "front"),
        (Moved.PLAYER, "front"),
        (Moved.TRIM, "converter"),
    ],
)
def test_what_moved_on_the_bench_is_noticed_by_four_readings_and_named(moved: Moved, layout: str) -> None:
    found = hunt_on_visit(done(layout), moved, 1)
    assert found is not None
    assert found.noticed is (moved is not Moved.NOTHING), found
    assert found.first <= FIRST
    assert moved is Moved.NOTHING or found.named, found


def _points(operator: AutoOperator) -> list[CheckPoint]:
    """The proofs of a run as points that can be read again."""
    path_of = {path.id: path for path in operator.sheet.chain.paths}
    return [
        CheckPoint(
            key=str(reading.id),
            name="",
            reading=reading,
            step=reading.step,
            probe="",
            source=path_of[reading.point.path].source,
            output=path_of[reading.point.path].output,
            path=reading.point.path,
        )
        for reading in operator.readings
        if reading.step.startswith("prove.") and isinstance(reading.point, TerminalsPoint)
    ]


@pytest.mark.parametrize("octaves", [-1 / 3, 1 / 3])
def test_a_turned_filter_shows_as_scipys_does(octaves: float) -> None:
    """The effect that readings are chosen and explained by, against scipy.signal's Butterworth."""
    points = tuple(_points(done()))
    compared = 0
    for change in possible_changes(done().sheet.chain, points):
        if not change.key.startswith("filter."):
            continue
        path_id, place = change.key.split(".")[1:]
        crossover = done().path(path_id).filters[int(place)].crossover
        assert crossover.shape is Shape.BUTTERWORTH
        assert crossover.depth_db is None
        for point in (each for each in points if each.path == path_id):
            levels = []
            for corner in (crossover.corner_hz, crossover.corner_hz * 2**octaves):
                kind = "lowpass" if crossover.kind is Pass.LOW else "highpass"
                b, a = signal.butter(crossover.order, 2 * np.pi * corner, kind, analog=True)
                _, response = signal.freqs(b, a, [2 * np.pi * point.hertz])
                levels.append(20 * np.log10(np.abs(response[0])))
            found = change.effects(point, np.array([octaves]))[0]
            assert found == pytest.approx(levels[1] - levels[0], abs=0.01)
            compared += 1
    assert compared > 5
