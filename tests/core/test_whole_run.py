"""Steps beside volume steps and gain: supply, converter, corners, proof, ways of playing; common causes of faults."""

import pytest
from scipy import signal

from tests.core.helpers import (
    LAYOUTS,
    answers,
    finding_keys,
    mark,
    reading,
    row_reading,
    state_of,
    steps_of,
    with_parts,
)
from tests.reference.worked_systems import SYSTEMS
from upper_rook.core.metrology.comparison import Fit
from upper_rook.core.plan.plan import plan
from upper_rook.core.run.readings.points import OutputPoint, ProcessorPoint
from upper_rook.core.run.readings.records import Answer, Evidence, Eye, Mark, Reading
from upper_rook.core.run.result.progress import Run, progress, run_of
from upper_rook.core.run.result.result import result
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.step import State, Step, StepState
from upper_rook.core.system.chain import line_output_pair
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.playing import InputKind, Side
from upper_rook.core.system.turn_on import TurnOn
from upper_rook.formats.job_file import read_job

SHEET = JobSheet(chain=line_output_pair())


def step_of(run: Run, key: str) -> Step:
    return next(step for step in run.steps if step.key == key)


def climbed(sheet: JobSheet, key: str = "ceiling.source.front", volts: float = 3.8) -> tuple[list[Reading], list[Mark]]:
    """Checklists answered, the source clean maximum 31, and that taken."""
    step = steps_of(sheet)[key]
    readings = [reading(step, 31, volts, Eye.CLEAN), reading(step, 32, 4.1, Eye.CLIPPED)]
    return readings, [*answers(sheet), mark(key, basis="marked", volume=31)]


def test_the_supply_is_read_when_somebody_wants_to_and_says_what_is_wrong_with_it() -> None:
    step = steps_of(SHEET)["supply"]
    assert step.optional
    assert progress(SHEET, (), answers(SHEET)).current == "ceiling.source.line"
    good = progress(SHEET, (row_reading(step, "running", 14.1),), ())
    assert state_of(good, "supply").state is State.DONE
    tired = state_of(progress(SHEET, (row_reading(step, "running", 12.3),), ()), "supply")
    assert tired.state is State.OPEN
    assert "Low for a running engine (13.5 to 14.8 V)" in tired.rows[0].meanings[0]


CONVERTED = JobSheet(chain=LAYOUTS["converter"])


def test_a_converter_is_trimmed_side_by_side_before_the_gain() -> None:
    # A factory radio of 30 numbers.
    volume_steps = steps_of(CONVERTED)["ceiling.source.front"]
    readings: list[Reading] = [reading(volume_steps, 24, 7.5, Eye.CLEAN)]
    marks = [*answers(CONVERTED), mark(volume_steps.key, basis="marked", volume=24)]
    run = progress(CONVERTED, tuple(readings), tuple(marks))
    assert run.current == "converter.converter.front"
    step = step_of(run, run.current)
    assert step.point == ProcessorPoint(processor="converter", path="front")
    assert [row.key for row in step.rows] == ["left", "right", "at-40"]
    left = step.rows[0]
    assert left.target is not None
    # By hand: 5 V is what it gives, and 6 V × √(60/75) what the gain can turn down to the target.
    assert left.target.value == pytest.approx(5.0)
    assert left.point == ProcessorPoint(processor="converter", path="front", side=Side.LEFT)
    readings.append(row_reading(step, "left", 5.0))
    half = progress(CONVERTED, tuple(readings), tuple(marks))
    assert state_of(half, step.key).state is State.OPEN
    assert next(redo for redo in half.redo if redo.step == "gain.front").waits_for == step.key
    readings += [row_reading(step, "right", 4.95), row_reading(step, "at-40", 3.5)]
    whole = progress(CONVERTED, tuple(readings), tuple(marks))
    assert state_of(whole, step.key).state is State.DONE
    # 20·log10(3.5 / 5) = −3.1 dB.
    assert "40 Hz is 3.1 dB below 1 kHz" in state_of(whole, step.key).sentence
    assert whole.current == "gain.front"


