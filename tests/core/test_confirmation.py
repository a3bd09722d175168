"""Values that nobody has confirmed: marked when a layout is chosen, settled by touching them."""

from tests.core.helpers import LAYOUTS
from upper_rook.core.plan.plan import plan
from upper_rook.core.run.progress import progress
from upper_rook.core.run.result import result
from upper_rook.core.run.situation import Situation
from upper_rook.core.system.confirmation import counting, from_layout, settled
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.new_parts import new_parts

LAID_OUT = from_layout(JobSheet(chain=LAYOUTS["front-rear-sub"]))


def test_every_value_of_a_layout_that_counts_is_marked() -> None:
    marks = set(LAID_OUT.not_confirmed)
    assert {"loads.speakers-front.power_w", "sources.source.top_volume", "amplifiers.amplifier-sub.ratings"} <= marks
    # What isn't there can't be confirmed, and a name changes no figure.
    assert not any(one.endswith((".sensitivity_db", ".name")) for one in marks)


def test_what_is_changed_is_settled_and_the_rest_stays() -> None:
    after = settled(LAID_OUT, _with_front(power_w=80.0))
    gone = set(LAID_OUT.not_confirmed) - set(after.not_confirmed)
    assert gone == {"loads.speakers-front.power_w"}
    # Renaming settles nothing.
    assert settled(LAID_OUT, _with_front(name="Osier")).not_confirmed == LAID_OUT.not_confirmed


def _with_front(**fields: object) -> JobSheet:
    """The laid out sheet with something about the front's speakers changed."""
    first, *others = LAID_OUT.chain.loads
    loads = (first.model_copy(update=fields), *others)
    return LAID_OUT.model_copy(update={"chain": LAID_OUT.chain.model_copy(update={"loads": loads})})


def test_a_mark_that_is_gone_does_not_come_back_with_an_older_page() -> None:
    confirmed = LAID_OUT.model_copy(update={"not_confirmed": ()})
    assert settled(confirmed, LAID_OUT.model_copy(update={"note": "typed elsewhere"})).not_confirmed == ()


def test_a_stage_that_was_just_added_is_marked_where_it_still_has_what_it_began_with() -> None:
    before = JobSheet(chain=LAYOUTS["front"])
    added = new_parts().processor.model_copy(update={"id": "dsp", "highest_output_v": 6.0})
    after = before.model_copy(update={"chain": before.chain.model_copy(update={"processors": (added,)})})
    assert settled(before, after).not_confirmed == ("processors.dsp.highest_input",)
    # The next save finds the part there: what was marked stays, and nothing is marked anew.
    marked = settled(before, after)
    assert settled(marked, marked.model_copy(update={"note": "later"})).not_confirmed == marked.not_confirmed
    confirmed = marked.model_copy(update={"not_confirmed": ()})
    assert settled(marked, confirmed).not_confirmed == ()


def test_another_layout_brings_its_own_marks() -> None:
    other = from_layout(JobSheet(chain=LAYOUTS["active-three"]))
    assert set(settled(LAID_OUT, other).not_confirmed) == set(counting(other.chain))


def test_it_is_told_in_the_plan_the_target_and_the_result() -> None:
    path = plan(LAID_OUT).paths[0]
    assert any(one.words.endswith("watts: 60 W") for one in path.not_confirmed)
    assert any("not confirmed" in line and "60 W" in line for line in path.target.because)
    told = result(Situation(sheet=LAID_OUT), progress(LAID_OUT, (), ()))
    assert any(line.startswith("Nobody has confirmed") for line in told.guessed)


def test_a_stop_between_paths_keeps_a_job_open() -> None:
    chain = LAYOUTS["active-two"]
    bare = tuple(path.model_copy(update={"filters": ()}) for path in chain.paths)
    sheet = JobSheet(chain=chain.model_copy(update={"paths": bare}))
    told = result(Situation(sheet=sheet), progress(sheet, (), ()))
    assert any("no high-pass before a tweeter" in line for line in told.open)
