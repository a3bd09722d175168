"""The clean maximum from meter readings alone."""

from collections import Counter
from collections.abc import Callable

import numpy as np
import pytest
import scipy.optimize
import scipy.special
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.volume_step_families import KINDS, made
from upper_rook.core.common.errors import BadInput
from upper_rook.core.judge.volume_steps import judge_volume_steps
from upper_rook.core.judge.volume_steps_laws import VolumeLaw
from upper_rook.core.judge.volume_steps_report import VolumeReading, VolumeStepsReport
from upper_rook.core.signal import clipped_sine


def volume_readings(
    step_db: float = 1.0,
    clean: float = 27.4,
    numbers: range = range(18, 34),
    clean_maximum: float = 4.0,
    *,
    uneven: float = 0.0,
    noise: float = 0.0,
    seed: int = 0,
    average: bool = False,
) -> tuple[list[VolumeReading], int | None]:
    """(readings of a source whose clean maximum lies at `clean`, the clean maximum)."""
    dice = np.random.default_rng(seed)
    volumes = np.array(numbers)
    drive = step_db * (volumes - clean) + dice.uniform(-uneven, uneven, volumes.size)
    over = np.maximum(0, drive)
    level = np.where(drive > 0, clipped_sine.rms_above_db(over), drive)
    volts = clean_maximum * 10 ** (level / 20) * (1 + noise * dice.normal(size=volumes.size))
    second = volts * 10 ** (clipped_sine.average_meter_db(over) / 20) * (1 + 0.002 * dice.normal(size=volumes.size))
    below = volumes[drive <= 0]
    made = [
        VolumeReading(volume=float(number), voltage_v=round(float(one), 3), average_v=float(other) if average else None)
        for number, one, other in zip(volumes, volts, second, strict=True)
    ]
    return made, int(below[-1]) if below.size else None


def judged(made: list[VolumeReading], top: int | None = None) -> VolumeStepsReport:
    return judge_volume_steps(made, top).report


@pytest.mark.parametrize("step_db", [0.5, 1.0, 2.0, 3.0])
def test_an_even_volume_steps_gives_number_and_volts(step_db: float) -> None:
    made, truth = volume_readings(step_db, numbers=range(15, 36))
    found = judged(made)
    assert (found.verdict, found.clean_volume) == ("found", truth)
    assert found.clean_v_rms == pytest.approx(4.0, rel=0.02)
    assert found.uncertainty_db is not None
    assert abs(20 * np.log10((found.clean_v_rms or 1) / 4)) <= found.uncertainty_db


@pytest.mark.parametrize("seeds", [25, pytest.param(100, marks=pytest.mark.deep)])
def test_good_readings_are_found_and_never_more_than_one_off(seeds: int) -> None:
    dice = np.random.default_rng(4)
    counted: Counter[str] = Counter()
    for seed in range(seeds):
        clean = dice.uniform(24, 29)
        made, truth = volume_readings(dice.uniform(0.8, 3), clean, uneven=0.1, noise=0.004, seed=seed)
        # People skip numbers.
        kept = [reading for reading in made if dice.random() > 0.1]
        found = judged(kept)
        if found.clean_volume is None or truth is None:
            counted["told nothing"] += 1
            continue
        assert abs(found.clean_volume - truth) <= 1, (seed, truth, found)
        counted["exact" if found.clean_volume == truth else "one off"] += 1
    assert counted["told nothing"] <= 0.05 * seeds
    assert counted["exact"] >= 0.85 * seeds


def _of(bend: Callable[[np.ndarray], np.ndarray], drives: np.ndarray, *, average: bool) -> np.ndarray:
    """What a meter shows of a sine through `bend` at each drive, dB above where its distortion reaches 1 %."""
    sine = np.sin(2 * np.pi * np.arange(2048) / 2048)

    def thd(drive: float) -> float:
        bins = np.abs(np.fft.rfft(bend(drive * sine)))
        return float(np.sqrt(np.sum(bins[2:] ** 2)) / bins[1]) - 0.01

    clean_maximum = scipy.optimize.brentq(thd, 0.01, 1.6)
    waves = bend(clean_maximum * 10 ** (drives[:, None] / 20) * sine)
    shown = np.pi / (2 * np.sqrt(2)) * np.mean(np.abs(waves), axis=1) if average else waves.std(axis=1)
    return np.asarray(shown)


