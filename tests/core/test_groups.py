"""What paths sound like together, against sums that scipy.signal makes."""

import numpy as np
import pytest
import scipy.signal

from tests.core.helpers import LAYOUTS
from upper_rook.core.crossover.corners import CrossoverPlan
from upper_rook.core.plan.plan import plan
from upper_rook.core.signal.filters import ChannelFilter, Crossover, FilterPlace, Pass, Shape
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.job_sheet import JobSheet

HERTZ = 3000.0


def two_way(order: int, shape: Shape, *, inverted: bool = False, apart: float = 1.0) -> Chain:
    """Woofer and tweeter that meet at 3 kHz; `apart` moves the tweeter's corner up by that factor."""

    def one(kind: Pass, hertz: float) -> tuple[ChannelFilter, ...]:
        crossover = Crossover(kind=kind, corner_hz=hertz, order=order, shape=shape)
        return (ChannelFilter(crossover=crossover, place=FilterPlace.PROCESSOR),)

    chain = LAYOUTS["active-two"]
    low, high = chain.paths
    return chain.model_copy(
        update={
            "paths": (
                low.model_copy(update={"filters": one(Pass.LOW, HERTZ)}),
                high.model_copy(update={"filters": one(Pass.HIGH, HERTZ * apart), "inverted": inverted}),
            )
        }
    )


def found(chain: Chain) -> CrossoverPlan:
    return plan(JobSheet(chain=chain)).crossovers


def scipys(order: int, kind: str, hertz: float, at_hz: np.ndarray, *, twice: bool) -> np.ndarray:
    b, a = scipy.signal.butter(order, 2 * np.pi * hertz, kind, analog=True)
    response = scipy.signal.freqs(b, a, 2 * np.pi * at_hz)[1]
    return response**2 if twice else response


@pytest.mark.parametrize("inverted", [False, True])
@pytest.mark.parametrize(
    ("order", "shape"),
    [(1, Shape.BUTTERWORTH), (2, Shape.BUTTERWORTH), (3, Shape.BUTTERWORTH), (4, Shape.LINKWITZ_RILEY)],
)
def test_the_sum_is_scipys(order: int, shape: Shape, *, inverted: bool) -> None:
    crossovers = found(two_way(order, shape, inverted=inverted, apart=1.3))
    (group,) = crossovers.groups
    twice = shape is Shape.LINKWITZ_RILEY
    at_hz = np.array(crossovers.frequencies_hz)
    half = order // 2 if twice else order
    low = scipys(half, "low", HERTZ, at_hz, twice=twice)
    high = scipys(half, "high", 1.3 * HERTZ, at_hz, twice=twice)
    theirs = 20 * np.log10(np.abs(low - high if inverted else low + high))
    heard = theirs > -40
    # Rounded to 0.01 dB, on frequencies that are rounded as well.
    assert np.array(group.level_db)[heard] == pytest.approx(theirs[heard], abs=0.02)


def test_linkwitz_riley_neighbours_sum_flat() -> None:
    (group,) = found(two_way(4, Shape.LINKWITZ_RILEY)).groups
    assert max(map(abs, group.level_db)) < 0.01
    (crossing,) = group.crossings
    assert crossing.frequency_hz == pytest.approx(HERTZ, rel=0.01)
    assert crossing.alone_db == pytest.approx(-6.02, abs=0.1)
    assert crossing.sum_db == pytest.approx(0, abs=0.1)


def test_second_order_neighbours_cancel_until_one_is_turned() -> None:
    # Half a turn apart at the corner: a null as they are, 3 dB above either when one is turned.
    plain = found(two_way(2, Shape.BUTTERWORTH))
    (cancel,) = (finding for finding in plain.findings if finding.key.startswith("cancel"))
    assert "Turn the polarity of Tweeter" in cancel.remedy
    assert plain.groups[0].crossings[0].sum_db < -20
    turned = found(two_way(2, Shape.BUTTERWORTH, inverted=True))
    assert turned.groups[0].crossings[0].sum_db == pytest.approx(3.01, abs=0.1)
    assert [finding.key for finding in turned.findings] == ["bump.0.0"]


def test_a_sub_belongs_to_every_group() -> None:
    crossovers = found(LAYOUTS["front-rear-sub"])
    assert [group.paths for group in crossovers.groups] == [("sub", "front"), ("sub", "rear")]
    for group in crossovers.groups:
        (crossing,) = group.crossings
        assert crossing.lower == "Sub"
        assert crossing.turn == "Sub"
        assert 60 < crossing.frequency_hz < 110


def test_a_path_alone_is_no_group() -> None:
    assert found(LAYOUTS["front-rear"]).groups == ()
    assert [group.name for group in found(LAYOUTS["active-three"]).groups] == ["Front"]
    assert len(found(LAYOUTS["active-three"]).groups[0].crossings) == 2


def test_a_channels_gain_is_level_and_not_shape() -> None:
    chain = two_way(4, Shape.LINKWITZ_RILEY)
    quiet = chain.paths[1].model_copy(update={"channel_gain_db": -12.0})
    assert found(chain).groups == found(chain.model_copy(update={"paths": (chain.paths[0], quiet)})).groups
