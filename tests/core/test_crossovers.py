"""Crossovers: how each corner is set, and what does not fit together."""

import pytest
from pydantic import ValidationError

from tests.core.helpers import LAYOUTS, a_filter, behind_processor, with_filters
from upper_rook.core.crossover.corners import CrossoverPlan
from upper_rook.core.plan.plan import plan
from upper_rook.core.signal.filters import ChannelFilter, Dial, FilterPlace, Pass
from upper_rook.core.system.chain import Chain, line_output_pair
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.path import Path


def found(chain: Chain) -> CrossoverPlan:
    return plan(JobSheet(chain=chain)).crossovers


def keys(chain: Chain) -> set[str]:
    return {finding.key for finding in found(chain).findings}


@pytest.mark.parametrize("layout", LAYOUTS)
def test_every_layout_can_be_planned_and_fits(layout: str) -> None:
    chain = LAYOUTS[layout]
    planned = plan(JobSheet(chain=chain))
    assert len(planned.paths) == len(chain.paths)
    assert [finding for finding in planned.crossovers.findings if finding.severity != "note"] == []
    assert not any(finding.severity == "stop" for path in planned.paths for finding in path.findings)


def test_a_corner_says_what_to_play_how_loud_and_which_way() -> None:
    dial = Dial(lowest_hz=40, highest_hz=160)
    chain = with_filters(
        line_output_pair(), "front", a_filter(Pass.HIGH, 80, dial=dial), a_filter(Pass.LOW, 80, depth_db=-6.02)
    )
    high, low = found(chain).corners
    # Two thirds of three quarters of 40.
    assert (high.frequency_hz, high.volume, high.play) == (80, 20, "80 Hz sine at 0 dBFS")
    assert high.ratio == pytest.approx(0.7071, abs=1e-4)
    assert low.ratio == pytest.approx(0.5, abs=1e-3)
    assert "turn it up from fully down" in high.turn
    assert "turn it down from fully up" in low.turn
    # The middle of a logarithmic scale of two octaves.
    assert high.travel == pytest.approx(0.5)
    assert "12 o’clock" in high.dial
    assert "63.5 Hz to 101 Hz" in high.dial or "64 Hz to 100 Hz" in high.dial or "63 Hz to 101 Hz" in high.dial
    beyond = with_filters(line_output_pair(), "front", a_filter(Pass.LOW, 400, dial=dial))
    assert "×10 switch" in found(beyond).corners[0].dial


@pytest.mark.parametrize(
    ("filters", "key"),
    [
        ((a_filter(Pass.HIGH, 200), a_filter(Pass.LOW, 100)), "nothing-left.front"),
        ((a_filter(Pass.HIGH, 80), a_filter(Pass.HIGH, 100, place=FilterPlace.PROCESSOR)), "stacked.high.front"),
        ((a_filter(Pass.LOW, 3000), a_filter(Pass.LOW, 2500)), "stacked.low.front"),
    ],
)
def test_filters_that_fight_each_other(filters: tuple[ChannelFilter, ...], key: str) -> None:
    assert key in keys(with_filters(behind_processor(line_output_pair()), "front", *filters))


@pytest.mark.parametrize(
    ("corner", "switch", "hour"),
    [(80.0, "×1", "12 o’clock"), (800.0, "×10", "12 o’clock"), (160.0, "×1", "5 o’clock"), (400.0, "×10", "7 o’clock")],
)
def test_a_times_ten_switch_belongs_to_the_dial(corner: float, switch: str, hour: str) -> None:
    dial = Dial(lowest_hz=40, highest_hz=160, times_ten=True)
    (corner_plan,) = found(with_filters(line_output_pair(), "front", a_filter(Pass.HIGH, corner, dial=dial))).corners
    assert corner_plan.dial.startswith(f"Switch at {switch}. ")
    assert hour in corner_plan.dial
    beyond = with_filters(line_output_pair(), "front", a_filter(Pass.HIGH, 2000, dial=dial))
    assert found(beyond).corners[0].dial.endswith("use another filter.")


def test_a_filter_without_a_knob_is_set_by_its_number_and_still_checked() -> None:
    bare, digital = (
        found(
            with_filters(behind_processor(line_output_pair()), "front", a_filter(Pass.LOW, 450, place=place))
        ).corners[0]
        for place in (FilterPlace.AMPLIFIER, FilterPlace.PROCESSOR)
    )
    assert "turn it down from fully up until" in bare.turn
    assert "Scale not known" in bare.dial
    assert "set the filter by its number" in digital.turn
    assert (bare.ratio, bare.play) == (digital.ratio, digital.play)


