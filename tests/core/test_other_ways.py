"""Ways that play no tone, the player that was used, and everything that a volume number holds with."""

import pytest

from tests.core.helpers import LAYOUTS, answers, first_path, mark, reading, row_reading, state_of, steps_of, with_parts
from upper_rook.core.common.units import from_db
from upper_rook.core.run.readings.records import Eye, Mark, Reading
from upper_rook.core.run.result.progress import Run, run_of
from upper_rook.core.run.result.result import Result, result
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.step import State
from upper_rook.core.system.job_sheet import JobSheet, Subject

WAYS = with_parts(
    JobSheet(chain=LAYOUTS["front"]),
    source={"inputs": [{"kind": "usb", "player": "the shop’s stick"}, {"kind": "radio"}]},
)
BY_EAR = "other-ways.source"


def handed_over(*more: Reading, sheet: JobSheet = WAYS, said: tuple[Mark, ...] = ()) -> Result:
    step = steps_of(sheet)["ceiling.source.line.usb"]
    clean = reading(step, 30, 3.8, Eye.CLEAN, way="usb")
    marks = (*answers(sheet), mark(step.key, basis="marked", volume=30), *said)
    snapshot = JobSnapshot(sheet, (clean, *more), marks, lambda _version: sheet)
    return result(snapshot, run_of(snapshot))


def test_radio_is_asked_for_by_ear_and_never_with_a_tone() -> None:
    steps = steps_of(WAYS)
    assert [key for key in steps if key.startswith("ceiling.")] == ["ceiling.source.line.usb"]
    assert BY_EAR in steps
    alone = WAYS.model_copy(update={"subject": Subject.SOURCE})
    assert [key for key in steps_of(alone) if "radio" in key] == []
    # With radio alone there is nothing to hold it against: its volume is stepped through as ever.
    lonely = with_parts(WAYS, source={"inputs": [{"kind": "radio"}]})
    assert "ceiling.source.line.radio" in steps_of(lonely)
    assert BY_EAR not in steps_of(lonely)


def test_what_was_read_by_radio_before_stays() -> None:
    old = reading(
        steps_of(with_parts(WAYS, source={"inputs": [{"kind": "radio"}]}))["ceiling.source.line.radio"], 28, 2.0
    )
    snapshot = JobSnapshot(WAYS, (old,), (), lambda _version: WAYS)
    assert "ceiling.source.line.radio" in {step.key for step in run_of(snapshot).steps}


@pytest.mark.parametrize(("apart", "number"), [(5, 33), (1, 30), (0, 30), (-3, 25), (40, 40)])
def test_the_number_by_ear_keeps_the_doubt_of_ears(apart: int, number: int) -> None:
    # By hand: 30 by USB, ears off by 2; never past the scale’s end at 40, never more than equal loudness allows.
    told = handed_over(row_reading(steps_of(WAYS)[BY_EAR], "radio", apart))
    assert [(last_clean.of, last_clean.volume) for last_clean in told.top_volumes[0].by_way] == [
        ("radio, by ear", number)
    ]
    assert not any("by ear" in text for text in told.guessed)


def test_a_way_that_nobody_compared_is_named() -> None:
    assert any("radio plays no tone and wasn’t compared by ear" in one for one in handed_over().guessed)


def test_the_player_stands_at_the_step_and_beside_the_number() -> None:
    assert "Play by USB, the shop’s stick." in steps_of(WAYS)["ceiling.source.line.usb"].do
    assert "USB from the shop’s stick" in handed_over().top_volumes[0].holds_with


def test_the_number_holds_only_with_everything_between() -> None:
    sheet = with_parts(
        JobSheet(chain=LAYOUTS["converter"]),
        source={"inputs": [{"kind": "usb", "trim_db": 3}, {"kind": "wired_phone"}], "tone": {"sub_level": 2}},
    )
    steps = steps_of(sheet)
    (converter,) = sheet.chain.processors
    source = sheet.chain.sources[0].id
    keys = [item.key for item in steps["seal"].items]
    assert {f"trims.{converter.id}", f"trim.{source}.usb", f"phone.{source}", f"sub.{source}"} <= set(keys)
    step = next(step for key, step in steps.items() if key.startswith("ceiling."))
    clean = reading(step, 30, 3.8, Eye.CLEAN, way=step.wants.way if step.wants else None)
    marks = (
        mark("seal", item=f"phone.{source}", answer="done", note="15 of 16"),
        mark(step.key, basis="marked", volume=30),
    )
    assert result(*_now(sheet, (), marks[:1])).top_volumes[0].holds_with == ()
    snapshot = JobSnapshot(sheet, (clean,), marks, lambda _version: sheet)
    (top,) = result(snapshot, run_of(snapshot)).top_volumes
    assert top.holds_with == (
        "sub level +2",
        "USB trim +3 dB",
        "phone’s volume 15 of 16",
        f"{converter.name or 'the converter'}’s trims as they were left",
    )


def _now(sheet: JobSheet, readings: tuple[Reading, ...], marks: tuple[Mark, ...]) -> tuple[JobSnapshot, Run]:
    snapshot = JobSnapshot(sheet, readings, marks, lambda _version: sheet)
    return snapshot, run_of(snapshot)


def test_a_converter_is_trimmed_with_a_level_of_its_own() -> None:
    sheet = with_parts(JobSheet(chain=LAYOUTS["converter"]), choices={"tone_level_dbfs": -10})
    own = with_parts(sheet, choices={"tone_level_dbfs": -10, "converter_level_dbfs": 0})
    key = next(key for key in steps_of(sheet) if key.startswith("converter."))
    low, full = (steps_of(job_sheet)[key] for job_sheet in (sheet, own))
    assert full.wants
    assert full.wants.tone
    assert full.wants.tone.level_dbfs == 0
    was, now = (step.rows[0].target.value for step in (low, full) if step.rows[0].target)
    assert now / was == pytest.approx(from_db(10))
    # The plan says the same volts and the same tone as the run.
    (advice,) = first_path(own).trims
    assert f"to {now:.3g} V, left and right alike, with a tone at 0 dBFS" in advice.sentence
    # The gain behind it keeps its own level.
    gain = next(key for key in steps_of(own) if key.startswith("gain."))
    wants = steps_of(own)[gain].wants
    assert wants
    assert wants.tone
    assert wants.tone.level_dbfs == -10


def test_a_level_knob_is_unplugged_before_and_put_back_after() -> None:
    knob = {"lowest_db": -20, "highest_db": 0, "stands_db": 0}
    sheet = with_parts(JobSheet(chain=LAYOUTS["sub"]), amplifier={"bass_knob": knob})
    texts = {item.key: item.text for step in steps_of(sheet).values() for item in step.items}
    assert texts["remote-level"] == "Remote level knob unplugged, or at full"
    assert texts["level-knob-back"] == "Remote level knob at full, as planned, plugged in again"
    lifting = with_parts(sheet, amplifier={"bass_knob": knob | {"highest_db": 12}})
    # Unplugged it makes nothing of the signal, at full 12 dB more: where it is planned counts.
    without = {item.key: item.text for step in steps_of(lifting).values() for item in step.items}
    assert without["remote-level"] == "Remote level knob at 0 dB, as planned"
    bare = steps_of(JobSheet(chain=LAYOUTS["front-sub"])).values()
    assert "level-knob-back" not in {item.key for step in bare for item in step.items}
    run = run_of(JobSnapshot(sheet, (), answers(sheet), lambda _version: sheet))
    assert state_of(run, "listen").state is State.DONE
