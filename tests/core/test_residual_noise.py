"""Noise at silent terminals: against hand sums, against noise that scipy filters, and against plans of other sheets."""

import math

import numpy as np
import pytest
import scipy.signal
from hypothesis import given
from hypothesis import strategies as st

from tests.core.helpers import LAYOUTS, giving, with_parts
from upper_rook.core.plan.plan import PathPlan, plan
from upper_rook.core.plan.residual_noise import ResidualNoise
from upper_rook.core.signal.filters import ChannelFilter, Crossover, Pass, Shape
from upper_rook.core.system.job_sheet import JobSheet

FRONT = JobSheet(chain=LAYOUTS["front"])
STATED = {"source": {"signal_to_noise_db": 100}, "amplifier": {"signal_to_noise_db": 90}}
TARGET_V, RATED_V = math.sqrt(60 * 4), math.sqrt(75 * 4)
"""Speakers of 60 W and an amplifier of 75 W, both at 4 ohm."""


def noise_of(sheet: JobSheet) -> ResidualNoise:
    path: PathPlan = plan(sheet).paths[0]
    assert path.noise is not None
    return path.noise


def with_source(volts: float, **more: dict[str, object]) -> JobSheet:
    parts = {key: STATED.get(key, {}) | more.get(key, {}) for key in {*STATED, *more}}
    return with_parts(FRONT, **parts | {"source": parts["source"] | giving(volts)})


@pytest.mark.parametrize("volts", [1.0, 2.0, 4.0])
def test_source_and_amplifier_add_their_powers(volts: float) -> None:
    found = noise_of(with_source(volts))
    # Its scale says that 6 V in give the rated volts out with the gain fully down.
    gain, down = TARGET_V / volts, RATED_V / 6
    source_v, amplifier_v = volts * 1e-5 * gain, RATED_V * 10**-4.5 * gain / down
    assert [part.noise_v for part in found.parts] == pytest.approx([source_v, amplifier_v])
    assert found.noise_v == pytest.approx(math.hypot(source_v, amplifier_v))
    more = math.hypot(source_v, amplifier_v * volts / (volts + 2)) if volts + 2 <= 6 * TARGET_V / RATED_V else None
    if more:
        assert found.more_takes_db == pytest.approx(20 * math.log10(found.noise_v / more))


def test_the_volts_from_which_more_dont_matter_by_hand() -> None:
    # Source 100 dB below 1 V, amplifier 90 dB below 17.3 V; fully down its gain is reached at 6 V × √(60/75).
    own_v, bottom_v = TARGET_V * 1e-5, 6 * TARGET_V / RATED_V

    def by_hand(volts: float) -> float:
        gain = TARGET_V / min(volts, bottom_v)
        return math.hypot(volts * 1e-5 * gain, RATED_V * 10**-4.5 * gain * 6 / RATED_V)

    tried = [2 ** (half / 2) for half in range(9)]
    least = min(by_hand(volts) for volts in tried)
    expected = next(volts for volts in tried if 20 * math.log10(by_hand(volts) / least) < 1)
    assert by_hand(1.0) > own_v
    assert noise_of(with_source(1.0)).enough_v == pytest.approx(expected)


def test_a_ratio_at_one_watt_refers_to_two_volts() -> None:
    at_one_watt = with_source(4.0, amplifier={"signal_to_noise_at": "one_watt"})
    (_, rated), (_, one_watt) = noise_of(with_source(4.0)).parts, noise_of(at_one_watt).parts
    assert one_watt.noise_v / rated.noise_v == pytest.approx(2 / RATED_V)


def test_filters_take_noise_as_scipys_do() -> None:
    low = Crossover(kind=Pass.LOW, corner_hz=80, order=4, shape=Shape.BUTTERWORTH)
    chain = FRONT.chain.paths[0].model_copy(update={"filters": (ChannelFilter(crossover=low),)})
    sheet = with_source(4.0, amplifier={"signal_to_noise_db": 150})
    sheet = sheet.model_copy(update={"chain": sheet.chain.model_copy(update={"paths": (chain,)})})
    rate, dice = 48_000, np.random.default_rng(5)
    white = dice.normal(size=40 * rate)
    edges = scipy.signal.butter(8, [20, 20_000], "bandpass", fs=rate, output="sos")
    heard = scipy.signal.sosfilt(edges, white)
    filtered = scipy.signal.sosfilt(scipy.signal.butter(4, 80, fs=rate, output="sos"), heard)
    open_v = noise_of(with_source(4.0, amplifier={"signal_to_noise_db": 150})).noise_v
    assert noise_of(sheet).noise_v / open_v == pytest.approx(float(np.std(filtered) / np.std(heard)), rel=0.05)


@given(st.floats(0.5, 3.5), st.floats(60, 120), st.floats(60, 120))
def test_what_two_more_volts_take_is_what_the_plan_of_that_source_says(volts: float, source: float, own: float) -> None:
    parts = {"source": {"signal_to_noise_db": source}, "amplifier": {"signal_to_noise_db": own}}
    now, then = (noise_of(with_source(each, **parts)) for each in (volts, volts + 2))
    # The speaker's watts decide the gain, so that both sheets have the same target.
    assert now.more_takes_db == pytest.approx(20 * math.log10(now.noise_v / then.noise_v), abs=1e-6)
    enough = noise_of(with_source(now.enough_v, **parts))
    assert 20 * math.log10(enough.noise_v / noise_of(with_source(2 * now.enough_v, **parts)).noise_v) < 1.01


def test_nothing_is_said_where_volts_or_scale_are_missing() -> None:
    bare = with_parts(FRONT, amplifier={"gain_range": None})
    assert plan(bare).paths[0].noise is None
    unknown = with_parts(FRONT, source=giving(None))
    assert all(path.noise is None for path in plan(unknown).paths)


def test_loudness_of_the_noise_is_told_with_a_sensitivity() -> None:
    found = noise_of(with_parts(FRONT, load={"sensitivity_db": 90}))
    assert found.spl_db == pytest.approx(90 + 10 * math.log10(found.noise_v**2 / 4))
    assert "heard" in found.sentence
    assert all("usual" in line for line in found.because)
