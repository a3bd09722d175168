"""The simulated bench behaves like one."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.signal import butter, lfilter

from tests.core.helpers import LAYOUTS, measured, with_parts
from upper_rook.core.common.units import from_db, ratio_db
from upper_rook.core.physics.bench import BenchModel, BenchState, Probe
from upper_rook.core.physics.data_sheets import network_ohm
from upper_rook.core.physics.meter import MeterModel
from upper_rook.core.physics.scope import ScopeModel, swept
from upper_rook.core.physics.specimen import build
from upper_rook.core.plan.figures import figures
from upper_rook.core.plan.plan import plan
from upper_rook.core.signal.filters import EqualiserBand
from upper_rook.core.signal.tones import Tone
from upper_rook.core.stages.knob import KnobState
from upper_rook.core.stages.levels import levels
from upper_rook.core.system.amplifier import BassKnob, Mode
from upper_rook.core.system.chain import line_output_pair
from upper_rook.core.system.clean_maximum import Basis, CleanMaximum
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.loads import Driver, Load, Wiring
from upper_rook.core.system.source import OutputKind

SHEET = JobSheet(chain=line_output_pair())


def bench(sheet: JobSheet = SHEET, seed: int = 7) -> BenchModel:
    return build(sheet, sheet.chain.paths[0], seed)


def rms(model: BenchModel, **knobs: object) -> float:
    return float(np.sqrt(np.mean(model.cycle(BenchState.model_validate(knobs)) ** 2)))


def flat_fraction(model: BenchModel, **knobs: object) -> float:
    wave = np.abs(model.cycle(BenchState.model_validate(knobs)))
    return float(np.mean(wave > 0.9999 * wave.max()))


def last_clean(model: BenchModel, top_volume: int) -> int:
    return max(number for number in range(1, top_volume + 1) if flat_fraction(model, volume=number) < 0.02)


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


def test_a_measured_impedance_loads_the_rails_by_its_ohms_at_the_tone() -> None:
    curve = [{"frequency_hz": hertz, "ohm": ohm} for hertz, ohm in ((20, 3.2), (1000, 3.2), (8000, 12.8))]
    ratings = [{"power_w": 75, "load_ohm": 4}, {"power_w": 120, "load_ohm": 2}]
    sheet = with_parts(SHEET, load={"impedance_curve": curve}, amplifier={"ratings": ratings})
    model = bench(sheet)

    def top(hertz: float, *, loaded: bool) -> float:
        tone = Tone(frequency_hz=hertz)
        state = BenchState(volume=31, gain=1.0, probe=Probe.LEFT, tone=tone, speakers_on=loaded)
        return float(np.max(np.abs(model.cycle(state))))

    # 0.5353 Ω behind the rails by these two ratings: √(75·4) and √(120·2) lie on E·R/(R + r).
    for hertz, ohm in ((1000, 3.2), (8000, 12.8)):
        assert top(hertz, loaded=True) / top(hertz, loaded=False) == pytest.approx(ohm / (ohm + 0.5353), rel=1e-4)


def test_a_chassis_rated_with_one_channel_gives_less_with_all_of_them() -> None:
    def sags_db(driven: str) -> float:
        ratings = [{"power_w": watts, "load_ohm": ohm, "driven": driven} for watts, ohm in ((75, 4), (120, 2))]
        model = bench(with_parts(SHEET, amplifier={"ratings": ratings}))
        open_v, loaded_v = (
            np.max(np.abs(model.cycle(BenchState(volume=31, gain=1.0, probe=Probe.LEFT, speakers_on=loaded))))
            for loaded in (False, True)
        )
        return ratio_db(float(open_v), float(loaded_v))

    # Two channels: twice the resistance behind the rails.
    assert sags_db("all") == pytest.approx(ratio_db(4 + 0.5353, 4), abs=0.001)
    assert sags_db("one") == pytest.approx(ratio_db(4 + 2 * 0.5353, 4), abs=0.001)


def test_a_bridged_pair_reaches_the_bridged_rating() -> None:
    sheet = with_parts(SHEET, amplifier={"ratings": [{"power_w": 100, "load_ohm": 2}]}, path={"mode": "bridged"})
    clipped = rms(bench(sheet), volume=40, gain=1.0, probe=Probe.BRIDGE, speakers_on=True, supply_v=14.4)
    # 2 × 100 W into 4 ohm is 28.3 V clean; driven to a square it gives up to 3 dB more.
    assert 28.3 < clipped < 28.3 * 1.6


def test_nothing_plays_nothing_shows() -> None:
    assert rms(bench(), volume=30, playing=False) == 0
    assert rms(bench(), volume=0) == 0


def trimmed(model: BenchModel, sheet: JobSheet, line: float) -> dict[str, float]:
    """The trims with which the converter gives what the plan says for so many volts from the source."""
    path = sheet.chain.paths[0]
    planned = levels(sheet.chain, path, line, sheet.choices, turn_down=figures(sheet, path, None).turn_down)
    wanted = next((stage.output_v for stage in planned.stages if stage.wanted_v is not None), None)
    trim = model.through[0].trim if model.through else None
    if wanted is None or trim is None:
        return {}
    return {path.id: (ratio_db(wanted, line) - trim.lowest_db) / (trim.highest_db - trim.lowest_db)}


def test_a_converter_is_down_until_it_is_trimmed() -> None:
    sheet = JobSheet(chain=LAYOUTS["converter"])
    model, down = bench(sheet), {"volume": 20, "probe": Probe.CONVERTER}
    assert rms(model, **down) < 0.1 * rms(model, volume=20)
    assert rms(model, **down, trims={"front": 0.5}) == pytest.approx(rms(model, volume=20), rel=1e-6)
    # Another path through the same converter stands with it until it is trimmed for itself.
    assert rms(model, **down, trims={"elsewhere": 0.5}) == rms(model, **down)


def test_a_processor_shapes_by_frequency_and_clips_at_its_clean_maximum() -> None:
    chain = LAYOUTS["active-three"]
    band = EqualiserBand(frequency_hz=1000, gain_db=6, q=2)
    paths = tuple(path.model_copy(update={"equaliser": (band,)}) for path in chain.paths)
    sheet = JobSheet(chain=chain.model_copy(update={"paths": paths}))
    (stage,) = build(sheet, sheet.chain.paths[1], 3).through
    small = 0.1 * np.sin(2 * np.pi * np.arange(1000) / 1000)
    assert np.max(stage.wave(small, 1000.0)) == pytest.approx(0.1 * from_db(6 - 0.22 - 0.06), rel=0.01)
    # A fourth-order Linkwitz–Riley high-pass at 400 Hz leaves 24.6 dB less an octave below (scipy.signal).
    assert np.max(stage.wave(small, 200.0)) == pytest.approx(0.1 * from_db(-24.6), rel=0.1)
    assert 4.0 < np.max(stage.wave(100 * small, 1000.0)) / np.sqrt(2) < 4.5


BOOSTED = {"boost": {"frequency_hz": 45, "gain_db": 6, "q": 1}}
BANDS = {
    "channel_gain_db": -4,
    "equaliser": [{"frequency_hz": 2200, "gain_db": 5, "q": 1}, {"frequency_hz": 120, "gain_db": -6, "q": 2}],
}


@pytest.mark.parametrize("choices", [{}, {"tone_level_dbfs": -5}, {"tone": "habit"}, {"tone": "forty"}])
@pytest.mark.parametrize(
    ("layout", "path"),
    [*((layout, {}) for layout in LAYOUTS), ("sub", BOOSTED), ("active-two", BANDS), ("strapped-sub", BOOSTED)],
)
def test_a_knob_left_where_the_plan_expects_it_gives_the_target(
    layout: str, path: dict[str, object], choices: dict[str, object]
) -> None:
    chain = LAYOUTS[layout]
    first = chain.paths[0].model_validate(chain.paths[0].model_dump() | path)
    sheet = JobSheet(chain=chain.model_copy(update={"paths": (first, *chain.paths[1:])}))
    sheet = with_parts(sheet, choices=choices)
    model = build(sheet, first, 11)
    clean = last_clean(model, chain.sources[0].top_volume)
    clean_maximum = CleanMaximum(
        volume=clean, voltage_v=rms(model, volume=clean), uncertainty_v=None, basis=Basis.MARKED
    )
    planned = plan(sheet, measured(sheet, clean_maximum)).paths[0]
    # At a stop it is off by as much as was said.
    off_db = {KnobState.FULLY_DOWN: 1, KnobState.SHORT: -1}.get(planned.knob.state, 0) * planned.knob.miss_db
    probe = Probe.BRIDGE if first.mode is Mode.BRIDGED else Probe.LEFT
    # Whatever it is set to, its rails are not what this is about.
    rails = {"rail_peak_v": 10 * model.amplifier.rail_peak_v}
    model = model.model_copy(update={"amplifier": model.amplifier.model_copy(update=rails)})
    trims = trimmed(model, sheet, rms(model, volume=clean))
    knobs = {"volume": clean, "gain": planned.knob.travel, "tone": planned.tone, "supply_v": 14.4, "trims": trims}
    shown = rms(model, probe=probe, **knobs)
    # Between two points of the grid the bench takes a response as straight.
    assert 20 * np.log10(shown / planned.target.value) == pytest.approx(off_db, abs=0.1)


def test_each_path_has_its_own_amplifier_on_the_bench() -> None:
    sheet = JobSheet(chain=LAYOUTS["front-rear-sub"])
    front, sub = (build(sheet, path, 5) for path in (sheet.chain.paths[0], sheet.chain.paths[2]))
    assert sub.amplifier.rated_v > 1.5 * front.amplifier.rated_v
    assert front.source == sub.source


def test_strapped_amplifiers_see_half_of_the_load() -> None:
    sheet = JobSheet(chain=LAYOUTS["strapped-sub"])
    model = bench(sheet)
    assert model.load_ohm == pytest.approx(2)
    planned = plan(sheet).paths[0]
    knob = min(np.linspace(0, 1, 400), key=lambda one: abs(rms(model, volume=30, gain=one, probe=Probe.LEFT) - 44.7))
    assert rms(model, volume=30, gain=float(knob), probe=Probe.LEFT) == pytest.approx(planned.target.value, rel=0.02)


LOADS = st.builds(
    lambda ohm, coils, coil_wiring, count, wiring, others, passive: Load(
        id="l",
        impedance_ohm=ohm,
        power_w=50,
        coils=coils,
        coil_wiring=coil_wiring if coils == 4 or coil_wiring is not Wiring.SERIES_PARALLEL else Wiring.SERIES,
        count=count,
        wiring=wiring if count in (4, 6, 8) or wiring is not Wiring.SERIES_PARALLEL else Wiring.PARALLEL,
        others=tuple(Driver(impedance_ohm=each, series_capacitor_uf=behind) for each, behind in others),
        passive_hz=(3000.0,) if passive else (),
    ),
    st.floats(1, 16),
    st.sampled_from([1, 2, 4]),
    st.sampled_from(Wiring),
    st.integers(1, 8),
    st.sampled_from(Wiring),
    st.lists(st.tuples(st.floats(1, 16), st.sampled_from([None, 6.8])), max_size=2),
    st.booleans(),
)


@given(load=LOADS)
def test_the_bench_and_the_plan_see_the_same_load_by_different_ways(load: Load) -> None:
    assert network_ohm(load) == pytest.approx(load.total_ohm, rel=1e-9)


def test_a_clipped_source_stays_clipped_behind_a_filter_that_rounds_it_off() -> None:
    sheet = JobSheet(chain=LAYOUTS["active-two-sub"])
    model = build(sheet, sheet.chain.paths[-1], 3)
    loud = {"volume": 40, "gain": 0.1, "probe": Probe.LEFT, "tone": Tone(frequency_hz=50)}
    wave = np.abs(np.fft.rfft(model.cycle(BenchState.model_validate(loud))))
    assert float(np.sqrt(np.sum(wave[2:] ** 2)) / wave[1]) < 0.05
    assert model.distortion(BenchState.model_validate(loud)) > 0.2
    assert not model.is_clean(BenchState.model_validate(loud))
    assert model.is_clean(BenchState.model_validate(loud | {"volume": 20}))


def test_an_overdriven_input_clips_before_the_gain() -> None:
    sheet = with_parts(SHEET, amplifier={"highest_input_v": 2.0})
    model = bench(sheet)
    loud = {"volume": 30, "gain": 0.0, "probe": Probe.LEFT}
    assert rms(model, volume=30) > 2.1
    assert bench().is_clean(BenchState.model_validate(loud))
    assert not model.is_clean(BenchState.model_validate(loud))


def test_a_meter_reads_three_decibels_low_at_the_end_of_its_bandwidth() -> None:
    meter = MeterModel(percent=0.0, ranges_v=(60.0,), steps=60_000, true_rms=True, seed=1, bandwidth_hz=5000)
    cycle = 10 * np.sin(2 * np.pi * np.arange(1000) / 1000)
    low, edge = (meter.read(cycle, 1, hertz) for hertz in (50.0, 5000.0))
    assert ratio_db(edge, low) == pytest.approx(-3.0103, abs=0.01)
    # A square's harmonics go first: at a fifth of the bandwidth scipy's Butterworth of first order leaves 0.971.
    square = np.where(np.arange(1000) < 500, 10.0, -10.0)
    numerator, denominator = butter(1, 5000, fs=1_000_000)
    behind = lfilter(numerator, denominator, np.tile(square, 20))[-1000:]
    assert meter.read(square, 1, 1000.0) == pytest.approx(float(np.sqrt(np.mean(behind**2))), rel=0.003)


@pytest.mark.parametrize("peak", [0.05, 1.0, 4.7, 30.0])
def test_the_simulated_scope_fills_its_screen_and_keeps_to_it(peak: float) -> None:
    cycle = peak * np.sin(2 * np.pi * np.arange(1000) / 1000)
    rate, volts = ScopeModel().trace(cycle, 1000.0, seed=4)
    assert rate == pytest.approx(1000 * 2000 / 6.3)
    assert 0.9 * peak < float(np.max(volts)) < 1.15 * peak
    codes = np.unique(volts)
    assert np.ptp(codes) / np.min(np.diff(codes)) > 60
    again = ScopeModel().trace(cycle, 1000.0, seed=4)[1]
    assert np.array_equal(volts, again)


def test_a_boosted_sweep_is_highest_at_its_boost() -> None:
    volts = swept(8.0, 8000.0, 1.0, boost_db=6.0, boost_hz=50.0, clean_maximum_v=1.8)
    assert float(np.max(np.abs(volts))) == 1.8
    # 50 Hz is reached after log(50/20)/log(1000) of the sweep.
    loud = np.flatnonzero(np.abs(volts) == 1.8) / 8000.0
    assert 0.0 < loud.mean() - 8 * np.log(2.5) / np.log(1000) + 0.3 < 0.6


@pytest.mark.parametrize(
    ("peak", "full"), [(0.15, 0.2), (0.4, 0.5), (4.0, 5.0), (9.5, 20.0), (40.0, 50.0), (150.0, 200.0)]
)
def test_the_scope_uses_the_smallest_range_that_holds_the_wave(peak: float, full: float) -> None:
    cycle = peak * np.sin(2 * np.pi * np.arange(1000) / 1000)
    _, volts = ScopeModel(noise_lsb=0.0).trace(cycle, 1000.0, 1)
    codes = np.unique(np.diff(np.unique(volts)).round(9))
    # 8 bit over both signs of the range.
    assert codes.min() == pytest.approx(full / 128)


def test_a_filter_out_of_the_signal_leaves_everything_and_its_dial_is_off_by_little() -> None:
    sheet = JobSheet(chain=LAYOUTS["front-rear"])
    model = build(sheet, sheet.chain.paths[0], 7)
    out = rms(model, volume=20, gain=0.3, probe=Probe.LEFT, tone={"frequency_hz": 80.0})
    (dial,) = model.filters
    assert 0.88 <= dial.off <= 1.12
    # Where its corner really is 80 Hz, 3.01 dB are gone (Butterworth, any order).
    turned = np.log(80 / dial.off / dial.lowest_hz) / np.log(dial.highest_hz / dial.lowest_hz)
    at_corner = rms(model, volume=20, gain=0.3, probe=Probe.LEFT, tone={"frequency_hz": 80.0}, dials=[float(turned)])
    assert at_corner / out == pytest.approx(2**-0.5, rel=1e-6)
    assert rms(model, probe=Probe.SUPPLY, supply_v=12.2) == pytest.approx(12.2)


def test_numbers_reach_the_processor_at_full_scale_and_a_level_knob_takes_its_part() -> None:
    chain = LAYOUTS["active-two"]
    output = chain.sources[0].outputs[0].model_copy(update={"kind": OutputKind.DIGITAL})
    source = chain.sources[0].model_copy(update={"outputs": (output,)})
    quiet = chain.amplifiers[0].model_copy(update={"bass_knob": BassKnob(stands_db=-6.0)})
    # The processor gives 4 V at most, and its filters leave all of 500 Hz.
    knobs = {"volume": 40, "gain": 0.0, "probe": Probe.LEFT, "tone": {"frequency_hz": 500.0}}
    whole = chain.model_copy(update={"sources": (source,)})
    path = whole.paths[0]
    model = build(JobSheet(chain=whole), path, 7)
    assert rms(model, **knobs) / model.amplifier.gain(0.0) == pytest.approx(4.0, rel=2e-3)
    lowered = whole.model_copy(update={"amplifiers": (quiet, *whole.amplifiers[1:])})
    less = rms(build(JobSheet(chain=lowered), path, 7), **knobs)
    assert less / rms(model, **knobs) == pytest.approx(10 ** (-6 / 20), rel=2e-3)
