"""The bench's filters in the time domain, held against closed forms and the planner's curves, which share no code."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import signal

from upper_rook.core.common.units import ratio_db
from upper_rook.core.physics.sections import CYCLE, of_band, of_crossover, settled
from upper_rook.core.signal.filters import BandKind, Crossover, EqualiserBand, Pass, Shape

PHASE = 2 * np.pi * np.arange(CYCLE) / CYCLE
HERTZ = st.floats(20, 15_000)


def left_of(hertz: float, sections: tuple[np.ndarray, ...]) -> float:
    """What is left of a sine, as a ratio of RMS."""
    wave = settled(np.sin(PHASE), sections)
    return float(np.sqrt(2 * np.mean(wave**2)))


@st.composite
def crossovers(draw: st.DrawFn) -> Crossover:
    shape = draw(st.sampled_from([Shape.BUTTERWORTH, Shape.LINKWITZ_RILEY, Shape.BESSEL]))
    order = draw(st.integers(1, 4))
    depth = draw(st.sampled_from([None, -3.0, -4.8, -6.0]))
    order = 2 * order if shape is Shape.LINKWITZ_RILEY else order
    return Crossover(kind=draw(st.sampled_from(Pass)), corner_hz=draw(HERTZ), order=order, shape=shape, depth_db=depth)


@given(crossover=crossovers(), hertz=HERTZ)
def test_a_sine_comes_out_of_a_crossover_as_its_response_says(crossover: Crossover, hertz: float) -> None:
    wanted_db = float(crossover.level_db(hertz))
    if wanted_db > -70:
        assert ratio_db(left_of(hertz, of_crossover(crossover, hertz)), 1.0) == pytest.approx(wanted_db, abs=0.02)


@given(q=st.floats(0.4, 3), hertz=HERTZ, kind=st.sampled_from(Pass))
def test_a_chosen_q_rings_at_its_corner(q: float, hertz: float, kind: Pass) -> None:
    crossover = Crossover(kind=kind, corner_hz=hertz, order=2, shape=Shape.CHOSEN_Q, q=q)
    assert left_of(hertz, of_crossover(crossover, hertz)) == pytest.approx(q, rel=0.005)


@given(
    kind=st.sampled_from(BandKind),
    centre=st.floats(30, 16_000),
    gain_db=st.floats(-15, 15),
    q=st.floats(0.3, 8),
    hertz=HERTZ,
)
def test_a_band_lifts_a_sine_as_its_response_says(
    kind: BandKind, centre: float, gain_db: float, q: float, hertz: float
) -> None:
    band = EqualiserBand(kind=kind, frequency_hz=centre, gain_db=gain_db, q=q)
    wanted_db = 20 * np.log10(abs(band.response([hertz])[0]))
    # At the tone itself a processor's own rate is in it, also near half of that.
    assert ratio_db(left_of(hertz, of_band(band, hertz, digital=True)), 1.0) == pytest.approx(wanted_db, abs=0.05)


def test_a_clipped_wave_settles_where_a_long_run_ends() -> None:
    """A high-pass turns flat tops into slopes: a hundred cycles through scipy.signal's own filter end the same."""
    crossover = Crossover(kind=Pass.HIGH, corner_hz=60, order=2)
    clipped = np.clip(np.sin(PHASE), -0.6, 0.6)
    sections = of_crossover(crossover, 40.0)
    once = settled(clipped, sections)
    long = signal.sosfilt(np.stack(sections), np.tile(clipped, 100))[-CYCLE:]
    assert np.max(np.abs(once - long)) < 1e-6
    # RC of the first order, closed form: a square of ± 1 tilts to ± 2/(1 + e^(−T/2RC)) at its edge.
    square = np.where(np.arange(CYCLE) < CYCLE // 2, 1.0, -1.0)
    tilted = settled(square, of_crossover(Crossover(kind=Pass.HIGH, corner_hz=10, order=1), 40.0))
    assert float(tilted.max()) == pytest.approx(2 / (1 + np.exp(-np.pi * 10 / 40)), rel=0.01)