FILTERED = JobSheet(chain=LAYOUTS["front-rear-sub"])


def test_a_corner_is_set_by_the_ratio_of_its_own_open_volts() -> None:
    """Against scipy: a filter set 5 % off is accepted, one 12 % off isn't, and where it stands is told."""
    key = "corner.front.0"
    step = steps_of(FILTERED)[key]
    assert step.wants is not None
    # Two thirds of the guess of 30.
    assert step.wants.volume == 20
    assert step.rows[1].target is None
    for really, fits in ((80.0, True), (83.0, True), (72.0, False)):
        opened = row_reading(step, "open", 8.0)
        # A second-order high-pass that stands there, played at 80 Hz.
        b, a = signal.butter(2, 2 * 3.141592653589793 * really, "high", analog=True)
        left = abs(signal.freqs(b, a, [2 * 3.141592653589793 * 80])[1][0])
        run = progress(FILTERED, (opened, row_reading(step, "now", 8.0 * left)), ())
        state = state_of(run, key)
        comparison = state.rows[1].comparison
        assert comparison is not None
        assert (comparison.fit in (Fit.INSIDE, Fit.UNSURE)) is fits
        assert f"the corner is at about {really:.0f} Hz" in state.sentence
    target = step_of(run, key).rows[1].target
    assert target is not None
    assert target.value == pytest.approx(8 * 0.7071, rel=1e-3)
    # More than that is left where a high-pass stands too low, and where a low-pass stands too high.
    assert target.turn.above == "turn the filter further up"
    low_pass = steps_of(FILTERED)["corner.sub.1"]
    run = progress(FILTERED, (row_reading(low_pass, "open", 8.0), row_reading(low_pass, "now", 7.0)), ())
    comparison = state_of(run, "corner.sub.1").rows[1].comparison
    assert comparison is not None
    assert "turn the filter further down" in comparison.sentence


def test_a_corner_that_takes_everything_or_nothing_says_why() -> None:
    step = steps_of(FILTERED)["corner.front.0"]
    opened = row_reading(step, "open", 8.0)

    def told(volts: float) -> str:
        run = progress(FILTERED, (opened, row_reading(step, "now", volts)), ())
        return " ".join(state_of(run, step.key).rows[1].meanings)

    assert "another filter is in as well" in told(0.1)
    assert "The volts don’t fall" in told(8.0)
    assert not told(8 * 0.707)


def test_a_corner_is_spoiled_by_another_corner_and_not_by_another_power() -> None:
    step = steps_of(FILTERED)["corner.front.0"]
    readings = (row_reading(step, "open", 8.0), row_reading(step, "now", 5.66))
    assert state_of(progress(FILTERED, readings, ()), step.key).state is State.DONE

    def later(document: dict[str, object]) -> State:
        chain = FILTERED.chain.model_dump(mode="json")
        chain["loads"][0] |= document.get("load", {})
        chain["paths"][0]["filters"][0]["crossover"] |= document.get("crossover", {})
        now = JobSheet.model_validate({"format": 3, "chain": chain})
        run = progress(now, readings, (), lambda version: FILTERED if version == 1 else now)
        return state_of(run, step.key).state

    assert later({"load": {"power_w": 40.0}}) is State.DONE
    assert later({"crossover": {"corner_hz": 100.0}}) is State.OUTDATED


def proven(sheet: JobSheet, away: dict[str, float]) -> tuple[Run, Step]:
    """Front's gain set to 15.4 V and every tone of its proof as it should be, but for some, times a factor."""
    key = next(iter(text for text in steps_of(sheet) if text.startswith("ceiling")))
    readings, marks = climbed(sheet, key)
    gain = step_of(progress(sheet, tuple(readings), tuple(marks)), "gain.front")
    readings.append(reading(gain, 31, 15.4, builds_on=gain.builds_on))
    step = step_of(progress(sheet, tuple(readings), tuple(marks)), "prove.front")
    for row in step.rows:
        assert row.target is not None
        volts = row.target.value * away.get(row.key, 1.0)
        readings.append(row_reading(step, row.key, volts, builds_on=step.builds_on))
    return progress(sheet, tuple(readings), tuple(marks)), step


