"""A file looked at as a whole: tone, sweep, noise or volume steps, what to draw and what to do."""

import numpy as np
import pytest

from tests.core.test_spectrum import pink
from tests.core.test_sweep import sweep
from tests.core.test_volume_steps import volume_readings
from tests.core.waves import Array, clipped, digitised, sine, trace
from upper_rook.core.judge.examination import Channel, examine_volume_steps, examine_wave, judge_volume_readings
from upper_rook.core.run.readings.kept_captures import headline
from upper_rook.core.signal.trace import Trace


def channel(volts: Array, rate_hz: float = 100_000.0) -> Channel:
    (found,) = examine_wave([Trace(volts, rate_hz, "CH1")]).channels
    return found


def test_a_clipped_wave_is_drawn_with_its_sine_and_its_flats() -> None:
    found = channel(digitised(clipped(3.0)[0], bits=12))
    drawing = found.drawing
    # Four cycles of a hundred samples.
    assert len(drawing.milliseconds) == len(drawing.volts) == len(drawing.sine) == 400
    assert drawing.milliseconds[-1] == pytest.approx(3.99)
    assert drawing.upper_flat_v == pytest.approx(5, rel=0.01)
    assert drawing.lower_flat_v == pytest.approx(-5, rel=0.01)
    assert max(drawing.sine) == pytest.approx(5 * 10 ** (3 / 20), rel=0.01)
    assert found.clean_v_uncertainty is not None
    assert found.clean_v_uncertainty > 0
    assert "Clean maximum here" in found.advice[-1]
    assert [harmonic.number for harmonic in found.harmonics[:3]] == [2, 3, 4]


def test_a_clean_wave_has_nothing_behind_it() -> None:
    found = channel(digitised(sine()[0]))
    assert found.drawing.sine == ()
    assert found.drawing.upper_flat_v is None
    assert "one step up" in found.advice[0]


def test_a_long_wave_is_thinned_for_the_screen() -> None:
    found = channel(sine(count=400_000, cycles=12)[0])
    assert len(found.drawing.volts) <= 600
    assert found.samples == 400_000


def test_a_sweep_and_a_noise_are_found_out() -> None:
    swept = channel(np.clip(sweep(8.0), -0.9, 0.9), 48_000)
    assert swept.report.verdict == "not_a_tone"
    assert swept.report.reasons[0] == "A sweep."
    assert swept.sweep is not None
    assert swept.sweep.clipped
    assert "Set the gain again" in swept.advice[0]
    noise = channel(pink(4.0), 48_000)
    assert noise.sweep is None
    assert noise.spectrum is not None
    assert noise.spectrum.carries == "full_range"
    assert "Full range" in noise.advice[0]


def test_a_steady_tone_of_some_seconds_stays_a_tone() -> None:
    found = channel(sine(count=300_000, cycles=3000)[0])
    assert (found.report.verdict, found.sweep, found.spectrum) == ("clean", None, None)


def test_channels_are_judged_apart() -> None:
    both = examine_wave([trace(digitised(clipped(2.0)[0])), trace(digitised(sine()[0]))])
    assert [channel.report.verdict for channel in both.channels] == ["clipped", "clean"]
    assert headline(both).startswith("CH1 clipped by ")
    assert headline(both).endswith("; CH1 clean")


def test_a_volume_steps_with_its_line_and_curve() -> None:
    made, truth = volume_readings(2.0)
    found = examine_volume_steps(made, 40)
    assert found.volume_steps is not None
    assert found.volume_steps.report.clean_volume == truth
    last = found.volume_steps.points[-1]
    # The line goes on where a source without a clean maximum would be; the readings fall short of it.
    assert last.line_v is not None
    assert last.line_v > 1.5 * last.voltage_v
    assert last.curve_v == pytest.approx(last.voltage_v, rel=0.02)
    assert headline(found) == f"clean maximum {truth}, 4 V"
    short = examine_volume_steps(made[:4])
    assert headline(short) == "can’t tell"


def test_a_run_asks_only_once_there_is_something_to_judge() -> None:
    made, _ = volume_readings()
    assert judge_volume_readings(tuple(made[:2]), 40) is None
    judged = judge_volume_readings(tuple(made), 40)
    assert judged is not None
    assert judged.report.verdict == "found"
