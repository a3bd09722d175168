"""Readings before a change: outdated if and only if the change matters where they were taken."""

from collections.abc import Callable
from typing import Any

import pytest

from tests.core.freshness import BANDS, HIGH_PASS, LOW_PASS, VOLUME_STEPS, later, processed, set_by, state
from tests.core.helpers import LAYOUTS, first_needs, gain_step, mark, reading, steps_of, with_parts
from upper_rook.core.run.freshness.dependencies import Dependency, DependencyKind, spoiled_by
from upper_rook.core.run.freshness.effects import Risk
from upper_rook.core.run.readings.records import Eye
from upper_rook.core.run.result.progress import progress
from upper_rook.core.run.steps.step import State
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.source import ToneSettings


def with_path(sheet: JobSheet, **fields: object) -> JobSheet:
    return with_parts(sheet, path=fields)


def with_tone(sheet: JobSheet, **settings: object) -> JobSheet:
    return with_parts(sheet, source={"tone": settings})


def quieter(sheet: JobSheet) -> JobSheet:
    """The same with a processor of −12 dB put in."""
    chain = sheet.chain.model_dump(mode="json")
    chain["processors"] = [{"id": "dsp", "highest_input": {"volts": 8}, "highest_output_v": 8}]
    chain["paths"][0] |= {"through": ["dsp"], "channel_gain_db": -12}
    return JobSheet.model_validate(sheet.model_dump(mode="json") | {"chain": chain})


def other_bands(change: Callable[[list[dict[str, Any]]], list[dict[str, Any]]]) -> Callable[[JobSheet], JobSheet]:
    return lambda sheet: with_path(sheet, equaliser=change([dict(band) for band in BANDS]))


@pytest.mark.parametrize(
    ("begin", "change"),
    [
        pytest.param(lambda sheet: sheet, quieter, id="a processor with -12 dB"),
        pytest.param(
            lambda sheet: sheet,
            lambda sheet: with_parts(sheet, choices={"top_volume": "in_hand", "clicks_in_hand": 2}),
            id="clicks in hand afterwards",
        ),
        pytest.param(
            processed,
            lambda sheet: with_path(sheet, filters=[LOW_PASS | {"crossover": {"kind": "low", "corner_hz": 3000.0}}]),
            id="every corner doubled",
        ),
        pytest.param(processed, lambda sheet: with_path(sheet, filters=[]), id="filters dropped"),
        pytest.param(processed, lambda sheet: with_path(sheet, filters=[LOW_PASS]), id="the amplifier’s dropped"),
        pytest.param(
            lambda sheet: with_path(sheet, filters=[HIGH_PASS]),
            lambda sheet: with_path(sheet, filters=[HIGH_PASS | {"crossover": {"kind": "high", "corner_hz": 160.0}}]),
            id="the amplifier’s doubled",
        ),
        pytest.param(
            processed, other_bands(lambda bands: [*bands[:4], bands[4] | {"q": 0.5}, *bands[5:]]), id="Q moved"
        ),
        pytest.param(
            processed, other_bands(lambda bands: [*bands[:-1], bands[-1] | {"frequency_hz": 1100.0}]), id="twelfth band"
        ),
        pytest.param(processed, lambda sheet: with_path(sheet, channel_gain_db=-3.5), id="half a decibel"),
        pytest.param(lambda sheet: sheet, lambda sheet: with_tone(sheet, treble=3), id="treble"),
        pytest.param(lambda sheet: sheet, lambda sheet: with_tone(sheet, loudness=True), id="loudness"),
        pytest.param(lambda sheet: sheet, lambda sheet: with_path(sheet, input="high"), id="input"),
        pytest.param(lambda sheet: sheet, lambda sheet: with_path(sheet, mode="bridged"), id="bridged"),
        pytest.param(
            lambda sheet: sheet,
            lambda sheet: with_path(sheet, boost={"frequency_hz": 900, "gain_db": 6, "q": 0.7}),
            id="boost",
        ),
        pytest.param(
            lambda sheet: sheet, lambda sheet: with_parts(sheet, choices={"tone_level_dbfs": -5}), id="tone level"
        ),
        pytest.param(lambda sheet: sheet, lambda sheet: with_parts(sheet, choices={"load": "dummy"}), id="dummy load"),
    ],
)
def test_what_moves_the_volts_spoils_the_gain_and_back_is_fresh(
    sheet: JobSheet, begin: Callable[[JobSheet], JobSheet], change: Callable[[JobSheet], JobSheet]
) -> None:
    then = begin(sheet)
    records = set_by(then)
    assert state(later(then, then, records)) is State.DONE
    run = later(change(then), then, records)
    assert state(run) is State.OUTDATED
    spoiled = next(state.spoiled for state in run.states if state.step == "gain.front")
    assert all(other.was != other.now for other in spoiled)
    assert state(later(then, change(then), records)) is not State.DONE or change(then) == then
    assert state(later(then, then, records)) is State.DONE


