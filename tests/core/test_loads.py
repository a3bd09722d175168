"""What a channel sees."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.core.helpers import LAYOUTS, a_filter, finding_keys, first_path, with_filters, with_parts
from upper_rook.core.common.errors import Lacking
from upper_rook.core.common.finding import Severity
from upper_rook.core.plan.plan import plan
from upper_rook.core.signal.filters import Pass
from upper_rook.core.system.chain import line_output_pair
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.loads import Driver, Load, Wiring

SHEET = JobSheet(chain=line_output_pair())


def load(count: int, wiring: Wiring, ohms: float = 4.0, watts: float = 50.0) -> Load:
    return Load(id="load", impedance_ohm=ohms, power_w=watts, count=count, wiring=wiring)


@pytest.mark.parametrize(
    ("count", "wiring", "ohms"),
    [
        (1, Wiring.PARALLEL, 4.0),
        (2, Wiring.PARALLEL, 2.0),
        (2, Wiring.SERIES, 8.0),
        (3, Wiring.PARALLEL, 4 / 3),
        (4, Wiring.SERIES_PARALLEL, 4.0),
        (8, Wiring.SERIES_PARALLEL, 2.0),
    ],
)
def test_wirings(count: int, wiring: Wiring, ohms: float) -> None:
    assert load(count, wiring).total_ohm == pytest.approx(ohms)


@given(st.integers(1, 8), st.floats(0.5, 100))
def test_series_times_parallel_is_the_square(count: int, ohms: float) -> None:
    product = load(count, Wiring.SERIES, ohms).total_ohm * load(count, Wiring.PARALLEL, ohms).total_ohm
    assert product == pytest.approx(ohms**2)


@pytest.mark.parametrize("count", [1, 2, 3, 5, 7])
def test_series_parallel_needs_pairs(count: int) -> None:
    with pytest.raises(ValidationError, match="4, 6 or 8"):
        load(count, Wiring.SERIES_PARALLEL)


@pytest.mark.parametrize("ohms", [0, -4, float("inf"), float("nan"), 1e9])
def test_absurd_ohms_are_refused(ohms: float) -> None:
    with pytest.raises(ValidationError):
        load(1, Wiring.SERIES, ohms)


@pytest.mark.parametrize(
    ("coils", "joined", "count", "wiring", "ohms"),
    [
        # Handbook table of one or two speakers with two coils of 4 ohm: 2 or 8, then halved or doubled.
        (2, Wiring.PARALLEL, 1, Wiring.PARALLEL, 2.0),
        (2, Wiring.SERIES, 1, Wiring.PARALLEL, 8.0),
        (2, Wiring.PARALLEL, 2, Wiring.PARALLEL, 1.0),
        (2, Wiring.SERIES, 2, Wiring.PARALLEL, 4.0),
        (2, Wiring.PARALLEL, 2, Wiring.SERIES, 4.0),
        (4, Wiring.SERIES_PARALLEL, 1, Wiring.PARALLEL, 4.0),
    ],
)
def test_coils_are_joined_before_speakers(coils: int, joined: Wiring, count: int, wiring: Wiring, ohms: float) -> None:
    found = Load(id="l", impedance_ohm=4, coils=coils, coil_wiring=joined, power_w=300, count=count, wiring=wiring)
    assert found.total_ohm == pytest.approx(ohms)
    # The watts are a speaker's, not a coil's.
    assert found.total_w == 300 * count


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"coils": 2, "coil_wiring": "series_parallel"}, "4 coils"),
        ({"lowest_hz": 200, "highest_hz": 100}, "must be below the highest"),
        ({"passive_hz": [3000, 400]}, "from the lowest up"),
        ({"passive_hz": [400, 400]}, "each once"),
    ],
)
def test_loads_that_cannot_be_are_told_at_their_field(change: dict[str, object], said: str) -> None:
    with pytest.raises(ValidationError, match=said):
        Load.model_validate({"id": "l", "impedance_ohm": 4, "power_w": 50} | change)


def test_what_is_not_known_is_lacking_and_not_invented() -> None:
    bare = Load(id="l")
    for ask in (lambda: bare.total_ohm, lambda: bare.total_w):
        with pytest.raises(Lacking):
            ask()


@pytest.mark.parametrize(
    ("kind", "corner", "key"),
    [
        # A passive crossover at 3.5 kHz behind the channel.
        (Pass.HIGH, 70.0, None),
        (Pass.HIGH, 2200.0, "near-passive.front"),
        (Pass.HIGH, 5000.0, "starved.front"),
        (Pass.LOW, 3000.0, "starved.front"),
        (Pass.LOW, 6000.0, "near-passive.front"),
        (Pass.LOW, 9000.0, None),
    ],
)
def test_active_filters_against_a_passive_crossover(kind: Pass, corner: float, key: str | None) -> None:
    chain = with_filters(LAYOUTS["two-way"], "front", a_filter(kind, corner))
    found = {finding.key for finding in plan(JobSheet(chain=chain)).crossovers.findings}
    assert found & {"near-passive.front", "starved.front"} == ({key} if key else set())


def test_loudness_is_sensitivity_and_ten_log_of_the_watts() -> None:
    # 88 dB at 1 W and 1 m with 60 W: + 17.8 dB; two speakers in phase add 3 dB, the other side of a pair 6.02 dB
    # (two equal coherent sources).
    pair = line_output_pair()
    for count, loud in ((1, 111.8), (2, 114.8)):
        load = pair.loads[0].model_copy(
            update={"sensitivity_db": 88.0, "count": count, "power_w": 60 / count, "wiring": Wiring.SERIES}
        )
        amplifier = pair.amplifiers[0].model_copy(
            update={"ratings": (pair.amplifiers[0].ratings[0].model_copy(update={"load_ohm": 4.0 * count}),)}
        )
        chain = pair.model_copy(update={"loads": (load,), "amplifiers": (amplifier,)})
        assert plan(JobSheet(chain=chain)).paths[0].loudness.highest_db == pytest.approx(loud, abs=0.05)


def test_unlike_drivers_in_parallel_end_with_the_first_that_has_all_it_takes() -> None:
    # By hand: 8 and 8 ohm in parallel are 4; 100 W at 8 ohm are 28.3 V, 25 W are 14.1 V, which are 50 W into 4 ohm.
    one = Load(id="l", impedance_ohm=8, power_w=100, others=(Driver(impedance_ohm=8, power_w=25),))
    assert one.total_ohm == pytest.approx(4)
    assert one.total_w == pytest.approx(50)
    # Ways behind a passive crossover don't lie in parallel, and the set's watts are the set's.
    ways = one.model_copy(update={"passive_hz": (3500.0,)})
    assert (ways.total_ohm, ways.least_ohm, ways.total_w) == (8, 8, 100)


def test_a_driver_of_unknown_watts_in_the_same_band_is_asked_for() -> None:
    one = Load(id="l", impedance_ohm=8, power_w=100, others=(Driver(name="Coaxial", impedance_ohm=8),))
    with pytest.raises(Lacking, match="rated power of Coaxial"):
        _ = one.total_w


def test_a_tweeter_behind_a_capacitor_can_pull_the_load_below_what_the_amplifier_is_made_for() -> None:
    tweeter = {"name": "Tweeter", "impedance_ohm": 4.0, "series_capacitor_uf": 6.8}
    sheet = with_parts(SHEET, load={"others": [tweeter]}, amplifier={"lowest_load_ohm": 4.0})
    found = finding_keys(sheet)
    assert found["load-too-low-above"] is Severity.STOP
    assert "load-too-low" not in found
    assert "load-too-low-above" not in finding_keys(with_parts(sheet, load={"passive_hz": (3500.0,)}))


def test_a_measured_curve_tells_how_deep_an_impedance_falls_and_where() -> None:
    curve = [{"frequency_hz": hertz, "ohm": ohm} for hertz, ohm in ((20, 30), (150, 2.6), (1000, 4.2))]
    dips = next(
        finding
        for finding in first_path(with_parts(SHEET, load={"impedance_curve": curve})).findings
        if finding.key == "impedance-dips"
    )
    assert "2.6 Ω at 150 Hz" in dips.reason
    with pytest.raises(ValidationError, match="from the lowest frequency up"):
        Load.model_validate({"id": "l", "impedance_curve": curve[::-1]})


@pytest.mark.parametrize(
    ("wiring", "lowest_ohm", "dips"),
    # 80 % of the coils together (IEC 60268-5, from memory): 1.6 ohm of two 4 ohm coils in parallel, 6.4 in series.
    [("parallel", 1.7, False), ("parallel", 1.5, True), ("series", 5.0, True), ("series", 6.5, False)],
)
def test_what_a_speaker_falls_to_is_compared_with_its_coils_as_they_are_joined(
    wiring: str, lowest_ohm: float, dips: bool
) -> None:
    load = {"impedance_ohm": 4.0, "coils": 2, "coil_wiring": wiring, "lowest_ohm": lowest_ohm}
    assert ("impedance-dips" in finding_keys(with_parts(SHEET, load=load))) is dips


@pytest.mark.parametrize(
    ("lowest_ohm", "severity"), [(2.0, Severity.RISK), (4.0, Severity.STOP), (None, Severity.STOP)]
)
def test_a_load_that_the_maker_allows_stops_nothing(lowest_ohm: float | None, severity: Severity) -> None:
    # 3 ohm where the lowest rating is for 4.
    sheet = with_parts(SHEET, load={"impedance_ohm": 3.0}, amplifier={"lowest_load_ohm": lowest_ohm})
    assert finding_keys(sheet)["load-too-low"] is severity
