"""Plugs of a factory system: what is asked of each wire, what its readings say, and how it stands on the sheet."""

from itertools import pairwise

import pytest

from tests.core.helpers import LAYOUTS, answers, finding_keys, row_reading, state_of, steps_of, with_parts
from upper_rook.core.common.finding import Severity
from upper_rook.core.run.readings.records import Quantity, Reading
from upper_rook.core.run.result.progress import run_of
from upper_rook.core.run.result.result import Result, result
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.system.job_sheet import JobSheet

WIRES = [
    {"id": "w1", "pin": "1", "colour": "yellow", "role": "supply"},
    {"id": "w2", "pin": "2", "colour": "red", "role": "switched"},
    {"id": "w3", "pin": "3", "colour": "blue", "role": "turn_on"},
    {"id": "w4", "pin": "4", "colour": "black", "role": "ground"},
    {"id": "w5", "pin": "5", "colour": "white", "role": "speaker", "speaker": "front left"},
    {"id": "w6", "pin": "6", "colour": "white/black", "role": "speaker", "speaker": "Front left"},
    {"id": "w7", "pin": "7", "colour": "green", "role": "data"},
]
SHEET = with_parts(
    JobSheet(chain=LAYOUTS["high-level"]),
    source={"kind": "factory", "plugs": [{"id": "a", "name": "A", "wires": WIRES}]},
)
(SOURCE,) = SHEET.chain.sources
KEY = f"plug.{SOURCE.id}.a"


def handed_over(*readings: Reading) -> tuple[str, Result]:
    snapshot = JobSnapshot(SHEET, readings, answers(SHEET), lambda _version: SHEET)
    run = run_of(snapshot)
    return state_of(run, KEY).sentence, result(snapshot, run)


def read(row: str, value: float) -> Reading:
    return row_reading(steps_of(SHEET)[KEY], row, value)


def test_each_wire_is_asked_for_what_it_is_taken_for() -> None:
    rows = {row.key: row for row in steps_of(SHEET)[KEY].rows}
    assert {key for key, row in rows.items() if not row.optional} == {
        *(f"{wire}-{when}" for wire in ("w1", "w2", "w3") for when in ("on", "off")),
        # One of a pair: its ohms are read once.
        "w5-ohms",
    }
    # Nobody measures ohms or continuity on data wires.
    assert {key for key in rows if key.startswith("w7-")} == {"w7-on"}
    assert "w6-ohms" not in rows
    assert [choice.text for choice in rows["w4-heard"].choices] == ["connected", "not connected"]
    assert rows["w1-on"].quantity is Quantity.DC_VOLTS
    # The meter's dial is turned once for all wires.
    kinds = [row.quantity for row in rows.values()]
    assert sum(quantity is not other for quantity, other in pairwise(kinds)) <= 2


@pytest.mark.parametrize(
    ("readings", "told"),
    [
        ({"w1-on": 12.4, "w1-off": 12.5}, "1 yellow: constant 12.4 V."),
        ({"w2-on": 12.3, "w2-off": 0.01}, "2 red: turns on with the key, 12.3 V."),
        ({"w3-on": 6.1, "w3-off": 0.0}, "only 6.1 V: too little for a 12 V turn-on input, use a relay"),
        ({"w3-on": 0.1, "w3-off": 0.0}, "3 blue: no volts."),
        ({"w3-on": 12.1, "w3-off": 0.0, "w3-loaded": 9.0}, "falls to 9 V with a lamp: it drives no relay"),
        ({"w3-on": 12.1, "w3-off": 0.0, "w3-loaded": 11.9}, "drives a lamp and a relay"),
        ({"w3-on": 12.1, "w3-off": 12.0, "w3-asleep": 0.0}, "off once asleep"),
        ({"w1-on": 12.1, "w1-off": 12.0, "w1-asleep": 11.8}, "stays on while asleep"),
        ({"w5-ohms": 3.4}, "5 white: 3.4 Ω, as a speaker of 4 ohm reads"),
        ({"w5-heard": 1, "w5-on": 6.2}, "connected to front left; carries 6.2 V DC: an amplifier on it"),
        ({"w4-heard": 0}, "not connected to ground"),
    ],
)
def test_the_readings_say_what_a_wire_is(readings: dict[str, float], told: str) -> None:
    sentence, sheet = handed_over(*(read(row, value) for row, value in readings.items()))
    assert told in sentence
    (plug,) = sheet.plugs
    assert [found.wire.pin for found in plug.wires] == list("1234567")
    told_of = [found.wire.id for found in plug.wires if found.sentence]
    assert told_of == (["w5", "w6"] if "w5-ohms" in readings else [next(iter(readings)).partition("-")[0]])


def test_a_guess_of_its_role_changes_nothing_that_was_read() -> None:
    readings = (read("w3-on", 12.1), read("w3-off", 0.0))
    wires = [wire | ({"role": "unknown"} if wire["id"] == "w3" else {}) for wire in WIRES]
    renamed = [wire | ({"colour": "grey"} if wire["id"] == "w3" else {}) for wire in WIRES]
    for changed, spoiled in ((wires, False), (renamed, True)):
        sheet = with_parts(SHEET, source={"plugs": [{"id": "a", "name": "A", "wires": changed}]})
        snapshot = JobSnapshot(sheet, readings, (), lambda version, sheet=sheet: SHEET if version == 1 else sheet)
        assert bool(state_of(run_of(snapshot), KEY).spoiled) is spoiled


def test_an_amplifier_that_wakes_by_the_speaker_wires_needs_them() -> None:
    sensing = with_parts(SHEET, amplifier={"turn_on": "sensing"})
    assert finding_keys(sensing)["offset.amplifier"] is Severity.NOTE
    low = with_parts(JobSheet(chain=LAYOUTS["front"]), amplifier={"turn_on": "sensing"})
    assert finding_keys(low)["no-offset.amplifier"] is Severity.RISK
    factory = next(step for key, step in steps_of(sensing).items() if key.startswith("factory."))
    assert {"offset", "off", "left", "back"} <= {row.key for row in factory.rows}
    offset = next(row for row in factory.rows if row.key == "offset")
    assert offset.target
    assert not offset.optional


def test_a_factory_system_is_surveyed_speaker_by_speaker() -> None:
    step = steps_of(SHEET)[f"survey.{SOURCE.id}"]
    # Two wires of one speaker are one speaker, however they are spelt.
    assert [row.name for row in step.rows] == ["front left"]
    reading = row_reading(step, step.rows[0].key, 4.0)
    snapshot = JobSnapshot(SHEET, (reading,), answers(SHEET), lambda _version: SHEET)
    run = run_of(snapshot)
    assert "front left: bass and middle." in state_of(run, step.key).sentence
    assert any("bass and middle" in line for line in result(snapshot, run).left)
    bare = JobSheet(chain=LAYOUTS["high-level"])
    assert not [key for key in steps_of(bare) if key.startswith(("survey.", "plug."))]
