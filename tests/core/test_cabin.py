"""Groups compared in the cabin by noise that a microphone recorded, against a wanted curve."""

import numpy as np
import pytest
from scipy.signal import butter, sosfilt

from tests.core.helpers import LAYOUTS, answers, row_reading, state_of, steps_of, with_parts
from upper_rook.core.common.errors import BadInput
from upper_rook.core.judge.examination import Examination, examine_wave
from upper_rook.core.run.readings.records import Quantity, Reading
from upper_rook.core.run.result.progress import run_of
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.cabin import AFTER, BEFORE, curve_db, row_key
from upper_rook.core.run.steps.readings_from_capture import readings_from_capture
from upper_rook.core.signal.trace import Trace
from upper_rook.core.system.job_sheet import JobSheet

SHEET = with_parts(JobSheet(chain=LAYOUTS["front-sub"]), choices={"blend": "spectrum"})
RATE = 48_000


def wanted_db(hertz: np.ndarray, bass_db: float) -> np.ndarray:
    """The wanted curve by its definition: straight over the logarithm of frequency from 40 Hz to 1 kHz, then level."""
    return np.interp(np.log(np.maximum(hertz, 1.0)), np.log([40.0, 1000.0]), [bass_db, 0.0])


def recorded(path: str, level_db: float, bass_db: float = 6.0) -> Examination:
    """Ten seconds of pink noise by one group of a cabin that has the wanted curve, its band cut by scipy's filters."""
    white = np.random.default_rng(8).standard_normal(10 * RATE)
    hertz = np.fft.rfftfreq(white.size, 1 / RATE)
    pink = np.fft.rfft(white) / np.sqrt(np.maximum(hertz, 10.0)) * 10 ** (wanted_db(hertz, bass_db) / 20)
    wave = np.fft.irfft(pink, white.size)
    band = {"sub": ("low", 80.0), "front": ("high", 80.0)}[path]
    cut = sosfilt(butter(4, band[1], band[0], fs=RATE, output="sos"), wave / wave.std())
    return examine_wave([Trace(volts=cut * 10 ** (level_db / 20), rate_hz=RATE)])


def read(when: str, path: str, level_db: float) -> Reading:
    step = steps_of(SHEET)["cabin"]
    (reading,) = readings_from_capture(step, recorded(path, level_db), row_key(when, path), 6.0)
    return row_reading(step, reading.row.key, reading.value)


def told(*readings: Reading) -> str:
    snapshot = JobSnapshot(SHEET, readings, answers(SHEET), lambda _version: SHEET)
    return state_of(run_of(snapshot), "cabin").sentence


def test_it_is_offered_where_groups_are_blended_by_their_spectrum() -> None:
    assert "cabin" not in steps_of(JobSheet(chain=LAYOUTS["front-sub"]))
    assert "cabin" not in steps_of(with_parts(JobSheet(chain=LAYOUTS["front"]), choices={"blend": "spectrum"}))
    step = steps_of(SHEET)["cabin"]
    assert step.optional
    assert [row.quantity for row in step.rows] == [Quantity.LEVEL] * 4


@pytest.mark.parametrize("louder_db", [0.0, 4.0, -5.0])
def test_a_group_that_stands_out_of_the_curve_is_named_with_its_decibels(louder_db: float) -> None:
    sentence = told(read(BEFORE, "front", -20.0), read(BEFORE, "sub", -20.0 + louder_db))
    if abs(louder_db) < 1.5:
        assert "every group is within 1.5 dB of the curve" in sentence
        return
    name, db = ("Sub", louder_db) if louder_db > 0 else ("Front", -louder_db)
    heard = float(sentence.partition(f"turn {name} down by ")[2].partition(" dB")[0])
    # Noise in ten seconds and slopes at the ends of the bands.
    assert heard == pytest.approx(db, abs=1.0)


def test_before_and_after_are_told_apart() -> None:
    before = read(BEFORE, "front", -20.0), read(BEFORE, "sub", -14.0)
    after = read(AFTER, "front", -20.0), read(AFTER, "sub", -20.0)
    sentence = told(*before, *after)
    assert "Before the blend Sub is" in sentence
    assert "After the blend every group is within" in sentence


def test_a_recording_needs_its_group() -> None:
    step = steps_of(SHEET)["cabin"]
    with pytest.raises(BadInput, match="Choose the group"):
        readings_from_capture(step, recorded("sub", -20.0), None, 6.0)
    tone = examine_wave([Trace(volts=np.sin(2 * np.pi * 100 * np.arange(RATE) / RATE), rate_hz=RATE)], 100.0)
    with pytest.raises(BadInput, match="isn’t a recording of noise"):
        readings_from_capture(step, tone, row_key(BEFORE, "sub"), 6.0)


def test_the_curve_is_the_straight_line_that_it_is_said_to_be() -> None:
    hertz = np.geomspace(20, 20_000, 61)
    assert [curve_db(float(one), 6.0) for one in hertz] == pytest.approx(list(wanted_db(hertz, 6.0)), abs=1e-9)


def test_another_curve_asks_for_the_recordings_again() -> None:
    readings = read(BEFORE, "front", -20.0), read(BEFORE, "sub", -20.0)
    other = with_parts(SHEET, choices={"blend": "spectrum", "cabin_bass_db": 9})
    for sheet, spoiled in ((SHEET, False), (other, True)):
        now = JobSnapshot(sheet, readings, (), lambda version, sheet=sheet: SHEET if version == 1 else sheet)
        assert bool(state_of(run_of(now), "cabin").spoiled) is spoiled