# Limiters whose curves are none of those that volume steps are fitted with.
UNKNOWN_LAWS: dict[str, Callable[[np.ndarray], np.ndarray]] = {
    "error function": scipy.special.erf,
    "folded sine": lambda drive: np.sin(np.clip(drive, -np.pi / 2, np.pi / 2)),
    "root": lambda drive: drive / np.sqrt(1 + drive**2),
    "hard knee": lambda drive: drive / (1 + drive**8) ** (1 / 8),
    "two slopes": lambda drive: np.where(np.abs(drive) < 1, drive, np.sign(drive) * (1 + 0.1 * (np.abs(drive) - 1))),
}


@pytest.mark.parametrize("average", [False, True])
@pytest.mark.parametrize("law", UNKNOWN_LAWS)
@pytest.mark.parametrize("tries", [6, pytest.param(60, marks=pytest.mark.deep)])
def test_a_soft_clean_maximum_is_never_found_too_high(law: str, average: bool, tries: int) -> None:
    dice = np.random.default_rng(3)
    for _ in range(tries):
        numbers, clean = np.arange(18, 34), dice.uniform(24, 29)
        drives = dice.uniform(0.8, 3) * (numbers - clean) + dice.uniform(-0.1, 0.1, numbers.size)
        shown = _of(UNKNOWN_LAWS[law], drives, average=average)
        shown = 4 * shown * (1 + 0.004 * dice.normal(size=numbers.size))
        found = judged(
            [
                VolumeReading(volume=float(number), voltage_v=float(one), averaging=average)
                for number, one in zip(numbers, shown, strict=True)
            ]
        )
        truth = int(numbers[drives <= 0][-1])
        assert found.clean_volume is None or found.clean_volume <= truth + 1


def test_an_average_responding_meter_alone_finds_a_hard_clean_maximum() -> None:
    dice, told = np.random.default_rng(5), 0
    for _ in range(24):
        numbers, clean = np.arange(18, 34), dice.uniform(24, 29)
        drives = dice.uniform(0.8, 3) * (numbers - clean) + dice.uniform(-0.1, 0.1, numbers.size)
        wave = np.clip(10 ** (drives[:, None] / 20) * np.sin(2 * np.pi * (np.arange(2048) + 0.5) / 2048), -1, 1)
        # Calibrated for sines, it shows π/(2√2) of the mean absolute value.
        shown = 4 * np.pi / (2 * np.sqrt(2)) * np.abs(wave).mean(axis=1) * (1 + 0.004 * dice.normal(size=numbers.size))
        made = zip(numbers, shown, strict=True)
        found = judged([VolumeReading(volume=float(at), voltage_v=float(one), averaging=True) for at, one in made])
        truth = int(numbers[drives <= 0][-1])
        told += found.clean_volume is not None
        assert found.clean_volume is None or abs(found.clean_volume - truth) <= 1
    assert told >= 18


def test_a_limiter_that_holds_the_level_is_found_where_it_begins() -> None:
    dice, exact = np.random.default_rng(8), 0
    for _ in range(24):
        numbers, clean = np.arange(18, 34), dice.uniform(24, 29)
        drives = dice.uniform(0.8, 3) * (numbers - clean) + dice.uniform(-0.1, 0.1, numbers.size)
        shown = 4 * 10 ** (np.minimum(drives, 0) / 20) * (1 + 0.004 * dice.normal(size=numbers.size))
        found = judged(
            [VolumeReading(volume=float(a), voltage_v=float(b)) for a, b in zip(numbers, shown, strict=True)]
        )
        truth = int(numbers[drives <= 0][-1])
        assert found.clean_volume is None or abs(found.clean_volume - truth) <= 1
        exact += found.clean_volume == truth
    assert exact >= 18


