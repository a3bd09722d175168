"""Wires of plugs and a source's trims on the simulated bench: what is found is what is really so."""

import pytest

from tests.core.helpers import LAYOUTS, state_of, with_parts
from tests.core.test_plugs import WIRES
from upper_rook.core.run.readings.step_keys import trims_key
from upper_rook.core.run.steps.plugs import drawings
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.instruments.auto_operator import AutoOperator
from upper_rook.instruments.wires import Really, wires_of

PLUG = {"id": "a", "name": "A", "wires": [*WIRES, *({"id": f"u{n}", "pin": f"u{n}"} for n in range(8))]}
SHEET = with_parts(JobSheet(chain=LAYOUTS["high-level"]), source={"kind": "factory", "plugs": [PLUG]})
SAID = {
    Really.CONSTANT: "constant",
    Really.SWITCHED: "turns on with the key",
    Really.TURN_ON: "turns on with the key",
    Really.HALF_TURN_ON: "too little for a 12 V turn-on input",
    Really.WEAK_TURN_ON: "drives no relay",
    Really.DEAD: "no volts",
    Really.SPEAKER: "connected to",
    Really.GROUND: "connected to",
}


@pytest.mark.parametrize("seed", range(12))
def test_each_wire_is_found_to_be_what_it_is(seed: int) -> None:
    person = AutoOperator(SHEET, seed, scope=True)
    step = next(step for step in person.run().steps if step.kind == "plug")
    person._do(step)  # the whole run would take its seconds for nothing
    (plug,) = SHEET.chain.sources[0].plugs
    (drawing,) = drawings(person.snapshot())
    for found, real in zip(drawing.wires, wires_of(plug, seed), strict=True):
        if found.wire.role != "data":
            assert SAID[real.really] in found.sentence, (found, real)


@pytest.mark.parametrize("seed", [1, 2])
def test_a_trim_moves_the_clean_number_by_its_decibels(seed: int) -> None:
    sheet = with_parts(
        JobSheet(chain=LAYOUTS["front"]), source={"inputs": [{"kind": "usb"}]}, choices={"extent": "everything"}
    )
    person = AutoOperator(sheet, seed, scope=True)
    step = next(step for step in person.run().steps if step.key == trims_key("source"))
    person._do(step)  # as above
    numbers = {reading.circumstances.row: reading.volume for reading in person.readings}
    volts = {reading.circumstances.row: reading.value for reading in person.readings}
    rows = ("trim-down-6", "trim-down-3", "trim-up-3", "trim-up-6")
    own = [numbers[row] or 0 for row in rows]
    # A number is 0.9 to 1.2 dB: 12 dB of trim are 9 to 14 numbers, unless the scale ends before.
    assert own == sorted(own, reverse=True)
    top = sheet.chain.sources[0].top_volume
    assert own[0] == top or 9 <= own[0] - own[-1] <= 14
    # The output bends at the same volts, whatever the trim.
    assert max(volts[row] for row in rows[1:]) / min(volts[row] for row in rows[1:]) < 1.16
    assert "Most clean volts" in state_of(person.run(), step.key).sentence
