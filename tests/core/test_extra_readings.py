"""What is noted beside a gain, what a proof reopens, trims, knob positions, and recordings that answer a step."""

import numpy as np
import pytest
from scipy.signal import butter, sosfilt

from tests.core.helpers import LAYOUTS, answers, mark, reading, row_reading, state_of, steps_of, with_parts
from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import from_db
from upper_rook.core.judge.examination import Examination, examine_wave
from upper_rook.core.run.readings.records import Answer, Eye, Mark, Outcome, Quantity, Reading
from upper_rook.core.run.result.progress import Run, progress, run_of
from upper_rook.core.run.result.result import result
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.readings_from_capture import readings_from_capture
from upper_rook.core.run.steps.step import State, Step
from upper_rook.core.signal.swept_tone import swept_sine
from upper_rook.core.signal.trace import Trace
from upper_rook.core.system.chain import line_output_pair
from upper_rook.core.system.job_sheet import JobSheet

SHEET = JobSheet(chain=line_output_pair())
KEY = "ceiling.source.line"


def step_of(run: Run, key: str) -> Step:
    return next(step for step in run.steps if step.key == key)


def climbed(sheet: JobSheet = SHEET) -> tuple[list[Reading], list[Mark]]:
    step = steps_of(sheet)[KEY]
    return [reading(step, 31, 3.8, Eye.CLEAN)], [*answers(sheet), mark(KEY, basis="marked", volume=31)]


def gained(volts: float, sheet: JobSheet = SHEET, **more: object) -> tuple[list[Reading], list[Mark], Step]:
    readings, marks = climbed(sheet)
    gain = step_of(progress(sheet, tuple(readings), tuple(marks)), "gain.front")
    return [*readings, reading(gain, 31, volts, builds_on=gain.builds_on, **more)], marks, gain


def beside(gain: Step, key: str, value: float) -> Reading:
    return row_reading(gain.model_copy(update={"rows": gain.beside}), key, value, builds_on=gain.builds_on)


@pytest.mark.parametrize(
    ("half", "state", "told"),
    [
        (7.7, State.DONE, ""),
        # Driven 1 dB past its rails a sine's RMS grows by half of that only.
        (8.3, State.OPEN, "at full level it clips"),
        (6.0, State.DONE, "Another track"),
    ],
)
def test_half_of_the_tone_tells_clipping_to_a_meter(half: float, state: State, told: str) -> None:
    readings, marks, gain = gained(15.4)
    lower = beside(gain, "half", half)
    run = progress(SHEET, (*readings, lower), tuple(marks))
    found = state_of(run, "gain.front")
    assert found.state is state
    assert any(told in meaning for meaning in found.meanings) is bool(told)
    assert found.half is not None
    # Read before the volts were taken again it says nothing of them.
    again = reading(gain, 31, 15.3, builds_on=gain.builds_on)
    fresh = state_of(progress(SHEET, (*readings, lower, again), tuple(marks)), "gain.front")
    assert fresh.state is State.DONE
    assert fresh.half is None


@pytest.mark.parametrize(("clips", "down_v"), [(19.0, None), (16.2, 14.86), (15.6, 14.31)])
def test_where_it_clips_at_open_terminals_tells_what_its_load_leaves(clips: float, down_v: float | None) -> None:
    readings, marks, gain = gained(15.4)
    readings.append(beside(gain, "clips", clips))
    found = state_of(progress(SHEET, tuple(readings), tuple(marks)), "gain.front")
    assert found.state is (State.OPEN if down_v else State.DONE)
    # 0.5 dB for the load of an amplifier with one rating and 0.25 dB for the eye (common practice, no source).
    assert found.turn_down_to_v == (pytest.approx(down_v, abs=0.01) if down_v else None)
    if down_v:
        assert f"Turn the gain down to {found.turn_down_to_v:.3g} V" in found.sentence
        down = reading(gain, 31, down_v, builds_on=gain.builds_on)
        done = state_of(progress(SHEET, (*readings, down), tuple(marks)), "gain.front")
        assert (done.state, done.outcome is None) == (State.DONE, down_v > 14.7)


