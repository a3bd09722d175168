"""Values that nobody has confirmed: marked with what they came as, settled by any other value."""

from tests.core.helpers import LAYOUTS
from upper_rook.core.plan.plan import plan
from upper_rook.core.run.result.progress import progress
from upper_rook.core.run.result.result import result
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.confirmation import Unconfirmed, counting, of_new_parts, standing
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.new_parts import new_parts

CHAIN = LAYOUTS["front-rear-sub"]
MARKS = counting(CHAIN)
LAID_OUT = JobSheet(chain=CHAIN, not_confirmed=MARKS)


def with_front(**fields: object) -> Chain:
    """The layout with something about the front's speakers changed."""
    first, *others = CHAIN.loads
    return CHAIN.model_copy(update={"loads": (first.model_copy(update=fields), *others)})


def test_every_value_of_a_layout_that_counts_is_marked() -> None:
    marks = {mark.place: mark.value for mark in MARKS}
    assert marks["loads.speakers-front.power_w"] == 60
    assert {"sources.source.top_volume", "amplifiers.amplifier-sub.ratings"} <= marks.keys()
    assert marks["sources.source.outputs.front.rated"] == {"volts": 4.0, "watts": None, "load_ohm": 4.0}
    # What isn't there can't be confirmed, and a name changes no figure.
    assert not any(mark.endswith((".sensitivity_db", ".name")) for mark in marks)


def test_another_value_settles_a_mark_and_another_name_does_not() -> None:
    assert standing(MARKS, CHAIN) == MARKS
    left = standing(MARKS, with_front(power_w=80.0))
    assert [mark.place for mark in MARKS if mark not in left] == ["loads.speakers-front.power_w"]
    assert standing(MARKS, with_front(name="Osier")) == MARKS


def test_a_mark_of_nothing_is_none() -> None:
    nowhere = (Unconfirmed(place="loads.nobody.power_w", value=None), Unconfirmed(place="0", value=None))
    assert standing(nowhere, CHAIN) == ()


def test_marks_of_a_page_that_knows_less_do_no_harm() -> None:
    # Typed in steps while a save is on its way: 8, then 80. The page still sends the mark of the 60 it began with.
    for typed in (8.0, 80.0):
        assert "loads.speakers-front.power_w" not in {
            unconfirmed.place for unconfirmed in standing(MARKS, with_front(power_w=typed))
        }
    # Those of a layout that was replaced say nothing about the next one's values, even where the ids are the same.
    other = LAYOUTS["active-three"]
    left = standing((*MARKS, *counting(other)), other)
    assert sorted(unconfirmed.place for unconfirmed in left) == sorted(
        unconfirmed.place for unconfirmed in counting(other)
    )


def test_a_stage_that_was_just_added_is_marked_where_it_still_has_what_it_began_with() -> None:
    before = LAYOUTS["front"]
    added = new_parts().processor.model_copy(update={"id": "dsp", "highest_output_v": 6.0})
    after = before.model_copy(update={"processors": (added,)})
    assert [part.place for part in of_new_parts(before, after)] == ["processors.dsp.highest_input"]
    assert of_new_parts(after, after) == ()


def test_a_rating_or_a_range_that_was_just_added_is_marked_and_one_that_is_typed_is_not() -> None:
    fresh = new_parts()
    amplifier = LAYOUTS["front"].amplifiers[0]

    def with_amplifier(**fields: object) -> Chain:
        return LAYOUTS["front"].model_copy(update={"amplifiers": (amplifier.model_copy(update=fields),)})

    bare, ranged = with_amplifier(gain_range=None), with_amplifier(gain_range=fresh.gain_range)
    assert [part.place for part in of_new_parts(bare, ranged)] == [f"amplifiers.{amplifier.id}.gain_range"]
    # From another range to just these numbers: somebody has typed them.
    other = with_amplifier(gain_range=fresh.gain_range.model_copy(update={"down_v": 5.0}))
    assert of_new_parts(other, ranged) == ()
    more = with_amplifier(ratings=(*amplifier.ratings, fresh.rating))
    assert [part.place for part in of_new_parts(LAYOUTS["front"], more)] == [f"amplifiers.{amplifier.id}.ratings"]


def test_it_is_told_in_the_plan_the_target_and_the_result() -> None:
    planned = plan(LAID_OUT)
    front = next(value for value in planned.not_confirmed if value.place == "loads.speakers-front.power_w")
    assert front.words.endswith("watts: 60 W")
    assert (front.paths, front.in_target) == (("front",), True)
    source = next(value for value in planned.not_confirmed if value.place == "sources.source.top_volume")
    assert source.paths == ("front", "rear", "sub")
    assert any("not confirmed" in line and "60 W" in line for line in planned.paths[0].target.because)
    confirmed = plan(LAID_OUT.model_copy(update={"not_confirmed": ()}))
    assert not any("not confirmed" in line for path in confirmed.paths for line in path.target.because)
    told = result(JobSnapshot(sheet=LAID_OUT), progress(LAID_OUT, (), ()))
    assert any(line.startswith("Unchecked defaults in use") for line in told.guessed)


def test_a_stop_between_paths_keeps_a_job_open() -> None:
    chain = LAYOUTS["active-two"]
    bare = tuple(path.model_copy(update={"filters": ()}) for path in chain.paths)
    sheet = JobSheet(chain=chain.model_copy(update={"paths": bare}))
    told = result(JobSnapshot(sheet=sheet), progress(sheet, (), ()))
    assert any("no high-pass before a tweeter" in line for line in told.open)


def test_the_dials_of_a_layouts_filters_are_to_be_read_and_its_corners_are_chosen() -> None:
    chain = LAYOUTS["front-rear"]
    marks = counting(chain)
    assert {"paths.front.filters", "paths.rear.filters"} <= {mark.place for mark in marks}
    doubts = plan(JobSheet(chain=chain, not_confirmed=marks)).not_confirmed
    dials = next(doubt for doubt in doubts if doubt.place == "paths.front.filters")
    assert (dials.words, dials.how, dials.paths) == (
        "Front, dials of its filters",
        "read what is printed around the dials",
        ("front",),
    )
    # Behind a processor there are no dials.
    assert not any(unconfirmed.place.startswith("paths.") for unconfirmed in counting(LAYOUTS["active-two"]))
