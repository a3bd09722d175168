"""Faults that are switched on show where they should."""

from pathlib import Path

import pytest

from tests.command import run
from tests.core.helpers import LAYOUTS
from upper_rook.core.run.steps.step import StepKind
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.instruments.fault_hunt import SHOWS_AT, applies, hunt
from upper_rook.instruments.simulated import FAULT_WORDS, Fault

ROOT = Path(__file__).parents[2]
FILTERED, CONVERTED = (JobSheet(chain=LAYOUTS[text]) for text in ("front-rear-sub", "converter"))


@pytest.mark.parametrize(
    ("fault", "told"),
    [
        (Fault.NORMALISER, "later than most"),
        (Fault.OTHER_TRACK, "read with"),
        (Fault.HALF_IN, "Check leads"),
        (Fault.RIGHT_OFF, "the channels differ"),
        (Fault.WRONG_PAIR, "at_stop"),
        (Fault.FILTERED_HIGH, "further up than expected"),
        (Fault.GAIN_DEAD, "at_stop"),
        (Fault.STACKED_FILTER, ""),
        (Fault.TIRED_BATTERY, "Low for a running engine"),
    ],
)
def test_a_fault_is_told_in_the_words_that_name_it(fault: Fault, told: str) -> None:
    found = hunt(FILTERED, fault, 2)
    assert found.found
    assert any(told in text for text in found.told)


def test_clipping_shows_to_a_meter_alone() -> None:
    sheet = JobSheet(chain=LAYOUTS["front-rear-sub"])
    assert hunt(sheet, Fault.EARLY_LIMITER, 2, scope=False).found


@pytest.mark.parametrize("fault", [Fault.ROLL_OFF, Fault.ASLEEP])
def test_a_converter_has_faults_of_its_own(fault: Fault) -> None:
    assert not applies(FILTERED, fault)
    assert applies(CONVERTED, fault)
    assert hunt(CONVERTED, fault, 3).found


def test_every_fault_has_its_words_and_a_step_where_it_shows() -> None:
    assert set(FAULT_WORDS) == set(SHOWS_AT) == set(Fault)
    assert all(isinstance(kind, StepKind) for kinds in SHOWS_AT.values() for kind in kinds)


def test_the_command_switches_faults_on_and_names_them() -> None:
    command = ["simulate", ROOT / "examples/strapped-sub.json", "--fault"]
    assert len(run(*command, "list").stdout.splitlines()) == len(Fault)
    assert "left: at stop" in run(*command, "gain-dead").stdout
    wrong = run(*command, "gremlin")
    assert wrong.returncode == 2
    assert "There is no fault “gremlin”" in wrong.stderr
