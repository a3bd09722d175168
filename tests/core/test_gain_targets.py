"""Gain targets and their tones, the stages of the signal chain, depth at a corner, and the input that fits."""

import math

import pytest
from scipy import signal

from tests.core.helpers import LAYOUTS, a_filter, first_path, giving, with_filters, with_parts
from upper_rook.core.crossover.depth import with_depth
from upper_rook.core.plan.plan import plan
from upper_rook.core.plan.stage_levels import Stage
from upper_rook.core.signal.filters import FilterPlace, Pass
from upper_rook.core.system.choices import Choices, DepthMethod, GainMethod
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.processor import ProcessorKind

DB = 20 / math.log(10)


def db(value: float, reference: float) -> float:
    """20·log10(value/reference)."""
    return DB * math.log(value / reference)


def test_the_band_around_a_target_is_half_a_decibel_down_and_a_fifth_up(sheet: JobSheet) -> None:
    target = first_path(sheet).target
    # 60 W into 4 ohm: √240 = 15.49 V (Joule, Ohm); the band is common practice, no source.
    assert target.value == pytest.approx(math.sqrt(240))
    assert db(target.limits.low, target.value) == pytest.approx(-0.5)
    assert db(target.limits.high, target.value) == pytest.approx(0.2)
    assert target.unit == "V"


def test_until_it_clips_goes_on_to_what_the_speakers_take(sheet: JobSheet) -> None:
    # The amplifier's 75 W are the limit of speakers that take 90: √(90·4) = 18.97 V is where to stop at the latest.
    more = with_parts(sheet, load={"power_w": 90}, choices={"gain": GainMethod.CLEAN_WAVE})
    target = first_path(more).target
    assert target.value == pytest.approx(math.sqrt(300))
    assert db(target.limits.high, math.sqrt(360)) == pytest.approx(0.2)
    less = with_parts(sheet, choices={"gain": GainMethod.CLEAN_WAVE})
    assert db(first_path(less).target.limits.high, math.sqrt(240)) == pytest.approx(0.2)


def test_strapped_amplifiers_are_set_to_half_each() -> None:
    path = plan(JobSheet(chain=LAYOUTS["strapped-sub"])).paths[0]
    whole = math.sqrt(path.power_w * path.load_ohm)
    assert path.target.value == pytest.approx(whole / 2)
    assert path.target.limits.low < path.target.value < path.target.limits.high < whole
    assert any("each amplifier gives half of the voltage" in line for line in path.target.because)


def through_a_processor(sheet: JobSheet, **path: object) -> JobSheet:
    chain = sheet.chain.model_dump(mode="json")
    chain["processors"] = [{"id": "dsp", "highest_input": {"volts": 8}, "highest_output_v": 8}]
    chain["paths"][0] |= {"through": ["dsp"]} | path
    return JobSheet.model_validate(sheet.model_dump(mode="json") | {"chain": chain})


BOOST = {"frequency_hz": 2200, "gain_db": 6, "q": 1.4}


def test_the_tone_follows_the_boost_and_habit_says_what_that_costs(sheet: JobSheet) -> None:
    followed = first_path(through_a_processor(sheet, equaliser=[BOOST]))
    # Within a quarter of a decibel of the peak, nearest to the habit.
    assert 1900 < followed.tone.frequency_hz <= 2210
    habit = through_a_processor(with_parts(sheet, choices={"tone": "habit"}), equaliser=[BOOST])
    path = first_path(habit)
    assert path.tone.frequency_hz == 1000
    told = next(finding for finding in path.findings if finding.key == "tone-misses-peak")
    # The Audio EQ Cookbook's peak of 6 dB, Q 1.4, at 2.2 kHz: what it lifts 1 kHz by is lacking from the 6 dB.
    turn, width = 2 * math.pi * 2200 / 48_000, 10 ** (6 / 40)
    alpha = math.sin(turn) / 2.8
    top = [1 + alpha * width, -2 * math.cos(turn), 1 - alpha * width]
    bottom = [1 + alpha / width, -2 * math.cos(turn), 1 - alpha / width]
    lifted_db = db(abs(signal.freqz(top, bottom, [1000], fs=48_000)[1][0]), 1.0)
    assert f"{6 - lifted_db:.1f} dB" in told.title
    assert first_path(with_parts(sheet, choices={"tone": "forty"})).tone.frequency_hz == 40
    assert first_path(with_parts(sheet, choices={"tone": "sweep"})).tone.swept


def test_subs_have_their_own_tone_of_habit(sheet: JobSheet) -> None:
    sub = with_parts(sheet, load={"band": "sub"}, choices={"sub_tone_hz": 63, "tone": "habit"})
    assert first_path(sub).tone.frequency_hz == 63
    full = with_parts(sheet, choices={"full_tone_hz": 400, "tone": "habit", "tone_level_dbfs": -5})
    assert (first_path(full).tone.frequency_hz, first_path(full).tone.level_dbfs) == (400, -5)


