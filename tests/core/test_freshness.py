"""What a change makes of readings that were taken before it: stale if and only if it matters where they were taken."""

import re
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import BaseModel, ValidationError
from scipy import signal

from tests.core.helpers import LAYOUTS, answers, gain_step, mark, reading, steps_of, with_parts
from upper_rook.core.run.dependencies import FREQUENCY_WITHIN, LEVEL_WITHIN_DB, Dependency, DependencyKind, spoiled_by
from upper_rook.core.run.effects import Risk
from upper_rook.core.run.progress import Run, progress
from upper_rook.core.run.records import Eye, Mark, Reading
from upper_rook.core.run.step import State, Step
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.path import Path
from upper_rook.core.system.source import ToneSettings

LADDER = "ceiling.source.line"
BANDS = [
    {"frequency_hz": hertz, "gain_db": gain, "q": 2.0}
    for hertz, gain in zip(range(200, 2600, 200), [3, -2] * 6, strict=True)
]
LOW_PASS = {"crossover": {"kind": "low", "corner_hz": 1500.0}, "place": "processor"}
HIGH_PASS = {"crossover": {"kind": "high", "corner_hz": 80.0}, "place": "amplifier"}
PROCESSED = {"through": ["dsp"], "equaliser": BANDS, "filters": [LOW_PASS, HIGH_PASS], "channel_gain_db": -3.0}


def processed(sheet: JobSheet) -> JobSheet:
    """The sheet with a processor on the way, twelve bands, a filter and a gain of its own."""
    chain = sheet.chain.model_dump(mode="json")
    chain["processors"] = [{"id": "dsp", "name": "Tidewright", "highest_input": {"volts": 8}, "highest_output_v": 8}]
    chain["paths"][0] |= PROCESSED
    return JobSheet.model_validate(sheet.model_dump(mode="json") | {"chain": chain})


Records = tuple[tuple[Reading, ...], tuple[Mark, ...]]


def set_by(sheet: JobSheet, ladder: str = LADDER, gain: str = "gain.front") -> Records:
    """Lists answered, the source clean to 32 at 4 V, and the gain set as wanted."""
    step = steps_of(sheet)[ladder]
    rungs = (reading(step, 28, 2.5, Eye.CLEAN), reading(step, 32, 4.0, Eye.CLEAN), reading(step, 33, 4.2, Eye.CLIPPED))
    marks = (*answers(sheet), mark(ladder, basis="marked", volume=32))
    wanted = gain_step(sheet, rungs, marks, gain)
    assert wanted.target is not None
    assert wanted.wants is not None
    return (*rungs, reading(wanted, wanted.wants.volume, wanted.target.value)), marks


def later(now: JobSheet, then: JobSheet, records: Records) -> Run:
    """The run under `now` of what was taken under `then`."""
    return progress(now, *records, lambda version: then if version == 1 else now)


def state(run: Run, key: str = "gain.front") -> State:
    return next(one.state for one in run.states if one.step == key)


def with_path(sheet: JobSheet, **fields: object) -> JobSheet:
    return with_parts(sheet, path=fields)


def with_tone(sheet: JobSheet, **settings: object) -> JobSheet:
    return with_parts(sheet, source={"tone": settings})


def quieter(sheet: JobSheet) -> JobSheet:
    """The same with a processor of −12 dB put in."""
    chain = sheet.chain.model_dump(mode="json")
    chain["processors"] = [{"id": "dsp", "highest_input": {"volts": 8}, "highest_output_v": 8}]
    chain["paths"][0] |= {"through": ["dsp"], "channel_gain_db": -12}
    return JobSheet.model_validate(sheet.model_dump(mode="json") | {"chain": chain})


def other_bands(change: Callable[[list[dict[str, Any]]], list[dict[str, Any]]]) -> Callable[[JobSheet], JobSheet]:
    return lambda sheet: with_path(sheet, equaliser=change([dict(band) for band in BANDS]))


