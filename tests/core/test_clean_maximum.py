"""Volume steps of a person who marks what they see."""

import pytest

from tests.core.helpers import mark, reading, steps_of
from upper_rook.core.run.clean_maxima.volume_step_state import volume_step_state
from upper_rook.core.run.readings.records import Eye, Mark, Reading
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.signal.clipped_sine import rms_above_db
from upper_rook.core.system.chain import line_output_pair
from upper_rook.core.system.clean_maxima import CleanMaxima
from upper_rook.core.system.clean_maximum import Basis, fallback_volume
from upper_rook.core.system.job_sheet import JobSheet

STEP = steps_of(JobSheet(chain=line_output_pair()))["ceiling.source.line"]


def volume_reading(volume: int, volts: float, seen: Eye = Eye.CLEAN) -> Reading:
    return reading(STEP, volume, volts, seen)


def test_the_last_clean_number_below_the_first_clipped_one_stands() -> None:
    volume_steps = volume_step_state(
        [volume_reading(20, 0.5), volume_reading(31, 3.5), volume_reading(32, 3.9, Eye.CLIPPED)], 40
    )
    assert volume_steps.last_clean is not None
    assert (volume_steps.last_clean.volume, volume_steps.first_clipped) == (31, 32)
    assert volume_steps.next_step == "31 is the clean maximum. Save it."


def test_skipped_numbers_are_asked_for() -> None:
    assert "try 29" in volume_step_state([volume_reading(28, 2.5), volume_reading(32, 3.9, Eye.CLIPPED)], 40).next_step


def test_clean_above_clipped_is_asked_about_and_not_counted() -> None:
    volume_steps = volume_step_state(
        [volume_reading(28, 2.5), volume_reading(30, 3.1, Eye.CLIPPED), volume_reading(33, 4.0)], 40
    )
    assert volume_steps.last_clean is not None
    assert volume_steps.last_clean.volume == 28
    assert "33 is marked clean but 30" in volume_steps.questions[0]


def test_a_lower_voltage_at_a_higher_number_is_asked_about_and_kept() -> None:
    volume_steps = volume_step_state([volume_reading(20, 1.0), volume_reading(21, 0.4)], 40)
    assert "0.4 V at 21 is less than 1 V at 20" in volume_steps.questions[0]
    assert volume_steps.last_clean is not None
    assert volume_steps.last_clean.volume == 21


def test_a_second_look_at_a_number_replaces_the_first() -> None:
    volume_steps = volume_step_state([volume_reading(30, 3.0, Eye.CLIPPED), volume_reading(30, 3.0)], 40)
    assert volume_steps.first_clipped is None


def test_clipping_from_the_first_number_sends_one_down() -> None:
    assert "go down" in volume_step_state([volume_reading(20, 1.0, Eye.CLIPPED)], 40).next_step


def test_clean_to_the_top() -> None:
    assert volume_step_state([volume_reading(40, 4.0)], 40).next_step == "Clean to the top of the scale. Save 40."


def test_three_quarters_rounded_down() -> None:
    # Worked value of the trade (common practice, no source): 38 → 28.
    assert fallback_volume(38) == 28


def test_the_guess_needs_its_own_reading_and_says_that_it_is_one() -> None:
    blind = [volume_reading(20, 1.0, Eye.UNSEEN)]
    assert volume_step_state(blind, 40).fallback is None
    assert "a guess" in volume_step_state(blind, 40).next_step
    found = volume_step_state([*blind, volume_reading(30, 2.9, Eye.UNSEEN)], 40)
    assert found.fallback is not None
    assert (found.fallback.volume, found.fallback.basis) == (30, Basis.GUESS)


def test_taking_needs_a_reading_that_still_stands() -> None:
    sheet = JobSheet(chain=line_output_pair())

    def taken(*marks: Mark) -> CleanMaxima:
        return JobSnapshot(sheet=sheet, readings=(volume_reading(30, 3.0),), marks=marks).clean_maxima

    assert taken(mark(STEP.key, basis="marked", volume=31)).governing("source") is None
    assert taken().governing("source") is None
    found = taken(mark(STEP.key, basis="marked", volume=30)).governing("source")
    assert found is not None
    assert found.clean_maximum.voltage_v == 3.0


