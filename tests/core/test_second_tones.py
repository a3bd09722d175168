"""Two tones at every output of a source: two sets of volume steps, and the lower number counts."""

from tests.core.helpers import LAYOUTS, answers, mark, reading, steps_of
from upper_rook.core.run.readings.records import Eye, Mark, Reading
from upper_rook.core.run.result.progress import progress, run_of
from upper_rook.core.run.result.result import result
from upper_rook.core.run.result.source_unit import sheet_of_source
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.step import State
from upper_rook.core.sources.source_report import report
from upper_rook.core.system.choices import Choices, SourceTones
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.instruments.simulation import simulate

TWO = JobSheet(chain=LAYOUTS["front"], choices=Choices(source_tones=SourceTones.TWO, sub_tone_hz=40))
FIRST, SECOND = "ceiling.source.line", "ceiling.source.line.second-tone"


def climbed(key: str, clean: int, off: float = 1.0) -> tuple[list[Reading], Mark]:
    """Volume steps around a clean number: 4 V at 31, a decibel a number."""
    step = steps_of(TWO)[key]
    numbers = range(clean - 2, clean + 2)
    volts = {number: off * 4.0 * 10 ** ((number - 31) / 20) for number in numbers}
    seen = {number: Eye.CLEAN if number <= clean else Eye.CLIPPED for number in numbers}
    read = [reading(step, number, volts[number], seen[number]) for number in numbers]
    return read, mark(key, basis="marked", volume=clean)


def test_each_output_is_asked_for_with_both_tones_the_second_right_behind_the_first() -> None:
    steps = steps_of(TWO)
    keys = [key for key in steps if key.startswith("ceiling.")]
    assert keys == [FIRST, SECOND]
    tones = [steps[key].wants.tone.frequency_hz for key in keys if steps[key].wants and steps[key].wants.tone]
    assert tones == [1000, 40]
    assert [steps[key].name.rpartition(": ")[2] for key in keys] == ["1 kHz", "40 Hz"]
    assert [key for key in steps_of(JobSheet(chain=LAYOUTS["front"])) if key.startswith("ceiling.")] == [FIRST]


def test_the_lower_number_counts_and_volts_are_those_of_the_speakers_own_tone() -> None:
    first, second = climbed(FIRST, 31), climbed(SECOND, 29, off=1.1)
    marks = (*answers(TWO), first[1])
    begin = steps_of(TWO)
    run = progress(TWO, tuple(first[0]), marks)
    at = next(step for step in run.steps if step.key == SECOND)
    # One is short beside the other.
    assert at.wants is not None
    assert at.wants.volume == 29
    assert any("With the other tone it is clean to 31" in line for line in at.do)
    assert begin[SECOND].wants is not None
    snapshot = JobSnapshot(TWO, (*first[0], *second[0]), (*marks, second[1]), lambda _version: TWO)
    path = snapshot.clean_maxima.of_path(TWO.chain, TWO.chain.paths[0])
    assert path is not None
    # 4 V at 31 with 1 kHz is 3.18 V at 29, where the 40 Hz end.
    assert (path.volume, round(path.voltage_v or 0, 2)) == (29, 3.18)
    run = run_of(snapshot)
    assert {state.step: state.state for state in run.states if state.step.startswith("ceiling")} == {
        FIRST: State.DONE,
        SECOND: State.DONE,
    }
    (top,) = result(snapshot, run).top_volumes
    assert (top.volume, [(last_clean.of, last_clean.volume) for last_clean in top.by_tone]) == (
        29,
        [("40 Hz", 29), ("1 kHz", 31)],
    )
    # Side by side in the library too.
    told = report(sheet_of_source(snapshot, "source", "unit", "mine"))
    assert told.matrix is not None
    assert told.governing is not None
    assert ([column.tone_hz for column in told.matrix.columns], told.governing.volume) == ([40, 1000], 29)


def test_another_tone_asks_for_its_own_steps_again_and_no_others() -> None:
    first, second = climbed(FIRST, 31), climbed(SECOND, 29)
    moved = TWO.model_copy(update={"choices": TWO.choices.model_copy(update={"sub_tone_hz": 60.0})})
    snapshot = JobSnapshot(
        moved,
        (*first[0], *second[0]),
        (*answers(TWO), first[1], second[1]),
        lambda version: TWO if version == 1 else moved,
    )
    states = {state.step: state.state for state in run_of(snapshot).states}
    assert (states[FIRST], states[SECOND]) == (State.DONE, State.OUTDATED)


def test_a_whole_run_with_two_tones() -> None:
    done = simulate(JobSheet(chain=LAYOUTS["front-sub"], choices=Choices(source_tones=SourceTones.TWO)), 3)
    assert done.complete
    assert not any(path.clips for path in done.paths)
    assert all(number.last_clean - 1 <= number.volume <= number.last_clean for number in done.numbers)