@pytest.mark.parametrize("seeds", [15, pytest.param(60, marks=pytest.mark.deep)])
@pytest.mark.parametrize(("uneven", "noise"), [(0.2, 0.01), (0.7, 0.01), (0.1, 0.04)])
def test_bad_readings_are_refused_rather_than_missed(uneven: float, noise: float, seeds: int) -> None:
    dice = np.random.default_rng(11)
    refused = 0
    for seed in range(seeds):
        made, truth = volume_readings(dice.uniform(0.5, 3), dice.uniform(24, 31), uneven=uneven, noise=noise, seed=seed)
        found = judged(made)
        if found.clean_volume is None:
            refused += 1
            assert found.verdict in ("bounded", "cannot_tell", "not_reached")
            if found.surely_volume is not None and truth is not None:
                assert found.surely_volume <= truth + 1, (seed, truth, found)
        elif truth is not None:
            assert abs(found.clean_volume - truth) <= 1, (seed, truth, found)
    assert refused > 0


def test_a_line_that_never_bends() -> None:
    made, _ = volume_readings(clean=40, uneven=0.05, noise=0.003)
    found = judge_volume_steps(made, top_volume=40)
    assert found.report.verdict == "not_reached"
    assert found.next_volumes == (34, 35)
    assert "34 and 35" in found.report.reasons[1]
    assert judged(made, top=33).reasons[1].startswith("33 is the top of the scale")


def test_a_bend_at_the_very_end_asks_for_two_more_numbers() -> None:
    made, _ = volume_readings(0.7, clean=32.2, uneven=0.08, noise=0.003, seed=2)
    found = judge_volume_steps(made, top_volume=40)
    assert found.report.verdict in ("cannot_tell", "not_reached")
    assert found.next_volumes == (34, 35)


def test_a_volume_steps_that_starts_too_high_is_sent_lower() -> None:
    made, _ = volume_readings(clean=16.0)
    found = judged(made)
    assert found.verdict == "cannot_tell"
    assert "lower" in found.reasons[1]


def test_a_limiter_is_recognised() -> None:
    volts = [1.0, 1.12, 1.26, 1.41, 1.58, 1.78, 2.0, 1.7]
    made = [VolumeReading(volume=20 + place, voltage_v=value) for place, value in enumerate(volts)]
    found = judged(made)
    assert (found.verdict, found.clean_volume, found.clean_v_rms) == ("found", 26, 2.0)
    assert "limiter" in found.reasons[0]
    skipped = judge_volume_steps([*made[:-1], VolumeReading(volume=29, voltage_v=1.7)])
    assert (skipped.report.verdict, skipped.next_volumes) == ("cannot_tell", (27, 28))


def test_a_slip_of_the_hand_does_not_decide() -> None:
    made, truth = volume_readings(noise=0.002)
    made[4] = made[4].model_copy(update={"voltage_v": made[4].voltage_v * 1.3})
    found = judged(made)
    assert found.clean_volume is None or found.clean_volume == truth


def test_a_second_meter_that_averages_is_a_witness() -> None:
    alone, truth = volume_readings(0.5, clean=29.3, uneven=0.1, noise=0.004, seed=8)
    together, _ = volume_readings(0.5, clean=29.3, uneven=0.1, noise=0.004, seed=8, average=True)
    volume_steps_report, both = judged(alone), judged(together)
    assert both.verdict == "found"
    assert abs((both.clean_volume or 0) - (truth or 0)) <= 1
    assert any("two meters" in reason for reason in both.reasons)
    assert (
        volume_steps_report.uncertainty_db is None
        or (both.uncertainty_db or 9) <= volume_steps_report.uncertainty_db + 0.05
    )


def test_too_few_numbers_and_none() -> None:
    assert judged(volume_readings()[0][:4]).verdict == "cannot_tell"
    with pytest.raises(BadInput, match="No readings"):
        judge_volume_steps([])
    with pytest.raises(BadInput, match="at most"):
        judge_volume_steps([VolumeReading(volume=number / 10, voltage_v=1.0) for number in range(201)])


@settings(max_examples=40)
@given(st.lists(st.tuples(st.integers(0, 60), st.floats(1e-3, 900)), min_size=1, max_size=25))
def test_any_readings_get_an_answer(pairs: list[tuple[int, float]]) -> None:
    found = judge_volume_steps([VolumeReading(volume=number, voltage_v=volts) for number, volts in pairs]).report
    assert found.reasons
    assert (found.clean_volume is None) == (found.verdict != "found")