@pytest.mark.parametrize(("clips", "down_v"), [(19.0, None), (15.6, None), (15.0, 14.57)])
def test_where_it_clips_with_resistors_is_taken_as_it_was_read(clips: float, down_v: float | None) -> None:
    readings, marks, gain = gained(15.4)
    row = next(row for row in gain.beside if row.key == "loaded")
    assert "4 Ω for 60 W and more" in row.note
    assert "hot enough to burn" in row.note
    # Open terminals would ask for less: what was seen with the load counts.
    readings += [beside(gain, "clips", 15.6), beside(gain, "loaded", clips)]
    found = state_of(progress(SHEET, tuple(readings), tuple(marks)), "gain.front")
    assert found.state is (State.OPEN if down_v else State.DONE)
    # 0.25 dB for the eye (common practice, no source).
    assert found.turn_down_to_v == (pytest.approx(down_v, abs=0.01) if down_v else None)
    assert ("with load resistors it clips below these volts" in found.sentence) is bool(down_v)


def test_a_gain_fully_down_that_clips_with_its_load_says_so() -> None:
    readings, marks, gain = gained(15.4)
    readings.append(beside(gain, "clips", 15.6))
    marks.append(mark("gain.front", outcome="at_stop"))
    found = state_of(progress(SHEET, tuple(readings), tuple(marks)), "gain.front")
    assert (found.state, found.outcome) == (State.DONE, Outcome.ABOVE_AT_LOWEST)
    assert "attenuate" in found.sentence


def test_only_an_amplifier_near_its_rails_is_asked_where_it_clips() -> None:
    def offered(watts: float) -> bool:
        sheet = with_parts(SHEET, load={"power_w": watts})
        return any(row.key == "clips" for row in gained(15.4, sheet)[2].beside)

    # 75 W rated: speakers of 60 W are 1 dB below that, of 20 W nearly 6.
    assert [offered(watts) for watts in (60, 20)] == [True, False]


def test_a_tone_that_was_not_lowered_tells_nothing_of_clipping() -> None:
    readings, marks, gain = gained(15.4)
    lower = beside(gain, "half", 15.4)
    same = lower.circumstances.model_copy(update={"tone": readings[-1].tone})
    told = lower.model_copy(update={"circumstances": same})
    found = state_of(progress(SHEET, (*readings, told), tuple(marks)), "gain.front")
    assert found.state is State.DONE
    assert found.meanings == ("The tone wasn’t 6 dB lower. Play it 6 dB lower and save that.",)


def test_a_wave_that_was_seen_clipped_settles_nothing_whatever_its_volts() -> None:
    readings, marks, _ = gained(15.4, seen=Eye.CLIPPED)
    assert state_of(progress(SHEET, tuple(readings), tuple(marks)), "gain.front").state is State.OPEN


def test_a_knob_far_from_where_it_is_expected_says_what_that_means() -> None:
    readings, marks, gain = gained(15.4)
    run = progress(SHEET, tuple(readings), tuple(marks))
    knob = run.plan.paths[0].knob
    assert knob.travel is not None
    near = (*readings, beside(gain, "knob", knob.travel))
    assert not state_of(progress(SHEET, near, tuple(marks)), "gain.front").meanings
    # 29.5 dB of scale, 6 V to 0.2 V: half of its travel is nearly 15 dB.
    up = state_of(progress(SHEET, (*readings, beside(gain, "knob", knob.travel + 0.5)), tuple(marks)), "gain.front")
    assert up.state is State.DONE
    assert "15 dB further up than expected" in up.meanings[0]
    assert "Check leads" in up.meanings[0]


def test_a_limiter_that_holds_it_is_a_reason_of_its_own() -> None:
    limited = with_parts(SHEET, amplifier={"limiter": True})
    readings, marks, gain = gained(13.0, limited)
    assert Outcome.LIMITED in gain.outcomes
    assert Outcome.LIMITED not in gained(13.0)[2].outcomes
    marks.append(mark("gain.front", outcome="limited"))
    found = state_of(progress(limited, tuple(readings), tuple(marks)), "gain.front")
    assert found.state is State.DONE
    assert "the limiter acts before the target" in found.sentence


