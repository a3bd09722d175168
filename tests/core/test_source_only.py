"""A source by itself: measured in the order that changes least, and left out where it follows another."""

from itertools import pairwise
from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.helpers import LAYOUTS, mark, reading
from upper_rook.core.common.stated import Stated
from upper_rook.core.common.units import from_db, ratio_db
from upper_rook.core.run.clean_maxima.bench_order import asked_alone
from upper_rook.core.run.readings.records import Eye, Mark, Reading
from upper_rook.core.run.result.progress import Run, run_of
from upper_rook.core.run.result.result import result
from upper_rook.core.run.result.source_unit import sheet_of_source
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.step import State, Step, StepState
from upper_rook.core.sources.for_a_job import with_source
from upper_rook.core.sources.source_report import report
from upper_rook.core.sources.text import source_text
from upper_rook.core.system.clean_maximum import Basis
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.playing import InputKind
from upper_rook.core.system.source import OutputKind
from upper_rook.formats.shelf_tag import shelf_tag
from upper_rook.instruments.auto_operator import AutoOperator
from upper_rook.instruments.simulated import bench_for, is_flat, starting_state

LEFT, RIGHT = "ceiling.radio.front.usb", "ceiling.radio.front.usb.right-side"
BY_DISC, RIGHT_BY_DISC = "ceiling.radio.front.disc", "ceiling.radio.front.disc.right-side"


def alone(
    outputs: int = 1, ways: tuple[str, ...] = ("usb", "disc"), sides: str = "pair", **choices: object
) -> JobSheet:
    names = ("front", "rear", "sub", "centre")[:outputs]
    source = {
        "id": "radio",
        "top_volume": 40,
        "outputs": [{"id": name, "name": name.title(), "sides": sides, "rated": {"volts": 4}} for name in names],
        "inputs": [{"kind": way} for way in ways],
    }
    return JobSheet.model_validate(
        {"subject": "source", "chain": {"sources": [source]}, "choices": {"extent": "everything"}}
    )


def stands(sheet: JobSheet, readings: list[Reading], marks: list[Mark]) -> JobSnapshot:
    return JobSnapshot(sheet, tuple(readings), tuple(marks), lambda _version: sheet)


def step_in(run: Run, key: str) -> Step:
    return next(step for step in run.steps if step.key == key)


def state_in(run: Run, key: str) -> StepState:
    return next(state for state in run.states if state.step == key)


def climbed(sheet: JobSheet, key: str, off_db: float = 0.0, clean: int = 31) -> tuple[list[Reading], list[Mark]]:
    """Volume steps from three below the clean maximum to the clipped one, and its taking."""
    step = step_in(run_of(stands(sheet, [], [])), key)
    readings = [
        reading(
            step,
            number,
            3.6 * from_db(number - 31 + off_db),
            Eye.CLEAN if number <= clean else Eye.CLIPPED,
            way=step.wants.way,
        )
        for number in range(min(28, clean - 3), clean + 2)
    ]
    return readings, [mark(key, basis="marked", volume=clean)]


@given(
    outputs=st.integers(1, 4),
    ways=st.lists(st.sampled_from([input_kind.value for input_kind in InputKind]), max_size=5, unique=True),
    sides=st.sampled_from(["pair", "mono"]),
)
def test_from_each_point_to_the_next_one_thing_changes(outputs: int, ways: list[str], sides: str) -> None:
    asked = list(asked_alone(alone(outputs, tuple(ways), sides)))
    # Radio plays no tone: it is left to ears where there is another way.
    played = [way for way in ways if way != "radio"] or ways
    assert len({point.key for point in asked}) == outputs * (2 if sides == "pair" else 1) * max(1, len(played))
    for point, other in pairwise(asked):
        lead = (point.output.id, point.side) != (other.output.id, other.side)
        assert lead != (point.way is not other.way)
    # The way is changed as seldom as can be.
    assert sum(point.way is not other.way for point, other in pairwise(asked)) == max(0, len(played) - 1)


def test_it_asks_for_nothing_that_only_a_vehicle_has() -> None:
    run = run_of(stands(alone(), [], []))
    assert [step.kind.value for step in run.steps] == [
        "checklist",
        "checklist",
        *["volume_steps"] * 4,
        "trims",
        "source_sweep",
    ]
    texts = [item.text for step in run.steps for item in step.items]
    assert "Only the meter is connected to its outputs" in texts
    assert not any("ngine" in text or "mplifier" in text for text in texts)
    assert (run.plan.paths, run.plan.causes, run.plan.unplanned) == ((), (), ())


