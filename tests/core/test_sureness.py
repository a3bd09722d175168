"""The number never to pass, and how sure one is of it."""

import pytest

from tests.core.helpers import LAYOUTS, answers, mark, reading, steps_of, with_parts
from upper_rook.core.common.units import from_db
from upper_rook.core.run.readings.records import Evidence, Eye, Mark, Reading
from upper_rook.core.run.result.progress import run_of
from upper_rook.core.run.result.result import result
from upper_rook.core.run.result.sureness import Sureness, sureness
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.snapshot.safe_volume import safe_volume
from upper_rook.core.run.steps.step import StepKind
from upper_rook.core.system.chain import line_output_pair
from upper_rook.core.system.job_sheet import JobSheet

SHEET = JobSheet(chain=line_output_pair())
KEY = "ceiling.source.line"


def snapshot(sheet: JobSheet, readings: list[Reading], marks: list[Mark]) -> JobSnapshot:
    return JobSnapshot(sheet, tuple(readings), tuple(marks), lambda _version: sheet)


def taken(basis: str, evidence: Evidence | None, gain_v: float | None = 15.4, **of_gain: object) -> Sureness:
    step = steps_of(SHEET)[KEY]
    number = 31 if basis != "guess" else 30
    readings = [reading(step, number, 3.8, Eye.CLEAN, evidence=evidence)]
    marks = [*answers(SHEET), mark(KEY, basis=basis, volume=number)]
    if gain_v:
        gain = next(step for step in run_of(snapshot(SHEET, readings, marks)).steps if step.key == "gain.front")
        readings.append(reading(gain, number, gain_v, builds_on=gain.builds_on, **of_gain))
    found = sureness(snapshot(SHEET, readings, marks), SHEET.chain.sources[0])
    assert found is not None
    return found


def test_a_capture_is_surer_than_an_eye_and_an_ear_or_a_guess_less() -> None:
    by = [taken("marked", evidence).percent for evidence in (Evidence.CAPTURE, Evidence.EYE, Evidence.EAR)]
    assert by == sorted(by, reverse=True)
    assert by[0] > 99
    guess = taken("guess", None)
    assert guess.percent < by[1]
    assert guess.places[0].where == "the source"
    assert "To be surer, look at the source’s wave with a scope" in guess.sentence


def test_the_higher_a_gain_is_set_the_less_sure_it_is_unless_its_wave_was_seen() -> None:
    # 75 W into 4 Ω are 17.3 V.
    steps = [taken("marked", Evidence.CAPTURE, volts).percent for volts in (15.4, 17.3, 19.0)]
    assert steps == sorted(steps, reverse=True)
    assert steps[-1] < 50
    high = taken("marked", Evidence.CAPTURE, 19.0)
    assert high.places[0].where == "Front’s amplifier"
    assert taken("marked", Evidence.CAPTURE, 19.0, seen=Eye.CLEAN).percent > high.percent + 10


def test_the_same_records_are_as_sure_every_time() -> None:
    assert taken("marked", Evidence.EYE) == taken("marked", Evidence.EYE)


def test_a_share_worked_by_hand() -> None:
    """
    Seen clean by a perfect eye with nothing else near, a source in a step of 1 dB is clean in all draws.

    By the three-quarter rule: uniform between 0.72 and 0.92 of 40, it bends below 30 − 0.25 in (29.75 − 28.8) / 8.
    """
    assert taken("guess", None, 10.0).percent == pytest.approx(100 * (1 - 0.95 / 8), abs=1.5)


def test_the_number_goes_down_by_what_follows_the_source() -> None:
    chain = LAYOUTS["active-two"]
    lifted = chain.paths[0].model_copy(update={"channel_gain_db": 6.0})
    sheet = JobSheet(chain=chain.model_copy(update={"paths": (lifted, *chain.paths[1:])}))
    key = next(text for text in steps_of(sheet) if text.startswith("ceiling"))
    step = steps_of(sheet)[key]
    readings = [reading(step, number, 4.0 * from_db(number - 31), Eye.CLEAN) for number in range(20, 32)]
    marks = [*answers(sheet), mark(key, basis="marked", volume=31)]
    now = snapshot(sheet, readings, marks)
    found = safe_volume(now, sheet.chain.sources[0])
    assert found is not None
    # 4 V and 6 dB are 8 V where 4 V is its most: six numbers of a decibel.
    assert found.volume == 25
    assert "clips" in found.because
    top = result(now, run_of(now)).top_volumes[0]
    assert top.volume == 25
    assert top.sentence.startswith("Never pass 25: above it ")
    assert top.voltage_v == pytest.approx(4.0 * from_db(-6))


def test_ways_that_differ_are_told_with_their_numbers() -> None:
    inputs = [{"kind": "disc"}, {"kind": "auxiliary"}]
    sheet = with_parts(SHEET, source={"inputs": inputs})
    readings, marks = [], list(answers(sheet))
    for way, number in (("disc", 31), ("auxiliary", 33)):
        step = steps_of(sheet)[f"{KEY}.{way}"]
        readings.append(reading(step, number, 3.8, Eye.CLEAN, way=way))
        marks.append(mark(step.key, basis="marked", volume=number))
    now = snapshot(sheet, readings, marks)
    top = result(now, run_of(now)).top_volumes[0]
    assert top.volume == 31
    assert [(last_clean.of, last_clean.volume) for last_clean in top.by_way] == [("disc", 31), ("auxiliary", 33)]
    gain = next(step for step in run_of(now).steps if step.key == "gain.front")
    # Set by what clips first, or the other way would be quieter and the gain too high.
    assert gain.wants is not None
    assert gain.wants.way == "disc"
    # Everything behind the volume is read by the same way, and says so.
    after = [
        step for step in run_of(now).steps if step.path == "front" and step.kind in (StepKind.GAIN, StepKind.PROVE)
    ]
    assert all(step.play.endswith("sine at 0 dBFS, disc") for step in after)
    assert {row.wants.way.value for step in after for row in (*step.rows, *step.beside) if row.wants.tone} == {"disc"}


def test_full_scale_of_numbers_is_no_matter_of_a_rating() -> None:
    chain = LAYOUTS["active-two"]
    outputs = [output.model_dump() | {"kind": "digital", "rated": {}} for output in chain.sources[0].outputs]
    sheet = with_parts(JobSheet(chain=chain), source={"outputs": outputs})
    run = run_of(snapshot(sheet, [], list(answers(sheet))))
    (top,) = result(snapshot(sheet, [], list(answers(sheet))), run).top_volumes
    # Nothing is to be measured before the processor: its scale's end is the number.
    assert (top.volume, top.basis) == (sheet.chain.sources[0].top_volume, None)
    assert top.sentence.endswith("numbers are clean to the top of the scale.")
    assert top.sureness is not None
    processors = [place for place in top.sureness.places if "amplifier" not in place.where]
    assert processors
    assert {processor.chance_percent for processor in processors} == {0.0}
