"""The papers' words: the days of figures, plain words for the customer, the parts, a code that may be too small."""

from datetime import date
from xml.etree import ElementTree

from tests.core.helpers import LAYOUTS, answers, mark, moment, reading, steps_of, with_parts
from upper_rook.core.handover.customer_card import customer_card
from upper_rook.core.handover.document import Handover, Written, handover
from upper_rook.core.handover.labels import Label, labels
from upper_rook.core.run.readings.records import Eye
from upper_rook.core.run.result.progress import run_of
from upper_rook.core.run.result.result import result
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.part_words import part_words
from upper_rook.formats.handover_html import card_html
from upper_rook.formats.label_sheet import LabelGrid, label_pages

KEY = "ceiling.source.line"
PRINTED = date(2027, 3, 9)
SHEET = with_parts(
    JobSheet(chain=LAYOUTS["front"]),
    source={"tone": {"sub_level": 2.0}, "inputs": [{"kind": "usb", "trim_db": 3.0}]},
)


def document(sheet: JobSheet, *, measured: bool = True) -> Handover:
    """Of a job whose source and front gain were measured, written long afterwards."""
    now = JobSnapshot(sheet)
    if measured:
        step = next(step for key, step in steps_of(sheet).items() if key.startswith(KEY))
        way = step.wants.way if step.wants else None
        climbed = [
            reading(step, number, volts, seen, way=way)
            for number, volts, seen in ((29, 3.4, Eye.CLEAN), (30, 3.8, Eye.CLEAN), (31, 4.1, Eye.CLIPPED))
        ]
        marks = (*answers(sheet), mark(step.key, basis="marked", volume=30))
        before = JobSnapshot(sheet, tuple(climbed), marks, lambda _version: sheet)
        gain = next(step for step in run_of(before).steps if step.key == "gain.front")
        assert gain.target
        set_to = reading(gain, 30, gain.target.value, way=way)
        now = JobSnapshot(sheet, (*climbed, set_to), marks, lambda _version: sheet)
    run = run_of(now)
    return handover(now, run, result(now, run), Written(PRINTED, 1))


def test_a_label_printed_later_carries_the_day_of_its_reading() -> None:
    measured_on = moment().date()
    number, gain, *_ = labels(document(SHEET))
    assert number.figure == "never pass 30"
    assert gain.figure.endswith(" V")
    for label in (number, gain):
        assert f"{measured_on.day} May {measured_on.year}" in label.told
        assert "2027" not in label.told
    assert "at 30, 1 kHz" in gain.told


def test_a_label_and_a_card_of_a_practice_job_say_so() -> None:
    practice = document(SHEET.model_copy(update={"practice": True}))
    assert all(label.told.endswith("practice") for label in labels(practice))
    assert "Practice: no vehicle was set by this card." in customer_card(practice).text


def test_a_card_keeps_to_what_the_customer_can_reach() -> None:
    card = customer_card(document(SHEET))
    assert card.day == moment().date()
    assert card.leave_alone[:2] == ("sub level +2", "USB trim +3 dB")
    assert card.leave_alone[2].startswith("every knob and switch of the amplifiers")
    assert "never pass 30" in card.text
    unknown = customer_card(document(SHEET, measured=False))
    assert "the highest number isn’t known yet" in unknown.text
    assert unknown.day == PRINTED


def test_a_card_with_more_text_than_a_code_holds_is_written_all_the_same() -> None:
    card = customer_card(document(SHEET))
    long = card.model_copy(update={"leave_alone": ("a setting with a long name",) * 200})
    assert "<svg" in card_html(long)
    longer = long.model_copy(update={"come_back": ("something happened",) * 300})
    assert "<svg" not in card_html(longer)
    assert "something happened" in card_html(longer)


def test_parts_are_listed_by_name_and_figures_and_equal_ones_counted() -> None:
    nameless = with_parts(JobSheet(chain=LAYOUTS["front"]), amplifier={"name": ""}, load={"impedance_ohm": None})
    chain = nameless.chain
    amplifier = chain.amplifiers[0]
    twice = chain.model_copy(update={"amplifiers": (amplifier, amplifier.model_copy(update={"id": "b"}))})
    words = part_words(twice)
    first = amplifier.ratings[0]
    assert f"Amplifier without a name, {first.power_w:g} W into {first.load_ohm:g} Ω (2 of them)" in words
    assert "× ? Ω, " in words[-1]
    bare = chain.model_copy(update={"amplifiers": (amplifier.model_copy(update={"ratings": ()}),)})
    assert "Amplifier without a name" in part_words(bare)


def test_a_long_finding_stands_on_a_label_whole_in_several_lines_within_its_edges() -> None:
    told = "falls to 9.1 V with a lamp: it drives no relay; stays on while asleep"
    grid = LabelGrid(columns=1, rows=1, width_mm=60, height_mm=25, left_mm=20, top_mm=30, gap_x_mm=0)
    (page,) = label_pages((Label(name="Grey: 7, yellow", figure=told, told="practice"),), grid)
    texts = list(ElementTree.fromstring(page))  # noqa: S314 our own
    shown = " ".join(element.text or "" for element in texts)
    assert shown == f"Grey: 7, yellow {told} practice"
    for element in texts:
        size, x, y = (float(element.get(name, 0)) for name in ("font-size", "x", "y"))
        assert 30 < y < 55
        # Half an em a letter is less than any usual sans-serif is wide.
        assert x >= 20
        assert x + 0.5 * size * len(element.text or "") < 80