def test_what_was_seen_to_follow_another_can_be_taken_over() -> None:
    sheet = alone()
    readings, marks = [], []
    for key, off_db in ((LEFT, 0.0), (RIGHT, -0.03), (RIGHT_BY_DISC, 0.4)):
        read, taken = climbed(sheet, key, off_db)
        readings, marks = readings + read, marks + taken
    volume_steps = state_in(run_of(stands(sheet, readings, marks)), BY_DISC).volume_steps
    assert (volume_steps.offers[0].basis, volume_steps.offers[0].volume) == (Basis.FOLLOWS, 31)
    told = "Front, left side follows Front, right side within 0.03 dB in 4 points, seen at USB: use it"
    assert told in volume_steps.next_step
    marks.append(mark(BY_DISC, basis="follows", volume=31))
    run = run_of(stands(sheet, readings, marks))
    assert state_in(run, BY_DISC).state is State.DONE
    assert run.complete is False  # only the checklists are left
    assert [redo.step for redo in run.redo] == ["safe", "flat-source"]
    cells = sheet_of_source(stands(sheet, readings, marks), "radio", "unit", "Shelf").units[0].cells
    over = [cell for cell in cells if cell.taken_over]
    assert [(cell.way, cell.side, cell.clean, cell.clean_v) for cell in over] == [
        (InputKind.DISC, None, 31, pytest.approx(3.6 * from_db(0.4)))
    ]
    # A little more doubtful than where it was measured.
    measured = next(cell for cell in cells if cell.way is InputKind.DISC and cell.side)
    assert over[0].doubt_v > measured.doubt_v
    assert over[0].taken_on is not None
    assert "Never pass 31" in result(stands(sheet, readings, marks), run).top_volumes[0].sentence


@pytest.mark.parametrize(("off_db", "clean", "few"), [(0.06, 31, False), (0.0, 30, False), (0.0, 31, True)])
def test_nothing_is_offered_that_was_not_seen_to_agree(off_db: float, clean: int, few: bool) -> None:
    sheet = alone()
    left, taken = climbed(sheet, LEFT)
    right, also = climbed(sheet, RIGHT, off_db, clean)
    third, last = climbed(sheet, RIGHT_BY_DISC)
    readings = [*left, *(right[2:] if few else right), *third]
    volume_steps = state_in(run_of(stands(sheet, readings, [*taken, *also, *last])), BY_DISC).volume_steps
    assert volume_steps.offers == ()


def test_what_was_taken_over_is_open_again_without_its_ground_and_outdated_when_that_moved() -> None:
    sheet = alone()
    readings, marks = [], [mark(BY_DISC, basis="follows", volume=31)]
    for key in (LEFT, RIGHT, RIGHT_BY_DISC):
        read, taken = climbed(sheet, key)
        readings, marks = readings + read, marks + taken
    assert state_in(run_of(stands(sheet, readings, marks)), BY_DISC).state is State.DONE
    gone = [mark for mark in marks if mark.step != RIGHT]
    assert state_in(run_of(stands(sheet, readings, gone)), BY_DISC).state is State.OPEN
    step = step_in(run_of(stands(sheet, [], [])), RIGHT_BY_DISC)
    lower = [
        *readings,
        reading(step, 31, 3.6, Eye.CLIPPED, way=InputKind.DISC),
    ]
    moved = [*marks, mark(RIGHT_BY_DISC, basis="marked", volume=30)]
    state = state_in(run_of(stands(sheet, lower, moved)), BY_DISC)
    assert (state.state, state.spoiled[0].was, state.spoiled[0].now) == (State.OUTDATED, "31", "30")


def test_what_a_gain_was_set_by_is_found_again_although_a_part_of_it_was_taken_over() -> None:
    chain = with_source(LAYOUTS["front-rear"], alone(2).chain.sources[0].model_copy(update={"id": "source"}))
    # Rated apart, so that a scaled rear would show.
    source = chain.sources[0]
    rear = source.outputs[1].model_copy(update={"rated": Stated(volts=2.0)})
    source = source.model_copy(update={"outputs": (source.outputs[0], rear)})
    sheet = JobSheet.model_validate(
        {"chain": chain.model_copy(update={"sources": (source,)}).model_dump(), "choices": {"extent": "everything"}}
    )
    readings, marks = [], []
    for way, output, clean in (("usb", "front", 32), ("usb", "rear", 32), ("disc", "front", 31)):
        read, taken = climbed(sheet, f"ceiling.source.{output}.{way}", clean=clean)
        readings, marks = readings + read, marks + taken
    marks.append(mark("ceiling.source.rear.disc", basis="follows", volume=31))
    now = stands(sheet, readings, marks)
    path = sheet.chain.paths[1]
    clean_maximum = now.clean_maxima.of_path(sheet.chain, path)
    assert (clean_maximum.voltage_v, clean_maximum.scaled_from) == (pytest.approx(3.6), None)
    gain = step_in(run_of(now), "gain.rear")
    assert now.at(1, gain.builds_on).clean_maxima.of_path(sheet.chain, path).voltage_v == clean_maximum.voltage_v


