"""A job's tones as one numbered set, and pink noise."""

import io
import zipfile

import numpy as np
import pytest
import soundfile
from scipy.signal import welch

from tests.core.helpers import LAYOUTS, steps_of
from upper_rook.core.run.result.tone_set import MOST, tone_set
from upper_rook.core.run.steps.step import Step
from upper_rook.core.signal.pink_noise import pink_noise
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.formats.tone_set import LIST, tone_archive, tone_files

STEPS = tuple(steps_of(JobSheet(chain=LAYOUTS["front-rear-sub"])).values())


def test_pink_noise_has_the_same_power_in_every_octave_and_loops() -> None:
    noise = pink_noise(20.0)
    # 0 dBFS is a sine's RMS (AES17, memory): −20 dB of 1/√2.
    assert np.sqrt(np.mean(noise**2)) == pytest.approx(10 ** (-20 / 20) / np.sqrt(2), rel=1e-9)
    assert np.abs(noise).max() < 1
    hertz, density = welch(noise, 48_000, nperseg=1 << 16)
    octaves = [float(np.sum(density[(hertz >= low) & (hertz < 2 * low)])) for low in (40, 80, 160, 1000, 4000, 8000)]
    assert 10 * np.log10(max(octaves) / min(octaves)) < 0.6
    # Its seam is as rough as the rest: no click.
    assert abs(noise[0] - noise[-1]) <= np.abs(np.diff(noise)).max()


def test_every_tone_of_the_run_is_there_once_and_numbered() -> None:
    tones = tone_set(STEPS)
    assert [tone.number for tone in tones] == list(range(1, len(tones) + 1))
    played = {
        wants.tone
        for step in STEPS
        for wants in (step.wants, *(row.wants for row in step.rows))
        if wants is not None and wants.tone is not None
    }
    swept = [tone for tone in tones if tone.tone.swept]
    assert {tone.tone for tone in tones} - {numbered.tone for numbered in swept} == played
    # A recorded sweep answers the proofs.
    assert all(title.startswith("Prove it") for numbered in swept for title in numbered.steps)
    assert swept
    assert all(tone.steps for tone in tones)
    assert tone_set(()) == ()


def test_more_tones_than_fit_are_cut() -> None:
    step = next(step for step in STEPS if step.wants and step.wants.tone)
    many = [_with_tone(step, 100.0 + number) for number in range(MOST + 9)]
    assert len(tone_set(many)) == MOST


def test_a_tone_that_no_file_holds_is_said_and_the_others_are_there() -> None:
    step = next(step for step in STEPS if step.wants and step.wants.tone)
    tones = tone_set([_with_tone(step, 30_000.0), _with_tone(step, 1000.0)])
    with zipfile.ZipFile(io.BytesIO(b"".join(tone_archive(tones, 1.0)))) as archive:
        assert [name[:2] for name in archive.namelist()] == ["00", "02", "03"]
        assert "01  30 kHz sine at 0 dBFS: no file" in archive.read(LIST).decode()


def _with_tone(step: Step, hertz: float) -> Step:
    assert step.wants is not None
    assert step.wants.tone is not None
    tone = step.wants.tone.model_copy(update={"frequency_hz": hertz})
    return step.model_copy(update={"wants": step.wants.model_copy(update={"tone": tone}), "rows": ()})


def test_the_archive_holds_what_its_list_says() -> None:
    tones = tone_set(STEPS)[:2]
    with zipfile.ZipFile(io.BytesIO(b"".join(tone_archive(tones, 1.0)))) as archive:
        assert archive.testzip() is None
        names = archive.namelist()
        assert names == sorted(names) == [name for name, _ in tone_files(tones, 1.0)]
        told = archive.read(LIST).decode()
        assert all(tone.tone.label in told and tone.steps[0] in told for tone in tones)
        for name in names[1:]:
            samples, rate = soundfile.read(io.BytesIO(archive.read(name)))
            assert (rate, samples.shape[1]) == (48_000, 2)
            assert np.abs(samples).max() > 0.1
