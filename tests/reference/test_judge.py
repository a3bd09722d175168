"""
The judge against the outside: ngspice's circuits, scipy's integrals, sox's RMS, and figures that anyone can derive.

The circuits are solved by ngspice, whose waves are then judged; what the judge must find follows from the circuit.
"""

import re
import subprocess
from pathlib import Path

import numpy as np
import pytest
import scipy.integrate

from upper_rook.core.judge.wave import judge
from upper_rook.core.judge.wave_report import WaveReport
from upper_rook.core.signal import clipped_sine
from upper_rook.core.signal.trace import Trace
from upper_rook.formats.capture_reader import read_capture

RATE = 200_000.0
HERTZ = 1000.0


def circuit(folder: Path, elements: str, seconds: float = 0.02) -> Trace:
    """The wave at node `out` by ngspice's transient analysis, evenly sampled, without its first half."""
    out = folder / "out.txt"
    deck = folder / "deck.cir"
    deck.write_text(
        f"judged\n{elements}\n.control\nset wr_singlescale\noption numdgt=10\ntran 1u {seconds} 0 1u\n"
        f"linearize v(out)\nwrdata {out} v(out)\nquit\n.endc\n.end\n",
        "utf-8",
    )
    subprocess.run(["ngspice", "-b", str(deck)], capture_output=True, timeout=60, check=False)
    times, volts = np.loadtxt(out).T
    even = np.arange(seconds / 2, seconds, 1 / RATE)
    return Trace(np.interp(even, times, volts), RATE)


def judged(folder: Path, elements: str) -> WaveReport:
    return judge(circuit(folder, elements), HERTZ).report


def test_a_rail_limited_stage(tmp_path: Path) -> None:
    found = judged(tmp_path, f"V1 in 0 SIN(0 25 {HERTZ})\nR1 in 0 1k\nB1 out 0 V=max(min(V(in),20),-20)\nR2 out 0 1k")
    assert (found.verdict, found.clipped_side) == ("clipped", "both")
    assert found.over_db == pytest.approx(20 * np.log10(25 / 20), abs=0.01)
    assert found.clean_v_rms == pytest.approx(20 / np.sqrt(2), rel=1e-3)


def test_a_stage_whose_lower_rail_is_weak(tmp_path: Path) -> None:
    found = judged(tmp_path, f"V1 in 0 SIN(0 18 {HERTZ})\nR1 in 0 1k\nB1 out 0 V=max(min(V(in),20),-14)\nR2 out 0 1k")
    assert (found.verdict, found.clipped_side) == ("clipped", "negative")
    assert found.over_db == pytest.approx(20 * np.log10(18 / 14), abs=0.01)
    assert found.clean_v_rms == pytest.approx(14 / np.sqrt(2), rel=1e-3)


def test_a_clipped_output_into_a_divider_with_an_offset(tmp_path: Path) -> None:
    elements = f"V1 in 0 SIN(0 12 {HERTZ})\nR1 in 0 1k\nB1 a 0 V=max(min(V(in),10),-10)+3\nR2 a out 3k\nR3 out 0 1k"
    found = judged(tmp_path, elements)
    assert found.v_dc == pytest.approx(0.75, abs=0.005)
    assert found.clean_v_rms == pytest.approx(2.5 / np.sqrt(2), rel=2e-3)
    assert found.over_db == pytest.approx(20 * np.log10(1.2), abs=0.01)


def test_diodes_round_softly_and_are_told_as_that(tmp_path: Path) -> None:
    elements = f"V1 in 0 SIN(0 0.62 {HERTZ})\nR1 in out 2k\nD1 out 0 DX\nD2 0 out DX\n.model DX D(IS=4e-9 N=1.9 RS=1)"
    trace = circuit(tmp_path, elements)
    found = judge(trace, HERTZ).report
    assert found.verdict == "clipped"
    assert found.reasons[0].startswith("Rounded off softly")
    # ngspice's own Fourier analysis of the same wave, by numpy over whole cycles.
    spectrum = np.abs(np.fft.rfft(trace.volts))
    cycle = round(trace.volts.size * HERTZ / RATE)
    harmonics = spectrum[2 * cycle :: cycle][:24]
    assert found.thd_percent == pytest.approx(100 * np.linalg.norm(harmonics) / spectrum[cycle], rel=0.02)