@pytest.mark.parametrize("seeds", [3, pytest.param(15, marks=pytest.mark.deep)])
def test_on_the_bench_the_shortest_set_tells_the_rest(seeds: int) -> None:
    sheet, followed = alone(outputs=2), 0
    for seed in range(seeds):
        person = AutoOperator(sheet, seed, scope=True)
        run = person.work()
        assert run.complete
        volume_step_sets = [step for step in run.steps if step.kind == "volume_steps"]
        own = [step for step in volume_step_sets if any(each.step == step.key for each in person.readings)]
        # Of two outputs with two sides by two ways one more than the places need a climb, the rest follow.
        assert (len(volume_step_sets), len(own)) == (8, 5)
        for step in volume_step_sets:
            if step in own:
                continue
            followed += 1
            clean_maximum = state_in(run, step.key).clean_maximum
            state = starting_state(sheet).model_copy(
                update={"path": step.along, "way": step.wants.way, "volume": clean_maximum.volume}
            )
            bench = bench_for(sheet, seed, state)
            wave = bench.cycle(state)
            volts = float((wave**2).mean() ** 0.5)
            # What stands there unmeasured, held against the wave that really is there.
            assert not is_flat(wave)
            assert is_flat(bench.cycle(state.model_copy(update={"volume": clean_maximum.volume + 1})))
            assert abs(ratio_db(clean_maximum.voltage_v, volts)) < 0.1
    assert followed == 3 * seeds


def test_what_stands_behind_its_outputs_is_made_anew_and_says_nothing() -> None:
    sheet = alone()
    plain = sheet.model_dump(mode="json")
    plain["chain"]["sources"][0]["outputs"].append({"id": "bass", "highest_hz": 120})
    plain["chain"] = {"sources": plain["chain"]["sources"]}
    more = JobSheet.model_validate(plain)
    assert [path.output for path in more.chain.paths] == ["front", "bass"]
    tones = {
        step.point.output: step.wants.tone.frequency_hz for step in run_of(stands(more, [], [])).steps if step.point
    }
    assert tones == {"front": 1000.0, "bass": 50.0}
    assert JobSheet.model_validate(more.model_dump()) == more


def test_line_and_speaker_outputs_have_one_number_each_in_result_sheet_and_tag() -> None:
    sheet = alone(outputs=2, ways=("usb",))
    source = sheet.chain.sources[0]
    own_amplifier = source.outputs[1].model_copy(update={"kind": OutputKind.SPEAKER})
    chain = sheet.chain.model_copy(
        update={"sources": (source.model_copy(update={"outputs": (source.outputs[0], own_amplifier)}),)}
    )
    sheet = sheet.model_copy(update={"chain": chain})
    lines = climbed(sheet, "ceiling.radio.front.usb", clean=31)
    speakers = climbed(sheet, "ceiling.radio.rear.usb", clean=22)
    snapshot = stands(sheet, [*lines[0], *speakers[0]], [*lines[1], *speakers[1]])
    (top,) = result(snapshot, run_of(snapshot)).top_volumes
    kept = sheet_of_source(snapshot, "radio", "unit", "Whimbrel")
    told = report(kept)
    assert told.governing is not None
    assert top.volume == told.governing.volume == 31
    assert top.by_kind == told.by_kind
    assert [(limit.words, limit.volume) for limit in told.by_kind] == [("line outputs", 31), ("speaker outputs", 22)]
    drawn = ElementTree.fromstring(shelf_tag(kept, told))  # noqa: S314 our own
    shown = [element.text for element in drawn.iter() if element.tag.endswith("text")]
    assert {"never pass 31: line outputs", "never pass 22: speaker outputs"} <= set(shown)
    # Each output at its own number, by the way and tone that it was read at.
    assert [text for text in shown if str(text).startswith("at ")] == ["at 31, USB, 1 kHz", "at 22, USB, 1 kHz"]
    assert "Never pass through its speaker outputs: 22" in list(source_text(kept, told))
