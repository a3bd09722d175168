"""What the judge rests on: harmonics, lines, gaps, codes, and the clipped sine with its derivatives."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.waves import clipped, digitised, sine
from upper_rook.core.signal import clip_fit as clipfit
from upper_rook.core.signal import tone_fit as tonefit

DICE = np.random.default_rng(21)


@given(st.floats(2.3, 60), st.floats(0, 6.28), st.integers(200, 1500))
def test_the_coarse_frequency_is_within_a_fraction_of_a_bin(cycles: float, phase: float, count: int) -> None:
    wave, _ = sine(cycles=cycles, count=count, phase=phase)
    assert tonefit.coarse_frequency(wave) * count == pytest.approx(cycles, abs=0.25)


@pytest.mark.parametrize("count", [400, 401, 5000])
def test_harmonics_equal_plain_least_squares(count: int) -> None:
    cycles = 7.37
    turns = cycles * np.arange(count) / count
    volts = 1.5 + 4 * np.sin(2 * np.pi * turns) + 0.3 * np.cos(6 * np.pi * turns) + 0.05 * DICE.normal(size=count)
    (found,) = tonefit.ToneBasis(cycles / count, count, 5).fit(volts)
    angle = 2 * np.pi * turns
    basis = np.column_stack([np.ones(count), *(f(k * angle) for k in range(1, 6) for f in (np.sin, np.cos))])
    weights, *_ = np.linalg.lstsq(basis, volts, rcond=None)
    assert found.constant == pytest.approx(weights[0])
    assert found.amplitudes == pytest.approx(np.hypot(weights[1::2], weights[2::2]))
    assert found.fitted == pytest.approx(basis @ weights)
    assert found.noise_v == pytest.approx(0.05, rel=0.15)
    assert found.significant()[0] == (3, pytest.approx(0.075, rel=0.05))


def test_noise_alone_has_no_harmonics() -> None:
    small = 0
    for seed in range(40):
        volts = sine(cycles=9.3)[0] + np.random.default_rng(seed).normal(size=1000)
        (found,) = tonefit.ToneBasis(9.3 / 1000, 1000).fit(volts)
        small += found.thd() == 0
    assert small >= 36


def beside(volts: np.ndarray, frequency: float) -> tonefit.Besides:
    """What is found beside a tone of this frequency, cycles a sample."""
    basis = tonefit.ToneBasis(frequency, volts.size)
    (fit,) = basis.fit(volts)
    return tonefit.interferers(volts - fit.fitted, basis, fit)


def test_lines_under_a_tone_are_found_and_noise_is_not() -> None:
    steps = np.arange(2000)
    noise = sine(count=2000, cycles=61.3)[0] + 0.02 * DICE.normal(size=2000)
    found = beside(noise + 0.3 * np.sin(0.731 * steps), 61.3 / 2000)
    assert len(found.lines) == 1
    assert found.lines[0].frequency == pytest.approx(0.731 / (2 * np.pi), rel=1e-4)
    assert found.lines[0].amplitude_v == pytest.approx(0.3, rel=0.01)
    assert found.left_v == pytest.approx(0.02, rel=0.1)
    assert beside(noise, 61.3 / 2000).lines == ()
    drift = beside(noise + 2 * np.linspace(-1, 1, 2000) ** 2, 61.3 / 2000)
    assert drift.lines[0].frequency == 0


@pytest.mark.parametrize("hum_cycles", [1.4, 6.6, 8.1, 13.7])
def test_hum_beside_few_cycles_of_a_tone_is_found_as_it_is(hum_cycles: float) -> None:
    # Few cycles aren't orthogonal: what the tone's fit takes of the hum used to be missing from it.
    turns = 2 * np.pi * np.arange(1000) / 1000
    tone = np.sin(5.3 * turns + 0.4) + 0.005 * DICE.normal(size=1000)
    found = beside(tone + 0.05 * np.sin(hum_cycles * turns), 5.301 / 1000)
    assert [line.frequency * 1000 for line in found.lines] == pytest.approx([hum_cycles], rel=0.01)
    assert found.lines[0].amplitude_v == pytest.approx(0.05, rel=0.03)


def test_noise_that_neighbours_share_counts_for_fewer_samples() -> None:
    white = DICE.normal(size=4000)
    drawn = np.interp(np.arange(4000) / 8, np.arange(500), white[:500])
    wave = sine(count=4000, cycles=20.3)[0]
    counts = [tonefit.ToneBasis(20.3 / 4000, 4000).fit(wave + noise)[0].independent for noise in (white, drawn)]
    assert counts[0] > 3000
    assert counts[1] < 500


def test_the_steady_part_leaves_a_gap_out() -> None:
    wave, _ = sine(count=3000, cycles=30)
    whole, gap = tonefit.steady_part(wave, 0.01)
    assert (whole, gap) == (slice(0, 3000), False)
    wave[700:1000] = 0
    part, gap = tonefit.steady_part(wave, 0.01)
    assert gap
    assert part.start >= 1000
    assert part.stop == 3000


@pytest.mark.parametrize("bits", [6, 8, 10])
@pytest.mark.parametrize("noise", [0.0, 0.7])
def test_the_step_of_a_converter_is_seen(bits: int, noise: float) -> None:
    volts = digitised(sine(count=3000, cycles=11.3)[0], bits=bits, noise_lsb=noise)
    expected = 5 / (0.7 * 2 ** (bits - 1))
    assert tonefit.code_step(volts) == pytest.approx(expected, rel=1e-6)


def test_a_fine_converter_has_no_step_to_see() -> None:
    assert tonefit.code_step(sine(count=3000, cycles=11.3)[0] + 1e-3 * DICE.normal(size=3000)) == 0


@pytest.mark.parametrize("over_db", [0.2, 1.0, 6.0, 15.0])
def test_a_clipped_sine_is_fitted_back(over_db: float) -> None:
    wave, _ = clipped(over_db, cycles=8.3, phase=1.1)
    found = clipfit.fit(wave + 0.2, 8.3 / 1000 * (np.arange(1000) - 499.5))
    assert found.over_db(1) == pytest.approx(over_db, abs=1e-3)
    assert found.over_db(-1) == pytest.approx(over_db, abs=1e-3)
    assert found.level_v(1) == pytest.approx(5, rel=1e-4)
    assert found.centre_v == pytest.approx(0.2, abs=1e-3)
    assert found.fitted == pytest.approx(wave + 0.2, abs=1e-3)
    assert np.count_nonzero(found.flat(1)) == np.count_nonzero(wave == wave.max())


def test_a_wrong_frequency_is_corrected_by_the_fit() -> None:
    wave, _ = clipped(2.0, cycles=8.3)
    found = clipfit.fit(wave, 8.3 * 1.004 / 1000 * (np.arange(1000) - 499.5))
    assert 1.004 * (1 + found.frequency_shift) == pytest.approx(1, abs=1e-5)


def test_gradients_are_the_derivatives() -> None:
    wave, _ = clipped(2.0)
    found = clipfit.fit(wave, 0.01 * (np.arange(1000) - 499.5))
    for side in (1, -1):
        of_amplitude, of_level = found.gradients(side)
        for place in range(6):
            moved = found.values.copy()
            moved[place] += 1e-6
            other = clipfit.ClipFit(moved, found.covariance, 0.0, found.fitted, found.sine)
            amplitude = 20 * np.log10(other.amplitude_v / found.amplitude_v) / 1e-6
            level = 20 * np.log10(other.level_v(side) / found.level_v(side)) / 1e-6
            assert amplitude == pytest.approx(of_amplitude[place], abs=1e-4)
            assert level == pytest.approx(of_level[place], abs=1e-4)


def test_the_covariance_is_what_repeated_captures_scatter_by() -> None:
    wave, _ = clipped(1.0, cycles=8.3)
    cycles = 8.3 / 1000 * (np.arange(1000) - 499.5)
    fits = [clipfit.fit(wave + 0.05 * np.random.default_rng(seed).normal(size=1000), cycles) for seed in range(80)]
    levels = np.std([fit.level_v(1) for fit in fits])
    gradient = np.array([0, 0, 0, -1, 1, 0])
    told = np.mean([np.sqrt(gradient @ fit.covariance @ gradient) for fit in fits])
    assert levels == pytest.approx(told, rel=0.25)