def test_the_proof_plays_what_comes_out_most_and_expects_what_the_filters_leave() -> None:
    run, step = proven(FILTERED, {})
    assert state_of(run, "prove.front").state is State.DONE
    by_hertz = {row.wants.tone.frequency_hz: row for row in step.rows if row.wants.tone}
    assert 80.0 in by_hertz
    target = by_hertz[80.0].target
    assert target is not None
    # −3 dB at its corner, of what the gain was left at.
    assert target.value == pytest.approx(15.4 * 0.7071, rel=5e-3)
    # Beyond what the meter promises only if one likes.
    assert 2 < len([row for row in step.rows if not row.optional]) <= 6
    assert {row.key for row in step.rows if row.optional} == {"at-4000", "at-12000"}


def test_too_much_at_a_tone_of_the_proof_names_the_remedy() -> None:
    sheet = with_parts(SHEET, path={})
    first = steps_of(sheet)["prove.front"].rows[0].key
    run, _ = proven(sheet, {first: 1.5})
    state = state_of(run, "prove.front")
    assert state.state is State.OPEN
    assert "Set the gain again at this tone" in state.rows[0].meanings[0]
    # Left as it is with a reason it stands.
    kept = [row for row in state.rows if row.reading]
    assert kept[0].comparison is not None


def test_a_gain_that_is_set_again_spoils_the_proof() -> None:
    readings, marks = climbed(SHEET, "ceiling.source.line")
    gain = step_of(progress(SHEET, tuple(readings), tuple(marks)), "gain.front")
    readings.append(reading(gain, 31, 15.4, builds_on=gain.builds_on))
    proof = step_of(progress(SHEET, tuple(readings), tuple(marks)), "prove.front")
    for row in proof.rows:
        assert row.target is not None
        readings.append(row_reading(proof, row.key, row.target.value, builds_on=proof.builds_on))
    readings.append(reading(gain, 31, 14.7, builds_on=gain.builds_on))
    state = state_of(progress(SHEET, tuple(readings), tuple(marks), lambda _version: SHEET), "prove.front")
    assert state.state is State.OUTDATED
    assert [spoiled.label for spoiled in state.spoiled] == ["volts its gain was set to"]


def test_a_row_left_as_it_is_with_a_reason_stands() -> None:
    step = steps_of(SHEET)["supply"]
    low = row_reading(step, "running", 12.6)
    left = mark("supply", item="running", answer=Answer.LEFT, note="no charger here")
    state = state_of(progress(SHEET, (low,), (left,)), "supply")
    assert state.state is State.DONE
    assert state.rows[0].left == "no charger here"
    again = row_reading(step, "running", 12.5)
    assert state_of(progress(SHEET, (low, again), (left,)), "supply").state is State.OPEN


def played(*ways: str, **choices: object) -> JobSheet:
    source = {"inputs": [{"kind": way} for way in ways], "outputs": [{"id": "line"}, {"id": "rear"}]}
    return with_parts(SHEET, source=source, choices=choices)


def test_every_way_that_the_customer_uses_has_a_volume_steps_and_the_lowest_governs() -> None:
    sheet = played("disc", "usb", "wireless_phone")
    keys = [key for key in steps_of(sheet) if key.startswith("ceiling")]
    assert keys == ["ceiling.source.line.disc", "ceiling.source.line.usb", "ceiling.source.line.wireless-phone"]
    step = steps_of(sheet)[keys[0]]
    readings = [reading(step, 31, 3.8, Eye.CLEAN, way="disc"), reading(step, 32, 4.1, Eye.CLIPPED, way="disc")]
    marks = [*answers(sheet), mark(step.key, basis="marked", volume=31)]
    run = progress(sheet, tuple(readings), tuple(marks))
    usb = step_of(run, keys[1])
    assert usb.title.endswith("USB")
    assert usb.wants is not None
    assert (usb.wants.volume, usb.wants.way) == (29, InputKind.USB)
    assert "Another output clips at 31" in " ".join(usb.do)
    for number, seen in ((27, Eye.CLEAN), (28, Eye.CLIPPED)):
        readings.append(reading(usb, number, 2.5 + number / 100, seen, way="usb"))
    marks.append(mark(usb.key, basis="marked", volume=27))
    later = progress(sheet, tuple(readings), tuple(marks))
    gain = step_of(later, "gain.front")
    assert gain.wants is not None
    assert gain.wants.volume == 27
    assert gain.after[:3] == tuple(keys)


