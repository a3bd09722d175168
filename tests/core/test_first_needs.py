"""What comes before a reading: speakers off, and the clean maximum of the kind of output that a path uses."""

from tests.core.helpers import LAYOUTS, answers, first_needs, mark, reading, steps_of
from upper_rook.core.common.stated import Stated
from upper_rook.core.run.readings.records import Eye, Mark, Reading
from upper_rook.core.run.result.progress import Run, progress, run_of
from upper_rook.core.run.result.result import result
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.step import State, Step, StepState
from upper_rook.core.system.chain import line_output_pair
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.processor import Processor, ProcessorKind
from upper_rook.core.system.source import Output, OutputKind

SHEET = JobSheet(chain=line_output_pair())


def step(run: Run, key: str) -> Step:
    return next(step for step in run.steps if step.key == key)


def state(run: Run, key: str) -> StepState:
    return next(state for state in run.states if state.step == key)


def saved(sheet: JobSheet, key: str, volume: int, volts: float) -> tuple[Reading, Mark]:
    """A clean maximum at one output."""
    return reading(steps_of(sheet)[key], volume, volts, Eye.CLEAN), mark(key, basis="marked", volume=volume)


def test_every_step_with_a_tone_asks_for_the_speakers_first_until_somebody_says_so() -> None:
    asking = {
        step.kind for step in progress(SHEET, (), ()).steps if step.needs and step.needs[0].item == "speakers-off"
    }
    assert asking == {"volume_steps", "gain", "match", "prove"}
    need = step(progress(SHEET, (), ()), "gain.front").needs[0]
    assert (need.step, need.counts, need.answer) == ("safe", True, "Speakers are off")
    for settled in (
        mark("safe", item="speakers-off", answer="done"),
        mark("safe", item="speakers-off", answer="left", note="no other way"),
        mark("safe", skipped=True, note="on the bench"),
    ):
        run = progress(SHEET, (), (settled,))
        assert not any(need.item for each in run.steps for need in each.needs)


def test_a_gain_read_before_the_clean_maximum_settles_nothing_and_is_vouched_for_by_nothing() -> None:
    early = reading(steps_of(SHEET)["gain.front"], 0, 15.4)
    before = state(progress(SHEET, (early,), answers(SHEET)), "gain.front")
    assert (before.state, before.effect, before.spoiled) == (State.OPEN, None, ())
    assert "settles nothing" in before.sentence
    at, taken = saved(SHEET, "ceiling.source.line", 30, 3.0)
    run = progress(SHEET, (early, at), (*answers(SHEET), taken))
    after = state(run, "gain.front")
    assert (after.state, after.effect, after.spoiled) == (State.OPEN, None, ())
    # Read again at the clean maximum it counts.
    again = reading(step(run, "gain.front"), 30, 15.4)
    assert state(progress(SHEET, (early, at, again), (taken,)), "gain.front").state is State.DONE


def test_a_proof_and_a_trim_read_too_early_settle_nothing_either() -> None:
    sheet = JobSheet(chain=LAYOUTS["converter"])
    for key in ("converter.converter.front", "prove.front"):
        wanted = steps_of(sheet)[key]
        rows = [row for row in wanted.rows if not row.optional and row.target]
        early = tuple(
            reading(wanted.model_copy(update={"point": row.point}), 0, row.target.value, row=row.key)
            for row in rows
            if row.target
        )
        found = state(progress(sheet, early, answers(sheet)), key)
        assert found.state is State.OPEN, key
        assert all(row.early for row in found.rows if row.reading), key
        assert found.spoiled == ()


def two_kinds() -> JobSheet:
    """A line output straight into one amplifier, a speaker output through a converter into another."""
    pair = LAYOUTS["front-rear"]
    tap = Output(id="tap", name="Speaker tap", kind=OutputKind.SPEAKER, rated=Stated(watts=16))
    source = pair.sources[0].model_copy(update={"outputs": (pair.sources[0].outputs[0], tap)})
    converter = Processor(
        id="loc", kind=ProcessorKind.CONVERTER, highest_input=Stated(volts=20.0), highest_output_v=5.0
    )
    front, rear = pair.paths
    paths = (front, rear.model_copy(update={"output": "tap", "through": ("loc",)}))
    return JobSheet(chain=pair.model_copy(update={"sources": (source,), "processors": (converter,), "paths": paths}))


