"""The tone files, measured by sox and analysed by scipy."""

import io
import re
import subprocess
from pathlib import Path

import numpy as np
import pytest
import scipy
import soundfile

from upper_rook.core.judge.sweep import judge_sweep
from upper_rook.core.signal.played_signal import STEPS_DB, PlayedSignal, SignalKind, samples
from upper_rook.core.signal.tones import Tone, sine
from upper_rook.core.signal.trace import Trace
from upper_rook.formats.signal_file import AudioFile, signal_file


@pytest.mark.parametrize(("hertz", "level"), [(1000.0, 0.0), (50.0, -3.0), (40.0, -10.0)])
def test_sox_measures_the_stated_level(tmp_path: Path, hertz: float, level: float) -> None:
    file = tmp_path / "tone.wav"
    file.write_bytes(signal_file(PlayedSignal(frequency_hz=hertz, level_dbfs=level)))
    told = subprocess.run(["sox", str(file), "-n", "stat"], capture_output=True, text=True, check=True).stderr
    found = re.search(r"RMS\s+amplitude:\s+([\d.]+)", told)
    assert found is not None
    # 0 dBFS is a sine whose peak is full scale, so its RMS is 1/√2 of it (AES17, memory).
    assert 20 * np.log10(float(found[1]) * np.sqrt(2)) == pytest.approx(level, abs=0.01)


def test_the_frequency_is_the_stated_one() -> None:
    samples, rate = soundfile.read(io.BytesIO(signal_file(PlayedSignal(frequency_hz=80, level_dbfs=-5))))
    spectrum = np.abs(scipy.fft.rfft(samples[:, 0]))
    assert np.argmax(spectrum) * rate / len(samples) == pytest.approx(80, abs=0.05)


@pytest.mark.parametrize("level", [0.0, -5.0])
def test_a_sweep_is_what_it_says(tmp_path: Path, level: float) -> None:
    file = tmp_path / "sweep.wav"
    file.write_bytes(signal_file(PlayedSignal.of(Tone(frequency_hz=1000, level_dbfs=level, swept=True))))
    told = subprocess.run(["sox", str(file), "-n", "stat"], capture_output=True, text=True, check=True).stderr
    numbers = {name.strip(): float(value) for name, value in re.findall(r"^(.+?):\s+(-?[\d.]+)$", told, re.MULTILINE)}
    assert numbers["Length (seconds)"] == 60
    # A sine all along: its RMS is 1/√2 of its peak.
    assert 20 * np.log10(numbers["RMS     amplitude"] * np.sqrt(2)) == pytest.approx(level, abs=0.02)
    samples, rate = soundfile.read(file)
    # 1 kHz is passed at T·log(50)/log(1000), 33.98 s of 60 (Farina 2000, memory).
    second = int((60 * np.log(50) / np.log(1000) - 0.05) * rate)
    part = samples[second : second + round(0.1 * rate), 0]
    crossings = np.count_nonzero(np.diff(np.signbit(part)))
    assert crossings / 2 / 0.1 == pytest.approx(1000, rel=0.01)
    # No click at either end.
    assert np.max(np.abs(samples[[0, -1]])) < 1e-3
    report = judge_sweep(Trace(samples[:, 0], float(rate)))
    assert (report.verdict, report.pass_band_v) == ("clean", pytest.approx(10 ** (level / 20) / np.sqrt(2), rel=0.01))


@pytest.mark.parametrize("hertz", [40.0, 63.0, 999.97])
def test_it_loops_without_a_click(hertz: float) -> None:
    samples = sine(Tone(frequency_hz=hertz), seconds=1.0)
    twice = np.concatenate((samples, samples))
    steps = np.abs(np.diff(twice))
    assert steps[samples.size - 1] <= steps[: samples.size - 1].max() + 1e-12
    # A whole number of cycles: the spectrum holds one line.
    spectrum = np.abs(scipy.fft.rfft(samples))
    assert np.sort(spectrum)[-2] < 1e-6 * spectrum.max()


def stat(file: Path) -> dict[str, float]:
    told = subprocess.run(["sox", str(file), "-n", "stat"], capture_output=True, text=True, check=True).stderr
    return {name.strip(): float(value) for name, value in re.findall(r"^(.+?):\s+(-?[\d.]+)$", told, re.MULTILINE)}


@pytest.mark.parametrize("kind", list(AudioFile))
@pytest.mark.parametrize(("hertz", "level"), [(1000.0, 0.0), (40.0, -6.0), (997.0, -12.0)])
def test_a_saved_sine_is_exact_in_level_and_frequency(
    tmp_path: Path, kind: AudioFile, hertz: float, level: float
) -> None:
    signal = PlayedSignal(frequency_hz=hertz, level_dbfs=level)
    file = tmp_path / f"tone.{kind.value}"
    file.write_bytes(signal_file(signal, kind))
    rms = 20 * np.log10(stat(file)["RMS     amplitude"] * np.sqrt(2))
    # Dither adds its own power, −98 dBFS: less than 0.0001 dB.
    assert rms == pytest.approx(level, abs=0.001)
    with soundfile.SoundFile(file) as saved:
        assert saved.title == signal.label


@pytest.mark.parametrize("hertz", [1000.0, 999.97, 61.7, 12_345.6, 20.03])
def test_a_sine_is_within_a_millionth_of_its_frequency_and_loops(hertz: float) -> None:
    wave = sine(Tone(frequency_hz=hertz), seconds=10.0)
    cycles = np.argmax(np.abs(scipy.fft.rfft(wave)))
    assert cycles * 48_000 / wave.size == pytest.approx(hertz, rel=1e-6)
    assert 240_000 <= wave.size <= 480_000


def test_a_sweep_follows_scipys_chirp_between_the_chosen_ends() -> None:
    wave = samples(PlayedSignal(kind=SignalKind.SWEEP, seconds=4.0, from_hz=50.0, to_hz=500.0, level_dbfs=-6.0))
    times = np.arange(wave.size) / 48_000
    expected = 10 ** (-6 / 20) * scipy.signal.chirp(times, 50.0, 4.0, 500.0, method="logarithmic", phi=-90)
    inner = slice(1000, -1000)
    assert np.allclose(wave[inner], expected[inner], atol=1e-9)


def test_level_steps_rise_by_what_they_say_and_noise_and_silence_are_themselves() -> None:
    steps = samples(PlayedSignal(kind=SignalKind.LEVEL_STEPS, seconds=1.0, frequency_hz=1000.0))
    each = steps.reshape(len(STEPS_DB), -1)
    rms = 20 * np.log10(np.sqrt(2 * np.mean(each**2, axis=1)))
    assert rms == pytest.approx(STEPS_DB, abs=1e-6)
    noise = samples(PlayedSignal(kind=SignalKind.PINK_NOISE, level_dbfs=-6.0))
    assert 20 * np.log10(np.sqrt(2 * np.mean(noise**2))) == pytest.approx(-26.0, abs=1e-6)
    assert np.max(np.abs(noise)) < 1
    assert not np.any(samples(PlayedSignal(kind=SignalKind.SILENCE)))


@pytest.mark.parametrize("wrong", [{"to_hz": 10.0}, {"frequency_hz": 30_000.0}, {"seconds": 500}, {"level_dbfs": 3}])
def test_what_no_file_can_hold_is_refused(wrong: dict[str, float]) -> None:
    with pytest.raises(ValueError, match=r"\w"):
        PlayedSignal.model_validate(wrong)