def test_what_was_measured_by_a_way_stays_that_ways_in_whatever_order_they_are_listed() -> None:
    first, other = played("disc", "usb"), played("usb", "disc")
    step = steps_of(first)["ceiling.source.line.disc"]
    readings = (reading(step, 31, 3.8, Eye.CLEAN, way="disc"),)
    marks = (mark(step.key, basis="marked", volume=31),)
    for sheet in (first, other):
        run = progress(sheet, readings, marks)
        assert state_of(run, step.key).state is State.DONE
        assert state_of(run, "ceiling.source.line.usb").state is State.OPEN
        assert not any("elsewhere" in line for line in step_of(run, step.key).do)
    # Taken off the sheet it governs no more.
    assert run_clean_maxima(played("usb"), readings, marks) is None
    assert run_clean_maxima(first, readings, marks) == 31


def run_clean_maxima(sheet: JobSheet, readings: tuple[Reading, ...], marks: tuple[Mark, ...]) -> int | None:
    return JobSnapshot(sheet, readings, marks).clean_maxima.gain_volume("source")


def test_a_volume_steps_of_before_the_ways_were_told_apart_still_counts_for_all_of_them() -> None:
    readings, marks = climbed(SHEET, "ceiling.source.line")
    sheet = played("disc", "usb")
    run = progress(sheet, tuple(readings), tuple(marks))
    whole = step_of(run, "ceiling.source.line")
    assert state_of(run, whole.key).state is State.DONE
    assert "The lowest clean number of all ways of playing counts." in whole.do
    assert step_of(run, "ceiling.source.line.usb").optional
    assert run.current == "gain.front"


def test_quick_is_one_volume_steps_and_everything_one_for_each_output_and_way() -> None:
    quick = steps_of(played("disc", "usb", extent="quick"))
    assert [key for key in quick if key.startswith("ceiling")] == ["ceiling.source.line.disc"]
    assert "Not measured, by choice: USB." in quick["ceiling.source.line.disc"].do
    everything = JobSheet(chain=LAYOUTS["front-rear"], choices={"extent": "everything"})
    steps = [step for key, step in steps_of(everything).items() if key.startswith("ceiling")]
    sides = [(output, side) for output in ("front", "rear") for side in (None, Side.RIGHT)]
    assert [step.point for step in steps] == [
        OutputPoint(source="source", output=text, side=side) for text, side in sides
    ]
    # The other side is held against it if one likes.
    assert [step.optional for step in steps] == [False, True, False, True]


@pytest.mark.parametrize(
    ("volts", "told"),
    [
        (0.1, "Almost no signal"),
        (15.49 / 4, "Only a quarter"),
        (15.49 / 2, "Only half of the target"),
        (31.0, "Twice the target"),
    ],
)
def test_a_wrong_reading_at_the_terminals_brings_up_what_it_usually_means(volts: float, told: str) -> None:
    readings, marks = climbed(SHEET, "ceiling.source.line")
    gain = step_of(progress(SHEET, tuple(readings), tuple(marks)), "gain.front")
    readings.append(reading(gain, 31, volts, builds_on=gain.builds_on))
    state = state_of(progress(SHEET, tuple(readings), tuple(marks)), "gain.front")
    assert state.meanings[0].startswith(told)


