"""Targets that somebody gives, and speakers whose watts nobody knows yet. The volts are worked out here by hand."""

import math
from typing import Any

import pytest

from tests.core.helpers import LAYOUTS, answers, gain_step, mark, reading, steps_of, with_parts
from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.plan.plan import PathPlan, plan
from upper_rook.core.run.readings.records import Eye
from upper_rook.core.run.result.progress import progress
from upper_rook.core.run.result.result import result
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.step import State
from upper_rook.core.system.choices import Choices, GainMethod, OwnChoices
from upper_rook.core.system.job_sheet import JobSheet

# 75 W into 4 ohms, a speaker of 60 W: √(60 × 4) = 15.49 V.
SHEET = JobSheet(chain=LAYOUTS["front"])
RATED_V = math.sqrt(60 * 4)


def planned(sheet: JobSheet) -> PathPlan:
    return plan(sheet).paths[0]


def typed(volts: float, **more: Any) -> JobSheet:
    return with_parts(SHEET, path={"wanted_v": volts} | more)


def about(sheet: JobSheet, kind: str) -> list[Finding]:
    return [finding for finding in planned(sheet).findings if finding.kind.value == kind]


def test_typed_volts_are_the_target_and_say_where_they_are_from() -> None:
    assert planned(SHEET).target.value == pytest.approx(RATED_V)
    target = planned(typed(12.0, wanted_from="the speakers’ maker")).target
    assert (target.value, target.method) == (12.0, "typed")
    assert target.limits.low == pytest.approx(12 * 10 ** (-0.5 / 20))
    assert target.limits.high == pytest.approx(12 * 10 ** (0.2 / 20))
    # 12 V into 4 ohms is 36 W.
    assert "typed: 12 V, from the speakers’ maker, which is 36 W into 4 Ω" in target.because
    assert "by the ratings it would be 15.49 V" in target.because
    assert about(typed(12.0), "target-typed") == []


@pytest.mark.parametrize(
    ("volts", "severity", "said"),
    [(18.0, Severity.RISK, "1.3 dB above"), (9.0, Severity.NOTE, "4.7 dB below"), (15.4, None, "")],
)
def test_typed_volts_are_held_against_the_ratings(volts: float, severity: Severity | None, said: str) -> None:
    found = about(typed(volts), "target-typed")
    assert [finding.severity for finding in found] == ([severity] if severity else [])
    if found:
        assert said in found[0].title
        assert f"{20 * math.log10(max(volts, RATED_V) / min(volts, RATED_V)):.1f} dB" in found[0].title
        assert "√(watts × ohms) gives 15.49 V" in found[0].reason


def test_of_speakers_nobody_knows_the_amplifier_alone_decides_by_choice_and_says_so() -> None:
    unknown = with_parts(SHEET, load={"power_w": None})
    assert not plan(unknown).paths
    chosen = with_parts(unknown, choices={"gain": GainMethod.AMPLIFIER})
    # 75 W into 4 ohms.
    assert planned(chosen).target.value == pytest.approx(math.sqrt(75 * 4))
    (found,) = about(chosen, "speakers-unknown")
    assert (found.severity, found.hand_over) == (Severity.RISK, True)
    told = result(JobSnapshot(chosen), progress(chosen, (), ())).chosen
    assert any("watts aren’t known" in line for line in told)
    # Known watts bind as ever.
    known = with_parts(SHEET, choices={"gain": GainMethod.AMPLIFIER})
    assert planned(known).target.value == pytest.approx(RATED_V)
    # Typed volts need no watts either.
    assert planned(with_parts(unknown, path={"wanted_v": 10.0})).target.value == 10.0