def test_a_clean_linear_network_stays_clean(tmp_path: Path) -> None:
    elements = f"V1 in 0 SIN(0 10 {HERTZ})\nR1 in out 1k\nC1 out 0 159.155n"
    found = judged(tmp_path, elements)
    assert found.verdict == "clean"
    # A first-order low-pass at its corner: down by √2 (R = 1 kΩ, C = 1/(2π·1 kHz·1 kΩ)).
    assert found.v_rms == pytest.approx(10 / 2, rel=2e-3)


@pytest.mark.parametrize("over_db", [0.1, 0.5, 1.0, 3.0, 6.0, 12.0, 30.0])
def test_closed_forms_equal_scipys_integrals(over_db: float) -> None:
    k = 10 ** (over_db / 20)

    def wave(angle: float) -> float:
        return min(1.0, k * np.sin(angle))

    corner = np.arcsin(1 / k)

    def mean(what: object) -> float:
        return float(scipy.integrate.quad(what, 0, np.pi / 2, points=[corner])[0] * 2 / np.pi)

    assert clipped_sine.rms(over_db) == pytest.approx(np.sqrt(mean(lambda a: wave(a) ** 2)), rel=1e-9)
    assert clipped_sine.mean_absolute(over_db) == pytest.approx(mean(wave), rel=1e-9)
    assert clipped_sine.fundamental(over_db) == pytest.approx(2 * mean(lambda a: wave(a) * np.sin(a)), rel=1e-9)


def test_the_table_of_the_reference() -> None:
    # Overdrive dB, THD %, RMS above the clean maximum dB, average-responding over true RMS (derived, in REFERENCE).
    for over, thd, above, average in (
        (0.25, 0.994, 0.201, 1.0012),
        (1.0, 4.632, 0.634, 1.0076),
        (6.0, 23.237, 1.939, 1.0515),
    ):
        assert 100 * clipped_sine.thd(over) == pytest.approx(thd, abs=0.001)
        assert clipped_sine.rms_above_db(over) == pytest.approx(above, abs=0.001)
        assert 10 ** (clipped_sine.average_meter_db(over) / 20) == pytest.approx(average, abs=1e-4)


def test_a_square_wave_has_48_343_percent() -> None:
    # √(π²/8 − 1), the Fourier series of a square wave.
    wave = np.where(np.arange(4000) * 0.0123 % 1 < 0.5, 3.0, -3.0)
    found = judge(Trace(wave, RATE)).report
    assert found.verdict == "square"
    assert found.thd_percent == pytest.approx(48.343, abs=0.01)
    assert found.clean_v_rms == pytest.approx(3 / np.sqrt(2), rel=1e-3)
    assert found.over_db is None


@pytest.mark.parametrize(("bits", "encoding"), [(16, "signed-integer"), (24, "signed-integer"), (32, "floating-point")])
def test_rms_and_peaks_as_sox_measures_them(tmp_path: Path, bits: int, encoding: str) -> None:
    file = tmp_path / "tone.wav"
    shape = ["-b", str(bits), "-e", encoding, "-r", "48000", "-c", "1"]
    subprocess.run(["sox", "-n", *shape, file, "synth", "1", "sine", "440", "vol", "0.6"], check=True, timeout=30)
    told = subprocess.run(["sox", file, "-n", "stat"], capture_output=True, text=True, check=True, timeout=30).stderr
    theirs = {name.strip(): float(value) for name, value in re.findall(r"^(.*?):\s+(-?[\d.]+)$", told, re.MULTILINE)}
    with file.open("rb") as stream:
        (trace,) = read_capture(stream, 10.0)
    found = judge(trace, 440).report
    assert found.verdict == "clean"
    assert found.v_rms == pytest.approx(10 * theirs["RMS     amplitude"], rel=2e-4)
    assert found.v_peak_positive == pytest.approx(10 * theirs["Maximum amplitude"], rel=2e-3)


@pytest.mark.parametrize("bits", [8, 16, 24, 32])
def test_sox_clipped_by_its_own_gain_is_the_recorders_limit(tmp_path: Path, bits: int) -> None:
    file = tmp_path / "loud.wav"
    kind = "unsigned-integer" if bits == 8 else "signed-integer"
    shape = ["-b", str(bits), "-e", kind, "-r", "48000", "-c", "1"]
    subprocess.run(
        ["sox", "-n", *shape, file, "synth", "0.5", "sine", "440", "gain", "3"],
        check=True,
        timeout=30,
        capture_output=True,
    )
    with file.open("rb") as stream:
        (trace,) = read_capture(stream)
    assert judge(trace).report.verdict == "over_range"
