"""How far a run has come, and what a change has spoiled."""

import pytest
from pydantic import ValidationError

from tests.core.helpers import LAYOUTS, answers, gain_step, mark, reading, state_of, steps_of, with_parts
from upper_rook.core.run.readings.records import Eye, Mark, Outcome, Reading
from upper_rook.core.run.result.progress import Run, progress, run_of
from upper_rook.core.run.result.result import Result, result
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.step import State
from upper_rook.core.system.choices import Meter
from upper_rook.core.system.job_sheet import JobSheet, Subject


def volume_steps(sheet: JobSheet) -> tuple[tuple[Reading, ...], tuple[Mark, ...]]:
    """Checklists answered, the source clean maximum 31 at 3.8 V, and that taken."""
    step = steps_of(sheet)["ceiling.source.line"]
    readings = (reading(step, 31, 3.8, Eye.CLEAN), reading(step, 32, 4.1, Eye.CLIPPED))
    return readings, (*answers(sheet), mark("ceiling.source.line", basis="marked", volume=31))


def after(now: JobSheet, then: JobSheet, readings: tuple[Reading, ...], marks: tuple[Mark, ...]) -> Run:
    """The run with the sheet `now`, of records that were taken under `then`."""
    return progress(now, readings, marks, lambda version: then if version == 1 else now)


def states(run: Run) -> dict[str, State]:
    return {state.step: state.state for state in run.states}


def result_of(sheet: JobSheet, readings: tuple[Reading, ...], marks: tuple[Mark, ...]) -> Result:
    snapshot = JobSnapshot(sheet=sheet, readings=readings, marks=marks, history=lambda _version: sheet)
    return result(snapshot, run_of(snapshot))


def test_a_new_run_starts_with_making_it_safe(sheet: JobSheet) -> None:
    run = progress(sheet, (), ())
    assert run.current == "safe"
    assert set(states(run).values()) == {State.OPEN}
    assert [step.key for step in run.steps] == [
        "safe",
        "flat-source",
        "flat-amplifier",
        "supply",
        "ceiling.source.line",
        "connect",
        "gain.front",
        "match.front",
        "prove.front",
        "listen",
        "seal",
    ]


def test_every_measuring_step_says_where_what_and_which_danger(sheet: JobSheet) -> None:
    for step in progress(sheet, (), ()).steps:
        if step.wants and step.wants.tone:
            assert step.probe
            assert step.play
            assert step.point
            assert any("burn" in caution.text for caution in step.cautions)


def test_it_goes_on_where_it_stopped(sheet: JobSheet) -> None:
    readings, marks = volume_steps(sheet)
    run = progress(sheet, readings, marks)
    assert run.current == "gain.front"
    assert states(run)["ceiling.source.line"] is State.DONE
    step = gain_step(sheet, readings, marks)
    assert step.wants is not None
    assert step.wants.volume == 31
    assert step.target is not None


def test_a_reading_in_the_band_ends_the_gain_and_one_outside_does_not(sheet: JobSheet) -> None:
    readings, marks = volume_steps(sheet)
    step = gain_step(sheet, readings, marks)
    low = reading(step, 31, 12.0)
    assert states(progress(sheet, (*readings, low), marks))["gain.front"] is State.OPEN
    good = reading(step, 31, 15.4)
    assert states(progress(sheet, (*readings, low, good), marks))["gain.front"] is State.DONE


@pytest.mark.parametrize("outcome", list(Outcome))
def test_an_outcome_ends_the_gain_until_a_newer_reading(sheet: JobSheet, outcome: Outcome) -> None:
    readings, marks = volume_steps(sheet)
    step = gain_step(sheet, readings, marks)
    taken = (*readings, reading(step, 31, 12.0))
    ended = (*marks, mark("gain.front", outcome=outcome))
    run = progress(sheet, taken, ended)
    found = state_of(run, "gain.front")
    assert found.outcome is outcome
    assert found.state is State.DONE
    # What clips at open terminals clips lower with its load; the volts to turn down to are named.
    if outcome is Outcome.CLIPPED_FIRST:
        assert "turn the gain down to 11 V" in found.sentence
        down = reading(step, 31, found.turn_down_to_v)
        assert states(progress(sheet, (*taken, down), ended))["gain.front"] is State.DONE
    again = progress(sheet, (*taken, reading(step, 31, 9.0)), ended)
    assert states(again)["gain.front"] is State.OPEN


def test_a_changed_target_spoils_the_gain_and_says_by_what(sheet: JobSheet) -> None:
    readings, marks = volume_steps(sheet)
    readings = (*readings, reading(gain_step(sheet, readings, marks), 31, 15.4))
    run = after(with_parts(sheet, load={"power_w": 50}), sheet, readings, marks)
    spoiled = state_of(run, "gain.front").spoiled
    assert states(run)["gain.front"] is State.OUTDATED
    assert [(other.label, other.was, other.now) for other in spoiled] == [("Target volts", "15.49 V", "14.14 V")]
    assert run.current == "gain.front"


