"""Levels through converters and processors, and the tone they decide."""

from typing import Any

import numpy as np
import pytest
import scipy.signal
from hypothesis import given
from hypothesis import strategies as st

from tests.core.helpers import LAYOUTS, steps_of
from upper_rook.core.common.stated import Stated
from upper_rook.core.physics.specimen import _through
from upper_rook.core.plan.plan import PathPlan, plan
from upper_rook.core.signal.filters import EQUALISER_RATE_HZ, EqualiserBand
from upper_rook.core.signal.grid import GRID_HZ
from upper_rook.core.stages.levels import levels, wrong_by_db
from upper_rook.core.stages.shape import shapes
from upper_rook.core.system.amplifier import Mode
from upper_rook.core.system.chain import Chain, line_output_pair
from upper_rook.core.system.choices import Choices, ConverterOutput
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.processor import Processor, ProcessorKind

SOURCE_V = 4.0


def through(*processors: Processor, gain_db: float = 0.0, bands: tuple[EqualiserBand, ...] = ()) -> Chain:
    chain = line_output_pair()
    path = chain.paths[0].model_copy(
        update={
            "through": tuple(processor.id for processor in processors),
            "channel_gain_db": gain_db,
            "equaliser": bands,
        }
    )
    return chain.model_copy(update={"processors": processors, "paths": (path,)})


def processor(
    key: str = "p", kind: ProcessorKind = ProcessorKind.PROCESSOR, low: float = 5, high: float = 8
) -> Processor:
    return Processor(id=key, kind=kind, highest_input=Stated(volts=low), highest_output_v=high, output_full_scale_v=low)


def input_v(chain: Chain, method: ConverterOutput = ConverterOutput.CLEAN) -> float:
    return levels(chain, chain.paths[0], SOURCE_V, Choices(converter_output=method)).input_v


def path_of(chain: Chain) -> PathPlan:
    return plan(JobSheet(chain=chain)).paths[0]


def test_nothing_on_the_way_changes_nothing() -> None:
    assert input_v(line_output_pair()) == SOURCE_V
    assert input_v(through(processor())) == pytest.approx(SOURCE_V)


@pytest.mark.parametrize(
    ("method", "volts"), [(ConverterOutput.LOW, 1.5), (ConverterOutput.MIDDLE, 2.0), (ConverterOutput.CLEAN, 6.0)]
)
def test_a_converter_is_trimmed_by_method(method: ConverterOutput, volts: float) -> None:
    # As high as clean ends at what the gain control is made for: 6 V at fully down.
    assert input_v(through(processor(kind=ProcessorKind.CONVERTER)), method) == volts


def test_the_composite_is_scipys_and_decides_the_tone() -> None:
    bands = (EqualiserBand(frequency_hz=2200, gain_db=6, q=2), EqualiserBand(frequency_hz=100, gain_db=-4, q=1))
    chain = through(processor(), gain_db=-3.0, bands=bands)
    theirs = np.ones(GRID_HZ.size, dtype=np.complex128)
    for band in bands:
        theirs *= scipy.signal.freqz(*band.biquad(), worN=GRID_HZ, fs=EQUALISER_RATE_HZ)[1]
    expected = 20 * np.log10(np.abs(theirs)) - 3
    assert shapes(chain, Choices())[0].level_db == pytest.approx(expected, abs=0.01)
    found = levels(chain, chain.paths[0], SOURCE_V, Choices())
    assert found.peak_hz == pytest.approx(2200, rel=0.08)
    # The band's own centre lies between two points of the grid, and is looked at all the same.
    at_hz = np.array([2200.0, 1000.0])
    top, at_1k = (
        20 * np.log10(abs(np.prod([scipy.signal.freqz(*b.biquad(), worN=[f], fs=EQUALISER_RATE_HZ)[1] for b in bands])))
        - 3
        for f in at_hz
    )
    assert found.peak_db == pytest.approx(top, abs=0.001)
    assert found.input_v == pytest.approx(SOURCE_V * 10 ** (top / 20), rel=1e-4)
    # A gain set at 1 kHz would be wrong by what the two differ.
    assert wrong_by_db(found, 1000) == pytest.approx(top - at_1k, abs=0.001)
    planned = path_of(chain)
    assert planned.tone.frequency_hz == pytest.approx(found.peak_hz, rel=0.01)
    assert "highest at 2." in planned.tone_because[0]


