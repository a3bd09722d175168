"""By ear as a whole method: verdicts without volts for source and gains, with the doubt that ears have."""

import pytest

from tests.core.helpers import LAYOUTS, answers, mark, reading, state_of, steps_of, with_parts
from upper_rook.core.common import cautions
from upper_rook.core.common.units import from_db
from upper_rook.core.run.readings.records import Evidence, Eye, Mark, Quantity, Reading
from upper_rook.core.run.result.progress import Run, run_of
from upper_rook.core.run.result.result import result
from upper_rook.core.run.result.source_unit import sheet_of_source
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.step import State, Step
from upper_rook.core.system.job_sheet import JobSheet, Subject

SHEET = with_parts(JobSheet(chain=LAYOUTS["front"]), choices={"meter": "ear"})
KEY = "ceiling.source.line"


def heard(step: Step, number: int, seen: Eye, **more: object) -> Reading:
    one = reading(step, number, 0.0, seen, quantity=Quantity.VERDICT, evidence=Evidence.EAR, **more)
    return one.model_copy(update={"uncertainty": None})


def climbed() -> tuple[list[Reading], list[Mark]]:
    step = steps_of(SHEET)[KEY]
    said = ((28, Eye.CLEAN), (29, Eye.CLEAN), (30, Eye.CLIPPED))
    return [heard(step, number, seen) for number, seen in said], [
        *answers(SHEET),
        mark(KEY, basis="marked", volume=29),
    ]


def now(readings: list[Reading], marks: list[Mark], sheet: JobSheet = SHEET) -> tuple[JobSnapshot, Run]:
    snapshot = JobSnapshot(sheet, tuple(readings), tuple(marks), lambda _version: sheet)
    return snapshot, run_of(snapshot)


def gain_of(run: Run) -> Step:
    return next(step for step in run.steps if step.key == "gain.front")


def test_a_source_that_was_only_heard_gives_its_rated_volts_within_the_doubt_of_ears() -> None:
    readings, marks = climbed()
    snapshot, run = now(readings, marks)
    (taken,) = snapshot.clean_maxima
    rated = SHEET.chain.sources[0].outputs[0].rated.v
    assert rated
    assert (taken.clean_maximum.volume, taken.clean_maximum.voltage_v) == (29, rated)
    # 2 dB (common practice, no source).
    assert taken.clean_maximum.uncertainty_v == pytest.approx(rated * (from_db(2) - 1))
    state = state_of(run, KEY)
    assert state.state is State.DONE
    assert state.sentence.startswith("29 by ear, 4 V by its rating")
    # Nothing is judged from volts that nobody read.
    assert state.volume_steps
    assert state.volume_steps.judged is None
    assert state.volume_steps.questions == ()


def test_without_a_rating_ears_alone_say_what_is_missing() -> None:
    output = SHEET.chain.sources[0].outputs[0].model_dump(mode="json") | {"rated": {}}
    sheet = with_parts(SHEET, source={"outputs": [output]})
    readings, marks = climbed()
    _, run = now(readings, marks, sheet)
    state = state_of(run, KEY)
    assert state.state is not State.DONE
    assert state.volume_steps
    assert "Ears give no volts" in state.volume_steps.questions[0]


def test_gains_are_heard_and_the_run_is_complete_and_says_so() -> None:
    readings, marks = climbed()
    gain = gain_of(now(readings, marks)[1])
    assert gain.by_ear
    assert gain.beside == ()
    harsh = heard(gain, 29, Eye.CLIPPED, builds_on=gain.builds_on)
    _, run = now([*readings, harsh], marks)
    assert (state_of(run, gain.key).state, state_of(run, gain.key).sentence[:5]) == (State.OPEN, "Harsh")
    clean = heard(gain, 29, Eye.CLEAN, builds_on=gain.builds_on)
    snapshot, run = now([*readings, harsh, clean], marks)
    assert state_of(run, gain.key).state is State.DONE
    sheet = result(snapshot, run)
    assert sheet.complete
    (front, *_) = sheet.outputs
    assert (front.voltage_v, front.power_w, front.remark) == (None, None, "Clean by ear, no volts read")
    assert sum("hears clipping late" in text for text in sheet.guessed) == 2
    (top,) = sheet.top_volumes
    assert top.sentence.startswith("Never pass 29: the clean maximum by ear, which hears clipping late")
    assert (top.voltage_v, top.uncertainty_v) == (None, None)
    # The shop's library learns the number, and no volts that nobody read.
    (cell,) = sheet_of_source(snapshot, "source", "own", "Own").units[0].cells
    assert (cell.clean, cell.clean_v, cell.volume_readings) == (29, None, ())
    # Seen by eye the same numbers are surer.
    by_ear = sheet.top_volumes[0].sureness
    assert by_ear
    assert by_ear.percent < 90


def test_a_gain_heard_at_another_number_settles_nothing() -> None:
    readings, marks = climbed()
    gain = gain_of(now(readings, marks)[1])
    _, run = now([*readings, heard(gain, 20, Eye.CLEAN, builds_on=gain.builds_on)], marks)
    assert state_of(run, gain.key).state is State.OPEN
    assert "read at volume 20" in state_of(run, gain.key).sentence


def test_one_speaker_is_on_and_stays_quiet() -> None:
    steps = steps_of(SHEET)
    first = next(item for item in steps["safe"].items if item.key == "speakers-off")
    assert "every speaker but the one to listen with" in first.text
    gate = steps[KEY].needs[0]
    assert gate.sentence.startswith("Disconnect every speaker but the one to listen with first")
    assert gate.answer == "Only that one is on"
    for key in ("safe", KEY, "gain.front"):
        assert cautions.QUIET_LISTENING in steps[key].cautions
        assert cautions.SPEAKERS_OFF not in steps[key].cautions
    # Nothing that only a meter answers holds the run up.
    assert all(steps[key].optional for key in ("match.front", "prove.front", "supply"))


def test_on_a_bench_it_is_a_speaker_and_no_meter_that_is_connected() -> None:
    sheet = SHEET.model_copy(update={"subject": Subject.SOURCE})
    bare = next(item for item in steps_of(sheet)["safe"].items if item.key == "bare")
    assert bare.text == "Only one amplifier with one speaker to listen with is connected to its outputs"
