"""The proof and the gain before it: a knob that is accepted in one is accepted in the other."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import signal

from tests.core.helpers import (
    LAYOUTS,
    a_filter,
    answers,
    behind_processor,
    mark,
    reading,
    row_reading,
    steps_of,
    with_filters,
)
from upper_rook.core.run.readings.records import Eye
from upper_rook.core.run.result.progress import progress
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.step import State, StepKind
from upper_rook.core.run.steps.volts import proof_limit_v
from upper_rook.core.signal.filters import FilterPlace, Pass
from upper_rook.core.system.chain import line_output_pair
from upper_rook.core.system.job_sheet import JobSheet


def highest_over_limit(sheet: JobSheet) -> list[float]:
    """Each path's loudest tone of the proof, as a part of its limit, with the gain at the most that is accepted."""
    steps = steps_of(sheet)
    found = []
    for step in steps.values():
        if step.kind is not StepKind.PROVE or step.path is None:
            continue
        gain = steps[f"gain.{step.path}"]
        assert gain.target is not None
        taken = reading(gain, gain.wants.volume if gain.wants else None, gain.target.limits.high)
        proof = next(other for other in progress(sheet, (taken,), ()).steps if other.key == step.key)
        loudest = max(row.target.value for row in proof.rows if row.target)
        found.append(loudest / proof_limit_v(JobSnapshot(sheet=sheet, readings=(taken,)), step.path, gain.target))
    return found


@pytest.mark.parametrize("layout", LAYOUTS)
def test_a_gain_at_its_limit_passes_the_proof_of_every_layout(layout: str) -> None:
    over = highest_over_limit(JobSheet(chain=LAYOUTS[layout]))
    assert over
    assert max(over) <= 1 + 1e-9


@given(low=st.floats(20, 300), up=st.floats(2, 60), order=st.sampled_from([2, 4, 8]))
def test_a_gain_at_its_limit_passes_the_proof_behind_any_filters(low: float, up: float, order: int) -> None:
    chain = with_filters(
        line_output_pair(),
        "front",
        a_filter(Pass.HIGH, low, order),
        a_filter(Pass.LOW, min(low * up, 18_000.0), order),
    )
    assert max(highest_over_limit(JobSheet(chain=chain)), default=0.0) <= 1 + 1e-9


def test_a_tone_that_lies_below_the_highest_leaves_a_healthy_system_complete() -> None:
    """Behind a filter near it the usual tone moves to where it lies just below the highest; scipy says by how much."""
    filters = [
        a_filter(kind, hertz, place=FilterPlace.PROCESSOR) for kind, hertz in ((Pass.HIGH, 800), (Pass.LOW, 8000))
    ]
    sheet = JobSheet(chain=with_filters(behind_processor(line_output_pair()), "front", *filters))
    source = steps_of(sheet)["ceiling.source.line"]
    climbed = (reading(source, 31, 3.8, Eye.CLEAN), reading(source, 32, 4.1, Eye.CLIPPED))
    marks = (*answers(sheet), mark(source.key, basis="marked", volume=31))
    steps = {step.key: step for step in progress(sheet, climbed, marks).steps}
    gain = steps["gain.front"]
    assert gain.target is not None
    assert gain.wants is not None
    assert gain.wants.tone is not None

    def passes(hertz: float) -> float:
        both = [signal.butter(4, 800, "high", analog=True), signal.butter(4, 8000, "low", analog=True)]
        return float(np.prod([np.abs(signal.freqs(*one, [hertz])[1][0]) for one in both]))

    at_tone = passes(gain.wants.tone.frequency_hz)
    most = max(passes(hertz) for hertz in np.geomspace(100, 10_000, 2000))
    # As high as the gain's tone is allowed to be read, and what the same knob gives at the loudest.
    volts = gain.target.limits.high * most / at_tone
    assert 1.01 < most / at_tone < 1.03
    taken = reading(gain, 31, gain.target.limits.high, builds_on=gain.builds_on)
    proof = next(step for step in progress(sheet, (*climbed, taken), marks).steps if step.key == "prove.front")
    loud = row_reading(proof, proof.rows[0].key, volts, builds_on=proof.builds_on)
    states = {state.step: state for state in progress(sheet, (*climbed, taken, loud), marks).states}
    assert states["gain.front"].state is State.DONE
    # What is really too much is still found, and no boost is named where there is none.
    burnt = row_reading(proof, proof.rows[0].key, 1.06 * volts, builds_on=proof.builds_on)
    states = {state.step: state for state in progress(sheet, (*climbed, taken, burnt), marks).states}
    assert states["gain.front"].state is State.OUTDATED
    assert states["gain.front"].spoiled[0].remedy == "Turn the gain down."