def test_a_new_clean_maximum_spoils_the_gain_but_not_the_volume_steps(sheet: JobSheet) -> None:
    readings, marks = volume_steps(sheet)
    readings = (*readings, reading(gain_step(sheet, readings, marks), 31, 15.4))
    lower = reading(steps_of(sheet)["ceiling.source.line"], 30, 3.4, Eye.CLEAN)
    run = progress(sheet, (*readings, lower), (*marks, mark("ceiling.source.line", basis="guess", volume=30)))
    assert states(run)["ceiling.source.line"] is State.DONE
    spoiled = {spoiled.label: (spoiled.was, spoiled.now) for spoiled in state_of(run, "gain.front").spoiled}
    assert spoiled == {"Clean maximum for gains": ("31", "30"), "Source volts there": ("3.8 V", "3.4 V")}


def test_readings_that_contradict_what_was_taken_make_it_outdated(sheet: JobSheet) -> None:
    readings, marks = volume_steps(sheet)
    second_look = reading(steps_of(sheet)["ceiling.source.line"], 31, 3.8, Eye.CLIPPED)
    run = progress(sheet, (*readings, second_look), marks)
    assert states(run)["ceiling.source.line"] is State.OUTDATED


def test_undoing_the_change_makes_it_fresh_again(sheet: JobSheet) -> None:
    readings, marks = volume_steps(sheet)
    readings = (*readings, reading(gain_step(sheet, readings, marks), 31, 15.4))
    changed = with_parts(sheet, load={"power_w": 50})
    assert states(after(changed, sheet, readings, marks))["gain.front"] is State.OUTDATED
    assert states(progress(sheet, readings, marks))["gain.front"] is State.DONE


def test_struck_records_do_not_count(sheet: JobSheet) -> None:
    readings, marks = volume_steps(sheet)
    struck = tuple(reading.model_copy(update={"struck": "undone"}) for reading in readings)
    run = progress(sheet, struck, marks)
    assert state_of(run, "ceiling.source.line").clean_maximum is None
    assert states(run)["ceiling.source.line"] is State.OPEN


def test_skipping_says_why_and_a_reading_opens_it_again(sheet: JobSheet) -> None:
    readings, marks = volume_steps(sheet)
    step = gain_step(sheet, readings, marks, "match.front")
    skipped = (*marks, mark("match.front", skipped=True, note="one speaker only"))
    assert states(progress(sheet, readings, skipped))["match.front"] is State.SKIPPED
    taken = (*readings, reading(step, 31, 15.4))
    assert states(progress(sheet, taken, skipped))["match.front"] is State.DONE


def test_an_answer_after_a_skip_opens_a_checklist_again(sheet: JobSheet) -> None:
    marks = (mark("safe", skipped=True, note="later"), mark("safe", item="running", answer="done"))
    assert states(progress(sheet, (), marks))["safe"] is State.OPEN


@pytest.mark.parametrize(
    "said",
    [
        {},
        {"skipped": True},
        {"skipped": True, "note": "x", "outcome": "at_stop"},
        {"answer": "done"},
        {"answer": "left", "item": "boost"},
        {"basis": "guess"},
        {"item": "boost", "skipped": True, "note": "x"},
    ],
)
def test_a_mark_says_exactly_one_whole_thing(said: dict[str, object]) -> None:
    with pytest.raises(ValidationError):
        mark("safe", **said)


def test_the_result_tells_guessed_from_measured_and_open_from_skipped(sheet: JobSheet) -> None:
    readings, marks = volume_steps(sheet)
    step = gain_step(sheet, readings, marks)
    done = (*readings, reading(step, 31, 15.4))
    unproven = result_of(sheet, done, (*marks, mark("match.front", skipped=True, note="no lead")))
    assert not unproven.complete
    assert any(line.startswith("Prove it: Front") for line in unproven.open)
    skips = (mark(key, skipped=True, note="no lead") for key in ("match.front", "prove.front"))
    skipped = (*marks, *skips)
    sheet_of = result_of(sheet, done, skipped)
    assert sheet_of.complete
    assert sheet_of.top_volumes[0].sentence.startswith("Never pass 31: the clean maximum")
    left, right = sheet_of.outputs
    # 15.4 V into 4 ohm (Joule, Ohm), ±1 % of volts is ±2 % of watts.
    assert left.power_w == pytest.approx(59.29)
    assert left.power_uncertainty_w == pytest.approx(59.29 * 0.02)
    assert right.voltage_v is None
    assert any("no lead" in line for line in sheet_of.skipped)
    blind = reading(steps_of(sheet)["ceiling.source.line"], 30, 2.9)
    told = result_of(sheet, (blind,), (mark("ceiling.source.line", basis="guess", volume=30),))
    assert "a guess" in told.top_volumes[0].sentence
    assert told.guessed
    assert told.open
    assert not told.complete


