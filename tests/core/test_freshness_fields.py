"""Over every field of a sheet: a change spoils a reading if and only if it matters where that was taken."""

import re
from collections.abc import Iterator
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from pydantic import BaseModel, ValidationError
from scipy import signal

from tests.core.freshness import later, processed, set_by, state
from tests.core.helpers import LAYOUTS, steps_of, with_parts
from upper_rook.core.run.freshness.dependencies import FREQUENCY_WITHIN, LEVEL_WITHIN_DB
from upper_rook.core.run.steps.step import State, Step
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.path import Path


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
                source.model_dump(mode="json") | {"inputs": [{"kind": "usb", "trim_db": 2.0}]}
                for source in BASE.chain.sources
            ]
        }
    }
)
DOCUMENT = BASE.model_dump(mode="json")
PLACES = sorted(leaves(DOCUMENT), key=str)
RECORDS = set_by(BASE, next(key for key in steps_of(BASE) if key.startswith("ceiling.")))
STATES = {state.step: state.state for state in later(BASE, BASE, RECORDS).states}


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
    for channel_filter in path.working:
        cut = channel_filter.crossover
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
    if any(channel_filter.crossover.depth_db is not None for channel_filter in path.filters):
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
        or [playing.trim_db for playing in BASE.chain.sources[0].inputs]
        != [playing.trim_db for playing in now.chain.sources[0].inputs]
        or [playing.kind for playing in BASE.chain.sources[0].inputs]
        != [playing.kind for playing in now.chain.sources[0].inputs]
        or [(output.kind, output.sides, output.level_db) for output in BASE.chain.sources[0].outputs]
        != [(output.kind, output.sides, output.level_db) for output in now.chain.sources[0].outputs]
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
    st.floats(-20, 20).map(lambda value: round(value, 2)),
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
    assert (state(run) is State.OUTDATED) == expected, (
        place,
        value,
        next(o for o in run.states if o.step == "gain.front"),
    )
    # And back again it is as it was.
    assert {state.step: state.state for state in later(BASE, BASE, RECORDS).states} == STATES


def test_no_field_of_the_sheet_is_left_out_of_that() -> None:
    """The base sheet holds every kind of part, so that a new field of any of them is among the places."""

    def fields(model: type[BaseModel]) -> set[str]:
        return set(model.model_fields)

    held = {str(part) for place in PLACES for part in place if isinstance(part, str)}
    chain = BASE.chain
    models = [type(chain.sources[0]), type(chain.amplifiers[0]), type(chain.loads[0]), type(chain.paths[0])]
    models += [type(chain.processors[0]), type(chain.sources[0].tone), type(BASE.choices)]
    for model in models:
        # Plugs are a factory system's own: what spoils their readings is tested with them.
        empty = {"passive_hz", "others", "impedance_curve", "sections", "also", "plugs"}
        assert fields(model) - held <= empty | {"gain_range", "high_level_range"}, model.__name__


def habit_hz(step: Step) -> float:
    assert step.wants is not None
    assert step.wants.tone is not None
    return step.wants.tone.frequency_hz


VOLUME_STEPS_KEY = next(step for step in STATES if step.startswith("ceiling."))
ON_THE_VOLUME_STEPS = (
    r"chain\.sources\.0\.(top_volume|kind|tone\..*|inputs\..*|outputs\.0\.(kind|id)|id)",
    r"chain\.(loads\.0\.band|paths\.0\.(source|output))",
    r"choices\.(full|sub)_tone_hz",
)
"""Where a clean maximum may be touched: its source, the tone that is the habit of its speakers, what it is wired to."""


@given(st.sampled_from(PLACES), VALUES)
def test_over_every_field_a_change_spoils_the_volume_steps_if_and_only_if_it_is_the_sources(
    place: tuple[str | int, ...], value: object
) -> None:
    now = changed(place, value)
    if now is None:
        return
    before, after = steps_of(BASE)[VOLUME_STEPS_KEY], steps_of(now).get(VOLUME_STEPS_KEY)
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
        or [output.kind for output in was.outputs] != [output.kind for output in source.outputs]
    )
    assert (state(later(now, BASE, RECORDS), VOLUME_STEPS_KEY) is State.OUTDATED) == expected
    if expected:
        dotted = ".".join(str(part) for part in place)
        assert any(re.fullmatch(pattern, dotted) for pattern in ON_THE_VOLUME_STEPS), dotted
