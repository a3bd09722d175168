"""A job whose source comes from the library: counted with at once, checked with one reading, or put aside."""

from collections.abc import Iterable
from datetime import date

import numpy as np
import pytest

from tests.core.helpers import LAYOUTS, answers, first_needs, mark, reading
from upper_rook.core.common.units import from_db
from upper_rook.core.run.readings.records import Eye, Mark, Reading
from upper_rook.core.run.result.progress import Run, run_of
from upper_rook.core.run.result.result import result
from upper_rook.core.run.result.source_unit import sheet_of_source
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.step import State, Step
from upper_rook.core.sources.for_a_job import source_for_job, with_source
from upper_rook.core.sources.source_sheet import Cell, SheetOutput, SourceSheet, Tried, Unit
from upper_rook.core.system.clean_maximum import Basis, VolumeReading
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.playing import InputKind
from upper_rook.core.system.source import OutputKind, PlayingInput
from upper_rook.instruments.auto_operator import AutoOperator

FRONT, REAR = "ceiling.source.front.usb", "ceiling.source.rear.disc"


def cell(output: str, clean: int, volts: float, **more: object) -> Cell:
    volume_readings = (
        VolumeReading(volume=clean - 2, voltage_v=volts * from_db(-2)),
        VolumeReading(volume=clean, voltage_v=volts),
    )
    fields = {
        "output": output,
        "clean": clean,
        "clean_v": volts,
        "rungs": volume_readings,
        "taken_on": date(2026, 5, 3),
    }
    return Cell.model_validate(fields | {"doubt_v": 0.01 * volts} | more)


def library() -> SourceSheet:
    """Front bends at 33 by disc and at 31 by USB; rear at 32 by disc; with the trim up it was another matter."""
    cells = (
        cell("front", 33, 3.7, way=InputKind.DISC),
        cell("front", 31, 3.6, way=InputKind.USB),
        cell("front", 28, 3.7, way=InputKind.USB, trim="+3"),
        cell("rear", 32, 3.5, way=InputKind.DISC),
    )
    tried = Tried(
        setting="Normaliser", value="on", output="front", volume=24, without_v=2.0, with_v=2.0 * from_db(-3.4)
    )
    return SourceSheet(
        name="Lanthorn R4",
        top_volume=44,
        outputs=tuple(SheetOutput.model_validate({"id": key, "rated": {"volts": 4}}) for key in ("front", "rear")),
        units=(Unit(id="bench", name="shelf", cells=cells, tried=(tried,)),),
    )


def sheet_of_job(**choices: object) -> JobSheet:
    chain = LAYOUTS["front-rear"]
    return JobSheet.model_validate(
        {"chain": with_source(chain, source_for_job(library(), "source")), "choices": choices}
    )


def stands(sheet: JobSheet, readings: Iterable[Reading] = (), marks: Iterable[Mark] = ()) -> JobSnapshot:
    return JobSnapshot(sheet, tuple(readings), tuple(marks), lambda _version: sheet)


def step_in(run: Run, key: str) -> Step:
    return next(step for step in run.steps if step.key == key)


def sentence(run: Run, key: str) -> str:
    return next(state.sentence for state in run.states if state.step == key)


def checked(sheet: JobSheet, *told: tuple[str, int, float]) -> tuple[list[Reading], list[Mark]]:
    """A reading at each, taken as its sheet says."""
    run = run_of(stands(sheet))
    readings = [
        reading(step_in(run, key), number, volts, way=step_in(run, key).wants.way) for key, number, volts in told
    ]
    return readings, [*answers(sheet), *(mark(key, basis="sheet", volume=number) for key, number, _ in told)]


