"""What differs between two sheets."""

from tests.core.helpers import with_parts
from upper_rook.core.common.changes import changes
from upper_rook.core.system.job_sheet import JobSheet


def test_each_value_that_differs_is_named_once(sheet: JobSheet) -> None:
    other = with_parts(sheet, load={"power_w": 50}).model_copy(update={"note": "new"})
    assert [(one.place, one.was, one.now) for one in changes(sheet, other)] == [
        ("note", "", "new"),
        ("chain.loads.0.power_w", 60.0, 50.0),
    ]


def test_something_taken_away_differs_too(sheet: JobSheet) -> None:
    bare = with_parts(sheet, amplifier={"gain_range": None})
    places = {one.place for one in changes(sheet, bare)}
    assert places == {
        "chain.amplifiers.0.gain_range.down_v",
        "chain.amplifiers.0.gain_range.up_v",
        "chain.amplifiers.0.gain_range",
    }


def test_nothing_differs_from_itself(sheet: JobSheet) -> None:
    assert changes(sheet, sheet) == ()
