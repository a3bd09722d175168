"""Readings that are taken again, or with another tone: what they settle, and what they leave as it was."""

import pytest

from tests.core.helpers import LAYOUTS, answers, gain_step, mark, reading, row_reading, state_of, steps_of, with_parts
from upper_rook.core.run.readings.records import Evidence, Eye, Mark, Reading
from upper_rook.core.run.result.progress import progress, run_of
from upper_rook.core.run.result.result import result
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.step import State, StepState
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.job_sheet import JobSheet

SHEET = JobSheet(chain=LAYOUTS["front"])
KEY = "ceiling.source.line"
STEP = steps_of(SHEET)[KEY]
BASS, SOFT = Tone(frequency_hz=40), Tone(frequency_hz=1000, level_dbfs=-5)


def climbed() -> list[Reading]:
    """Clean to 30, clipped at 31."""
    seen = {29: (3.55, Eye.CLEAN), 30: (4.0, Eye.CLEAN), 31: (4.4, Eye.CLIPPED)}
    return [reading(STEP, number, volts, eye, evidence=Evidence.EYE) for number, (volts, eye) in seen.items()]


def steps_now(readings: list[Reading], marks: tuple[Mark, ...] = ()) -> StepState:
    return state_of(progress(SHEET, tuple(readings), (*answers(SHEET), *marks)), KEY)


def test_volts_read_again_without_a_look_leave_what_was_seen() -> None:
    taken, readings = mark(KEY, basis="marked", volume=30), climbed()
    assert steps_now(readings, (taken,)).state is State.DONE
    readings.append(reading(STEP, 30, 4.02))
    found = steps_now(readings, (taken,))
    assert found.state is State.DONE
    assert found.volume_steps is not None
    # The newest volts, and the verdict as it was.
    assert (found.volume_steps.last_clean.volume, found.volume_steps.last_clean.voltage_v) == (30, 4.02)
    assert found.volume_steps.questions == ()


def test_a_verdict_without_new_volts_is_the_newest_and_a_second_look_that_contradicts_asks() -> None:
    readings = climbed()
    readings.append(reading(STEP, 30, 4.0, Eye.CLIPPED, evidence=Evidence.EYE))
    found = steps_now(readings).volume_steps
    assert found is not None
    assert (found.last_clean.volume, found.first_clipped) == (29, 30)
    assert any("At 30 the eye said clean before and clipped now" in question for question in found.questions)
    # A third look that agrees with the second leaves nothing to ask.
    readings.append(reading(STEP, 30, 4.0, Eye.CLIPPED, evidence=Evidence.EYE))
    again = steps_now(readings).volume_steps
    assert again is not None
    assert not any("before and" in question for question in again.questions)


@pytest.mark.parametrize(("tone", "told"), [(BASS, "read with 40 Hz sine"), (SOFT, "read with 1 kHz sine at −5 dBFS")])
def test_a_reading_with_another_tone_is_not_mixed_into_the_volume_steps(tone: Tone, told: str) -> None:
    taken, readings = mark(KEY, basis="marked", volume=30), climbed()
    before = steps_now(readings, (taken,))
    stray = reading(STEP, 30, 1.2, Eye.CLIPPED, tone=tone)
    found = steps_now([*readings, stray], (taken,))
    assert (found.state, found.sentence) == (before.state, before.sentence)
    assert found.volume_steps is not None
    assert before.volume_steps is not None
    assert found.volume_steps.last_clean == before.volume_steps.last_clean
    assert found.volume_steps.judged == before.volume_steps.judged
    (question,) = found.volume_steps.questions
    assert told in question
    assert "1.2 V at 30 doesn’t count here" in question
    # A meter's 1,002 Hz is the same tone.
    near = reading(STEP, 29, 3.55, Eye.CLEAN, tone=Tone(frequency_hz=1002))
    assert steps_now([*readings, near], (taken,)).volume_steps.questions == ()


@pytest.mark.parametrize(("tone", "told"), [(BASS, "read with 40 Hz sine"), (SOFT, "read with 1 kHz sine at −5 dBFS")])
def test_a_gain_read_with_another_tone_or_level_is_not_done(tone: Tone, told: str) -> None:
    readings, marks = tuple(climbed()), (*answers(SHEET), mark(KEY, basis="marked", volume=30))
    gain = gain_step(SHEET, readings, marks)
    volts = gain.target.value
    right = state_of(progress(SHEET, (*readings, reading(gain, 30, volts)), marks), "gain.front")
    wrong = state_of(progress(SHEET, (*readings, reading(gain, 30, volts, tone=tone)), marks), "gain.front")
    assert (right.state, wrong.state) == (State.DONE, State.OPEN)
    assert told in wrong.sentence
    assert "Play 1 kHz sine at 0 dBFS and read again" in wrong.sentence