@pytest.mark.parametrize("setting", ["treble", "bass", "loudness", "expander", "fader", "sub_level"])
def test_a_moved_tone_setting_spoils_volume_steps_gain_and_the_list_that_it_contradicts(
    sheet: JobSheet, setting: str
) -> None:
    on = isinstance(getattr(ToneSettings(), setting), bool)
    run = later(with_tone(sheet, **{setting: True if on else 4}), sheet, set_by(sheet))
    outdated = {state.step for state in run.states if state.state is State.OUTDATED}
    assert outdated == {"flat-source", VOLUME_STEPS, "gain.front"}
    assert state(run, "flat-amplifier") is State.DONE


def test_a_clean_maximum_retaken_with_half_the_volts_spoils_the_gain_and_says_that_it_is_only_low(
    sheet: JobSheet,
) -> None:
    readings, marks = set_by(sheet)
    half = reading(steps_of(sheet)[VOLUME_STEPS], 32, 2.0, Eye.CLEAN)
    run = progress(sheet, (*readings, half), marks)
    told = next(state for state in run.states if state.step == "gain.front")
    assert told.state is State.OUTDATED
    assert [(spoiled.label, spoiled.was, spoiled.now) for spoiled in told.spoiled] == [
        ("Source volts there", "4 V", "2 V")
    ]
    assert told.effect is not None
    # Half of the volts in are half of the volts out, and a quarter of the watts (Ohm).
    assert told.effect.db == pytest.approx(-6.02, abs=0.01)
    assert told.effect.risk is Risk.LOW
    # Retaken within both meters' doubt it agrees, and the gain stands.
    same = reading(steps_of(sheet)[VOLUME_STEPS], 32, 4.02, Eye.CLEAN)
    again = progress(sheet, (*readings, half, same), marks)
    assert state(again) is State.DONE


def test_a_louder_way_is_told_as_unsafe_with_its_frequency(sheet: JobSheet) -> None:
    then = processed(sheet)
    records = set_by(then)
    told = next(
        state
        for state in later(with_path(then, channel_gain_db=3.0), then, records).states
        if state.step == "gain.front"
    )
    assert told.effect is not None
    assert told.effect.db == pytest.approx(6.0, abs=0.01)
    assert told.effect.risk is Risk.UNSAFE
    assert "above the target, it may clip" in told.effect.sentence


def test_a_target_that_moves_alone_leaves_the_volts_and_says_how_far_off_they_are(sheet: JobSheet) -> None:
    records = set_by(sheet)
    run = later(with_parts(sheet, load={"power_w": 15}), sheet, records)
    told = next(state for state in run.states if state.step == "gain.front")
    assert told.effect is not None
    # A quarter of the watts is half of the volts: 6.02 dB (Ohm).
    assert (told.effect.db, told.effect.off_db) == (pytest.approx(0), pytest.approx(6.02, abs=0.01))
    assert told.effect.risk is Risk.UNSAFE


