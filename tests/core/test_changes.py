"""What differs between two sheets."""

from tests.core.helpers import LAYOUTS, with_parts
from upper_rook.core.common.changes import changes
from upper_rook.core.system.job_sheet import JobSheet


def test_each_value_that_differs_is_named_once(sheet: JobSheet) -> None:
    other = with_parts(sheet, load={"power_w": 50}).model_copy(update={"note": "new"})
    assert [(change.place, change.was, change.now) for change in changes(sheet, other)] == [
        ("note", "", "new"),
        ("chain.loads.front.power_w", 60.0, 50.0),
    ]


def test_something_taken_away_differs_too(sheet: JobSheet) -> None:
    bare = with_parts(sheet, amplifier={"gain_range": None})
    told = [(change.place, change.was, change.now) for change in changes(sheet, bare)]
    assert told == [("chain.amplifiers.amplifier.gain_range", "down_v 6.0, up_v 0.2, scale_of this_load", None)]


def test_removing_the_first_of_three_paths_is_told_as_that() -> None:
    """Its path, its amplifier and its speakers are gone; the two behind it have only moved up."""
    chain = LAYOUTS["front-rear-sub"]
    first = chain.paths[0]
    fewer = chain.model_copy(
        update={
            "paths": chain.paths[1:],
            "amplifiers": tuple(amplifier for amplifier in chain.amplifiers if amplifier.id != first.amplifier),
            "loads": tuple(load for load in chain.loads if load.id != first.load),
        }
    )
    told = changes(JobSheet(chain=chain), JobSheet(chain=fewer))
    assert {change.place for change in told} == {
        f"chain.amplifiers.{first.amplifier}",
        f"chain.loads.{first.load}",
        f"chain.paths.{first.id}",
    }
    assert all(change.now is None for change in told)


def test_an_order_that_changed_is_told_and_nothing_else() -> None:
    chain = LAYOUTS["front-rear"]
    turned = chain.model_copy(update={"paths": chain.paths[::-1]})
    told = changes(JobSheet(chain=chain), JobSheet(chain=turned))
    assert [(change.place, change.was, change.now) for change in told] == [
        ("chain.paths.order", "front, rear", "rear, front")
    ]


def test_nothing_differs_from_itself(sheet: JobSheet) -> None:
    assert changes(sheet, sheet) == ()