def test_a_source_of_the_library_brings_what_its_usual_settings_gave() -> None:
    source = source_for_job(library(), "radio")
    assert (source.id, source.name, source.top_volume) == ("radio", "Lanthorn R4", 44)
    assert {playing.kind for playing in source.inputs} == {InputKind.DISC, InputKind.USB}
    assert source.from_sheet is not None
    assert [(clean.output, clean.clean, clean.clean_v) for clean in source.from_sheet.clean] == [
        ("front", 33, 3.7),
        ("front", 31, 3.6),
        ("rear", 32, 3.5),
    ]
    # One unit alone says little of the next: within a decibel (common practice, no source).
    assert {clean.within_db for clean in source.from_sheet.clean} == {1.0}
    assert source.from_sheet.words == "the sheet of Lanthorn R4, another unit (shelf), 3 May 2026"
    bare = library().model_copy(update={"units": ()})
    assert source_for_job(bare, "radio").from_sheet is None


def test_several_units_say_how_far_the_next_may_be_off() -> None:
    # 3.6, 3.7 and 3.8 V lie 0.235 dB apart as a standard deviation; t(2) = 4.30, so the next is within
    # 4.30 · √(1 + 1/3) · 0.235 = 1.17 dB (prediction interval, any handbook of statistics).
    units = tuple(Unit(id=f"u{n}", cells=(cell("front", 31, 3.6 + n / 10),)) for n in range(3))
    source = source_for_job(library().model_copy(update={"units": units}), "radio")
    assert source.from_sheet is not None
    assert source.from_sheet.clean[0].within_db == pytest.approx(1.167, abs=0.01)


def test_a_customer_plays_from_what_they_play_from() -> None:
    chain = LAYOUTS["front-rear"]
    own = (PlayingInput(kind=InputKind.WIRELESS_PHONE), PlayingInput(kind=InputKind.USB))
    played = chain.model_copy(update={"sources": (chain.sources[0].model_copy(update={"inputs": own}),)})
    made = JobSheet(chain=with_source(played, source_for_job(library(), "source")))
    assert made.chain.sources[0].inputs == own
    # By disc it bends elsewhere, but nobody plays one here; by a phone nobody has measured it yet.
    assert stands(made).clean_maxima.never_pass("source") == {InputKind.USB: 31}
    volume_step_sets = [(step.key, step.optional) for step in run_of(stands(made)).steps if step.kind == "volume_steps"]
    assert volume_step_sets == [(FRONT, False), ("ceiling.source.front.wireless-phone", False)]


def test_paths_lead_from_the_outputs_that_answer_to_their_own() -> None:
    other = library().model_copy(
        update={
            "outputs": tuple(
                SheetOutput(id=key, kind=kind)
                for key, kind in (
                    ("taps", OutputKind.SPEAKER),
                    ("front", OutputKind.LINE),
                    ("sub-out", OutputKind.LINE),
                )
            ),
            "units": (),
        }
    )
    chain = with_source(LAYOUTS["front-rear"], source_for_job(other, "source"))
    assert [path.output for path in chain.paths] == ["front", "sub-out"]
    few = other.model_copy(update={"outputs": (SheetOutput(id="line"),)})
    chain = with_source(LAYOUTS["front-rear"], source_for_job(few, "source"))
    assert [path.output for path in chain.paths] == ["line", "line"]


def test_the_plan_counts_with_the_other_units_volts_and_says_whose_they_are() -> None:
    plan = stands(sheet_of_job()).plan
    front, rear = plan.paths
    # USB at the front bends first, at 31: 3.6 V there, and two thirds of the way from 3.5 V down 2 dB at the rear.
    assert plan.sources[0].volume == 31
    assert front.source_v == pytest.approx(3.6)
    assert rear.source_v == pytest.approx(3.5 * from_db(-1))
    assert (front.input_basis, rear.input_basis) == (Basis.SHEET, Basis.SHEET)
    assert "by the sheet of Lanthorn R4, another unit (shelf), 3 May 2026" in plan.sources[0].sentence
    assert "not checked here yet" in front.source_because