@pytest.mark.parametrize(
    ("begin", "change"),
    [
        pytest.param(lambda sheet: sheet, quieter, id="a processor with -12 dB"),
        pytest.param(
            lambda sheet: sheet,
            lambda sheet: with_parts(sheet, choices={"top_volume": "in_hand", "clicks_in_hand": 2}),
            id="clicks in hand afterwards",
        ),
        pytest.param(
            processed,
            lambda sheet: with_path(sheet, filters=[LOW_PASS | {"crossover": {"kind": "low", "corner_hz": 3000.0}}]),
            id="every corner doubled",
        ),
        pytest.param(processed, lambda sheet: with_path(sheet, filters=[]), id="filters dropped"),
        pytest.param(processed, lambda sheet: with_path(sheet, filters=[LOW_PASS]), id="the amplifier's dropped"),
        pytest.param(
            lambda sheet: with_path(sheet, filters=[HIGH_PASS]),
            lambda sheet: with_path(sheet, filters=[HIGH_PASS | {"crossover": {"kind": "high", "corner_hz": 160.0}}]),
            id="the amplifier's doubled",
        ),
        pytest.param(
            processed, other_bands(lambda bands: [*bands[:4], bands[4] | {"q": 0.5}, *bands[5:]]), id="Q moved"
        ),
        pytest.param(
            processed, other_bands(lambda bands: [*bands[:-1], bands[-1] | {"frequency_hz": 1100.0}]), id="twelfth band"
        ),
        pytest.param(processed, lambda sheet: with_path(sheet, channel_gain_db=-3.5), id="half a decibel"),
        pytest.param(lambda sheet: sheet, lambda sheet: with_tone(sheet, treble=3), id="treble"),
        pytest.param(lambda sheet: sheet, lambda sheet: with_tone(sheet, loudness=True), id="loudness"),
        pytest.param(lambda sheet: sheet, lambda sheet: with_path(sheet, input="high"), id="input"),
        pytest.param(lambda sheet: sheet, lambda sheet: with_path(sheet, mode="bridged"), id="bridged"),
        pytest.param(
            lambda sheet: sheet,
            lambda sheet: with_path(sheet, boost={"frequency_hz": 900, "gain_db": 6, "q": 0.7}),
            id="boost",
        ),
        pytest.param(
            lambda sheet: sheet, lambda sheet: with_parts(sheet, choices={"tone_level_dbfs": -5}), id="tone level"
        ),
        pytest.param(lambda sheet: sheet, lambda sheet: with_parts(sheet, choices={"load": "dummy"}), id="dummy load"),
    ],
)
def test_what_moves_the_volts_spoils_the_gain_and_back_is_fresh(
    sheet: JobSheet, begin: Callable[[JobSheet], JobSheet], change: Callable[[JobSheet], JobSheet]
) -> None:
    then = begin(sheet)
    records = set_by(then)
    assert state(later(then, then, records)) is State.DONE
    run = later(change(then), then, records)
    assert state(run) is State.STALE
    spoiled = next(one.spoiled for one in run.states if one.step == "gain.front")
    assert all(one.was != one.now for one in spoiled)
    assert state(later(then, change(then), records)) is not State.DONE or change(then) == then
    assert state(later(then, then, records)) is State.DONE


@pytest.mark.parametrize("setting", ["treble", "bass", "loudness", "expander", "fader", "sub_level"])
def test_a_moved_tone_setting_spoils_ladder_gain_and_the_list_that_it_contradicts(
    sheet: JobSheet, setting: str
) -> None:
    on = isinstance(getattr(ToneSettings(), setting), bool)
    run = later(with_tone(sheet, **{setting: True if on else 4}), sheet, set_by(sheet))
    stale = {one.step for one in run.states if one.state is State.STALE}
    assert stale == {"flat-source", LADDER, "gain.front"}
    assert state(run, "flat-amplifier") is State.DONE