def test_a_gain_that_was_set_goes_with_what_is_typed_afterwards() -> None:
    at = steps_of(SHEET)["ceiling.source.line"]
    read = tuple(reading(at, n, v, Eye.CLEAN if n < 31 else Eye.CLIPPED) for n, v in ((29, 3.55), (30, 4.0), (31, 4.4)))
    marks = (*answers(SHEET), mark(at.key, basis="marked", volume=30))
    done = (*read, reading(gain_step(SHEET, read, marks), 30, RATED_V))

    def state(sheet: JobSheet) -> State:
        run = progress(sheet, done, marks, lambda version: SHEET if version == 1 else sheet)
        return next(state.state for state in run.states if state.step == "gain.front")

    assert (state(SHEET), state(typed(12.0)), state(typed(RATED_V))) == (State.DONE, State.OUTDATED, State.DONE)


@pytest.mark.parametrize(
    ("choice", "volts"), [({"converter_output": "4"}, 4.0), ({"converter_output": "typed", "converter_v": 2.7}, 2.7)]
)
def test_a_converter_is_trimmed_to_any_figure(choice: dict[str, Any], volts: float) -> None:
    factory = JobSheet(chain=LAYOUTS["converter"])
    converter = factory.chain.processors[0].model_copy(update={"highest_output_v": 9.0})
    chain = factory.chain.model_copy(update={"processors": (converter, *factory.chain.processors[1:])})
    amplifiers = tuple(amplifier.model_copy(update={"highest_input_v": None}) for amplifier in chain.amplifiers)
    sheet = factory.model_copy(update={"chain": chain.model_copy(update={"amplifiers": amplifiers})})
    said = with_parts(sheet, choices=choice)
    assert any(f"to {volts:g} V" in trim.sentence for trim in planned(said).trims), planned(said).trims


def test_a_path_follows_the_job_until_it_says_otherwise() -> None:
    sheet = JobSheet(chain=LAYOUTS["front-sub"], choices=Choices(allowance_percent=10, tone_level_dbfs=-5))
    front, sub = sheet.chain.paths
    own = sub.model_copy(
        update={"own": OwnChoices(tone_level_dbfs=-10, allowance_percent=0, gain=GainMethod.SOFT_CLIP)}
    )
    mixed = sheet.model_copy(update={"chain": sheet.chain.model_copy(update={"paths": (front, own)})})
    was, now = ({path.path: path for path in plan(each).paths} for each in (sheet, mixed))
    # The front as before, to the last figure.
    assert now[front.id] == was[front.id]
    alone = JobSheet(chain=mixed.chain, choices=Choices(tone_level_dbfs=-10, gain=GainMethod.SOFT_CLIP))
    expected = {path.path: path for path in plan(alone).paths}[sub.id]
    assert (now[sub.id].target, now[sub.id].tone) == (expected.target, expected.tone)
    assert now[sub.id].tone.level_dbfs == -10
    steps = steps_of(mixed)
    levels = {key: steps[f"gain.{key}"].wants.tone.level_dbfs for key in (front.id, sub.id)}
    assert levels == {front.id: -5, sub.id: -10}


@pytest.mark.parametrize("method", list(GainMethod))
def test_typed_volts_are_set_as_rated_ones_whatever_the_method(method: GainMethod) -> None:
    # An amplifier of 75 W before speakers of 100: with soft clipping a clipped wave would be accepted in the band.
    base = with_parts(SHEET, load={"power_w": 100.0}, path={"wanted_v": 12.0})
    sheet = base.model_copy(update={"choices": Choices(gain=method)})
    rated, found = planned(base), planned(sheet)
    assert (found.target, found.findings) == (rated.target, rated.findings)
    at = steps_of(sheet)["ceiling.source.line"]
    read = tuple(reading(at, n, v, Eye.CLEAN if n < 31 else Eye.CLIPPED) for n, v in ((29, 3.55), (30, 4.0), (31, 4.4)))
    marks = (*answers(sheet), mark(at.key, basis="marked", volume=30))
    gain = gain_step(sheet, read, marks)
    assert "until the meter shows the target" in gain.do[0]
    clipped = (*read, reading(gain, 30, 12.0, Eye.CLIPPED))
    assert next(state.state for state in progress(sheet, clipped, marks).states if state.step == gain.key) is State.OPEN