def test_one_reading_an_output_is_asked_for_and_gains_wait_for_it() -> None:
    sheet = sheet_of_job()
    run = run_of(stands(sheet))
    volume_step_sets = [step for step in run.steps if step.kind == "volume_steps"]
    assert [(step.key, step.optional) for step in volume_step_sets] == [
        (FRONT, False),
        ("ceiling.source.front.disc", True),
        (REAR, False),
    ]
    assert step_in(run, FRONT).wants.volume == 31
    assert first_needs(step_in(run, "gain.front")) == ["Check the source against its sheet first: one reading at 31."]
    readings, marks = checked(sheet, (FRONT, 31, 3.55), (REAR, 32, 3.6))
    half = run_of(stands(sheet, readings[:1], answers(sheet)))
    offers = next(state.volume_steps for state in half.states if state.step == FRONT).offers
    assert (offers[0].basis, offers[0].volume) == (Basis.SHEET, 31)
    after = run_of(stands(sheet, readings, marks))
    assert [step_in(after, key).needs for key in ("gain.front", "gain.rear")] == [(), ()]
    assert after.plan.paths[0].source_v == pytest.approx(3.55)
    assert not after.plan.paths[0].source_because
    sheet_now = result(stands(sheet, readings, marks), after)
    assert not sheet_now.guessed or "another unit" not in " ".join(sheet_now.guessed)
    # Disc at the front stays as told; USB, checked, governs.
    assert sheet_now.top_volumes[0].volume == 31


def test_a_check_that_is_skipped_lets_the_gains_go_on_and_is_told() -> None:
    sheet = sheet_of_job()
    marks = [*answers(sheet), *(mark(key, skipped=True, note="no time") for key in (FRONT, REAR))]
    run = run_of(stands(sheet, (), marks))
    assert step_in(run, "gain.front").needs == ()
    assert any("31 is from the sheet of Lanthorn R4" in text for text in result(stands(sheet, (), marks), run).guessed)


@pytest.mark.parametrize(
    ("number", "volts", "seen", "words"),
    [
        (31, 3.6 * from_db(-3.5), Eye.CLEAN, "Normaliser on does −3.4 dB by the sheet: look at that first"),
        (31, 3.6 * from_db(2.0), Eye.UNSEEN, "loudness, tone controls or a trim above zero"),
        (29, 3.6 * from_db(-4.5), Eye.CLEAN, "the wrong output"),
        (31, 3.6, Eye.CLIPPED, "Here 31 clips"),
        (30, 3.2, Eye.CLIPPED, "Here 30 clips"),
    ],
)
def test_a_reading_that_speaks_against_the_sheet_puts_all_of_it_aside(
    number: int, volts: float, seen: Eye, words: str
) -> None:
    sheet = sheet_of_job(extent="ways")
    step = step_in(run_of(stands(sheet)), FRONT)
    one = reading(step, number, volts, seen, way=InputKind.USB)
    run = run_of(stands(sheet, [one]))
    volume_steps = next(state.volume_steps for state in run.states if state.step == FRONT)
    assert words in volume_steps.questions[0]
    assert all(offer.basis is not Basis.SHEET for offer in volume_steps.offers)
    assert stands(sheet, [one]).clean_maxima.governing("source") is None
    assert first_needs(step_in(run, "gain.front")) == [
        "Find the source’s clean maximum first: the gain is set at that volume."
    ]
    # Both ways are measured then as without a sheet; struck out, the reading says nothing any more.
    assert {step.key for step in run.steps if step.kind == "volume_steps" and not step.optional} == {
        "ceiling.source.front.disc",
        "ceiling.source.front.usb",
    }
    struck = one.model_copy(update={"struck": one.taken_at, "reason": "slip"})
    assert stands(sheet, [struck]).clean_maxima.governing("source") is not None


def test_the_volume_steps_that_put_the_sheet_aside_stays_to_be_climbed() -> None:
    sheet = sheet_of_job(extent="quick")
    one = reading(step_in(run_of(stands(sheet)), REAR), 32, 2.0, Eye.CLEAN, way=InputKind.DISC)
    volume_step_sets = [step for step in run_of(stands(sheet, [one])).steps if step.kind == "volume_steps"]
    assert [(step.key, step.optional) for step in volume_step_sets] == [
        ("ceiling.source.front.disc", False),
        (REAR, False),
    ]


