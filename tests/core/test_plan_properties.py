"""What holds for the plan of any system."""

from random import Random

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.helpers import LAYOUTS
from upper_rook.core.crossover.proposals import Proposal
from upper_rook.core.plan.plan import Plan, plan
from upper_rook.core.signal.filters import ChannelFilter, Crossover, EqualiserBand, FilterPlace, Pass, Shape
from upper_rook.core.system.amplifier import Rating
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.methods import CrossingMethod
from upper_rook.core.system.path import Path

KINDS = ("sources", "processors", "amplifiers", "loads", "paths")
MANY = ("front-rear-sub", "active-two", "active-three")


def _crossover(draw: st.DrawFn, kind: Pass, low: float, high: float) -> ChannelFilter:
    shape = draw(st.sampled_from((Shape.BUTTERWORTH, Shape.LINKWITZ_RILEY, Shape.BESSEL)))
    order = draw(st.sampled_from((2, 4) if shape is Shape.LINKWITZ_RILEY else (1, 2, 3, 4)))
    corner = float(round(draw(st.floats(low, high)), 1))
    place = draw(st.sampled_from((FilterPlace.AMPLIFIER, FilterPlace.PROCESSOR)))
    return ChannelFilter(crossover=Crossover(kind=kind, corner_hz=corner, order=order, shape=shape), place=place)


@st.composite
def systems(draw: st.DrawFn) -> Chain:
    """A layout with several paths, and any filters, polarity, delay, bands and ratings on it."""
    chain = LAYOUTS[draw(st.sampled_from(MANY))]
    paths = []
    for path in chain.paths:
        filters = []
        if draw(st.booleans()):
            filters.append(_crossover(draw, Pass.HIGH, 25, 3000))
        if draw(st.booleans()):
            filters.append(_crossover(draw, Pass.LOW, 60, 6000))
        bands = draw(
            st.lists(
                st.builds(
                    EqualiserBand,
                    frequency_hz=st.floats(30, 16_000),
                    gain_db=st.floats(-12, 12),
                    q=st.floats(0.3, 30),
                ),
                max_size=3,
            )
        )
        change = {
            "filters": tuple(filters),
            "equaliser": tuple(bands),
            "inverted": draw(st.booleans()),
            "delay_ms": draw(st.sampled_from((0.0, 0.0, 1.5))),
        }
        paths.append(path.model_copy(update=change))
    ratings = tuple(
        Rating(power_w=watts, load_ohm=4, distortion_percent=distortion, supply_v=supply)
        for watts, distortion, supply in draw(
            st.lists(
                st.tuples(
                    st.sampled_from((60.0, 75.0, 100.0, 130.0)),
                    st.sampled_from((None, 0.1, 1.0, 10.0)),
                    st.sampled_from((None, 12.5, 14.4)),
                ),
                min_size=1,
                max_size=4,
            )
        )
    )
    amplifiers = (chain.amplifiers[0].model_copy(update={"ratings": ratings}), *chain.amplifiers[1:])
    return Chain.model_validate(dict(chain) | {"paths": tuple(paths), "amplifiers": amplifiers})


def figures_of(found: Plan) -> dict[str, object]:
    """Every path's figures, whatever the order."""
    return {
        path.path: (
            path.target.value,
            path.target.limits,
            path.tone,
            path.input_v,
            path.knob.printed_v,
            path.power_w,
            sorted((each.key, each.reason) for each in path.findings),
        )
        for path in found.paths
    }


@settings(deadline=None)
@given(systems(), st.randoms(use_true_random=False))
def test_the_order_of_lists_never_changes_a_figure(chain: Chain, dice: Random) -> None:
    document = chain.model_dump(mode="json")
    before = figures_of(plan(JobSheet(chain=chain)))
    for kind in KINDS:
        dice.shuffle(document[kind])
    for amplifier in document["amplifiers"]:
        dice.shuffle(amplifier["ratings"])
    for path in document["paths"]:
        dice.shuffle(path["equaliser"])
        dice.shuffle(path["filters"])
    after = figures_of(plan(JobSheet.model_validate({"chain": document})))
    assert _rounded(after) == _rounded(before)


def _rounded(found: object) -> object:
    """Sums of bands in another order differ in their last digits."""
    if isinstance(found, float):
        return float(f"{found:.9g}")
    if isinstance(found, dict):
        return {key: _rounded(value) for key, value in found.items()}
    if isinstance(found, list | tuple):
        return [_rounded(one) for one in found]
    return found if isinstance(found, str | None) else repr(found)


@settings(deadline=None)
@given(systems())
def test_applying_a_proposal_never_makes_a_deeper_hole(chain: Chain) -> None:
    before = plan(JobSheet(chain=chain)).crossovers
    for proposal in before.proposals:
        if proposal.settled:
            continue
        taken = {other.path: other for other in before.proposals if other.path in (proposal.path, *proposal.together)}
        after = plan(JobSheet(chain=_with(chain, taken))).crossovers
        for was, now in zip(before.groups, after.groups, strict=True):
            inner = [
                (value, other)
                for hertz, value, other in zip(before.frequencies_hz, was.level_db, now.level_db, strict=True)
                if now.inner_low_hz <= hertz <= now.inner_high_hz
            ]
            if inner:
                # What is louder than the pass band is no gain: a hole is what lies below it.
                holes = [min(0.0, *row) for row in zip(*inner, strict=True)]
                assert holes[1] >= holes[0] - 0.1


@settings(deadline=None)
@given(systems(), st.sampled_from(CrossingMethod), st.randoms(use_true_random=False))
def test_a_proposal_that_is_taken_is_settled_and_leaves_the_others_as_they_were(
    chain: Chain, method: CrossingMethod, dice: Random
) -> None:
    choices = Choices(crossing=method)
    offered = plan(JobSheet(chain=chain, choices=choices)).crossovers.proposals
    unsettled = [proposal for proposal in offered if not proposal.settled]
    while unsettled:
        first = dice.choice(unsettled)
        taken = {proposal.path: proposal for proposal in offered if proposal.path in (first.path, *first.together)}
        chain = _with(chain, taken)
        after = plan(JobSheet(chain=chain, choices=choices)).crossovers.proposals
        assert {proposal.path for proposal in after if not proposal.settled} == {
            proposal.path for proposal in unsettled
        } - set(taken)
        for was, now in zip(offered, after, strict=True):
            if not now.settled:
                assert (now.filters, now.inverted) == (was.filters, was.inverted)
        offered, unsettled = after, [proposal for proposal in after if not proposal.settled]


def _with(chain: Chain, taken: dict[str, Proposal]) -> Chain:
    def one(path: Path) -> Path:
        proposal = taken.get(path.id)
        if proposal is None:
            return path
        return path.model_copy(update={"filters": proposal.filters, "inverted": proposal.inverted})

    return chain.model_copy(update={"paths": tuple(one(path) for path in chain.paths)})


@settings(deadline=None)
@given(systems())
def test_a_part_added_elsewhere_never_changes_a_path(chain: Chain) -> None:
    before = figures_of(plan(JobSheet(chain=chain)))
    document = chain.model_dump(mode="json")
    for kind in ("amplifiers", "loads"):
        document[kind].append(document[kind][0] | {"id": "another"})
    document["paths"].append(
        document["paths"][0] | {"id": "another", "name": "Another", "amplifier": "another", "load": "another"}
    )
    after = figures_of(plan(JobSheet.model_validate({"chain": document})))
    assert {key: after[key] for key in before} == before