def test_a_gain_read_at_another_volume_does_not_settle_it(sheet: JobSheet) -> None:
    readings, marks = set_by(sheet)
    wanted = gain_step(sheet, readings[:-1], marks)
    assert wanted.target is not None
    run = progress(sheet, (*readings[:-1], reading(wanted, 5, wanted.target.value)), marks)
    told = next(state for state in run.states if state.step == "gain.front")
    assert told.state is State.OPEN
    assert "read at volume 5. Set the volume to 32" in told.sentence


def test_a_gain_read_with_another_tone_does_not_settle_it(sheet: JobSheet) -> None:
    readings, marks = set_by(sheet)
    wanted = gain_step(sheet, readings[:-1], marks)
    assert wanted.target is not None
    other = reading(wanted, 32, wanted.target.value, tone={"frequency_hz": 50})
    told = next(state for state in progress(sheet, (*readings[:-1], other), marks).states if state.step == "gain.front")
    assert (told.state, "read with" in told.sentence) == (State.OPEN, True)


@pytest.mark.parametrize("volts", [1.25, 4.0])
def test_a_number_in_hand_that_is_read_again_spoils_the_gain_set_there(sheet: JobSheet, volts: float) -> None:
    in_hand = with_parts(sheet, choices={"top_volume": "in_hand", "clicks_in_hand": 4})
    readings, marks = set_by(in_hand)
    assert readings[-1].volume == 28
    assert state(progress(in_hand, readings, marks)) is State.DONE
    again = reading(steps_of(in_hand)[VOLUME_STEPS], 28, volts, Eye.CLEAN)
    assert state(progress(in_hand, (*readings, again), marks)) is State.OUTDATED


def test_a_number_between_that_is_read_later_spoils_the_gain_that_was_worked_out_there(sheet: JobSheet) -> None:
    in_hand = with_parts(sheet, choices={"top_volume": "in_hand", "clicks_in_hand": 2})
    readings, marks = set_by(in_hand)
    steps = steps_of(in_hand)
    for number, volts, stands in [(30, 2.0, State.OUTDATED), (24, 1.0, State.DONE)]:
        run = progress(in_hand, (*readings, reading(steps[VOLUME_STEPS], number, volts, Eye.CLEAN)), marks)
        assert state(run) is stands


def test_a_gain_that_comes_late_rests_on_the_clean_maximum_it_was_set_at(sheet: JobSheet) -> None:
    readings, marks = set_by(sheet)
    lower = reading(steps_of(sheet)[VOLUME_STEPS], 30, 3.2, Eye.CLEAN)
    retaken = (*marks, mark(VOLUME_STEPS, basis="guess", volume=30))
    # On another device, which had not heard of it; it arrives last.
    late = readings[-1].model_copy(update={"arrival": retaken[-1].arrival})
    run = progress(sheet, (*readings[:-1], lower, late), retaken)
    assert state(run) is State.OUTDATED
    spoiled = next(state.spoiled for state in run.states if state.step == "gain.front")
    assert ("Clean maximum for gains", "32", "30") in [(other.label, other.was, other.now) for other in spoiled]


@pytest.mark.parametrize(
    "change",
    [
        lambda sheet: with_parts(sheet, source={"name": "Lanthorn R9"}),
        lambda sheet: with_parts(sheet, amplifier={"name": "Brackwater"}),
        lambda sheet: with_parts(sheet, load={"name": "Osier"}),
        lambda sheet: with_path(sheet, name="Doors"),
        lambda sheet: sheet.model_copy(update={"note": "another word", "vehicle": "Heron"}),
        # 15.492 V instead of 15.4919 V: rounding moves nothing.
        lambda sheet: with_parts(sheet, load={"power_w": 60.01}),
        lambda sheet: with_parts(sheet, choices={"full_tone_hz": 1000.4}),
        lambda sheet: with_tone(sheet, bass=-0.0),
        lambda sheet: with_parts(sheet, amplifier={"gain_range": {"down_v": 5, "up_v": 0.3}}),
        lambda sheet: with_parts(sheet, choices={"blend": "volts", "crossing": "eighty"}),
    ],
)
def test_names_words_and_rounding_spoil_nothing(sheet: JobSheet, change: Callable[[JobSheet], JobSheet]) -> None:
    run = later(change(sheet), sheet, set_by(sheet))
    assert not [state.step for state in run.states if state.state is State.OUTDATED]