def test_a_ceiling_retaken_with_half_the_volts_spoils_the_gain_and_says_that_it_is_only_low(sheet: JobSheet) -> None:
    readings, marks = set_by(sheet)
    half = reading(steps_of(sheet)[LADDER], 32, 2.0, Eye.CLEAN)
    run = progress(sheet, (*readings, half), marks)
    told = next(one for one in run.states if one.step == "gain.front")
    assert told.state is State.STALE
    assert [(one.label, one.was, one.now) for one in told.spoiled] == [("source's volts there", "4 V", "2 V")]
    assert told.effect is not None
    # Half of the volts in are half of the volts out, and a quarter of the watts (Ohm).
    assert told.effect.db == pytest.approx(-6.02, abs=0.01)
    assert told.effect.risk is Risk.LOW
    # Retaken within both meters' doubt it agrees, and the gain stands.
    same = reading(steps_of(sheet)[LADDER], 32, 4.02, Eye.CLEAN)
    again = progress(sheet, (*readings, half, same), marks)
    assert state(again) is State.DONE


def test_a_louder_way_is_told_as_unsafe_with_its_frequency(sheet: JobSheet) -> None:
    then = processed(sheet)
    records = set_by(then)
    told = next(
        one for one in later(with_path(then, channel_gain_db=3.0), then, records).states if one.step == "gain.front"
    )
    assert told.effect is not None
    assert told.effect.db == pytest.approx(6.0, abs=0.01)
    assert told.effect.risk is Risk.UNSAFE
    assert "above what is wanted, it may clip" in told.effect.sentence


def test_a_target_that_moves_alone_leaves_the_volts_and_says_how_far_off_they_are(sheet: JobSheet) -> None:
    records = set_by(sheet)
    run = later(with_parts(sheet, load={"power_w": 15}), sheet, records)
    told = next(one for one in run.states if one.step == "gain.front")
    assert told.effect is not None
    # A quarter of the watts is half of the volts: 6.02 dB (Ohm).
    assert (told.effect.db, told.effect.off_db) == (pytest.approx(0), pytest.approx(6.02, abs=0.01))
    assert told.effect.risk is Risk.UNSAFE


def test_a_gain_read_at_another_volume_does_not_settle_it(sheet: JobSheet) -> None:
    readings, marks = set_by(sheet)
    wanted = gain_step(sheet, readings[:-1], marks)
    assert wanted.target is not None
    run = progress(sheet, (*readings[:-1], reading(wanted, 5, wanted.target.value)), marks)
    told = next(one for one in run.states if one.step == "gain.front")
    assert told.state is State.OPEN
    assert "read at volume 5, but this is set at 32" in told.sentence


def test_a_gain_read_with_another_tone_does_not_settle_it(sheet: JobSheet) -> None:
    readings, marks = set_by(sheet)
    wanted = gain_step(sheet, readings[:-1], marks)
    assert wanted.target is not None
    other = reading(wanted, 32, wanted.target.value, tone={"frequency_hz": 50})
    told = next(one for one in progress(sheet, (*readings[:-1], other), marks).states if one.step == "gain.front")
    assert (told.state, "read with" in told.sentence) == (State.OPEN, True)


@pytest.mark.parametrize("volts", [1.25, 4.0])
def test_a_number_in_hand_that_is_read_again_spoils_the_gain_set_there(sheet: JobSheet, volts: float) -> None:
    in_hand = with_parts(sheet, choices={"top_volume": "in_hand", "clicks_in_hand": 4})
    readings, marks = set_by(in_hand)
    assert readings[-1].volume == 28
    assert state(progress(in_hand, readings, marks)) is State.DONE
    again = reading(steps_of(in_hand)[LADDER], 28, volts, Eye.CLEAN)
    assert state(progress(in_hand, (*readings, again), marks)) is State.STALE


