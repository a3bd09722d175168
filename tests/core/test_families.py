"""The judge on waves as they arrive: no faults, no clean wave called clipped, clean maxima where there are any."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as arrays

from tests.core.families import FAMILIES, taken
from tests.core.waves import clipped, digitised, sine, trace
from upper_rook.core.common.errors import BadInput
from upper_rook.core.judge.examination import examine_wave
from upper_rook.core.judge.wave import judge
from upper_rook.core.judge.wave_report import Judgement, Verdict
from upper_rook.core.signal.trace import Trace

EACH = 3
CUT = {Verdict.CLIPPED, Verdict.EDGE, Verdict.SQUARE}
# Few samples a cycle leave little to tell a filter's work from an instrument's.
# Families that no capture of this kind can tell.
BLIND = {"third harmonic beyond the band, clipped"}
HARD = {"exactly 8 samples a cycle, clipped", "two and a half cycles, clipped", "soft knee, p 2 to 4"}


def judged(name: str, number: int) -> tuple[Judgement, float, float | None, bool]:
    dice = np.random.default_rng([number, 77, *name.encode()])
    wave, shot = FAMILIES[name](dice)
    found = judge(Trace(volts=taken(wave, shot, dice), rate_hz=48_000.0))
    return found, wave.over_db, wave.clean_v, wave.screen


@pytest.mark.parametrize("name", FAMILIES)
def test_a_family(name: str) -> None:
    rows = [judged(name, number) for number in range(EACH)]
    for found, over_db, clean_v, screen in rows:
        verdict = found.report.verdict
        if screen:
            assert verdict is Verdict.OVER_RANGE
        elif over_db < 0:
            assert verdict not in CUT
        elif over_db >= 0.7 and name not in HARD:
            assert verdict is not Verdict.CLEAN
        if verdict in CUT and clean_v and found.report.clean_v_rms and name not in HARD:
            # Within three times what is stated, for every single one; a hard knee and a corner can't be told apart.
            near = (0.03 if name.startswith("soft") else 0.005) * clean_v
            assert abs(found.report.clean_v_rms - clean_v) <= 1.5 * (found.clean_v_uncertainty or 0) + near
    if name in BLIND:
        assert {found.report.verdict for found, *_ in rows} == {Verdict.UNSEEN}
    elif name.endswith("clipped") and name not in HARD:
        assert sum(found.report.verdict in CUT for found, over_db, *_ in rows if over_db > 0.7) >= EACH // 2


def test_what_bends_a_clipped_wave_is_named() -> None:
    dice = np.random.default_rng(3)
    wave, shot = FAMILIES["AC coupled (first-order high-pass), clipped"](dice)
    found = judge(Trace(volts=taken(wave, shot, dice), rate_hz=48_000.0)).report
    assert "before it was filtered" in found.reasons[0]
    assert any("AC coupling" in reason for reason in found.reasons)


def test_a_deep_memory_is_judged_as_its_first_thousands_would_be() -> None:
    deep, hertz = clipped(2.0, count=600_000, cycles=7.3)
    found = judge(trace(digitised(deep, bits=8)))
    assert found.report.verdict is Verdict.CLIPPED
    assert found.report.over_db == pytest.approx(2.0, abs=0.02)
    assert found.report.frequency_hz == pytest.approx(hertz, rel=1e-4)
    assert found.part.stop <= 600_000
    (channel,) = examine_wave([trace(digitised(deep, bits=8))]).channels
    assert channel.samples == 600_000
    # Some four cycles are drawn, with the sine behind them.
    assert len(channel.drawing.volts) == len(channel.drawing.sine)


def test_glitches_and_dropouts_are_counted() -> None:
    volts = digitised(sine(count=1500, cycles=11.0)[0])
    volts[[200, 700]] = 9.0
    found = judge(trace(volts)).report
    assert found.verdict is Verdict.CLEAN
    assert any(reason.startswith("2 samples far off the wave") for reason in found.reasons)


def test_lines_between_samples_are_seen_through() -> None:
    few = clipped(1.5, count=240, cycles=6.1)[0]
    drawn = np.interp(np.arange(955) / 4, np.arange(240), few)
    found = judge(trace(drawn)).report
    assert any(reason.startswith("Lines were drawn") for reason in found.reasons)
    assert found.over_db == pytest.approx(1.5, abs=0.02)


def test_a_triangle_is_no_polygon_of_samples() -> None:
    wave = 2 * np.abs(np.arange(1000) / 20 % 1 - 0.5) - 0.5
    found = judge(trace(wave)).report
    assert found.verdict is not Verdict.TOO_SHORT
    assert not any("Lines were drawn" in reason for reason in found.reasons)


@given(
    volts=st.one_of(
        arrays.arrays(np.float64, st.integers(1, 400), elements=st.floats(-1e300, 1e300)),
        arrays.arrays(np.float64, st.integers(40, 3000), elements=st.sampled_from([-3.0, 0.0, 3.0])),
        arrays.arrays(np.float64, st.integers(40, 400), elements=st.floats(-5, 5, width=16)),
    )
)
def test_whatever_comes_the_answer_is_a_verdict_or_a_sentence(volts: np.ndarray) -> None:
    try:
        found = judge(trace(volts)).report
    except BadInput:
        return
    assert found.verdict in Verdict
    assert found.over_db is None or np.isfinite(found.over_db)


@given(
    low=st.floats(-0.2, 3),
    duty=st.floats(0.02, 0.98),
    cycles=st.floats(2.3, 60),
    count=st.integers(200, 3000),
    noise=st.sampled_from([0.0, 1e-3, 0.05]),
)
def test_squares_of_any_duty_are_answered(low: float, duty: float, cycles: float, count: int, noise: float) -> None:
    wave = np.where(np.arange(count) * cycles / count % 1 < duty, 3.0, low)
    dice = np.random.default_rng(count)
    assert judge(trace(wave + noise * dice.normal(size=count))).report.verdict in Verdict


@pytest.mark.parametrize("name", ["music", "speech"])
def test_what_is_no_tone_is_never_judged_as_one(name: str) -> None:
    assert {judged(name, number)[0].report.verdict for number in range(8)} == {Verdict.NOT_A_TONE}


def test_a_drift_of_frequency_is_evened_out_and_said() -> None:
    turns = 12 * np.arange(2000) / 2000
    drifting = turns + 0.2 * (turns / 6 - 1) ** 2
    found = judge(trace(digitised(np.clip(1.2 * np.sin(2 * np.pi * drifting), -1, 1)))).report
    assert found.over_db == pytest.approx(20 * np.log10(1.2), abs=0.05)
    assert any("frequency drifts" in reason for reason in found.reasons)


def test_hum_on_a_harmonic_is_told_beside_the_clipping() -> None:
    turns = 2 * np.pi * 10 * np.arange(3000) / 3000
    cut = np.clip(1.1 * np.sin(turns), -1, 1) + 0.02 * np.sin(2 * turns + 0.7)
    found = judge(trace(digitised(cut, bits=10)))
    assert found.report.verdict is Verdict.CLIPPED
    assert any("2 times its frequency" in reason for reason in found.report.reasons)
    assert abs((found.report.clean_v_rms or 0) - 1 / np.sqrt(2)) <= (found.clean_v_uncertainty or 0)
