"""Targets, levels and findings of a path."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.helpers import LAYOUTS, finding_keys, first_path, giving, measured, with_parts
from upper_rook.core.plan.findings.path import Severity
from upper_rook.core.plan.plan import Stage, plan
from upper_rook.core.plan.text import plan_text
from upper_rook.core.stages.knob import KnobState
from upper_rook.core.system.amplifier import Mode, Rating
from upper_rook.core.system.chain import line_output_pair
from upper_rook.core.system.clean_maximum import Basis, CleanMaximum
from upper_rook.core.system.job_sheet import JobSheet


def test_the_lesser_of_amplifier_and_speakers_is_aimed_at(sheet: JobSheet) -> None:
    path = first_path(sheet)
    assert (path.power_w, path.limited_by) == (60, Stage.SPEAKERS)
    assert path.target.value == pytest.approx(15.492, abs=1e-3)
    louder = first_path(with_parts(sheet, load={"power_w": 90}))
    assert (louder.power_w, louder.limited_by) == (75, Stage.AMPLIFIER)


def test_the_arithmetic_shows_the_numbers_that_it_used(sheet: JobSheet) -> None:
    because = "\n".join(first_path(with_parts(sheet, choices={"allowance_percent": 20})).target.because)
    for piece in ("4 Ω", "75 W into 4 Ω", "60 W +20 % by choice = 72 W", "√(72 W × 4 Ω) = 16.97 V", "common practice"):
        assert piece in because


def test_bridged_sees_half_and_is_measured_across_the_bridge(sheet: JobSheet) -> None:
    path = first_path(with_parts(sheet, path={"mode": "bridged"}))
    assert (path.load_ohm, path.channel_ohm) == (4, 2)
    assert "bridge" in path.probe


def test_findings_name_what_can_not_or_should_not_be(sheet: JobSheet) -> None:
    assert finding_keys(with_parts(sheet, load={"impedance_ohm": 1}))["load-too-low"] is Severity.STOP
    assert finding_keys(with_parts(sheet, load={"power_w": 20}))["amplifier-strong"] is Severity.RISK
    assert finding_keys(with_parts(sheet, load={"power_w": 300}))["amplifier-weak"] is Severity.NOTE
    assert "rating-estimated" in finding_keys(with_parts(sheet, load={"impedance_ohm": 3}))
    assert "source-weak" in finding_keys(with_parts(sheet, source=giving(0.1)))
    assert "source-strong" in finding_keys(with_parts(sheet, source=giving(9)))
    assert "level-overlap" in finding_keys(with_parts(sheet, choices={"tone_level_dbfs": -5}))
    assert "supply" in finding_keys(sheet)
    assert "supply" not in finding_keys(with_parts(sheet, amplifier={"regulated": True}))
    assert not {"load-too-low", "amplifier-strong", "hazardous-live"} & finding_keys(sheet).keys()


def test_the_hazardous_limit_is_thirty_volts(sheet: JobSheet) -> None:
    strong = {"ratings": [{"power_w": 1000, "load_ohm": 4}]}
    assert "hazardous-live" not in finding_keys(with_parts(sheet, amplifier=strong, load={"power_w": 224.9}))
    assert "hazardous-live" in finding_keys(with_parts(sheet, amplifier=strong, load={"power_w": 225.5}))


def test_a_source_far_from_its_rating_is_asked_about(sheet: JobSheet) -> None:
    low = CleanMaximum(volume=30, voltage_v=1.0, uncertainty_v=0.01, basis=Basis.MARKED)
    assert [finding.key for finding in plan(sheet, measured(sheet, low)).findings] == ["source-far-off.source.line"]
    assert plan(sheet, measured(sheet, low.model_copy(update={"voltage_v": 3.8}))).findings == ()
    # Taken where it reaches its rating it says nothing about it.
    assert plan(sheet, measured(sheet, low.model_copy(update={"basis": Basis.RATED}))).findings == ()


def test_the_signal_chain_names_one_limiting_stage(sheet: JobSheet) -> None:
    stage_levels = first_path(sheet).stage_levels
    assert [stage_level.stage for stage_level in stage_levels] == [Stage.SOURCE, Stage.AMPLIFIER, Stage.SPEAKERS]
    assert [stage_level.limiting for stage_level in stage_levels] == [False, False, True]
    weak = first_path(with_parts(sheet, source=giving(0.1)))
    assert weak.knob.state is KnobState.SHORT
    assert weak.stage_levels[0].limiting
    # The amplifier then reaches what its stop allows: 0.1 V in where 0.2 V would give rated output.
    assert weak.stage_levels[1].level_v == pytest.approx(weak.stage_levels[1].clean_maximum_v / 2)


@given(
    watts=st.floats(1, 2000),
    ohms=st.floats(1, 16),
    speaker_w=st.floats(1, 2000),
    source_v=st.floats(0.2, 10),
    mode=st.sampled_from(Mode),
)
def test_no_stage_is_planned_above_its_clean_maximum(
    watts: float, ohms: float, speaker_w: float, source_v: float, mode: Mode
) -> None:
    sheet = with_parts(
        JobSheet(chain=line_output_pair()),
        amplifier={"ratings": [Rating(power_w=watts, load_ohm=4).model_dump()]},
        load={"impedance_ohm": ohms, "power_w": speaker_w},
        source=giving(source_v),
        path={"mode": mode},
    )
    path = first_path(sheet)
    assert sum(stage_level.limiting for stage_level in path.stage_levels) == 1
    for stage_level in path.stage_levels:
        assert stage_level.headroom_db >= -1e-9
    assert path.target.limits.low < path.target.value < path.target.limits.high


def test_what_a_path_lacks_is_told_and_the_rest_is_planned() -> None:
    chain = LAYOUTS["front-rear-sub"]
    bare = chain.amplifiers[1].model_copy(update={"ratings": ()})
    unread = chain.loads[2].model_copy(update={"power_w": None})
    half = chain.model_copy(
        update={"amplifiers": (chain.amplifiers[0], bare, chain.amplifiers[2]), "loads": (*chain.loads[:2], unread)}
    )
    found = plan(JobSheet(chain=half))
    assert [path.path for path in found.paths] == ["front"]
    assert {lacking.path: lacking.sentence.split(",")[0].split(".")[0] for lacking in found.lacking} == {
        "rear": "The amplifier’s rated power isn’t known",
        "sub": "The speakers’ rated power isn’t known",
    }
    # The crossovers don't depend on watts.
    assert len(found.crossovers.responses) == 3
    ohms = chain.loads[0].model_copy(update={"impedance_ohm": None})
    none = plan(JobSheet(chain=half.model_copy(update={"loads": (ohms, *half.loads[1:])})))
    assert none.paths == ()
    assert "impedance" in none.lacking[0].sentence


def test_a_source_of_unknown_volts_is_planned_as_far_as_it_goes(sheet: JobSheet) -> None:
    path = first_path(with_parts(sheet, source=giving(None)))
    assert path.target.value == pytest.approx(15.492, abs=1e-3)
    assert (path.source_v, path.input_v, path.knob.state) == (None, None, KnobState.UNKNOWN)
    assert [stage_level.stage for stage_level in path.stage_levels] == [Stage.AMPLIFIER, Stage.SPEAKERS]
    assert "source-unknown" in {finding.key for finding in path.findings}
    assert not path.input_advice.because


def test_the_text_names_the_source_of_a_top_volume_only_where_there_are_several(sheet: JobSheet) -> None:
    assert any(text.startswith("Never pass: ") for text in plan_text(plan(sheet)))
    chain = LAYOUTS["front-rear"].model_dump(mode="json")
    chain["sources"].append(chain["sources"][0] | {"id": "player", "name": "Player"})
    chain["paths"][1]["source"] = "player"
    lines = list(plan_text(plan(JobSheet.model_validate({"chain": chain}))))
    assert any(line.startswith("Never pass, Player: To be measured") for line in lines)
