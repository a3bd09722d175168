"""A sheet with something of everything on the way, and the records of a run under it."""

from tests.core.helpers import answers, gain_step, mark, reading, steps_of
from upper_rook.core.run.readings.records import Eye, Mark, Reading
from upper_rook.core.run.result.progress import Run, progress
from upper_rook.core.run.steps.step import State
from upper_rook.core.system.job_sheet import JobSheet

VOLUME_STEPS = "ceiling.source.line"
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


def set_by(sheet: JobSheet, volume_steps: str = VOLUME_STEPS, gain: str = "gain.front") -> Records:
    """Lists answered, the source clean maximum 32 at 4 V, and the gain set as wanted."""
    step = steps_of(sheet)[volume_steps]
    volume_readings = (
        reading(step, 28, 2.5, Eye.CLEAN),
        reading(step, 32, 4.0, Eye.CLEAN),
        reading(step, 33, 4.2, Eye.CLIPPED),
    )
    marks = (*answers(sheet), mark(volume_steps, basis="marked", volume=32))
    wanted = gain_step(sheet, volume_readings, marks, gain)
    assert wanted.target is not None
    assert wanted.wants is not None
    return (*volume_readings, reading(wanted, wanted.wants.volume, wanted.target.value)), marks


def later(now: JobSheet, then: JobSheet, records: Records) -> Run:
    """The run under `now` of what was taken under `then`."""
    return progress(now, *records, lambda version: then if version == 1 else now)


def state(run: Run, key: str = "gain.front") -> State:
    return next(state.state for state in run.states if state.step == key)
