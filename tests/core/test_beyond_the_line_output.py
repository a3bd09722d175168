"""Signals and amplifiers that are not a line output into a box with a gain: digital, divided, built in, active."""

import pytest
from pydantic import ValidationError

from tests.core.helpers import LAYOUTS, behind_processor, finding_keys, first_needs, first_path, with_parts
from upper_rook.core.common.finding import Severity
from upper_rook.core.plan.figures import figures
from upper_rook.core.plan.plan import plan
from upper_rook.core.run.readings.circumstances import Circumstances
from upper_rook.core.run.readings.points import Terminals, TerminalsPoint
from upper_rook.core.run.result.progress import progress
from upper_rook.core.run.steps.step import Step
from upper_rook.core.signal.filters import EqualiserBand
from upper_rook.core.stages.knob import KnobState
from upper_rook.core.system.chain import Chain, line_output_pair
from upper_rook.core.system.job_sheet import JobSheet

SHEET = JobSheet(chain=line_output_pair())
BEHIND = JobSheet(chain=behind_processor(line_output_pair()))
DIGITAL = {"outputs": [{"id": "line", "kind": "digital"}]}


def steps_of(sheet: JobSheet) -> dict[str, Step]:
    return {step.key: step for step in progress(sheet, (), ()).steps}


def test_digital_full_scale_is_the_processors_own_highest_output() -> None:
    path = first_path(with_parts(BEHIND, source=DIGITAL))
    # By hand: 4 V at the input, 75 W and 60 W into 4 ohm: 4 × √(75/60) = 4.47 V printed.
    assert path.input_v == pytest.approx(4.0)
    assert path.knob.printed_v == pytest.approx(4 * (75 / 60) ** 0.5)
    lower = first_path(with_parts(BEHIND, source=DIGITAL, path={"channel_gain_db": -6.0}))
    assert lower.input_v == pytest.approx(4 * 10 ** (-6 / 20))
    lifted = with_parts(BEHIND, source=DIGITAL, path={"equaliser": [EqualiserBand(frequency_hz=100, gain_db=6)]})
    assert finding_keys(lifted)["output-over.dsp"] is Severity.RISK


def test_a_digital_output_needs_something_that_makes_volts_of_it() -> None:
    (lack,) = plan(with_parts(SHEET, source=DIGITAL)).lacking
    assert "put the processor that turns them into volts" in lack.sentence


def test_a_source_that_gives_numbers_only_has_no_volume_steps_and_gains_are_set_at_its_top() -> None:
    steps = steps_of(with_parts(BEHIND, source=DIGITAL))
    assert not any(key.startswith("ceiling") for key in steps)
    gain = steps["gain.front"]
    assert first_needs(gain) == []
    assert isinstance(gain.wants, Circumstances)
    assert gain.wants.volume == 40


def test_an_output_with_a_level_of_its_own_gives_that_much_more_or_less() -> None:
    with_level = with_parts(SHEET, source={"outputs": [{"id": "line", "rated": {"volts": 4.0}, "level_db": -6.0}]})
    assert first_path(with_level).source_v == pytest.approx(4 * 10 ** (-6 / 20))


DIVIDED = {
    "kind": "factory",
    "outputs": [
        {"id": "line", "name": "Woofer", "kind": "speaker", "rated": {"volts": 8.0}, "highest_hz": 400},
        {"id": "top", "name": "Tweeter", "kind": "speaker", "rated": {"volts": 6.0}, "lowest_hz": 400},
    ],
}


def test_divided_taps_are_summed_by_something_or_not_at_all() -> None:
    woofer = with_parts(BEHIND, source=DIVIDED)
    assert finding_keys(woofer)["tap-band.0"] is Severity.RISK
    both = with_parts(BEHIND, source=DIVIDED, path={"also": ("top",)})
    assert not any(key.startswith(("tap", "joined")) for key in finding_keys(both))
    assert first_path(both).source_v == pytest.approx(8.0)
    assert finding_keys(with_parts(SHEET, source=DIVIDED, path={"also": ("top",)}))["joined"] is Severity.STOP
    apart = DIVIDED | {"outputs": [DIVIDED["outputs"][0], DIVIDED["outputs"][1] | {"lowest_hz": 900}]}
    assert "taps-gap" in finding_keys(with_parts(BEHIND, source=apart, path={"also": ("top",)}))


def test_left_and_right_make_mono() -> None:
    sides = {"outputs": [{"id": "line", "sides": "left"}, {"id": "right", "sides": "right"}]}
    assert "half-of-music" in finding_keys(with_parts(BEHIND, source=sides))
    assert "half-of-music" not in finding_keys(with_parts(BEHIND, source=sides, path={"also": ("right",)}))


