"""Small words on the way: shares of watts, idle channels, the rest of the scale, an amplifier that is loud enough."""

import math
import re

import numpy as np
import pytest

from tests.core.helpers import LAYOUTS, answers, finding_keys, mark, reading, steps_of, with_parts
from upper_rook.core.judge.advice import distortion_share
from upper_rook.core.judge.examination import examine_wave
from upper_rook.core.plan.plan import plan
from upper_rook.core.run.result.progress import run_of
from upper_rook.core.run.result.result import result
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.signal.trace import Trace
from upper_rook.core.system.job_sheet import JobSheet

SHEET = JobSheet(chain=LAYOUTS["front"])


def test_the_watts_of_a_square_wave_are_split_as_its_series_says() -> None:
    # Fourier: the tone of a square wave has 8/π² of its power, its distortion is √(π²/8 − 1) of the tone.
    thd = 100 * math.sqrt(math.pi**2 / 8 - 1)
    assert distortion_share(thd) == pytest.approx(1 - 8 / math.pi**2)
    times = np.arange(48_000) / 48_000
    square = np.clip(200 * np.sin(2 * np.pi * 100 * times), -10, 10)
    advice = " ".join(examine_wave([Trace(volts=square, rate_hz=48_000)], 100.0).channels[0].advice)
    told = re.search(r"about (\d+) % are the tone, (\d+) % distortion", advice)
    assert told
    # Harmonics that a capture is judged by end somewhere: the rest of the series is a few percent.
    assert [int(group) for group in told.groups()] == [pytest.approx(81, abs=3), pytest.approx(19, abs=3)]


def test_channels_that_nothing_uses_are_named() -> None:
    sheet = JobSheet(chain=LAYOUTS["four-channel"])
    assert "idle-channels" not in finding_keys(sheet)
    chain = sheet.chain.model_copy(update={"paths": sheet.chain.paths[:1]})
    told = next(cause for cause in plan(JobSheet(chain=chain)).causes if cause.key.startswith("idle-channels"))
    assert "idle" in told.title


@pytest.mark.parametrize(("wanted_db", "told"), [(None, True), (100, False), (140, True)])
def test_a_weak_amplifier_is_quiet_where_it_is_loud_enough(wanted_db: float | None, told: bool) -> None:
    loud = with_parts(SHEET, load={"power_w": 300, "sensitivity_db": 90}, choices={"wanted_db": wanted_db})
    assert ("amplifier-weak" in finding_keys(loud)) is told


@pytest.mark.parametrize(
    ("read", "told"),
    [
        ((), "to the end of the scale it is about 10 dB"),
        # By hand: 20·log10(2/1) up to 36, then a decibel a number.
        (((36, 6.0),), "to the end of the scale it is about 10 dB"),
        (((40, 6.0),), "the end of the scale gives 6.0 dB more"),
    ],
)
def test_a_guessed_number_says_what_it_leaves_over(read: tuple[tuple[int, float], ...], told: str) -> None:
    step = steps_of(SHEET)["ceiling.source.line"]
    readings = tuple(reading(step, number, volts) for number, volts in ((30, 3.0), *read))
    marks = (*answers(SHEET), mark(step.key, basis="guess", volume=30))
    snapshot = JobSnapshot(SHEET, readings, marks, lambda _version: SHEET)
    (top,) = result(snapshot, run_of(snapshot)).top_volumes
    assert told in top.sentence
