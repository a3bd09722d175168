"""The simulated amplifier's clipped output, against the closed form and against ngspice.

Closed form: a sine of amplitude k clipped at ±1, by Fourier integration (anyone can redo it). ngspice computes the same
circuit, a behavioural limiter, by itself; its `.four` analysis gives the harmonics.
"""

import math
import re
import subprocess
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray

from upper_rook.core.common.units import from_db
from upper_rook.core.physics.amplifier import RATED_SUPPLY_V, AmplifierModel
from upper_rook.core.physics.distortion import added_distortion

# Overdrive dB, THD %, RMS above the clean maximum dB, crest factor, average-responding over true RMS.
TABLE = [
    (0.10, 0.337, 0.087, 1.4001, 1.0003),
    (0.25, 0.994, 0.201, 1.3819, 1.0012),
    (0.50, 2.189, 0.364, 1.3561, 1.0031),
    (1.0, 4.632, 0.634, 1.3147, 1.0076),
    (3.0, 13.380, 1.343, 1.2116, 1.0273),
    (6.0, 23.237, 1.939, 1.1312, 1.0515),
    (12.0, 35.369, 2.517, 1.0584, 1.0811),
]
RAIL_V = 20.0
POINTS = 20000


def driven(overdrive_db: float) -> NDArray[np.float64]:
    """One cycle of the simulated amplifier, driven this far past its clean maximum into open terminals."""
    amplifier = AmplifierModel(
        rated_v=14.0,
        sensitivity_down_v=4.0,
        sensitivity_up_v=0.2,
        rail_peak_v=RAIL_V,
        output_ohm=0.1,
        regulated=False,
    )
    knob = 0.5
    peak_in = RAIL_V / amplifier.gain(knob) * from_db(overdrive_db)
    phase = 2 * np.pi * np.arange(POINTS) / POINTS
    return amplifier.wave(peak_in * np.sin(phase), knob, RATED_SUPPLY_V, math.inf)


def harmonics(wave: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.abs(np.fft.rfft(wave)) * 2 / wave.size


def closed_form(overdrive_db: float) -> tuple[float, float, float]:
    """Fundamental, RMS and mean absolute value of a sine of amplitude k clipped at ±1."""
    k = from_db(overdrive_db)
    theta = math.asin(1 / k)
    fundamental = (2 * k / math.pi) * (theta + math.sqrt(1 - 1 / k**2) / k)
    square = (2 / math.pi) * (k**2 * (theta / 2 - math.sin(2 * theta) / 4) + math.pi / 2 - theta)
    mean = (2 / math.pi) * (k * (1 - math.cos(theta)) + math.pi / 2 - theta)
    return fundamental, math.sqrt(square), mean


@pytest.mark.parametrize(("overdrive", "thd", "above", "crest", "average"), TABLE)
def test_the_simulated_amplifier_clips_as_the_table_says(
    overdrive: float, thd: float, above: float, crest: float, average: float
) -> None:
    wave = driven(overdrive)
    rms = math.sqrt(float(np.mean(wave**2)))
    spectrum = harmonics(wave)
    assert 100 * math.sqrt(float(np.sum(spectrum[2:] ** 2))) / spectrum[1] == pytest.approx(thd, abs=0.002)
    assert 20 * math.log10(rms / (RAIL_V / math.sqrt(2))) == pytest.approx(above, abs=0.0006)
    assert float(np.max(np.abs(wave))) / rms == pytest.approx(crest, abs=0.0001)
    form = math.pi / (2 * math.sqrt(2))
    assert float(np.mean(np.abs(wave))) * form / rms == pytest.approx(average, abs=0.0001)


@pytest.mark.parametrize("overdrive", [row[0] for row in TABLE])
def test_fundamental_rms_and_mean_equal_the_closed_form(overdrive: float) -> None:
    wave = driven(overdrive) / RAIL_V
    fundamental, rms, mean = closed_form(overdrive)
    assert harmonics(wave)[1] == pytest.approx(fundamental, rel=1e-6)
    assert math.sqrt(float(np.mean(wave**2))) == pytest.approx(rms, rel=1e-6)
    assert float(np.mean(np.abs(wave))) == pytest.approx(mean, rel=1e-6)


@pytest.mark.parametrize(("overdrive", "thd"), [row[:2] for row in TABLE])
def test_the_distortion_that_a_stage_adds_is_that_of_the_table(overdrive: float, thd: float) -> None:
    sine = np.sin(2 * np.pi * np.arange(POINTS) / POINTS)
    # The table has harmonics over the fundamental, a stage's figure is the rest over the whole.
    part = thd / 100
    assert added_distortion(driven(overdrive), sine) == pytest.approx(part / math.sqrt(1 + part**2), abs=2e-5)
    assert added_distortion(0.3 * sine, sine) < 1e-12


def test_symmetric_clipping_makes_odd_harmonics_only() -> None:
    spectrum = harmonics(driven(3.0))
    assert float(np.max(spectrum[2:20:2])) < 1e-9
    assert spectrum[3] > 0.1


def test_a_square_wave_has_the_known_distortion() -> None:
    # √(π²/8 − 1) = 48.343 %.
    wave = np.where(np.arange(POINTS) < POINTS / 2, 1.0, -1.0)
    spectrum = harmonics(wave)
    assert 100 * math.sqrt(float(np.sum(spectrum[2:] ** 2))) / spectrum[1] == pytest.approx(48.343, abs=0.01)


def test_ngspice_finds_the_same_harmonics(tmp_path: Path) -> None:
    overdrive = 3.0
    peak = RAIL_V * from_db(overdrive)
    deck = tmp_path / "limiter.cir"
    deck.write_text(
        f"""limiter
V1 in 0 SIN(0 {peak} 1k)
R1 in 0 1k
B1 out 0 V=max(min(V(in),{RAIL_V}),-{RAIL_V})
R2 out 0 1k
.control
set nfreqs=20
tran 0.1u 10m 0 0.1u
fourier 1k V(out)
quit
.endc
.end
""",
        "utf-8",
    )
    printed = subprocess.run(
        ["ngspice", "-b", str(deck)], capture_output=True, text=True, timeout=60, check=False
    ).stdout
    rows = re.findall(r"^\s*(\d+)\s+[\d.e+-]+\s+([\d.e+-]+)", printed, re.MULTILINE)
    theirs = {int(number): float(magnitude) for number, magnitude in rows}
    ours = harmonics(driven(overdrive))
    assert len(theirs) == 20
    for number in (1, 3, 5, 7, 9):
        assert theirs[number] == pytest.approx(ours[number], rel=2e-3, abs=2e-3)