def test_a_number_between_that_is_read_later_spoils_the_gain_that_was_worked_out_there(sheet: JobSheet) -> None:
    in_hand = with_parts(sheet, choices={"top_volume": "in_hand", "clicks_in_hand": 2})
    readings, marks = set_by(in_hand)
    steps = steps_of(in_hand)
    for number, volts, stands in [(30, 2.0, State.STALE), (24, 1.0, State.DONE)]:
        run = progress(in_hand, (*readings, reading(steps[LADDER], number, volts, Eye.CLEAN)), marks)
        assert state(run) is stands


def test_a_gain_that_comes_late_rests_on_the_ceiling_it_was_set_at(sheet: JobSheet) -> None:
    readings, marks = set_by(sheet)
    lower = reading(steps_of(sheet)[LADDER], 30, 3.2, Eye.CLEAN)
    retaken = (*marks, mark(LADDER, basis="guess", volume=30))
    # On another device, which had not heard of it; it arrives last.
    late = readings[-1].model_copy(update={"arrival": retaken[-1].arrival})
    run = progress(sheet, (*readings[:-1], lower, late), retaken)
    assert state(run) is State.STALE
    spoiled = next(one.spoiled for one in run.states if one.step == "gain.front")
    assert ("volume gains are set at", "32", "30") in [(one.label, one.was, one.now) for one in spoiled]


@pytest.mark.parametrize(
    "change",
    [
        lambda sheet: with_parts(sheet, source={"name": "Lanthorn R9"}),
        lambda sheet: with_parts(sheet, amplifier={"name": "Brackwater"}),
        lambda sheet: with_parts(sheet, load={"name": "Osier"}),
        lambda sheet: with_path(sheet, name="Doors"),
        lambda sheet: sheet.model_copy(update={"note": "another word", "vehicle": "Heron"}),
        # 15.492 V instead of 15.4919 V: rounding moves nothing.
        lambda sheet: with_parts(sheet, load={"power_w": 60.01}),
        lambda sheet: with_parts(sheet, choices={"full_tone_hz": 1000.4}),
        lambda sheet: with_tone(sheet, bass=-0.0),
        lambda sheet: with_parts(sheet, amplifier={"gain_range": {"down_v": 5, "up_v": 0.3}}),
        lambda sheet: with_parts(sheet, choices={"blend": "volts", "crossing": "eighty"}),
    ],
)
def test_names_words_and_rounding_spoil_nothing(sheet: JobSheet, change: Callable[[JobSheet], JobSheet]) -> None:
    run = later(change(sheet), sheet, set_by(sheet))
    assert not [one.step for one in run.states if one.state is State.STALE]


def test_what_rests_on_a_stale_ladder_waits_for_it_and_falls_away_when_it_agrees(sheet: JobSheet) -> None:
    readings, marks = set_by(sheet)
    second_look = reading(steps_of(sheet)[LADDER], 32, 4.0, Eye.CLIPPED)
    run = progress(sheet, (*readings, second_look), marks)
    assert state(run, LADDER) is State.STALE
    waits = {one.step: one.waits_for for one in run.redo}
    assert waits["gain.front"] == LADDER
    assert run.current == LADDER
    clean = reading(steps_of(sheet)[LADDER], 32, 4.01, Eye.CLEAN)
    agreed = progress(sheet, (*readings, second_look, clean), marks)
    assert "gain.front" not in {one.step for one in agreed.redo}


def test_two_paths_whose_ids_begin_alike_have_steps_and_gains_of_their_own() -> None:
    chain = LAYOUTS["front-rear"].model_dump(mode="json")
    long = "the-same-beginning-for-both-of-them-"
    for number, path in enumerate(chain["paths"]):
        path["id"] = f"{long}{number}"
    sheet = JobSheet.model_validate({"chain": chain})
    assert {f"gain.{long}0", f"gain.{long}1"} <= set(steps_of(sheet))
    records = set_by(sheet, "ceiling.source.front", f"gain.{long}0")
    run = progress(sheet, *records)
    assert (state(run, f"gain.{long}0"), state(run, f"gain.{long}1")) == (State.DONE, State.OPEN)