def test_what_was_chosen_against_caution_is_said_once_with_its_paths() -> None:
    chain = LAYOUTS["front-rear"]
    sheet = with_parts(JobSheet(chain=chain), choices={"tone_level_dbfs": -5, "allowance_percent": 20})
    told = result_of(sheet, (), ()).chosen
    assert [line.partition(":")[0] for line in told] == ["Front, Rear", "Front, Rear"]
    assert "5 dB of overlap, by choice" in told[0]
    assert "20 % above the speakers’ rating" in told[1]
    plain = JobSheet(chain=chain)
    assert result_of(plain, (), ()).chosen == ()


def test_a_path_without_its_figures_and_a_load_too_low_stay_open() -> None:
    chain = LAYOUTS["front-rear"]
    low = chain.loads[0].model_copy(update={"impedance_ohm": 1.0})
    unread = chain.loads[1].model_copy(update={"power_w": None})
    sheet = JobSheet(chain=chain.model_copy(update={"loads": (low, unread)}))
    skips = tuple(mark(key, skipped=True, note="not today") for key in steps_of(sheet))
    assert not progress(sheet, (), skips).complete
    first, second = result_of(sheet, (), skips).open
    assert first.startswith("Rear: not planned. The speakers’ rated power")
    assert second.startswith("Front: Load below the amplifier’s lowest. Each channel would see 1 Ω")
    whole = JobSheet(chain=chain)
    skips = tuple(mark(key, skipped=True, note="not today") for key in steps_of(whole))
    assert progress(whole, (), skips).complete


def test_an_outcome_stands_in_the_result(sheet: JobSheet) -> None:
    readings, marks = volume_steps(sheet)
    taken = (*readings, reading(gain_step(sheet, readings, marks), 31, 12.0))
    told = result_of(sheet, taken, (*marks, mark("gain.front", outcome="clipped_first")))
    assert "real maximum" in told.outputs[0].remark


def test_a_reading_outside_what_the_meter_promises_is_told_as_a_guess(sheet: JobSheet) -> None:
    readings, marks = volume_steps(sheet)
    step = gain_step(sheet, readings, marks)
    doubtful = reading(step, 31, 15.4).model_copy(update={"uncertainty": None})
    told = result_of(sheet, (*readings, doubtful), marks).guessed
    assert told == (
        "Set the gain: Front: 15.4 V was read where the meter’s data sheet gives no accuracy, so its doubt isn’t "
        "known.",
    )
    assert result_of(sheet, (*readings, reading(step, 31, 15.4)), marks).guessed == ()


def test_the_source_is_connected_before_the_first_stage_is_set(sheet: JobSheet) -> None:
    converters = JobSheet(chain=LAYOUTS["converter"])
    steps = steps_of(converters)
    keys = list(steps)
    sources = [n for n, key in enumerate(keys) if steps[key].kind.value in ("volume_steps", "factory")]
    assert keys.index("connect") > max(sources)
    assert keys.index("connect") < min(n for n, key in enumerate(keys) if key.startswith(("converter.", "gain.")))
    step = steps["connect"]
    assert any("off" in caution.text.lower() for caution in step.cautions)
    # Each input by its name, with the paths behind it.
    chain = LAYOUTS["four-channel"]
    named = tuple(amplifier.model_copy(update={"name": f"amp {n}"}) for n, amplifier in enumerate(chain.amplifiers))
    lines = steps_of(JobSheet(chain=chain.model_copy(update={"amplifiers": named})))["connect"].items
    assert next(line.text for line in lines if line.key == "leads") == (
        "Everything off, then signal leads in: amp 0, Channels 1 + 2 (Front); amp 0, Channels 3 + 4 (Rear)"
    )
    # A source on its own has nothing behind it.
    assert "connect" not in steps_of(sheet.model_copy(update={"subject": Subject.SOURCE}))


def test_a_run_of_before_isnt_held_up_by_it(sheet: JobSheet) -> None:
    readings, marks = volume_steps(sheet)
    without = tuple(mark for mark in marks if mark.step != "connect")
    assert progress(sheet, readings, without).current == "connect"
    gain = gain_step(sheet, readings, without)
    past = (*readings, reading(gain, 31, gain.target.value))
    run = progress(sheet, past, without)
    assert next(step.optional for step in run.steps if step.key == "connect")
    assert run.current != "connect"


def test_a_job_with_a_scope_says_how_to_set_it_at_each_step(sheet: JobSheet) -> None:
    on_scope = sheet.model_copy(update={"choices": sheet.choices.model_copy(update={"meter": Meter.SCOPE})})
    readings, marks = volume_steps(on_scope)
    steps = {step.key: step for step in progress(on_scope, readings, marks).steps}
    # 15.5 V is 43.8 V from top to bottom: 6.4 divisions hold 32 V at 5 V each and 64 at 10.
    assert steps["gain.front"].scope == "AC, 10 V and 200 µs a division"
    # The output is rated 4 V: 11.3 V from top to bottom.
    assert steps["ceiling.source.line"].scope == "AC, 2 V and 200 µs a division"
    rows = steps["prove.front"].rows
    assert {row.scope.rpartition(" and ")[2] for row in rows if row.scope} >= {"200 µs a division"}
    assert all(step.scope is None for step in progress(sheet, readings, marks).steps)
