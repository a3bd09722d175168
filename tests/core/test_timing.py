"""Delay and distance in the sums, against responses that scipy.signal makes and roots that scipy.optimize finds."""

from typing import Any

import numpy as np
import pytest
import scipy.optimize
import scipy.signal
from hypothesis import given
from hypothesis import strategies as st

from tests.core.helpers import LAYOUTS
from tests.core.test_groups import HERTZ, found, two_way
from upper_rook.core.common.finding import Severity
from upper_rook.core.signal.filters import ChannelFilter, Crossover, FilterPlace, Pass, Shape
from upper_rook.core.system.chain import Chain

LR4 = two_way(4, Shape.LINKWITZ_RILEY)


def with_paths(chain: Chain, **changes: dict[str, Any]) -> Chain:
    """`chain` with fields of some paths changed, by their ids."""
    paths = tuple(type(path).model_validate(path.model_dump() | changes.get(path.id, {})) for path in chain.paths)
    return chain.model_copy(update={"paths": paths})


def kinds(chain: Chain) -> set[str]:
    return {finding.kind.value for finding in found(chain).findings}


SOUND_M_S = 343.2
"""331.3·√(1 + 20/273.15), ISO 9613-1."""
WOOFER, TWEETER = (path.id for path in LR4.paths)


@pytest.mark.parametrize("delay_ms", [0.0, 2.0, 5.0, 9.7])
@pytest.mark.parametrize("distance_cm", [None, 120.0])
def test_a_delay_common_to_all_changes_no_sum(delay_ms: float, distance_cm: float | None) -> None:
    same = {"delay_ms": delay_ms, "distance_cm": distance_cm}
    (group,) = found(with_paths(LR4, **{WOOFER: same, TWEETER: same})).groups
    # Two Linkwitz–Riley ways of fourth order are 6.02 dB down where they meet, and flat together (Linkwitz 1976).
    (crossing,) = group.crossings
    assert (crossing.alone_db, crossing.sum_db) == pytest.approx((-6.02, 0.0), abs=0.02)
    assert max(map(abs, group.level_db)) < 0.01


def test_delay_alone_is_left_out_and_said_to_be() -> None:
    late = with_paths(LR4, **{TWEETER: {"delay_ms": 0.147}})
    crossovers = found(late)
    assert crossovers.groups == found(LR4).groups
    assert "Delay and distance aren’t counted" in crossovers.delays_note
    # One side of a pair alone isn't enough for either.
    left_only = {"left": {"distance_cm": 100}, "delay_ms": 0.147}
    half = found(with_paths(LR4, **{WOOFER: left_only, TWEETER: left_only}))
    assert (half.delays, half.groups) == ((), crossovers.groups)
    assert crossovers.delays == ()
    assert "each speaker" in found(LR4).delays_note


def test_a_nearer_tweeter_is_aligned_by_the_delay_that_its_distance_asks_for() -> None:
    apart = with_paths(LR4, **{WOOFER: {"distance_cm": 105}, TWEETER: {"distance_cm": 100}})
    crossovers = found(apart)
    (woofer, tweeter) = crossovers.delays
    # 5 cm at 343.2 m/s are 0.1457 ms, 7 samples of 48 kHz.
    assert (woofer.delay_ms, tweeter.delay_ms) == pytest.approx((0.0, 50 / SOUND_M_S), abs=1e-3)
    assert [speaker_delay.samples for speaker_delay in tweeter.speakers] == [7]
    assert not tweeter.settled
    assert kinds(apart) >= {"arrives-late"}
    (late,) = (finding for finding in crossovers.findings if finding.kind == "arrives-late")
    # A relative delay τ cancels at odd multiples of 1/(2τ).
    assert "3.43 kHz" in late.reason
    assert "10.3 kHz" in late.reason
    aligned = with_paths(apart, **{TWEETER: {"distance_cm": 100, "delay_ms": tweeter.delay_ms}})
    assert kinds(aligned) == kinds(LR4)
    assert all(delay_proposal.settled for delay_proposal in found(aligned).delays)
    assert found(aligned).groups[0].crossings[0].sum_db == pytest.approx(0.0, abs=0.02)


def test_sides_have_distances_of_their_own() -> None:
    right = {"distance_cm": 120}
    wide = with_paths(
        LR4,
        **{
            WOOFER: {"distance_cm": 90, "right": right},
            TWEETER: {"distance_cm": 90, "right": right},
        },
    )
    (woofer, _) = found(wide).delays
    # The farthest needs none; the left is 30 cm nearer.
    assert (woofer.delay_ms, woofer.left_ms, woofer.right_ms) == pytest.approx((0.0, 300 / SOUND_M_S, 0.0), abs=1e-3)
    # Each side by itself is in step.
    assert not {"arrives-late", "cancel", "hole"} & kinds(wide)