def test_a_second_source_has_a_ladder_of_its_own_and_its_gains_wait_for_that() -> None:
    chain = LAYOUTS["front-rear"].model_dump(mode="json")
    other = chain["sources"][0] | {"id": "player", "name": "Player"}
    chain["sources"].append(other)
    chain["paths"][1]["source"] = "player"
    sheet = JobSheet.model_validate({"chain": chain})
    ladders = [key for key in steps_of(sheet) if key.startswith("ceiling.")]
    assert ladders == ["ceiling.source.front", "ceiling.player.rear"]
    records = set_by(sheet, "ceiling.source.front", "gain.front")
    run = progress(sheet, *records)
    assert state(run) is State.DONE
    rear = next(step for step in run.steps if step.key == "gain.rear")
    assert rear.waits_for is not None
    assert rear.wants is not None
    assert rear.wants.volume is None


# Every field of the sheet, against an independent idea of what matters.


def leaves(document: Any, place: tuple[str | int, ...] = ()) -> Iterator[tuple[str | int, ...]]:
    if isinstance(document, dict):
        for key, inner in document.items():
            yield from leaves(inner, (*place, key))
    elif isinstance(document, list):
        for index, inner in enumerate(document):
            yield from leaves(inner, (*place, index))
    else:
        yield place


BASE = processed(with_parts(JobSheet(chain=LAYOUTS["front"]), choices={"tone": "habit"}))
BASE = JobSheet.model_validate(
    BASE.model_dump(mode="json")
    | {
        "chain": BASE.chain.model_dump(mode="json")
        | {
            "sources": [
                one.model_dump(mode="json") | {"inputs": [{"kind": "usb", "trim_db": 2.0}]}
                for one in BASE.chain.sources
            ]
        }
    }
)
DOCUMENT = BASE.model_dump(mode="json")
PLACES = sorted(leaves(DOCUMENT), key=str)
RECORDS = set_by(BASE, next(key for key in steps_of(BASE) if key.startswith("ceiling.")))
STATES = {one.step: one.state for one in later(BASE, BASE, RECORDS).states}


def changed(place: tuple[str | int, ...], value: object) -> JobSheet | None:
    """The sheet with one field changed; None where that is no sheet."""
    document = BASE.model_dump(mode="json")
    spot: Any = document
    for key in place[:-1]:
        spot = spot[key]
    spot[place[-1]] = value
    try:
        return JobSheet.model_validate(document)
    except (ValidationError, KeyError):
        return None


HEARD_HZ = np.geomspace(20, 20_000, 400)