def test_an_amplifier_inside_the_source_is_set_by_the_volume() -> None:
    speaker = {"outputs": [{"id": "line", "kind": "speaker", "rated": {"watts": 16.0}}]}
    inside = {"place": "source", "ratings": (), "gain_range": None, "lowest_load_ohm": None}
    path = first_path(with_parts(SHEET, source=speaker, amplifier=inside))
    # By hand: 16 W into 4 ohm are 8 V, and the speakers take more.
    assert path.target.value == pytest.approx(8.0)
    assert path.knob.state is KnobState.NONE
    assert path.knob.miss_db == pytest.approx(0.0, abs=1e-9)
    weak = with_parts(SHEET, source=speaker, amplifier=inside, load={"power_w": 4.0})
    assert finding_keys(weak)["volume-too-high"] is Severity.RISK
    assert not any(key.startswith(("gain", "match")) for key in steps_of(weak))
    assert not {"no-ground-side", "noise", "source-strong"} & finding_keys(weak).keys()
    changed = with_parts(BEHIND, amplifier=inside).model_dump(mode="json")
    with pytest.raises(ValidationError, match="nothing can be between a source and its built-in amplifier"):
        JobSheet.model_validate(changed)


def test_an_active_speaker_is_set_by_ear() -> None:
    (lack,) = plan(with_parts(SHEET, amplifier={"place": "speaker"})).lacking
    assert lack.sentence.startswith("Its amplifier sits inside the speaker")
    assert "6 V fully down" in lack.sentence
    # Nothing lacks of it: the rest can be done and finished.
    assert lack.by_ear
    assert plan(with_parts(SHEET, amplifier={"place": "speaker"})).unplanned == ()


def test_a_built_in_processor_ends_in_its_own_amplifier() -> None:
    document = BEHIND.model_dump(mode="json")
    document["chain"]["processors"][0]["inside"] = "amplifier"
    assert first_path(JobSheet.model_validate(document)).target == first_path(BEHIND).target
    document["chain"]["processors"][0]["inside"] = "another"
    with pytest.raises(ValidationError, match="built into another amplifier"):
        JobSheet.model_validate(document)


def test_sides_set_apart_are_told_and_the_gain_is_set_on_the_louder() -> None:
    apart = with_parts(BEHIND, path={"left": {"gain_db": -3.0}})
    assert first_path(apart).input_v == pytest.approx(first_path(BEHIND).input_v)
    assert finding_keys(apart)["sides-apart"] is Severity.NOTE
    steps = steps_of(apart)
    gain, match = steps["gain.front"], steps["match.front"]
    assert (gain.point, match.point) == tuple(
        TerminalsPoint(path="front", terminals=terminals) for terminals in (Terminals.RIGHT, Terminals.LEFT)
    )
    assert gain.target is not None
    assert match.target is not None
    assert match.target.value / gain.target.value == pytest.approx(10 ** (-3 / 20))
    turned = with_parts(BEHIND, path={"right": {"inverted": True}})
    assert finding_keys(turned)["side-inverted"] is Severity.RISK
    # Without a processor nothing could do it, and it is told.
    lost = plan(with_parts(SHEET, path={"left": {"gain_db": -3.0}}))
    assert "side trims" in next(cause.title for cause in lost.causes if cause.key == "no-processor.front")


def test_a_remote_level_knob_counts_where_it_stands_and_warns_of_what_it_can_add() -> None:
    knob = {"bass_knob": {"lowest_db": -20.0, "highest_db": 6.0, "stands_db": 0.0}}
    assert finding_keys(with_parts(SHEET, amplifier=knob))["level-knob"] is Severity.RISK
    up = with_parts(SHEET, amplifier={"bass_knob": knob["bass_knob"] | {"stands_db": 6.0}})
    assert "level-knob" not in finding_keys(up)
    printed = first_path(SHEET).knob.printed_v
    assert printed is not None
    assert first_path(up).knob.printed_v == pytest.approx(printed * 10 ** (6 / 20))
    # Turned down it leaves the input room for as much more.
    down = with_parts(SHEET, amplifier={"bass_knob": knob["bass_knob"] | {"stands_db": -6.0}})
    room = [figures(sheet, sheet.chain.paths[0], None).turn_down for sheet in (SHEET, down)]
    assert room[1] / room[0] == pytest.approx(10 ** (6 / 20))


def test_the_sum_is_looked_at_on_either_side() -> None:
    """A delay of half a period on one side alone cancels on that side alone."""
    chain = LAYOUTS["active-two"]
    late = {"right": {"delay_ms": 0.2}}
    ways = tuple(
        type(path).model_validate(path.model_dump() | {"distance_cm": 100} | (late if path.id == "tweeter" else {}))
        for path in chain.paths
    )
    found = plan(JobSheet(chain=Chain.model_validate(chain.model_dump() | {"paths": ways}))).crossovers.findings
    told = [(finding.kind, finding.title.endswith("on the right side")) for finding in found if finding.kind != "bump"]
    assert sorted(told) == [("arrives-late", True), ("cancel", True)]
