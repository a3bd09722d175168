"""Amplifiers with sections: what is written once, what a section says for itself, and what all of them share."""

import pytest
from pydantic import ValidationError

from tests.core.helpers import LAYOUTS
from upper_rook.core.common.finding import Severity
from upper_rook.core.plan.plan import plan
from upper_rook.core.run.progress import progress
from upper_rook.core.system.amplifier import Amplifier, GainRange, Rating, Routing, Section
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.confirmation import counting
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.older_formats import brought_up

TWO = LAYOUTS["front-rear"]
FOUR_CHANNELS = Amplifier(
    id="four",
    name="Four",
    ratings=(Rating(power_w=75, load_ohm=4), Rating(power_w=120, load_ohm=2)),
    lowest_load_ohm=2,
    gain_range=GainRange(down_v=6.0, up_v=0.2),
    sections=(Section(id="front", name="Front pair"), Section(id="rear", name="Rear pair")),
)


def on(amplifier: Amplifier, **paths: dict[str, object]) -> JobSheet:
    """Front and rear on the sections of one amplifier."""
    joined = tuple(
        path.model_copy(update={"amplifier": amplifier.id, "section": path.id, **paths.get(path.id, {})})
        for path in TWO.paths
    )
    whole = TWO.model_copy(update={"amplifiers": (amplifier,), "paths": joined})
    return JobSheet(chain=Chain.model_validate(whole.model_dump()))


def test_a_four_channel_amplifier_is_one_entry_and_plans_like_two_pairs() -> None:
    one, two = plan(on(FOUR_CHANNELS)), plan(JobSheet(chain=TWO))
    assert [path.target for path in one.paths] == [path.target for path in two.paths]
    assert [path.knob for path in one.paths] == [path.knob for path in two.paths]
    assert one.paths[0].courses[1].name == "Four, Front pair"


def test_a_section_says_what_is_otherwise_about_it() -> None:
    # A five-channel amplifier: two pairs and a mono channel for the sub.
    sub = Section(id="rear", channels=1, ratings=(Rating(power_w=300, load_ohm=2),), lowest_load_ohm=2)
    rear = on(FOUR_CHANNELS.model_copy(update={"sections": (FOUR_CHANNELS.sections[0], sub)})).chain.amplifiers[0]
    assert rear.section("rear").channels == 1
    assert rear.section("rear").ratings == sub.ratings
    assert rear.section("rear").gain_range == FOUR_CHANNELS.gain_range
    assert rear.section("front").ratings == FOUR_CHANNELS.ratings


@pytest.mark.parametrize(
    ("paths", "told"),
    [
        ({"rear": {"section": "front"}}, "two paths end in section “front” of amplifier “four”"),
        ({"rear": {"section": None}}, "“Four” has sections: say which of them the path uses, front or rear"),
        ({"rear": {"section": "sub"}}, "“sub” is not among the sections of Four"),
    ],
)
def test_each_path_has_a_section_of_its_own(paths: dict[str, dict[str, object]], told: str) -> None:
    with pytest.raises(ValidationError, match=told):
        on(FOUR_CHANNELS, **paths)


def test_the_routing_switch_is_the_chassis_and_the_first_pair_feeds_the_rest() -> None:
    shared = FOUR_CHANNELS.model_copy(update={"routing": Routing.SHARED})
    found = plan(on(shared, front={"leads": 2}, rear={"leads": 0, "output": "front"})).causes
    assert not any(one.key.startswith(("no-signal", "leads-unused", "routing")) for one in found)
    silent = plan(on(shared, front={"leads": 0}, rear={"leads": 0, "output": "front"})).causes
    assert next(one for one in silent if one.key.startswith("no-signal")).severity is Severity.STOP
    # The sheet says that the rear gets its own output; the switch gives it the front's.
    told = next(one for one in plan(on(shared)).causes if one.key == "routing-takes-over.four")
    assert told.severity is Severity.RISK
    assert told.paths == ("rear",)


def test_marks_and_steps_know_sections() -> None:
    own = FOUR_CHANNELS.sections[1].model_copy(update={"ratings": (Rating(power_w=50, load_ohm=4),)})
    sheet = on(FOUR_CHANNELS.model_copy(update={"sections": (FOUR_CHANNELS.sections[0], own)}))
    places = {one.place for one in counting(sheet.chain)}
    assert {"amplifiers.four.ratings", "amplifiers.four.sections.rear.ratings"} <= places
    doubts = plan(sheet.model_copy(update={"not_confirmed": counting(sheet.chain)})).not_confirmed
    section = next(one for one in doubts if one.place == "amplifiers.four.sections.rear.ratings")
    assert section.paths == ("rear",)
    assert section.words.startswith("Four, Rear pair, ratings")
    assert {"gain.front", "gain.rear"} <= {one.key for one in progress(sheet, (), ()).steps}


def test_format_2_had_the_switch_on_the_path() -> None:
    document = JobSheet(chain=TWO).model_dump(mode="json") | {"format": 2}
    document["chain"]["paths"][1]["routing"] = "shared"
    document["chain"]["paths"][0]["routing"] = None
    del document["not_confirmed"]
    sheet = JobSheet.model_validate(brought_up(document))
    assert [one.routing for one in sheet.chain.amplifiers] == [None, Routing.SHARED]