@given(st.floats(0.01, 50), st.integers(-10, 40))
def test_neither_the_volts_scale_nor_the_numbers_matter(scale: float, shift: int) -> None:
    made, truth = volume_readings(2.0, clean=27.5, noise=0.003)
    moved = [VolumeReading(volume=reading.volume + shift, voltage_v=reading.voltage_v * scale) for reading in made]
    found = judged(moved)
    assert found.clean_volume == (truth or 0) + shift
    assert found.clean_v_rms == pytest.approx(4 * scale, rel=0.02)


def test_a_voltage_that_falls_and_then_goes_on_rising_is_no_limiter() -> None:
    even = [round(1.122**place, 3) for place in range(12)]
    slipped = [volts * (0.7 if place >= 7 else 1.0) for place, volts in enumerate(even)]
    held = [volts if place < 7 else even[6] * 0.8 for place, volts in enumerate(even)]
    told = [
        judged([VolumeReading(volume=20 + place, voltage_v=value) for place, value in enumerate(volts)]).reasons
        for volts in (slipped, held)
    ]
    assert ["limiter" in " ".join(reasons) for reasons in told] == [False, True]


def test_volume_steps_of_every_kind_are_answered_or_bounded_and_never_high_unsaid() -> None:
    answered, total = 0, 0
    for kind in KINDS:
        for seed in range(3):
            steps = made(kind, seed)
            pairs = zip(steps.numbers, steps.volts, strict=True)
            found = judged([VolumeReading(volume=number, voltage_v=volts) for number, volts in pairs])
            total += 1
            answered += found.usable_volume is not None
            if found.surely_volume is not None:
                assert found.surely_volume <= steps.clean, (kind, seed, found)
            if found.clean_volume is not None and found.clean_volume != steps.clean:
                assert abs(found.clean_volume - steps.clean) == 1, (kind, seed, found)
                # Its doubt names the right one.
                assert f"{steps.clean} is possible" in found.reasons[1], (kind, seed, found)
    # 92 % of 560.
    assert answered >= 0.78 * total


@pytest.mark.parametrize("place", [2, 7, 13])
def test_one_wrong_digit_is_found_left_out_and_asked_for(place: int) -> None:
    readings, truth = volume_readings(noise=0.003, uneven=0.05, seed=5)
    right = readings[place].voltage_v
    readings[place] = readings[place].model_copy(update={"voltage_v": round(right * 1.3, 3)})
    found = judge_volume_steps(readings)
    assert found.report.odd is not None
    assert found.report.odd.volume == readings[place].volume
    assert found.report.odd.expected_v == pytest.approx(right, rel=0.05)
    assert found.next_volumes[0] == readings[place].volume
    assert f"read {readings[place].volume:g} again" in found.report.reasons[-1]
    assert found.report.usable_volume is not None
    assert abs(found.report.usable_volume - (truth or 0)) <= 1
    assert found.line_db is not None
    assert found.line_db.size == len(readings)


def test_a_bend_or_a_limiter_is_no_wrong_digit() -> None:
    for kind in ("even", "wide", "falls", "holds", "linear"):
        for seed in range(3):
            steps = made(kind, seed)
            pairs = zip(steps.numbers, steps.volts, strict=True)
            assert judged([VolumeReading(volume=number, voltage_v=volts) for number, volts in pairs]).odd is None


def test_the_highest_number_of_a_limited_source_is_no_wrong_digit() -> None:
    # By hand: a decibel a number up to 26, then a limiter half a decibel lower.
    volts = [10 ** ((number - 26) / 20) * 2 for number in range(18, 27)] + [10 ** (-0.5 / 20) * 2]
    found = judged([VolumeReading(volume=18 + place, voltage_v=round(value, 3)) for place, value in enumerate(volts)])
    assert (found.odd, found.clean_volume) == (None, 26)


def test_a_linear_control_is_a_power_of_the_number() -> None:
    # By definition: volts that grow as the number does, 3 V at 30.
    numbers, places = np.arange(10.0, 40.0), np.array([30.0])
    drive = 20 / np.log(10) / 30 * VolumeLaw.POWER.distance(numbers, places)[0]
    assert 3 * 10 ** (drive / 20) == pytest.approx(numbers / 10)