@pytest.mark.parametrize(
    ("method", "watts", "state"), [("soft_clip", 100, "done"), ("soft_clip", 40, "open"), ("ratings", 100, "open")]
)
def test_slight_clipping_that_was_chosen_is_done_and_stands_on_the_sheet(method: str, watts: float, state: str) -> None:
    # An amplifier of 75 W: behind it speakers of 40 W set the target, and those of 100 W don't.
    sheet = with_parts(SHEET, load={"power_w": watts}, choices={"gain": method})
    readings, marks = tuple(climbed()), (*answers(sheet), mark(KEY, basis="marked", volume=30))
    gain = gain_step(sheet, readings, marks)
    readings = (*readings, reading(gain, 30, gain.target.value, Eye.CLIPPED, evidence=Evidence.LAMP))
    snapshot = JobSnapshot(sheet, readings, marks, lambda _version: sheet)
    run = run_of(snapshot)
    found = state_of(run, "gain.front")
    assert found.state == state
    row = result(snapshot, run).outputs[0]
    assert ("slightly clipped, by choice" in found.sentence) is (state == "done")
    assert ("slightly clipped, by choice" in row.remark) is (state == "done")
    # Far above what 1 % of distortion means it is clipped as ever.
    over = reading(gain, 30, 1.1 * gain.target.value, Eye.CLIPPED)
    assert state_of(progress(sheet, (*readings, over), marks), "gain.front").state is State.OPEN


def test_a_row_read_with_another_level_stays_open_until_it_is_read_rightly() -> None:
    sheet = with_parts(SHEET, choices={"tone_level_dbfs": -5})
    readings, marks = tuple(climbed()), (*answers(sheet), mark(KEY, basis="marked", volume=30))
    gain = gain_step(sheet, readings, marks)
    readings = (*readings, reading(gain, 30, gain.target.value))
    proof = next(step for step in progress(sheet, readings, marks).steps if step.key == "prove.front")
    row = next(row for row in proof.rows if not row.optional)
    read = [row_reading(proof, row.key, row.target.value) for row in proof.rows if row.target]
    assert state_of(progress(sheet, (*readings, *read), marks), "prove.front").state is State.DONE
    loud = read[0].model_copy(
        update={"circumstances": read[0].circumstances.model_copy(update={"tone": Tone(frequency_hz=1000)})}
    )
    found = state_of(progress(sheet, (*readings, loud, *read[1:]), marks), "prove.front")
    assert found.state is State.OPEN
    assert f"{row.name}: read with 1 kHz sine at 0 dBFS. Play {row.wants.tone.label} and read again." in found.sentence


def test_a_lower_number_taken_on_purpose_is_done_and_says_so() -> None:
    readings = [reading(STEP, 29, 3.55, Eye.CLEAN), *climbed()[1:]]
    offers = steps_now(readings).volume_steps.offers
    assert [(offer.volume, offer.note) for offer in offers] == [(30, ""), (29, "on the safe side")]
    safer = mark(KEY, basis="marked", volume=29, note="on the safe side")
    found = steps_now(readings, (safer,))
    assert (found.state, found.sentence) == (State.DONE, "29 gives 3.55 V, lower on purpose: 30 was clean too.")
    snapshot = JobSnapshot(SHEET, tuple(readings), (*answers(SHEET), safer))
    assert any(
        "29 on purpose (on the safe side); 30 was clean too" in line for line in result(snapshot, run_of(snapshot)).left
    )
    # Not on purpose where the higher one was read only afterwards.
    low, *above = readings
    early = mark(KEY, basis="marked", volume=29)
    later = [reading.model_copy(update={"arrival": early.arrival + 1 + number}) for number, reading in enumerate(above)]
    assert steps_now([low, *later], (early,)).state is State.OUTDATED


def test_two_typed_readings_of_one_number_that_differ_ask_which_is_right() -> None:
    readings = [*climbed(), reading(STEP, 30, 1.2)]
    (question, *_) = steps_now(readings).volume_steps.questions
    assert question.startswith("1.2 V at 30 is less than 3.55 V at 29")
    assert any(
        "At 30 the meter showed 4 V before and 1.2 V now" in question
        for question in steps_now(readings).volume_steps.questions
    )
    # A third that agrees with the second settles it, and what lies within both doubts asks nothing.
    for agreeing in ([*readings, reading(STEP, 30, 1.21)], [*climbed(), reading(STEP, 30, 4.03)]):
        assert not any("the meter showed" in question for question in steps_now(agreeing).volume_steps.questions)