def test_a_check_that_agreed_is_done_again_once_another_output_speaks_against_the_sheet() -> None:
    sheet = sheet_of_job()
    readings, marks = checked(sheet, (FRONT, 31, 3.6), (REAR, 32, 2.0))
    state = next(state for state in run_of(stands(sheet, readings, marks[:-1])).states if state.step == FRONT)
    assert (state.state, state.volume_steps.sheet) == (State.OUTDATED, None)
    assert [offer.basis for offer in state.volume_steps.offers] == []


def test_outputs_that_no_path_uses_count_for_nothing() -> None:
    sheet = sheet_of_job()
    chain = sheet.chain.model_copy(update={"paths": sheet.chain.paths[1:]})
    governing = stands(sheet.model_copy(update={"chain": chain})).clean_maxima.governing("source")
    assert governing is not None
    assert (governing.point.output, governing.clean_maximum.volume) == ("rear", 32)


def test_what_was_set_stays_done_when_another_output_is_checked_and_agrees() -> None:
    sheet = sheet_of_job()
    readings, marks = checked(sheet, (FRONT, 31, 3.6), (REAR, 32, 3.5))
    # The gain of the front is set while the rear is still as told.
    gain = step_in(run_of(stands(sheet, readings[:1], marks)), "gain.front")
    readings.insert(1, reading(gain, 31, gain.target.value, builds_on=gain.builds_on, way=InputKind.USB))
    state = next(state for state in run_of(stands(sheet, readings, marks)).states if state.step == "gain.front")
    assert state.state is State.DONE, state.spoiled


def test_a_check_is_outdated_without_its_sheet_or_when_a_later_reading_differs() -> None:
    sheet = sheet_of_job()
    readings, marks = checked(sheet, (FRONT, 31, 3.6))
    step = step_in(run_of(stands(sheet)), FRONT)
    later = reading(step, 31, 2.4, way=InputKind.USB)
    states = run_of(stands(sheet, [*readings, later], marks)).states
    assert next(state.state for state in states if state.step == FRONT) is State.OUTDATED
    source = sheet.chain.sources[0].model_copy(update={"from_sheet": None})
    bare = sheet.model_copy(update={"chain": sheet.chain.model_copy(update={"sources": (source,)})})
    states = run_of(stands(bare, readings, marks)).states
    state = next(state for state in states if state.step.startswith("ceiling.source.front") and state.reading)
    assert (state.state, state.spoiled[0].was, state.spoiled[0].now) == (State.OUTDATED, "31", "none")


def test_only_what_was_read_here_flows_back() -> None:
    sheet = sheet_of_job()
    readings, marks = checked(sheet, (FRONT, 31, 3.55))
    (unit,) = sheet_of_source(stands(sheet, readings, marks), "source", "job", "Dory").units
    assert [(cell.output, cell.clean, cell.clean_v, cell.basis) for cell in unit.cells] == [
        ("front", 31, 3.55, Basis.SHEET)
    ]


@pytest.mark.parametrize("seeds", [3, pytest.param(12, marks=pytest.mark.deep)])
def test_another_unit_on_the_bench_reaches_its_gains_with_one_reading_an_output(seeds: int) -> None:
    sheet = sheet_of_job()
    for seed in range(seeds):
        person = AutoOperator(sheet, seed, scope=True)
        run = person.work()
        for key in (FRONT, REAR):
            assert len([reading for reading in person.readings if reading.step == key]) == 1, sentence(run, key)
        states = {state.step: state for state in run.states}
        assert all(states[f"gain.{path}"].state is State.DONE for path in ("front", "rear"))


def test_units_that_differ_as_units_do_agree_and_a_setting_in_the_way_never_does() -> None:
    dice = np.random.default_rng(7)
    sheet = sheet_of_job()
    step = step_in(run_of(stands(sheet)), FRONT)

    def agrees(off_db: float) -> bool:
        one = reading(step, 31, 3.6 * from_db(off_db), Eye.CLEAN, way=InputKind.USB)
        return stands(sheet, [one]).clean_maxima.governing("source") is not None

    assert all(agrees(float(off_db)) for off_db in dice.uniform(-0.9, 0.9, 50))
    assert not any(agrees(sign * float(off_db)) for off_db in dice.uniform(1.5, 9.0, 50) for sign in (-1, 1))
