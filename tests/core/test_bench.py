"""The simulated bench behaves like one."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_plan import with_parts
from upper_rook.core.chain import JobSheet, line_output_pair
from upper_rook.core.physics.bench import BenchModel, BenchState, Probe, build
from upper_rook.core.tones import Tone
from upper_rook.core.units import from_db

SHEET = JobSheet(chain=line_output_pair())


def bench(sheet: JobSheet = SHEET, seed: int = 7) -> BenchModel:
    return build(sheet, sheet.chain.paths[0], seed)


def rms(model: BenchModel, **knobs: object) -> float:
    return float(np.sqrt(np.mean(model.cycle(BenchState.model_validate(knobs)) ** 2)))


def flat_fraction(model: BenchModel, **knobs: object) -> float:
    wave = np.abs(model.cycle(BenchState.model_validate(knobs)))
    return float(np.mean(wave > 0.9999 * wave.max()))


@given(seed=st.integers(0, 2**32 - 1))
def test_every_bench_has_one_last_clean_number_in_the_usual_place(seed: int) -> None:
    model = bench(seed=seed)
    clean = [number for number in range(1, 41) if flat_fraction(model, volume=number) < 0.02]
    assert clean == list(range(1, max(clean) + 1))
    # 75–85 % of the scale (common practice, no source).
    assert 30 <= max(clean) <= 34


@given(volume=st.integers(1, 39), gain=st.floats(0, 0.99), probe=st.sampled_from([Probe.SOURCE, Probe.LEFT]))
def test_turning_a_knob_up_never_lowers_a_level(volume: int, gain: float, probe: Probe) -> None:
    model = bench()
    here = rms(model, volume=volume, gain=gain, probe=probe)
    assert rms(model, volume=volume + 1, gain=gain, probe=probe) >= here - 1e-9
    assert rms(model, volume=volume, gain=gain + 0.01, probe=probe) >= here - 1e-9


def test_the_tone_level_is_the_output_level_below_clipping() -> None:
    model = bench()
    full = rms(model, volume=20)
    lower = rms(model, volume=20, tone=Tone(frequency_hz=1000, level_dbfs=-10))
    assert lower == pytest.approx(full * from_db(-10))


def test_rails_follow_the_supply_unless_regulated() -> None:
    loud = {"volume": 34, "gain": 0.9, "probe": Probe.LEFT}
    ratio = rms(bench(), **loud, supply_v=14.4) / rms(bench(), **loud, supply_v=12.2)
    # 15–20 % more at running voltage than at rest (common practice, no source).
    assert ratio == pytest.approx(14.4 / 12.2, rel=0.02)
    regulated = bench(with_parts(SHEET, amplifier={"regulated": True}))
    assert rms(regulated, **loud, supply_v=14.4) == rms(regulated, **loud, supply_v=12.2)


def test_a_load_makes_the_rails_sag() -> None:
    loud = {"volume": 34, "gain": 0.9, "probe": Probe.LEFT}
    assert rms(bench(), **loud, speakers_on=True) < rms(bench(), **loud, speakers_on=False)


def test_a_bridged_pair_reaches_the_bridged_rating() -> None:
    sheet = with_parts(SHEET, amplifier={"ratings": [{"power_w": 100, "load_ohm": 2}]}, path={"mode": "bridged"})
    clipped = rms(bench(sheet), volume=40, gain=1.0, probe=Probe.BRIDGE, speakers_on=True, supply_v=14.4)
    # 2 × 100 W into 4 ohm is 28.3 V clean; driven to a square it gives up to 3 dB more.
    assert 28.3 < clipped < 28.3 * 1.6


def test_nothing_plays_nothing_shows() -> None:
    assert rms(bench(), volume=30, playing=False) == 0
    assert rms(bench(), volume=0) == 0
