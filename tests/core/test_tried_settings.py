"""Settings that people add to the trims: any value as the source shows it, at any output, by any way, with any tone."""

from tests.core.helpers import LAYOUTS, answers, mark, reading, state_of, steps_of, with_parts
from upper_rook.core.run.readings.records import Eye, Reading
from upper_rook.core.run.readings.tried_setting import SettingKind, TriedSetting, row_key
from upper_rook.core.run.result.progress import run_of
from upper_rook.core.run.result.source_unit import sheet_of_source
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.playing import InputKind

SHEET = with_parts(
    JobSheet(chain=LAYOUTS["front-rear-sub"]),
    source={"tone": {"sub_level": 0.0}, "inputs": [{"kind": "usb"}]},
    choices={"extent": "everything"},
)
STEP = steps_of(SHEET)["trims.source"]
LOW, HABIT = Tone(frequency_hz=50.0), Tone(frequency_hz=1000.0)


def tried(what: tuple[SettingKind, str, str], volume: int, volts: float, tone: Tone) -> Reading:
    kind, shown, output = what
    setting, way = TriedSetting(kind=kind, shown=shown, output=output), InputKind.USB
    point = {"kind": "output", "source": "source", "output": output}
    key = row_key(setting, way, tone)
    at = STEP.model_copy(update={"point": STEP.point.model_copy(update=point)}) if STEP.point else STEP
    return reading(at, volume, volts, setting=setting, tone=tone, way=way, row=key)


def snapshot(*readings: Reading) -> JobSnapshot:
    steps = steps_of(SHEET)
    key = next(key for key in steps if key.startswith("ceiling.source.") and key.endswith(".usb"))
    clean = reading(steps[key], 31, 3.8, Eye.CLEAN, way="usb")
    marks = (*answers(SHEET), mark(key, basis="marked", volume=31))
    return JobSnapshot(SHEET, (clean, *readings), marks, lambda _version: SHEET)


def test_the_sub_level_is_tried_at_the_subs_output_with_a_low_tone() -> None:
    sub = next(path for path in SHEET.chain.paths if SHEET.chain.load_of(path).band == "sub")
    rows = [row for row in STEP.rows if row.key.startswith("sub-")]
    assert [row.point.model_dump()["output"] for row in rows] == [sub.output] * 2
    assert [row.wants.tone.frequency_hz for row in rows if row.wants.tone] == [50, 50]
    assert all(row.probe for row in rows)


def test_every_row_that_is_added_has_its_own_clean_number() -> None:
    sub = next(path.output for path in SHEET.chain.paths if SHEET.chain.load_of(path).band == "sub")
    line = next(path.output for path in SHEET.chain.paths if path.output != sub)
    readings = (
        tried((SettingKind.TRIM, "+3", line), 29, 3.8, HABIT),
        tried((SettingKind.TRIM, "+4", line), 28, 3.7, HABIT),
        tried((SettingKind.SUB_LEVEL, "7", sub), 27, 2.2, LOW),
        tried((SettingKind.FADER, "R 3", line), 33, 3.95, HABIT),
        # Read again: the same row, whatever its letters.
        tried((SettingKind.FADER, "r 3", line), 33, 3.9, HABIT),
    )
    now = snapshot(*readings)
    run = run_of(now)
    step = next(step for step in run.steps if step.key == STEP.key)
    assert len(step.rows) == len(STEP.rows) + 4
    told = state_of(run, STEP.key).sentence
    assert "Fader R 3" in told
    assert "clean to 33, 3.9 V" in told
    assert "Sub level 7" in told
    assert "clean to 27, 2.2 V" in told
    # By hand: 20·log10(3.9 / 3.8) = 0.23 dB.
    assert "at 33, 3.9 V, 0.2 dB more than the present setting" in told
    cells = sheet_of_source(now, "source", "own", "Own").units[0].cells
    assert {(cell.output, cell.tone_hz, cell.settings.words, cell.clean) for cell in cells} >= {
        (line, 1000, "trim +3, sub level 0", 29),
        (line, 1000, "trim +4, sub level 0", 28),
        (sub, 50, "sub level 7", 27),
        (line, 1000, "sub level 0, fader r 3", 33),
    }


def test_a_setting_at_an_output_that_is_gone_leaves_no_row() -> None:
    run = run_of(snapshot(tried((SettingKind.TRIM, "+3", "elsewhere"), 29, 3.8, HABIT)))
    assert len(next(step for step in run.steps if step.key == STEP.key).rows) == len(STEP.rows)
