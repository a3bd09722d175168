"""Bands that are proposed for each driver. The rules are common practice and have no source."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.helpers import LAYOUTS, a_filter, with_filters
from upper_rook.core.crossover.proposals import Proposal, proposals
from upper_rook.core.plan.plan import plan
from upper_rook.core.signal.filters import FilterPlace, Pass, Shape
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.choices import Choices, CrossingMethod
from upper_rook.core.system.job_sheet import JobSheet


def proposed(chain: Chain, method: CrossingMethod = CrossingMethod.OVERLAP, **more: float) -> dict[str, Proposal]:
    return {proposal.path: proposal for proposal in proposals(chain, Choices(crossing=method, **more))}


def corners(proposal: Proposal) -> dict[Pass, float]:
    return {each.crossover.kind: each.crossover.corner_hz for each in proposal.filters}


def with_ranges(chain: Chain, **ranges: tuple[float, float]) -> Chain:
    """`chain` with the usable range of some speakers changed."""
    loads = tuple(
        load.model_copy(update=dict(zip(("lowest_hz", "highest_hz"), ranges[key], strict=True)))
        if (key := load.id.removeprefix("speakers-")) in ranges
        else load
        for load in chain.loads
    )
    return chain.model_copy(update={"loads": loads})


@pytest.mark.parametrize(
    ("method", "front", "sub"),
    [(CrossingMethod.EIGHTY, 80, 80), (CrossingMethod.NONE, 80, 80), (CrossingMethod.OVERLAP, 80, 120)],
)
def test_sub_and_front_meet_by_method(method: CrossingMethod, front: float, sub: float) -> None:
    found = proposed(LAYOUTS["front-rear-sub"], method)
    assert corners(found["front"])[Pass.HIGH] == front
    # By overlap the sub goes 20 Hz past where the rear begins.
    assert corners(found["sub"])[Pass.LOW] == sub
    # Somewhat below the box's 34 Hz.
    assert 25 <= corners(found["sub"])[Pass.HIGH] < 34


def test_a_small_speaker_is_not_asked_for_eighty() -> None:
    small = with_ranges(LAYOUTS["front-rear-sub"], front=(140, 18_000))
    found = proposed(small)
    assert corners(found["front"])[Pass.HIGH] == 140
    assert corners(found["sub"])[Pass.LOW] >= 140
    assert "made for 140 Hz and up" in found["front"].because[0]


def test_neighbours_share_what_both_can_play() -> None:
    found = proposed(LAYOUTS["active-three"], CrossingMethod.NONE)
    bass, mid, tweeter = (corners(found[key]) for key in ("bass", "mid", "tweeter"))
    assert bass[Pass.LOW] == mid[Pass.HIGH]
    assert mid[Pass.LOW] == tweeter[Pass.HIGH]
    # An octave above the tweeter's lowest spares it, or the middle of what both can play.
    assert 2000 < tweeter[Pass.HIGH] <= 4000
    assert 300 < mid[Pass.HIGH] <= 600
    assert Pass.LOW not in tweeter
    apart = proposed(LAYOUTS["active-three"], CrossingMethod.OVERLAP, overlap_hz=80.0)
    # An overlap of 80 Hz on 80 Hz is an octave, wherever they meet; to two figures.
    ratio = corners(apart["bass"])[Pass.LOW] / corners(apart["mid"])[Pass.HIGH]
    assert ratio == pytest.approx(2, rel=0.05)


def test_a_hole_that_nobody_covers_is_said() -> None:
    hole = with_ranges(LAYOUTS["active-two"], bass=(60, 900), tweeter=(3000, 20_000))
    found = proposed(hole)
    assert "no speaker covers 900 Hz to 3 kHz" in found["bass"].because[-1]
    assert corners(found["bass"])[Pass.LOW] == 900
    assert corners(found["tweeter"])[Pass.HIGH] == 3000


def test_drivers_of_one_band_are_not_divided() -> None:
    same = with_ranges(LAYOUTS["active-two"], bass=(60, 5000), tweeter=(65, 5000))
    assert Pass.LOW in corners(proposed(same)["bass"])
    assert corners(proposed(same)["bass"])[Pass.LOW] == 5000


def test_a_filter_that_is_there_is_moved_and_keeps_its_kind() -> None:
    chain = with_filters(LAYOUTS["front-rear-sub"], "front", a_filter(Pass.HIGH, 200, order=3))
    (moved,) = proposed(chain)["front"].filters
    assert (moved.crossover.order, moved.crossover.corner_hz, moved.place) == (3, 80, FilterPlace.AMPLIFIER)
    assert not proposed(chain)["front"].settled
    assert proposed(LAYOUTS["front-rear-sub"], CrossingMethod.NONE)["front"].settled
    (digital,) = (
        channel_filter for channel_filter in proposed(with_filters(LAYOUTS["active-two"], "tweeter"))["tweeter"].filters
    )
    assert (digital.place, digital.crossover.shape) == (FilterPlace.PROCESSOR, Shape.LINKWITZ_RILEY)


def test_a_sealed_box_and_speakers_of_unknown_range_get_no_guess() -> None:
    chain = LAYOUTS["sub"]
    sealed = chain.loads[0].model_copy(update={"box": "sealed", "tuning_hz": None})
    assert Pass.HIGH not in corners(proposed(chain.model_copy(update={"loads": (sealed,)}))["sub"])
    assert proposed(LAYOUTS["front"]) == {}


@given(
    st.sampled_from(CrossingMethod),
    st.floats(5, 200),
    st.floats(40, 300),
    st.floats(1.2, 40),
    st.floats(500, 6000),
)
def test_no_proposal_leaves_nothing_or_starves_a_tweeter(
    method: CrossingMethod, overlap: float, low: float, wide: float, tweeter: float
) -> None:
    chain = with_ranges(LAYOUTS["active-two"], bass=(low, low * wide), tweeter=(tweeter, 20_000))
    for key, proposal in proposed(chain, method, overlap_hz=overlap).items():
        edges = corners(proposal)
        assert edges.get(Pass.HIGH, 0) < edges.get(Pass.LOW, 20_000)
        if key == "tweeter" and tweeter > 1.5 * low and 1.5 * low * wide < 20_000:
            # Never below what it is made for, but for the rounding to two figures.
            assert edges[Pass.HIGH] >= 0.95 * tweeter


@pytest.mark.parametrize("layout", LAYOUTS)
def test_a_proposal_that_is_followed_fits(layout: str) -> None:
    chain = LAYOUTS[layout]
    for path, one in proposed(chain).items():
        chain = with_filters(chain, path, *one.filters)
    crossovers = plan(JobSheet(chain=chain)).crossovers
    assert all(proposal.settled for proposal in crossovers.proposals)
    grave = [
        finding
        for finding in crossovers.findings
        if finding.severity != "note" and not finding.key.startswith("cancel")
    ]
    assert grave == []


def test_of_two_subs_the_one_that_plays_higher_meets_the_front() -> None:
    chain = with_ranges(LAYOUTS["front-rear-sub"], front=(110, 18_000), sub=(28, 90))
    second = chain.loads[2].model_copy(update={"id": "second", "highest_hz": 150.0})
    amplifier = chain.amplifiers[2].model_copy(update={"id": "second"})
    path = chain.paths[2].model_copy(update={"id": "second", "amplifier": "second", "load": "second"})
    both = chain.model_copy(
        update={
            "loads": (*chain.loads, second),
            "amplifiers": (*chain.amplifiers, amplifier),
            "paths": (*chain.paths, path),
        }
    )
    front = proposed(both, CrossingMethod.NONE)["front"]
    # One of them reaches up to where the front begins, 110 Hz.
    assert corners(front)[Pass.HIGH] == 110