def test_checklists_ask_for_what_the_parts_have() -> None:
    lines = {item.key: item.text for item in steps_of(SHEET)["flat-amplifier"].items}
    assert "remote-level" not in lines
    assert lines["input"].startswith("Input at low level")
    knob = {
        "bass_knob": {"lowest_db": -20, "highest_db": 0, "stands_db": 0},
        "high_level_range": {"down_v": 20, "up_v": 1},
    }
    high = with_parts(SHEET, amplifier=knob, path={"input": "high"})
    lines = {item.key: item.text for item in steps_of(high)["flat-amplifier"].items}
    assert lines["remote-level"] == "Remote level knob unplugged, or at full"
    assert lines["input"].startswith("Input at high level")
    assert "level-knob" not in finding_keys(high)


def looked_at(sheet: JobSheet, **values: float) -> StepState:
    step = steps_of(sheet)["factory.source.front"]
    readings = tuple(row_reading(step, key.replace("_", "-"), value) for key, value in values.items())
    return state_of(progress(sheet, readings, ()), step.key)


def test_a_factory_tap_tells_what_it_carries_and_whether_its_input_fits() -> None:
    assert looked_at(CONVERTED).state is State.OPEN
    whole = looked_at(CONVERTED, at_1000=3.0, at_40=2.9, loud_1000=7.5, loud_40=4.8)
    assert whole.state is State.DONE
    assert "Bass and 1 kHz are level." in whole.sentence
    # 20·log10(2.9/3) = −0.3 dB and 20·log10(4.8/7.5) = −3.9 dB.
    assert "Turned up, it cuts bass by 3.6 dB" in whole.sentence
    assert "7.5 V fit Lowline" not in whole.sentence
    assert "7.5 V fit" in whole.sentence
    assert "no bass here" in looked_at(CONVERTED, at_1000=3.0, at_40=0.5).sentence
    assert "only bass here. Sum it" in looked_at(CONVERTED, at_1000=0.5, at_40=3.0).sentence
    high = JobSheet(chain=LAYOUTS["high-level"])
    assert "barely above the 1 V that the high-level input needs" in looked_at(high, at_1000=1.4).sentence
    assert "above the limit of the high-level input, 20 V" in looked_at(high, at_1000=24.0).sentence


def test_outputs_of_a_converter_that_have_names_are_trimmed_one_by_one() -> None:
    front = CONVERTED.chain.paths[0]
    rear = front.model_copy(update={"id": "rear", "name": "Rear"})

    def trimmed(*names: str) -> tuple[list[str], bool]:
        paths = tuple(
            path.model_copy(update={"converter_output": name}) for path, name in zip((front, rear), names, strict=True)
        )
        sheet = CONVERTED.model_copy(update={"chain": CONVERTED.chain.model_copy(update={"paths": paths})})
        asked = any(cause.kind == "converter-outputs" for cause in plan(sheet).causes)
        return [step.title for step in steps_of(sheet).values() if step.kind == "converter"], asked

    # Nobody has said which: one trim as before, and the question.
    assert trimmed("", "") == (["Set converter the converter (Front)"], True)
    assert trimmed("A", "B") == (["Set converter the converter (A)", "Set converter the converter (B)"], False)
    # A lead that splits behind one plug.
    assert trimmed("A", "a") == (["Set converter the converter (A)"], False)


def test_a_tap_that_feeds_a_sub_alone_is_judged_by_bass_and_not_asked_for_the_rest() -> None:
    sheet = read_job((SYSTEMS / "healthy-factory-tap-into-processor-20-v-to-5-v.json").read_bytes())
    front, sub = (steps_of(sheet)[f"factory.src.{tap}"] for tap in ("front", "sub"))
    assert [row.key for row in front.rows if not row.optional] == ["at-1000"]
    assert [row.key for row in sub.rows if not row.optional] == ["at-40"]
    assert not {"at-1000", "loud-1000"} & {row.key for row in sub.rows}
    bass = state_of(progress(sheet, (row_reading(sub, "at-40", 9.5),), ()), sub.key)
    assert bass.state is State.DONE
    # The processor takes 20 V.
    assert "9.5 V fits DSP" in bass.sentence
    assert "Sum" not in bass.sentence
    # An older record of 1 kHz stays, and is no reason to look for another tap.
    old = row_reading(front, "at-1000", 0.05)
    old = old.model_copy(update={"step": sub.key, "point": sub.point})
    both = state_of(progress(sheet, (row_reading(sub, "at-40", 9.5), old), ()), sub.key)
    assert "only bass here. 9.5 V fits DSP" in both.sentence