def response_db(path: Path) -> "np.ndarray[Any, Any]":
    """
    Level of a path over HEARD_HZ, shape (400,), by scipy.signal and the Audio EQ Cookbook's peaking biquad written out
    here: nothing of it comes from the code that is tested. Shelves are left out of what is tried.
    """
    level = np.full(HEARD_HZ.size, path.channel_gain_db)
    for band in (*path.equaliser, *((path.boost,) if path.boost else ())):
        a, turn = 10 ** (band.gain_db / 40), 2 * np.pi * band.frequency_hz / 48_000
        alpha = np.sin(turn) / (2 * band.q)
        top = [1 + alpha * a, -2 * np.cos(turn), 1 - alpha * a]
        bottom = [1 + alpha / a, -2 * np.cos(turn), 1 - alpha / a]
        level += 20 * np.log10(abs(signal.freqz(top, bottom, HEARD_HZ, fs=48_000)[1]))
    for one in path.working:
        cut = one.crossover
        twice = 2 if cut.shape.value == "linkwitz_riley" else 1
        top, bottom = signal.butter(cut.order // twice, 2 * np.pi * cut.corner_hz, cut.kind.value, analog=True)
        level += 20 * twice * np.log10(abs(signal.freqs(top, bottom, 2 * np.pi * HEARD_HZ)[1]))
    return level


def matters(now: JobSheet) -> bool | None:
    """
    Whether what the gain step wants, or what would be measured there, is another.

    None within twice the stated tolerance, where either is right.
    """
    before, after = steps_of(BASE), steps_of(now)
    if "gain.front" not in after:
        return None
    was, wants = before["gain.front"], after["gain.front"]
    assert was.target is not None
    assert wants.target is not None
    assert was.wants is not None
    assert wants.wants is not None
    was_path, path = BASE.chain.paths[0], now.chain.paths[0]
    if any(one.crossover.depth_db is not None for one in path.filters):
        return None
    tone = wants.wants.tone
    assert tone is not None
    differences = [
        abs(20 * np.log10(wants.target.value / was.target.value)),
        abs(20 * np.log10(wants.target.limits.high / was.target.limits.high)),
        float(np.max(np.abs(response_db(path) - response_db(was_path)))),
        abs(tone.level_dbfs - (was.wants.tone.level_dbfs if was.wants.tone else 0)),
    ]
    other = (
        (was.point, was.wants.hanging, was.wants.tone and was.wants.tone.swept)
        != (wants.point, wants.wants.hanging, tone.swept)
        or abs(tone.frequency_hz - 1000.0) > 6
        or (was_path.source, was_path.output, was_path.through, was_path.amplifier, was_path.input, was_path.mode)
        != (path.source, path.output, path.through, path.amplifier, path.input, path.mode)
        or (was_path.leads, was_path.also, was_path.section) != (path.leads, path.also, path.section)
        or (was_path.left.gain_db, was_path.right.gain_db) != (path.left.gain_db, path.right.gain_db)
        or BASE.chain.amplifiers[0].routing != now.chain.amplifiers[0].routing
        or BASE.chain.amplifiers[0].bass_knob != now.chain.amplifiers[0].bass_knob
        or BASE.chain.sources[0].tone != now.chain.sources[0].tone
        or [one.trim_db for one in BASE.chain.sources[0].inputs] != [one.trim_db for one in now.chain.sources[0].inputs]
        or [one.kind for one in BASE.chain.sources[0].inputs] != [one.kind for one in now.chain.sources[0].inputs]
        or [(one.kind, one.sides, one.level_db) for one in BASE.chain.sources[0].outputs]
        != [(one.kind, one.sides, one.level_db) for one in now.chain.sources[0].outputs]
        or (now.choices.top_volume.value == "in_hand")
    )
    largest = max(differences)
    if other or largest > 2 * LEVEL_WITHIN_DB:
        return True
    return None if largest > LEVEL_WITHIN_DB / 2 else False


VALUES = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-12, 80),
    st.floats(-20, 20).map(lambda one: round(one, 2)),
    st.sampled_from([20.0, 60.0, 90.0, 500.0, 980.0, 1005.0, 2000.0, 8000.0]),
    st.sampled_from(
        ["high", "low", "bridged", "per_channel", "dummy", "open", "own", "shared", "usb", "disc", "speaker", "left",
         "mono", "in_hand", "measured", "habit", "highest", "forty", "sweep", "clean_wave", "lowest_gain", "peak",
         "butterworth", "linkwitz_riley", "processor", "amplifier", "source", "another name", "sub", "full"]
    ),
)  # fmt: skip


@given(st.sampled_from(PLACES), VALUES)
def test_over_every_field_a_change_spoils_the_gain_if_and_only_if_it_matters(
    place: tuple[str | int, ...], value: object
) -> None:
    now = changed(place, value)
    if now is None:
        return
    expected = matters(now)
    if expected is None:
        return
    run = later(now, BASE, RECORDS)
    assert (state(run) is State.STALE) == expected, (
        place,
        value,
        next(o for o in run.states if o.step == "gain.front"),
    )
    # And back again it is as it was.
    assert {one.step: one.state for one in later(BASE, BASE, RECORDS).states} == STATES