def test_the_output_that_a_path_uses_is_asked_for_governs_and_is_named() -> None:
    sheet = two_kinds()
    volume_step_sets = [key for key in steps_of(sheet) if key.startswith("ceiling.")]
    assert volume_step_sets == ["ceiling.source.front", "ceiling.source.tap"]
    line, line_taken = saved(sheet, "ceiling.source.front", 40, 4.0)
    half = progress(sheet, (line,), (*answers(sheet), line_taken))
    # The line output says nothing of the amplifier inside the source.
    assert first_needs(step(half, "gain.front")) == []
    assert first_needs(step(half, "gain.rear")) == [
        "Find the source’s clean maximum at Speaker tap first: the gain is set at that volume."
    ]
    tap, tap_taken = saved(sheet, "ceiling.source.tap", 27, 6.0)
    snapshot = JobSnapshot(
        sheet=sheet,
        readings=(line, tap),
        marks=(*answers(sheet), line_taken, tap_taken),
        history=lambda _version: sheet,
    )
    top = result(snapshot, run_of(snapshot)).top_volumes[0]
    assert top.volume == 27
    assert top.sentence == "Never pass 27: the clean maximum, seen clean, at Speaker tap."
    assert top.not_measured == ()


def test_an_output_that_no_path_uses_any_more_governs_nothing() -> None:
    sheet = two_kinds()
    line, line_taken = saved(sheet, "ceiling.source.front", 20, 2.0)
    front, rear = sheet.chain.paths
    moved = sheet.model_copy(
        update={"chain": sheet.chain.model_copy(update={"paths": (front.model_copy(update={"output": "tap"}), rear)})}
    )
    assert JobSnapshot(sheet=sheet, readings=(line,), marks=(line_taken,)).clean_maxima.governing("source") is not None
    assert JobSnapshot(sheet=moved, readings=(line,), marks=(line_taken,)).clean_maxima.governing("source") is None


def test_what_is_only_worked_out_from_another_output_is_said_to_be_not_measured() -> None:
    sheet = JobSheet(chain=LAYOUTS["front-rear-sub"])
    at, taken = saved(sheet, "ceiling.source.front", 30, 3.0)
    snapshot = JobSnapshot(sheet=sheet, readings=(at,), marks=(taken,), history=lambda _version: sheet)
    sheet_of_run = result(snapshot, run_of(snapshot))
    assert sheet_of_run.top_volumes[0].not_measured == ("Rear", "Sub")
    told = [text for text in sheet_of_run.guessed if text.startswith("Rear: Measured at Front only")]
    assert len(told) == 1


def test_a_path_without_its_figures_is_a_step_with_the_way_to_its_field() -> None:
    chain = LAYOUTS["front-rear"]
    unread = chain.loads[1].model_copy(update={"power_w": None})
    unrated = chain.amplifiers[0].model_copy(update={"ratings": ()})
    chain = chain.model_copy(update={"loads": (chain.loads[0], unread), "amplifiers": (unrated, chain.amplifiers[1])})
    run = progress(JobSheet(chain=chain), (), ())
    lacking = {step.path: step.field for step in run.steps if step.kind == "lacking"}
    assert lacking == {"front": "amplifiers.amplifier-front.ratings", "rear": "loads.speakers-rear.power_w"}
    assert all(state(run, f"lacking.{path}").state is State.OPEN for path in lacking)
    assert not run.complete


def test_a_short_step_before_a_long_one_is_asked_about() -> None:
    wanted = steps_of(SHEET)["ceiling.source.line"]

    def questions(*volts: float) -> tuple[str, ...]:
        readings = tuple(reading(wanted, 24 + place, value, Eye.CLEAN) for place, value in enumerate(volts))
        volume_steps = state(progress(SHEET, readings, ()), wanted.key).volume_steps
        assert volume_steps is not None
        return volume_steps.questions

    # 1.1 and 3.2 dB apart: the middle one was read before the meter had settled.
    (asked,) = questions(1.0, 1.135, 1.64)
    assert "The reading at 25 may have come before the meter had settled" in asked
    # Steps that shrink, as where a source begins to clip, are its own.
    assert questions(1.0, 1.26, 1.5, 1.6) == ()
