"""Two faults at once: the second shows once the first is corrected, and nothing ends complete and clipping unsaid."""

import pytest

from tests.core.helpers import LAYOUTS
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.instruments.fault_pairs import hunt_pair
from upper_rook.instruments.simulated import Fault

FILTERED, CONVERTED = (JobSheet(chain=LAYOUTS[key]) for key in ("front-sub", "converter"))


def behind_the_converter() -> JobSheet:
    """Front and sub of one layout fed by the factory radio's converter of another: gains end fully down."""
    paths = (path.model_copy(update={"through": ("converter",), "output": "front"}) for path in FILTERED.chain.paths)
    parts = {"sources": CONVERTED.chain.sources, "processors": CONVERTED.chain.processors, "paths": tuple(paths)}
    return JobSheet(chain=FILTERED.chain.model_copy(update=parts))


@pytest.mark.parametrize(
    ("sheet", "pair"),
    [
        (CONVERTED, (Fault.ASLEEP, Fault.ROLL_OFF)),
        (CONVERTED, (Fault.LEAD_OFF, Fault.WEAK_AMPLIFIER)),
        (FILTERED, (Fault.HALF_IN, Fault.KNOB_DOWN)),
        (FILTERED, (Fault.NORMALISER, Fault.PHONE_VOLUME)),
        (FILTERED, (Fault.FILTER_AT_FLAT, Fault.STACKED_FILTER)),
    ],
)
def test_a_second_fault_shows_once_the_first_is_corrected(sheet: JobSheet, pair: tuple[Fault, Fault]) -> None:
    found = hunt_pair(sheet, pair, 2)
    assert found.first in pair
    assert found.second_found
    assert not (found.complete and found.clips)


def test_a_weak_amplifier_that_clips_just_above_its_target_is_turned_down_for_its_load() -> None:
    # Clean at open terminals at the target, with the gain all but fully down: only where it clips says that it is weak.
    found = hunt_pair(behind_the_converter(), (Fault.QUIET_TRACK, Fault.WEAK_AMPLIFIER), 1)
    assert found.second_found
    assert not (found.complete and found.clips)