@pytest.mark.parametrize(
    ("row", "value", "told"),
    [
        ("ohms", 3.4, "speaker of 4 ohm"),
        ("ohms", 1.8, "speaker of 2 ohm"),
        ("ohms", 0.2, "the two wires touch"),
        ("offset", 0.1, "No offset"),
        ("offset", -6.1, ""),
        ("off", 900.0, "it may never sleep"),
        ("off", 60.0, ""),
    ],
)
def test_ohms_offset_and_turn_off_say_what_they_mean(row: str, value: float, told: str) -> None:
    state = looked_at(CONVERTED, at_1000=3.0, **{row: value})
    meanings = next(row_state.meanings for row_state in state.rows if row_state.row == row)
    assert (told in meanings[0]) if told else not meanings


def test_what_wakes_by_sensing_needs_its_offset() -> None:
    chain = CONVERTED.chain.model_copy(
        update={"processors": (CONVERTED.chain.processors[0].model_copy(update={"turn_on": TurnOn.SENSING}),)}
    )
    sensing = CONVERTED.model_copy(update={"chain": chain})
    assert looked_at(sensing, at_1000=3.0).state is State.OPEN
    assert looked_at(sensing, at_1000=3.0, offset=6.2).state is State.DONE
    assert looked_at(sensing, at_1000=3.0, offset=0.1).state is State.OPEN


def test_two_ways_of_telling_that_disagree_are_both_kept_and_asked_about() -> None:
    step = steps_of(SHEET)["ceiling.source.line"]
    by_eye = reading(step, 24, 2.0, Eye.CLEAN, evidence=Evidence.EYE)
    by_lamp = reading(step, 24, 2.0, Eye.CLIPPED, evidence=Evidence.LAMP)
    volume_steps = state_of(progress(SHEET, (by_eye, by_lamp), ()), step.key).volume_steps
    assert volume_steps is not None
    assert any(
        question.startswith("At 24 the clip light says clipped, the eye clean") for question in volume_steps.questions
    )
    assert volume_steps.first_clipped == 24
    alike = state_of(progress(SHEET, (by_eye, reading(step, 24, 2.0, Eye.CLEAN, evidence=Evidence.LAMP)), ()), step.key)
    assert alike.volume_steps is not None
    assert not alike.volume_steps.questions


def test_what_was_turned_down_in_blending_follows_on_the_sheet() -> None:
    readings, marks = climbed(FILTERED)
    gain = step_of(progress(FILTERED, tuple(readings), tuple(marks)), "gain.front")
    readings.append(reading(gain, 31, 15.4, builds_on=gain.builds_on))
    step = steps_of(FILTERED)["blend"]
    assert step.optional
    assert state_of(progress(FILTERED, (), ()), "blend").state is State.OPEN
    readings.append(row_reading(step, "front", 2.0))
    snapshot = JobSnapshot(FILTERED, tuple(readings), tuple(marks), lambda _version: FILTERED)
    run = run_of(snapshot)
    assert state_of(run, "blend").state is State.DONE
    front = result(snapshot, run).outputs[0]
    # By hand: −2 dB are 0.794 of the volts and 0.631 of the watts.
    assert front.voltage_v == pytest.approx(15.4 * 0.7943, rel=1e-3)
    assert front.power_w == pytest.approx(15.4**2 / 4 * 0.631, rel=1e-3)
    assert front.remark == "turned down by 2 dB in blending"
    assert "blend" not in steps_of(SHEET)


def test_what_has_no_frequency_is_not_said_to_lie_outside_a_meters() -> None:
    step = steps_of(CONVERTED)["factory.source.front"]
    readings = (row_reading(step, "at-1000", 3.0), row_reading(step, "ohms", 3.4, uncertainty=None))
    snapshot = JobSnapshot(CONVERTED, readings, (), lambda _version: CONVERTED)
    assert not any("outside the frequencies" in line for line in result(snapshot, run_of(snapshot)).guessed)