def test_delays_that_no_vehicle_is_long_enough_for_are_questioned() -> None:
    ten = with_paths(LR4, **{TWEETER: {"delay_ms": 10}})
    (finding,) = (finding for finding in found(ten).findings if finding.kind == "delays-apart")
    assert finding.severity is Severity.RISK
    # 10 ms × 343.2 m/s; the first notch at 1/(2·10 ms).
    assert "3.4 m" in finding.reason
    assert "50 Hz" in finding.reason
    assert "delays-apart" not in kinds(with_paths(LR4, **{TWEETER: {"delay_ms": 8.9}}))


def test_two_subs_ten_milliseconds_apart_leave_a_hole_that_is_found() -> None:
    chain = LAYOUTS["front-sub"]
    sub = next(path for path in chain.paths if path.id == "sub")
    amplifier = chain.amplifier_of(sub).model_copy(update={"id": "amplifier-second"})
    load = chain.load_of(sub).model_copy(update={"id": "load-second"})
    own = {"id": "second", "name": "Second", "amplifier": "amplifier-second", "load": "load-second"}
    twins = chain.model_copy(
        update={
            "paths": (*chain.paths, sub.model_copy(update=own)),
            "amplifiers": (*chain.amplifiers, amplifier),
            "loads": (*chain.loads, load),
        }
    )
    front = next(path.id for path in chain.paths if path.id != "sub")
    near = {"distance_cm": 100}
    together = with_paths(twins, **{front: near, "sub": near, "second": near})
    assert not {"arrives-late", "hole", "cancel-beside"} & kinds(together)
    apart = with_paths(twins, **{front: near, "sub": near, "second": near | {"delay_ms": 10}})
    assert "arrives-late" in kinds(apart)
    assert {"hole", "cancel"} & kinds(apart)
    # 10 ms are half a period of 50 Hz, where two equals leave nothing: only the front is heard.
    crossovers = found(apart)
    hertz = np.array(crossovers.frequencies_hz)
    place = int(np.argmin(np.abs(hertz - 50)))
    alone = next(response.level_db for response in crossovers.responses if response.path == front)
    assert crossovers.groups[0].level_db[place] == pytest.approx(alone[place], abs=0.5)


def _scipys(order: int, kind: str, hertz: float, at_hz: float, late_s: float) -> complex:
    b, a = scipy.signal.butter(order, 2 * np.pi * hertz, kind, analog=True)
    return complex(scipy.signal.freqs(b, a, [2 * np.pi * at_hz])[1][0] * np.exp(-2j * np.pi * at_hz * late_s))


@given(
    order=st.integers(1, 6),
    upper=st.integers(1, 6),
    apart=st.floats(0.8, 1.3),
    nearer_cm=st.floats(0, 40),
    delay_ms=st.floats(0, 2),
)
def test_the_crossing_is_where_the_responses_themselves_meet(
    order: int, upper: int, apart: float, nearer_cm: float, delay_ms: float
) -> None:
    def one(kind: Pass, hertz: float, slope: int) -> tuple[ChannelFilter, ...]:
        crossover = Crossover(kind=kind, corner_hz=hertz, order=slope, shape=Shape.BUTTERWORTH)
        return (ChannelFilter(crossover=crossover, place=FilterPlace.PROCESSOR),)

    low, high = LR4.paths
    chain = LR4.model_copy(
        update={
            "paths": (
                low.model_copy(update={"filters": one(Pass.LOW, HERTZ, order), "distance_cm": 150.0}),
                high.model_copy(
                    update={
                        "filters": one(Pass.HIGH, HERTZ * apart, upper),
                        "distance_cm": 150.0 - nearer_cm,
                        "delay_ms": delay_ms,
                    }
                ),
            )
        }
    )
    (crossing,) = found(chain).groups[0].crossings
    late_s = delay_ms / 1000 - nearer_cm / 100 / SOUND_M_S

    def both(hertz: float) -> tuple[complex, complex]:
        return _scipys(order, "low", HERTZ, hertz, 0.0), _scipys(upper, "high", HERTZ * apart, hertz, late_s)

    root = scipy.optimize.brentq(lambda hertz: np.subtract(*np.abs(both(hertz))), HERTZ / 4, HERTZ * 4)
    below, above = both(root)
    assert crossing.frequency_hz == pytest.approx(root, rel=2e-3)
    assert crossing.alone_db == pytest.approx(20 * np.log10(abs(below)), abs=0.05)
    # Near a null a decibel is nothing: compared as parts of the louder.
    for ours, theirs in ((crossing.sum_db, below + above), (crossing.inverted_sum_db, below - above)):
        assert 10 ** (ours / 20) == pytest.approx(abs(theirs), abs=0.02)