def test_no_field_of_the_sheet_is_left_out_of_that() -> None:
    """The base sheet holds every kind of part, so that a new field of any of them is among the places."""

    def fields(model: type[BaseModel]) -> set[str]:
        return set(model.model_fields)

    held = {str(part) for place in PLACES for part in place if isinstance(part, str)}
    chain = BASE.chain
    models = [type(chain.sources[0]), type(chain.amplifiers[0]), type(chain.loads[0]), type(chain.paths[0])]
    models += [type(chain.processors[0]), type(chain.sources[0].tone), type(BASE.choices)]
    for model in models:
        empty = {"passive_hz", "others", "impedance_curve", "sections", "also"}
        assert fields(model) - held <= empty | {"gain_range", "high_level_range"}, model.__name__


def test_a_dependency_is_compared_by_value_with_its_stated_tolerance() -> None:
    def one(value: object, kind: DependencyKind, within_v: float = 0.0) -> Dependency:
        return Dependency.model_validate(
            {"place": "x", "label": "x", "value": value, "kind": kind, "within_v": within_v}
        )

    volts, level, hertz = DependencyKind.VOLTS, DependencyKind.LEVEL, DependencyKind.HERTZ
    assert one(10.0, volts).same(one(10.05, volts))
    assert not one(10.0, volts).same(one(10.1, volts))
    # √(0.08² + 0.06²) = 0.1 V of doubt together.
    assert one(10.0, volts, 0.08).same(one(10.099, volts, 0.06))
    assert not one(10.0, volts, 0.08).same(one(10.12, volts, 0.06))
    assert one(-3.0, level).same(one(-3.04, level))
    assert not one(-3.0, level).same(one(-3.06, level))
    assert one(1000.0, hertz).same(one(1004.0, hertz))
    assert not one(1000.0, hertz).same(one(1006.0, hertz))
    assert not one(None, volts).same(one(10.0, volts))
    gone = spoiled_by((one(1.0, level),), ())
    assert [(told.was, told.now) for told in gone] == [("+1.0 dB", "none")]
    assert len(spoiled_by((), (one(1.0, level),))) == 1


def habit_hz(step: Step) -> float:
    assert step.wants is not None
    assert step.wants.tone is not None
    return step.wants.tone.frequency_hz


LADDER_KEY = next(step for step in STATES if step.startswith("ceiling."))
ON_THE_LADDER = (
    r"chain\.sources\.0\.(top_volume|kind|tone\..*|inputs\..*|outputs\.0\.(kind|id)|id)",
    r"chain\.(loads\.0\.band|paths\.0\.(source|output))",
    r"choices\.(full|sub)_tone_hz",
)
"""Where a clean maximum may be touched: its source, the tone that is the habit of its speakers, what it is wired to."""


@given(st.sampled_from(PLACES), VALUES)
def test_over_every_field_a_change_spoils_the_ladder_if_and_only_if_it_is_the_sources(
    place: tuple[str | int, ...], value: object
) -> None:
    now = changed(place, value)
    if now is None:
        return
    before, after = steps_of(BASE)[LADDER_KEY], steps_of(now).get(LADDER_KEY)
    if after is None:
        return
    assert before.wants is not None
    assert after.wants is not None
    was, source = BASE.chain.sources[0], now.chain.sources[0]
    # What the step wants, and what moves the volts at the source's output.
    expected = (
        before.wants.volume != after.wants.volume
        or was.top_volume != source.top_volume
        or abs(habit_hz(after) / habit_hz(before) - 1) > FREQUENCY_WITHIN
        or was.tone != source.tone
        or was.inputs != source.inputs
        or [one.kind for one in was.outputs] != [one.kind for one in source.outputs]
    )
    assert (state(later(now, BASE, RECORDS), LADDER_KEY) is State.STALE) == expected
    if expected:
        dotted = ".".join(str(part) for part in place)
        assert any(re.fullmatch(pattern, dotted) for pattern in ON_THE_LADDER), dotted