def test_what_rests_on_a_outdated_volume_steps_waits_for_it_and_falls_away_when_it_agrees(sheet: JobSheet) -> None:
    readings, marks = set_by(sheet)
    second_look = reading(steps_of(sheet)[VOLUME_STEPS], 32, 4.0, Eye.CLIPPED)
    run = progress(sheet, (*readings, second_look), marks)
    assert state(run, VOLUME_STEPS) is State.OUTDATED
    waits = {redo.step: redo.waits_for for redo in run.redo}
    assert waits["gain.front"] == VOLUME_STEPS
    assert run.current == VOLUME_STEPS
    clean = reading(steps_of(sheet)[VOLUME_STEPS], 32, 4.01, Eye.CLEAN)
    agreed = progress(sheet, (*readings, second_look, clean), marks)
    assert "gain.front" not in {redo.step for redo in agreed.redo}


def test_two_paths_whose_ids_begin_alike_have_steps_and_gains_of_their_own() -> None:
    chain = LAYOUTS["front-rear"].model_dump(mode="json")
    long = "the-same-beginning-for-both-of-them-"
    for number, path in enumerate(chain["paths"]):
        path["id"] = f"{long}{number}"
    sheet = JobSheet.model_validate({"chain": chain})
    assert {f"gain.{long}0", f"gain.{long}1"} <= set(steps_of(sheet))
    records = set_by(sheet, "ceiling.source.front", f"gain.{long}0")
    run = progress(sheet, *records)
    assert (state(run, f"gain.{long}0"), state(run, f"gain.{long}1")) == (State.DONE, State.OPEN)


def test_a_second_source_has_a_volume_steps_of_its_own_and_its_gains_wait_for_that() -> None:
    chain = LAYOUTS["front-rear"].model_dump(mode="json")
    other = chain["sources"][0] | {"id": "player", "name": "Player"}
    chain["sources"].append(other)
    chain["paths"][1]["source"] = "player"
    sheet = JobSheet.model_validate({"chain": chain})
    volume_step_sets = [key for key in steps_of(sheet) if key.startswith("ceiling.")]
    assert volume_step_sets == ["ceiling.source.front", "ceiling.player.rear"]
    records = set_by(sheet, "ceiling.source.front", "gain.front")
    run = progress(sheet, *records)
    assert state(run) is State.DONE
    rear = next(step for step in run.steps if step.key == "gain.rear")
    assert first_needs(rear)
    assert rear.wants is not None
    assert rear.wants.volume is None


# Every field of the sheet, against an independent idea of what matters.


def test_a_dependency_is_compared_by_value_with_its_stated_tolerance() -> None:
    def one(value: object, kind: DependencyKind, within_v: float = 0.0) -> Dependency:
        return Dependency.model_validate(
            {"place": "x", "label": "x", "value": value, "kind": kind, "within_v": within_v}
        )

    volts, level, hertz = DependencyKind.VOLTS, DependencyKind.LEVEL, DependencyKind.HERTZ
    assert one(10.0, volts).same(one(10.05, volts))
    assert not one(10.0, volts).same(one(10.1, volts))
    # √(0.08² + 0.06²) = 0.1 V of doubt together.
    assert one(10.0, volts, 0.08).same(one(10.099, volts, 0.06))
    assert not one(10.0, volts, 0.08).same(one(10.12, volts, 0.06))
    assert one(-3.0, level).same(one(-3.04, level))
    assert not one(-3.0, level).same(one(-3.06, level))
    assert one(1000.0, hertz).same(one(1004.0, hertz))
    assert not one(1000.0, hertz).same(one(1006.0, hertz))
    assert not one(None, volts).same(one(10.0, volts))
    gone = spoiled_by((one(1.0, level),), ())
    assert [(told.was, told.now) for told in gone] == [("+1.0 dB", "none")]
    assert len(spoiled_by((), (one(1.0, level),))) == 1