def test_stage_levels_show_level_clean_maximum_and_what_is_left(sheet: JobSheet) -> None:
    stage_levels = {level.stage: level for level in first_path(sheet).stage_levels}
    source, amplifier, speakers = (
        stage_levels[Stage.SOURCE],
        stage_levels[Stage.AMPLIFIER],
        stage_levels[Stage.SPEAKERS],
    )
    # dBV: 20·log10 of volts; 75 W and 60 W into 4 ohm.
    assert source.level_dbv == pytest.approx(db(4.0, 1.0))
    assert amplifier.clean_maximum_dbv == pytest.approx(db(math.sqrt(300), 1.0))
    assert speakers.clean_maximum_dbv == pytest.approx(db(math.sqrt(240), 1.0))
    assert amplifier.headroom_db == pytest.approx(db(math.sqrt(300), math.sqrt(240)))
    assert (speakers.headroom_db, speakers.limiting, amplifier.limiting) == (pytest.approx(0), True, False)
    stronger = {level.stage: level for level in first_path(with_parts(sheet, load={"power_w": 90})).stage_levels}
    assert (stronger[Stage.AMPLIFIER].limiting, stronger[Stage.SPEAKERS].limiting) == (True, False)


def test_a_weak_source_is_the_limit_and_the_stage_levels_after_it_stay_below(sheet: JobSheet) -> None:
    stage_levels = {level.stage: level for level in first_path(with_parts(sheet, source=giving(0.1))).stage_levels}
    assert stage_levels[Stage.SOURCE].limiting
    # Fully up the amplifier needs 0.2 V for its 17.3 V: with 0.1 V it gives half of that.
    assert stage_levels[Stage.AMPLIFIER].level_v == pytest.approx(math.sqrt(300) / 2)
    unknown = {level.stage for level in first_path(with_parts(sheet, source=giving(None))).stage_levels}
    assert unknown == {Stage.AMPLIFIER, Stage.SPEAKERS}


@pytest.mark.parametrize(("method", "depth_db"), [(DepthMethod.THREE, -3.0103), (DepthMethod.SIX, -6.0206)])
def test_depth_by_method_holds_for_amplifiers_whose_own_is_not_known(method: DepthMethod, depth_db: float) -> None:
    known, open_, digital = (
        a_filter(Pass.HIGH, 80, depth_db=-4.8),
        a_filter(Pass.HIGH, 80),
        a_filter(Pass.HIGH, 80, place=FilterPlace.PROCESSOR),
    )
    chain = with_filters(LAYOUTS["front"], "front", known, open_, digital)
    depths = [
        channel_filter.crossover.depth_db
        for channel_filter in with_depth(chain, Choices(depth=method)).paths[0].filters
    ]
    assert depths == [-4.8, depth_db, None]
    assert with_depth(chain, Choices()) is chain


def test_the_ratio_at_the_corner_is_that_of_its_depth() -> None:
    chain = with_filters(LAYOUTS["front"], "front", a_filter(Pass.HIGH, 80))
    ratios = {
        method: plan(with_parts(JobSheet(chain=chain), choices={"depth": method})).crossovers.corners[0].ratio
        for method in DepthMethod
    }
    # −3.01 dB is ×0.7071, −6.02 dB is ×0.5 (ISO 80000-3).
    assert ratios[DepthMethod.SHAPE] == ratios[DepthMethod.THREE] == pytest.approx(math.sqrt(0.5), abs=1e-4)
    assert ratios[DepthMethod.SIX] == pytest.approx(0.5, abs=1e-4)


@pytest.mark.parametrize(
    ("volts", "amplifier", "said", "settled"),
    [
        (4.0, {}, "The low-level input fits: 4 V reach it.", True),
        (4.0, {"gain_range": None}, "The range of its low-level input isn’t known; 4 V reach it.", True),
        # 12 V are more than the low level can be set for, 6 V fully down; the high level takes 20 V.
        (12.0, {"high_level_range": {"down_v": 20, "up_v": 1}}, "Use the high-level input: 12 V reach it", False),
        (12.0, {}, "The low-level input doesn’t fit: Fully down it should still be", False),
        (0.1, {}, "The low-level input doesn’t fit: The knob should reach its end", False),
        (None, {}, "Measure the source first", False),
        (4.0, {"highest_input_v": 3.0}, "The low-level input doesn’t fit", False),
    ],
)
def test_which_input_is_advised(
    sheet: JobSheet, volts: float | None, amplifier: dict[str, object], said: str, settled: bool
) -> None:
    advice = first_path(with_parts(sheet, source=giving(volts), amplifier=amplifier)).input_advice
    assert advice.sentence.startswith(said)
    assert advice.settled is settled


def test_a_speaker_lead_goes_to_the_high_level_input_where_there_is_one(sheet: JobSheet) -> None:
    speaker = {"outputs": [{"id": "line", "kind": "speaker", "rated": {"volts": 4}}]}
    bare = first_path(with_parts(sheet, source=speaker)).input_advice
    assert "no ground side: put a converter before it" in bare.sentence
    ranged = {"high_level_range": {"down_v": 20, "up_v": 1}}
    other = first_path(with_parts(sheet, source=speaker, amplifier=ranged)).input_advice
    assert "use the high-level input" in other.sentence


@pytest.mark.parametrize(("method", "volts"), [("1.5", 1.5), ("2", 2.0), ("clean", 5.0)])
def test_converters_are_trimmed_by_method(method: str, volts: float) -> None:
    sheet = with_parts(JobSheet(chain=LAYOUTS["converter"]), choices={"converter_output": method})
    (converter,) = (processor for processor in sheet.chain.processors if processor.kind is ProcessorKind.CONVERTER)
    assert converter.highest_output_v == 5.0
    (trim,) = first_path(sheet).trims
    assert f"to {volts:g} V, left and right alike" in trim.sentence
    stage_level = next(level for level in first_path(sheet).stage_levels if level.stage is Stage.PROCESSOR)
    assert stage_level.level_v == pytest.approx(volts)