def test_what_the_proof_finds_too_high_reopens_the_gain_until_it_was_set_again_or_left() -> None:
    readings, marks, gain = gained(15.4)
    proof = step_of(progress(SHEET, tuple(readings), tuple(marks)), "prove.front")
    readings.append(row_reading(proof, "at-40", 24.0, builds_on=proof.builds_on))
    run = progress(SHEET, tuple(readings), tuple(marks))
    found = state_of(run, "gain.front")
    assert found.state is State.OUTDATED
    assert "Proof at 40 Hz" in found.spoiled[0].label
    assert run.current == "gain.front"
    left = mark("prove.front", item="at-40", answer=Answer.LEFT, note="customer wants it")
    assert state_of(progress(SHEET, tuple(readings), (*marks, left)), "gain.front").state is State.DONE
    again = reading(gain, 31, 15.3, builds_on=gain.builds_on)
    assert state_of(progress(SHEET, (*readings, again), tuple(marks)), "gain.front").state is State.DONE


def test_trims_are_tried_only_where_there_is_something_to_try() -> None:
    assert "trims.source" not in steps_of(SHEET)
    with_sub = with_parts(SHEET, source={"tone": {"sub_level": 2.0}, "inputs": [{"kind": "usb"}]})
    step = steps_of(with_sub)["trims.source"]
    assert step.optional
    assert {"as-set", "loudness", "trim-up-3", "sub-down-3"} <= {row.key for row in step.rows}
    everything = with_parts(SHEET, choices={"extent": "everything"})
    assert "trims.source" in steps_of(everything)


def test_what_a_setting_costs_and_which_trim_gives_most() -> None:
    sheet = with_parts(SHEET, source={"inputs": [{"kind": "usb"}]}, choices={"extent": "everything"})
    step = steps_of(sheet)["trims.source"]
    volume_steps = steps_of(sheet)[f"{KEY}.usb"]
    readings = [
        reading(volume_steps, 31, 3.8, Eye.CLEAN, way="usb"),
        row_reading(step, "as-set", 1.0),
        row_reading(step, "loudness", from_db(8)),
        row_reading(step, "normaliser", from_db(-7)),
        row_reading(step, "phone", 1.0),
        row_reading(step, "as-set-40", 1.1),
        row_reading(step, "bass", 1.0),
        row_reading(step, "bass-40", 1.1 * from_db(9)),
        row_reading(step, "trim-down-3", 3.9),
        row_reading(step, "trim-up-3", 3.7),
    ]
    marks = (*answers(sheet), mark(volume_steps.key, basis="marked", volume=31))
    readings[-2] = readings[-2].model_copy(
        update={"circumstances": readings[-2].circumstances.model_copy(update={"volume": 34})}
    )
    told = state_of(progress(sheet, tuple(readings), marks), step.key).sentence
    assert "Loudness on: +8.0 dB at 1 kHz: clips about 8 numbers earlier." in told
    assert "Player’s normalisation on: −7.0 dB at 1 kHz." in told
    # At 1 kHz alone nothing is told to change nothing.
    assert "Player’s volume a notch down: no difference at 1 kHz; try 40 Hz too, which it may lift alone." in told
    assert "Bass up as far as it is used: no difference at 1 kHz, +9.0 dB at 40 Hz: clips about 9 numbers" in told
    # 20·log10(3.9 / 3.8) = 0.2 dB.
    assert "Most clean volts: Level trim −3 at 34, 3.9 V, 0.2 dB more than the present setting." in told


def test_a_row_that_names_a_number_is_taken_at_that_number() -> None:
    sheet = with_parts(SHEET, choices={"extent": "everything"})
    step = steps_of(sheet)["trims.source"]
    flat = row_reading(step, "as-set", 1.0)
    other = flat.model_copy(update={"circumstances": flat.circumstances.model_copy(update={"volume": 31})})
    for one, state, told in ((flat, State.DONE, ""), (other, State.OPEN, "read at 31. Set 20 and read again")):
        found = state_of(progress(sheet, (one,), answers(sheet)), step.key)
        assert found.state is state
        assert told in found.sentence