def test_where_to_turn_next_is_told_for_every_number() -> None:
    volume_steps = volume_step_state([volume_reading(20, 0.5), volume_reading(31, 3.5)], 40)
    assert volume_steps.next_volume == 32
    assert (volume_steps.next_after.clean[31], volume_steps.next_after.clean[40]) == (32, 40)
    # Down to what was not read yet, else it stays.
    assert (volume_steps.next_after.clipped[33], volume_steps.next_after.clipped[32]) == (32, 32)
    assert volume_step_state([volume_reading(31, 3.5), volume_reading(33, 4.0, Eye.CLIPPED)], 40).next_volume == 31
    assert volume_step_state([volume_reading(33, 4.0, Eye.CLIPPED)], 40).next_volume == 32
    assert volume_step_state([volume_reading(40, 4.0)], 40).next_volume == 40


def test_nothing_read_yet() -> None:
    assert "Set the volume to 20" in volume_step_state([], 40).next_step


# 1 dB a number, clipping from 27.4 on (closed form), as nobody saw it.
DRIVE = {number: number - 27.4 for number in range(18, 32)}
VOLTS = {
    number: 3.0 * 10 ** ((float(rms_above_db(drive)) if drive > 0 else drive) / 20) for number, drive in DRIVE.items()
}


def unseen(*numbers: int) -> list[Reading]:
    return [volume_reading(number, round(VOLTS[number], 3), Eye.UNSEEN) for number in numbers]


def test_volts_alone_give_the_number_and_its_reading() -> None:
    volume_steps = volume_step_state(unseen(*VOLTS), 40)
    assert volume_steps.last_clean is None
    assert volume_steps.by_volts is not None
    assert (volume_steps.by_volts.volume, volume_steps.by_volts.basis) == (27, Basis.JUDGED)
    assert volume_steps.by_volts.voltage_v == round(VOLTS[27], 3)
    assert volume_steps.next_step == "By the volts alone the clean maximum is 27."


def test_a_wrong_digit_at_the_clean_number_is_asked_for_and_never_taken() -> None:
    right = round(VOLTS[27], 3)
    made = [
        volume_reading(number, 0.6 * right if number == 27 else round(volts, 3), Eye.UNSEEN)
        for number, volts in VOLTS.items()
    ]
    volume_steps = volume_step_state(made, 40)
    assert volume_steps.judged is not None
    assert volume_steps.judged.report.odd is not None
    assert volume_steps.judged.report.odd.expected_v == pytest.approx(right, rel=0.03)
    assert volume_steps.questions[0].endswith("read 27 again. It isn’t counted.")
    assert volume_steps.by_volts is None
    assert Basis.JUDGED not in [offer.basis for offer in volume_steps.offers]
    again = volume_step_state([*made, volume_reading(27, right, Eye.UNSEEN)], 40)
    assert again.by_volts is not None
    assert again.by_volts.voltage_v == right


def test_a_number_that_was_skipped_is_known_but_has_no_reading() -> None:
    volume_steps = volume_step_state(unseen(*(number for number in VOLTS if number != 27)), 40)
    assert volume_steps.judged is not None
    assert volume_steps.judged.report.clean_volume in (26, 27)
    if volume_steps.judged.report.clean_volume == 27:
        assert volume_steps.by_volts is None


def test_volts_that_go_on_ask_for_more_and_few_ones_wait() -> None:
    assert "Go on to 27 and 28" in volume_step_state(unseen(*range(18, 27)), 40).next_step
    assert "until the volts show where it clips" in volume_step_state(unseen(18, 19), 40).next_step
    assert "can’t tell yet" in volume_step_state(unseen(18, 19, 20), 40).next_step


def test_an_eye_that_sees_clean_where_the_volts_fall_short_is_asked() -> None:
    seen = [volume_reading(number, round(volts, 3)) for number, volts in VOLTS.items()]
    volume_steps = volume_step_state(seen, 40)
    assert volume_steps.last_clean is not None
    assert volume_steps.last_clean.volume == 31
    assert "31 is marked clean, but the volts fall short from 28 on" in volume_steps.questions[0]


def test_an_eye_that_sees_clipping_where_the_volts_go_on_is_asked() -> None:
    seen = [
        volume_reading(number, round(volts, 3), Eye.CLIPPED if number > 22 else Eye.CLEAN)
        for number, volts in VOLTS.items()
    ]
    assert "23 is marked clipped, but the volts rise evenly to 27" in volume_step_state(seen, 40).questions[0]