def test_two_stacked_filters_are_computed_as_one() -> None:
    chain = with_filters(line_output_pair(), "front", a_filter(Pass.HIGH, 80), a_filter(Pass.HIGH, 80))
    (finding,) = found(chain).findings
    # Twice 3.01 dB at the corner.
    assert "6.0 dB down at 80 Hz" in finding.reason


def test_a_ported_box_wants_a_subsonic_filter_below_its_tuning() -> None:
    chain = LAYOUTS["sub"]
    assert keys(chain) == set()
    assert "no-subsonic.sub" in keys(with_filters(chain, "sub", a_filter(Pass.LOW, 80)))
    assert "subsonic-high.sub" in keys(with_filters(chain, "sub", a_filter(Pass.HIGH, 45), a_filter(Pass.LOW, 80)))


def test_gaps_overlaps_and_ranges() -> None:
    chain = LAYOUTS["active-three"]
    gap = with_filters(chain, "mid", a_filter(Pass.HIGH, 900), a_filter(Pass.LOW, 3500))
    assert any(key.startswith("gap.bass.mid") for key in keys(gap))
    wide = with_filters(chain, "tweeter", a_filter(Pass.HIGH, 1200))
    assert any(key.startswith("overlap.mid.tweeter") for key in keys(wide))
    # For a tweeter what lies below its range is a stop, not a matter of sound.
    assert "tweeter.tweeter" in keys(wide)
    assert "tweeter.tweeter" in keys(with_filters(chain, "tweeter"))


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"through": ("nowhere",)}, "names “nowhere”"),
        ({"through": ("processor", "processor")}, "a loop"),
    ],
)
def test_what_cannot_be_joined_is_refused(change: dict[str, object], said: str) -> None:
    chain = LAYOUTS["active-two"].model_dump(mode="json")
    chain["paths"][0] |= change
    with pytest.raises(ValidationError, match=said):
        Chain.model_validate(chain)


def test_two_paths_cannot_end_in_one_input() -> None:
    chain = LAYOUTS["front-rear"]
    doubled = chain.paths[1].model_copy(update={"amplifier": chain.paths[0].amplifier})
    with pytest.raises(ValidationError, match="two paths end in amplifier"):
        Chain.model_validate({**dict(chain), "paths": (chain.paths[0], Path(**dict(doubled)))})


def test_sixty_four_paths_with_thirty_one_bands_are_planned() -> None:
    base = LAYOUTS["active-two"]
    bands = [{"frequency_hz": 20 * 1.25**n, "gain_db": (-1) ** n, "q": 4} for n in range(31)]
    many = base.model_dump(mode="json")
    for kind in ("amplifiers", "loads", "paths"):
        many[kind] = [{**many[kind][0], "id": f"one-{n}"} for n in range(64)]
    for n, path in enumerate(many["paths"]):
        path |= {"amplifier": f"one-{n}", "load": f"one-{n}", "equaliser": bands}
    planned = plan(JobSheet(chain=Chain.model_validate(many)))
    assert len(planned.paths) == len(planned.crossovers.responses) == 64


def test_a_driver_played_above_its_range_is_told_and_one_within_is_not() -> None:
    chain = LAYOUTS["active-two"]
    assert "above-range.bass" not in keys(chain)
    high_up = with_filters(chain, "bass", a_filter(Pass.HIGH, 70), a_filter(Pass.LOW, 9000))
    assert "above-range.bass" in keys(high_up)


@pytest.mark.parametrize(
    ("name", "lowest", "kind"), [("Dome", None, "note"), ("Woofer", None, "risk"), ("Dome", 2000, "note")]
)
def test_nobody_is_told_to_open_the_high_pass_of_a_lone_tweeter(name: str, lowest: float | None, kind: str) -> None:
    chain = with_filters(LAYOUTS["front"], "front", a_filter(Pass.HIGH, 3500))
    load = chain.loads[0].model_copy(update={"name": name, "lowest_hz": lowest})
    found = plan(JobSheet(chain=chain.model_copy(update={"loads": (load,)}))).causes
    (bass,) = (finding for finding in found if finding.kind == "no-bass")
    assert bass.severity == kind
    assert ("high-pass lower" in bass.remedy) is (kind == "risk")