def test_what_was_sealed_stands_on_the_sheet() -> None:
    sheet = JobSheet(chain=LAYOUTS["front-rear-sub"])
    forgetful = with_parts(sheet, source={"keeps_settings": False})
    step = steps_of(forgetful)["seal"]
    assert step.optional
    keys = [item.key for item in step.items]
    assert {"gain.front", "dial.sub.0", "dial.sub.1", "forgets.source"} <= set(keys)
    marks = tuple(mark("seal", item=key, answer="done", note="nine" if key == "gain.front" else "") for key in keys)
    now = JobSnapshot(forgetful, (), marks, lambda _version: forgetful)
    run = run_of(now)
    assert state_of(run, "seal").state is State.DONE
    left = " ".join(result(now, run).left)
    assert "Front: gain nine; " in left
    assert "Sub: dial of the low-pass 80 Hz marked on the panel" in left
    assert "forgets its settings told" in left


def recorded(top_v: float, clean_maximum_v: float, boost_hz: float | None = None) -> Examination:
    """A sweep of 12 s from 20 Hz to 20 kHz through a stage that clips."""
    rate, seconds = 48_000.0, 12.0
    times = np.arange(round(seconds * rate)) / rate
    wave = np.sqrt(2) * top_v * swept_sine(times, seconds)
    if boost_hz:
        hertz = 20 * 1000 ** (times / seconds)
        wave = wave * 10 ** (6 / 20 * np.exp(-0.5 * (np.log2(hertz / boost_hz) / 0.4) ** 2))
    return examine_wave([Trace(volts=np.clip(wave, -clean_maximum_v, clean_maximum_v), rate_hz=rate)])


def test_a_recorded_sweep_answers_the_proof_band_by_band_and_names_what_clips() -> None:
    readings, marks, _ = gained(15.4)
    proof = step_of(progress(SHEET, tuple(readings), tuple(marks)), "prove.front")
    told = {reading.row.key: reading for reading in readings_from_capture(proof, recorded(15.4, 23.0, boost_hz=200))}
    assert set(told) == {row.key for row in proof.rows}
    assert told["at-1000"].value == pytest.approx(15.4, rel=0.02)
    assert told["at-1000"].seen is Eye.CLEAN
    assert told["at-200"].seen is Eye.CLIPPED
    taken = [
        row_reading(proof, key, reading.value, seen=reading.seen, builds_on=proof.builds_on)
        for key, reading in told.items()
    ]
    run = progress(SHEET, (*readings, *taken), tuple(marks))
    assert state_of(run, "gain.front").state is State.OUTDATED
    assert "200 Hz" in state_of(run, "gain.front").spoiled[0].label


def test_noise_on_the_factory_wires_tells_what_they_carry() -> None:
    sheet = JobSheet(chain=LAYOUTS["converter"])
    step = next(step for key, step in steps_of(sheet).items() if key.startswith("factory"))
    dice = np.random.default_rng(4)
    spectrum = np.fft.rfft(dice.normal(size=480_000))
    hertz = np.fft.rfftfreq(480_000, 1 / 48_000)
    pink = np.fft.irfft(spectrum / np.sqrt(np.maximum(hertz, 10)), 480_000)
    for corner, said in ((None, "Bass and 1 kHz are level"), (300.0, "no bass here")):
        shaped = pink if corner is None else np.fft.irfft(np.fft.rfft(pink) * (hertz > corner), 480_000)
        noise = examine_wave([Trace(volts=shaped, rate_hz=48_000.0)])
        told = readings_from_capture(step, noise)
        assert {reading.row.key for reading in told} == {"at-40", "at-1000"}
        taken = tuple(row_reading(step, reading.row.key, max(reading.value, 1e-4)) for reading in told)
        assert said in state_of(progress(sheet, taken, ()), step.key).sentence