@pytest.mark.parametrize(
    ("fields", "volts", "gives"),
    [
        # 20 V at the input and 5 V at the output are both full scale: a quarter, 10 V × 5/20.
        ({}, 10.0, 2.5),
        # Trimmed to 10 V at its input it uses all of its range: 6 dB more.
        ({"input_full_scale_v": 10.0}, 10.0, 5.0),
        # More than full scale is cut there, whatever its input takes.
        ({"input_full_scale_v": 10.0}, 15.0, 5.0),
        ({"output_full_scale_v": 4.0}, 10.0, 2.0),
        # While its input isn't known, volts go through as they are.
        ({"highest_input": Stated()}, 2.0, 2.0),
        # A converter has no full scale: its output is trimmed.
        ({"kind": ProcessorKind.CONVERTER}, 10.0, 5.0),
    ],
)
def test_a_processor_gives_full_scale_for_full_scale(fields: dict[str, Any], volts: float, gives: float) -> None:
    made = Processor.model_validate({"id": "p", "highest_input": Stated(volts=20), "highest_output_v": 5.0, **fields})
    chain = through(made)
    assert levels(chain, chain.paths[0], volts, Choices()).input_v == pytest.approx(gives)
    # The bench has it from the data sheet by itself.
    if made.kind is ProcessorKind.PROCESSOR:
        (model,) = _through(chain, chain.paths[0], seed=1)
        wave = np.sqrt(2) * volts * np.sin(2 * np.pi * np.arange(480) / 48)
        assert np.max(model.wave(wave, 1000.0)) == pytest.approx(np.sqrt(2) * gives, rel=0.12)


def test_what_is_overdriven_is_told() -> None:
    keys = {finding.key for finding in path_of(through(processor(low=2))).findings}
    assert "input-over.p" in keys
    boosted = (EqualiserBand(frequency_hz=50, gain_db=12, q=1),)
    keys = {finding.key for finding in path_of(through(processor(high=4), bands=boosted)).findings}
    assert "output-over.p" in keys
    weak = through(processor(kind=ProcessorKind.CONVERTER, high=0.25))
    assert "noise" in {finding.key for finding in path_of(weak).findings}


def test_strapped_amplifiers_show_half_of_the_volts() -> None:
    chain = LAYOUTS["strapped-sub"]
    found = path_of(chain)
    # 2,000 W into 4 ohm are 89.4 V in all, 44.7 V on either amplifier (V = √(P·R)).
    assert found.target.value == pytest.approx(np.sqrt(2000 * 4) / 2)
    assert found.channel_ohm == 2
    assert found.target.value**2 / found.power_ohm == pytest.approx(2000)
    assert "hazardous-live" in {finding.key for finding in found.findings}
    assert chain.paths[0].mode is Mode.STRAPPED
    sheet = JobSheet(chain=chain)
    gain, match = (step for step in steps_of(sheet).values() if step.target)
    assert gain.probe == "on one amplifier’s own output, both strapped together"
    assert match.title.startswith("Check the other amplifier")
    assert "channel" not in f"{gain.probe} {match.probe} {match.name}"


@given(
    st.floats(0.5, 4),
    st.floats(-12, 12),
    st.floats(0.1, 6),
    st.lists(st.tuples(st.floats(20, 20_000), st.floats(-6, 6)), max_size=5),
)
def test_turning_a_gain_up_never_lowers_a_level(
    source: float, gain: float, more: float, bands: list[tuple[float, float]]
) -> None:
    made = tuple(EqualiserBand(frequency_hz=hertz, gain_db=level) for hertz, level in bands)
    before, after = (through(processor(), gain_db=value, bands=made) for value in (gain, gain + more))
    assert levels(after, after.paths[0], source, Choices()).input_v >= (
        levels(before, before.paths[0], source, Choices()).input_v - 1e-12
    )


@given(
    st.floats(0.5, 4),
    st.floats(-12, 12),
    st.lists(st.tuples(st.floats(20, 20_000), st.floats(-6, 6)), max_size=5),
)
def test_splitting_a_chain_in_two_never_changes_its_total(
    source: float, gain: float, bands: list[tuple[float, float]]
) -> None:
    made = tuple(EqualiserBand(frequency_hz=hertz, gain_db=level) for hertz, level in bands)
    parts = [processor(key, low=500, high=500) for key in "ab"]
    whole, halves = (through(*some, gain_db=gain, bands=made) for some in (parts[1:], parts))
    one, two = (levels(chain, chain.paths[0], source, Choices()) for chain in (whole, halves))
    assert two.input_v == pytest.approx(one.input_v)
    assert two.peak_hz == one.peak_hz
    assert len(two.stages) == 2


@given(st.floats(1, 500), st.floats(1, 8))
def test_doubling_the_ohms_at_equal_watts_raises_the_volts_by_3_01_db(power: float, ohms: float) -> None:
    volts = []
    for load in (ohms, 2 * ohms):
        chain = line_output_pair()
        speaker = chain.loads[0].model_copy(update={"impedance_ohm": load, "power_w": power})
        rating = chain.amplifiers[0].ratings[0].model_copy(update={"power_w": 1000.0, "load_ohm": load})
        amplifier = chain.amplifiers[0].model_copy(update={"ratings": (rating,)})
        volts.append(path_of(chain.model_copy(update={"loads": (speaker,), "amplifiers": (amplifier,)})).target.value)
    assert 20 * np.log10(volts[1] / volts[0]) == pytest.approx(3.0103, abs=1e-3)