def test_a_tone_whose_harmonics_a_filter_hides_is_not_seen_clean() -> None:
    readings, marks, _ = gained(15.4)
    proof = step_of(progress(SHEET, tuple(readings), tuple(marks)), "prove.front")
    rate, seconds = 48_000.0, 15.0
    wave = 20 * swept_sine(np.arange(round(seconds * rate)) / rate, seconds)
    sections = butter(4, 700, "lowpass", fs=rate, output="sos")
    noise = 0.02 * np.random.default_rng(3).normal(size=wave.size)
    told = readings_from_capture(proof, examine_wave([Trace(volts=sosfilt(sections, wave) + noise, rate_hz=rate)]))
    seen = {reading.row.key: reading.seen for reading in told}
    assert seen["at-40"] is Eye.CLEAN
    # Its third harmonic, 3 kHz, lies 50 dB down the filter's slope.
    assert seen["at-1000"] is Eye.UNSEEN


def test_a_recording_that_answers_nothing_is_refused_with_what_would() -> None:
    readings, marks, gain = gained(15.4)
    proof = step_of(progress(SHEET, tuple(readings), tuple(marks)), "prove.front")
    tone = Trace(volts=np.sin(2 * np.pi * 0.02 * np.arange(4000)), rate_hz=48_000.0)
    with pytest.raises(BadInput, match="isn’t a recorded sweep"):
        readings_from_capture(proof, examine_wave([tone]))
    with pytest.raises(BadInput, match="isn’t answered by a recording"):
        readings_from_capture(gain, recorded(15.4, 30.0))


def test_a_position_is_a_part_of_a_turn() -> None:
    _, _, gain = gained(15.4)
    assert beside(gain, "knob", 0.5).quantity is Quantity.POSITION
    with pytest.raises(ValueError, match="at most 1"):
        beside(gain, "knob", 1.2)


def swept(shape_db: dict[float, float], clip: float = 10.0) -> Examination:
    """A sweep of 4 V peak through filters of scipy's own."""
    rate = 48_000
    times = np.arange(20 * rate) / rate
    wave = 4 * swept_sine(times, 20.0)
    for corner, db in shape_db.items():
        part = sosfilt(butter(1, corner, fs=rate, output="sos"), wave)
        wave = wave + (from_db(db) - 1) * part
    return examine_wave([Trace(volts=np.clip(wave, -clip, clip), rate_hz=rate)])


@pytest.mark.parametrize(
    ("examination", "told"),
    [
        (swept({}), "Level over the band that was read."),
        # Loudness: the bass 9 dB up by a first-order shelf.
        (swept({100: 9.0}), "Lifted at 30 Hz, 60 Hz"),
        # A crossover left in: no bass.
        (swept({100: -20.0}), "Cut at 30 Hz, 60 Hz"),
        (swept({}, clip=3.0), "It clips at"),
    ],
    ids=["flat", "lifted", "cut", "clipped"],
)
def test_a_source_is_checked_over_its_whole_band_by_a_recorded_sweep(examination: Examination, told: str) -> None:
    assert "source-sweep.source" not in steps_of(SHEET)
    sheet = with_parts(SHEET, choices={"meter": "scope"})
    step = steps_of(sheet)["source-sweep.source"]
    assert step.optional
    found = readings_from_capture(step, examination)
    assert {reading.row.key for reading in found} >= {"at-1000", "at-60", "at-4000"}
    readings = [
        row_reading(step, reading.row.key, reading.value).model_copy(update={"seen": reading.seen}) for reading in found
    ]
    run = progress(sheet, tuple(readings), answers(sheet))
    assert told in state_of(run, step.key).sentence


def test_tones_of_a_source_are_compared_at_one_number_only() -> None:
    sheet = with_parts(SHEET, choices={"meter": "scope"})
    step = steps_of(sheet)["source-sweep.source"]
    flat, other = row_reading(step, "at-1000", 1.0), row_reading(step, "at-60", 1.5)
    louder = other.model_copy(update={"circumstances": other.circumstances.model_copy(update={"volume": 31})})
    found = state_of(progress(sheet, (flat, louder), answers(sheet)), step.key)
    at_60 = next(row for row in found.rows if row.row == "at-60")
    assert at_60.comparison is None
    assert "read at 31, 1 kHz at 20" in at_60.otherwise
    assert "Lifted" not in found.sentence
