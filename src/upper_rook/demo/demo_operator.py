"""Works the demo's runs on the simulated bench the way a person would."""

import hashlib
import io
import pathlib
from collections.abc import Iterable
from datetime import UTC, datetime, timedelta
from tempfile import NamedTemporaryFile
from uuid import UUID, uuid5

import numpy as np
import soundfile
from numpy.typing import NDArray
from sqlmodel import Session

from upper_rook.core.run.readings.circumstances import Circumstances
from upper_rook.core.run.readings.kept_captures import NewCapture
from upper_rook.core.run.readings.records import Answer, Eye, NewMark, NewReading, Quantity, Reading
from upper_rook.core.run.result.progress import Run
from upper_rook.core.run.steps.extra_readings import CLIPS, KNOB
from upper_rook.core.run.steps.step import Row, Step, StepKind
from upper_rook.core.stages.knob import KNOB_HALF_HOURS
from upper_rook.core.system.clean_maximum import Basis
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk import bench, captures, jobs, records, runs
from upper_rook.instruments.halving import halved
from upper_rook.instruments.simulated import (
    Probe,
    SimulatedMeter,
    bench_for,
    is_flat,
    path_on_bench,
    scope_export,
    starting_state,
    swept,
)

BY = "Wren"


class DemoOperator:
    """Works a run on the simulated bench the way a person would, by the acts that a person has."""

    def __init__(self, session: Session, job_id: UUID, sheet: JobSheet) -> None:
        self.session, self.job_id, self.sheet = session, job_id, sheet
        self.seed = bench.seed_of(job_id)
        self.state = starting_state(sheet)
        self.now = datetime.now(UTC) - timedelta(days=1)
        self.meter = SimulatedMeter(sheet, self.seed, lambda: self.state, self._clock)

    def _clock(self) -> float:
        return self.now.timestamp()

    @property
    def top_volume(self) -> int:
        """The end of the scale that is in use."""
        return self.sheet.chain.source_of(path_on_bench(self.sheet, self.state)).top_volume

    def cycle(self) -> NDArray[np.float64]:
        """One cycle of volts at the probe."""
        return bench_for(self.sheet, self.seed, self.state).cycle(self.state)

    def run(self) -> Run:
        """The run as it is."""
        return runs.run_view(self.session, self.job_id).run

    def step(self, kind: StepKind) -> Step:
        """The first step of a kind."""
        return next(step for step in self.run().steps if step.kind is kind)

    def turn(self, **knobs: object) -> None:
        """Turns knobs; a second or two passes."""
        self.state = self.state.model_copy(update=knobs)
        self.now += timedelta(seconds=7)

    def answer(self, steps: Iterable[Step], *left: str) -> None:
        """Answers every line of the checklists among `steps`; those in `left` stay as they are."""
        for step in (step for step in steps if step.kind is StepKind.CHECKLIST):
            for item in step.items:
                reason = "glued in place, customer’s wish" if item.key in left else ""
                self.mark(step, item=item.key, answer=Answer.LEFT if reason else Answer.DONE, note=reason)

    def mark(self, step: Step, **said: object) -> None:
        """Says something about a step."""
        self.now += timedelta(seconds=4)
        fields = {"id": self._next_id(), "step": step.key, "sheet_version": 1, "taken_at": self.now, "by": BY}
        records.say(self.session, self.job_id, NewMark.model_validate(fields | said))

    def read(self, step: Step, seen: Eye = Eye.UNSEEN, row: Row | None = None, value: float | None = None) -> Reading:
        """Takes the meter's reading for a step or one of its rows, or a `value` that was read by eye."""
        self.now += timedelta(seconds=5)
        sample = self.meter.read()
        new = NewReading(
            id=self._next_id(),
            step=step.key,
            value=sample.value_v if value is None else value,
            instrument=self.meter.profile.id,
            quantity=row.quantity if row else Quantity.AC_VOLTS,
            circumstances=Circumstances(
                volume=sample.volume,
                tone=sample.tone,
                row=row.key if row else None,
                way=step.wants.way if step.wants else None,
            ),
            seen=seen,
            builds_on=step.builds_on,
            sheet_version=1,
            taken_at=self.now,
            by=BY,
        )
        return records.take_reading(self.session, self.job_id, new)

    def keep_wave(self, name: str, reading: Reading | None = None) -> None:
        """Keeps what the scope shows, attached to a reading."""
        model = bench_for(self.sheet, self.seed, self.state)
        self.keep(name, scope_export(model, self.state, self.now.second), reading)

    def keep(self, name: str, data: bytes, reading: Reading | None = None, full_scale_v: float | None = None) -> None:
        """Keeps a file with its verdict."""
        self.now += timedelta(seconds=3)
        new = NewCapture(id=self._next_id(), name=name, full_scale_v=full_scale_v, taken_at=self.now, by=BY)
        digest = hashlib.sha256(data).hexdigest()
        with NamedTemporaryFile(prefix="rook-") as file:
            file.write(data)
            file.flush()
            captures.keep_capture(self.session, self.job_id, new, digest, pathlib.Path(file.name))
        if reading:
            captures.attach(self.session, self.job_id, new.id, reading.id)

    def _next_id(self) -> UUID:
        return uuid5(self.job_id, self.now.isoformat())


_RECORDER_V = 40.0
"""Full scale of the workshop's recorder behind its divider."""


def _climb(operator: DemoOperator, numbers: Iterable[int]) -> None:
    step = operator.step(StepKind.VOLUME_STEPS)
    for number in numbers:
        operator.turn(volume=number, probe=Probe.SOURCE)
        clipped = is_flat(operator.cycle())
        reading = operator.read(step, Eye.CLIPPED if clipped else Eye.CLEAN)
        if clipped:
            operator.keep_wave(f"source at {number}.csv", reading)
            break
    volume_steps = next(state.volume_steps for state in operator.run().states if state.step == step.key)
    clean = volume_steps.last_clean if volume_steps else None
    if clean:
        operator.mark(step, basis=Basis.MARKED, volume=clean.volume)
        operator.turn(volume=clean.volume)


def _set_gain(operator: DemoOperator) -> None:
    step = operator.step(StepKind.GAIN)
    if step.target is None or step.wants is None:
        raise ValueError("a gain step without a target")
    operator.turn(probe=Probe.LEFT, tone=step.wants.tone)
    wanted = 0.99 * step.target.value

    def is_below(knob: float) -> bool:
        operator.turn(gain=knob)
        return operator.meter.read().value_v <= wanted

    operator.turn(gain=halved(is_below))
    operator.keep_wave("front left, gain set.csv", operator.read(step))


def _read_beside_the_gain(operator: DemoOperator) -> None:
    """The place of the knob, and the volts at which the amplifier just stays clean with nothing at its terminals."""
    step, left = operator.step(StepKind.GAIN), operator.state.gain
    beside = {row.key: row for row in step.beside}
    place = round(left * KNOB_HALF_HOURS) / KNOB_HALF_HOURS
    operator.read(step, row=beside[KNOB], value=place)
    if CLIPS in beside:

        def is_clean(knob: float) -> bool:
            operator.turn(gain=knob)
            return not is_flat(operator.cycle())

        operator.turn(gain=halved(is_clean))
        operator.read(step, row=beside[CLIPS])
        operator.turn(gain=left)


def _measure_supply(operator: DemoOperator) -> None:
    step = operator.step(StepKind.SUPPLY)
    operator.turn(probe=Probe.SUPPLY)
    operator.read(step, row=step.rows[0])


def _prove(operator: DemoOperator) -> None:
    """Every tone of the proof, with everything as it was left."""
    step = operator.step(StepKind.PROVE)
    for row in step.rows:
        operator.turn(probe=Probe.LEFT, tone=row.wants.tone)
        operator.read(step, row=row)
    # As for the gain, which the first of them is.
    operator.turn(tone=step.rows[0].wants.tone)


def _keep_volume_steps(operator: DemoOperator, numbers: Iterable[int]) -> None:
    """Volume steps taken with the meter alone, on a phone in the footwell."""
    lines = []
    for number in numbers:
        operator.turn(volume=number, probe=Probe.SOURCE)
        lines.append(f"{number};{operator.meter.read().value_v:.3f}".replace(".", ","))
    text = "\n".join(("volume;volts", *lines, ""))
    operator.keep("line out, meter only", text.encode())


def _keep_sweep(operator: DemoOperator) -> None:
    """A sweep through the whole chain, with a bass boost that nobody had noticed."""
    volts = swept(20.0, 48_000, 17.0, boost_db=6.0, boost_hz=48.0, clean_maximum_v=24.5)
    noise = np.random.default_rng(48).normal(0, 0.004, volts.size)
    file = io.BytesIO()
    soundfile.write(file, (volts + noise) / _RECORDER_V, 48_000, subtype="PCM_16", format="WAV")
    operator.keep("sweep, boost on.wav", file.getvalue(), full_scale_v=_RECORDER_V)


def finish(operator: DemoOperator) -> None:
    """A run from its beginning to its end."""
    operator.answer(operator.run().steps, "remote-level")
    _measure_supply(operator)
    top = operator.state.volume * 2
    _climb(operator, range(operator.state.volume, top + 1))
    clean = operator.state.volume
    _keep_volume_steps(operator, range(clean - 8, min(top, clean + 5) + 1))
    operator.turn(volume=clean)
    _set_gain(operator)
    _read_beside_the_gain(operator)
    _keep_sweep(operator)
    operator.turn(probe=Probe.RIGHT)
    operator.read(operator.step(StepKind.MATCH))
    _prove(operator)
    _knob_positions(operator)
    _leave_bench(operator)


def _knob_positions(operator: DemoOperator) -> None:
    knob_positions = operator.step(StepKind.KNOB_POSITIONS)
    for item in knob_positions.items:
        operator.mark(knob_positions, item=item.key, answer=Answer.DONE, note="a white dot on the panel")


def half_do(operator: DemoOperator) -> None:
    """Works up to the gain; then the speakers turn out to be rated higher, which spoils it."""
    operator.answer(step for step in operator.run().steps if step.key != "listen")
    top = operator.top_volume
    _climb(operator, [*range(top // 2, int(top * 0.7), 4), *range(int(top * 0.7), top + 1)])
    _set_gain(operator)
    loads = tuple(load.model_copy(update={"power_w": 25.0}) for load in operator.sheet.chain.loads)
    chain = operator.sheet.chain.model_copy(update={"loads": loads})
    jobs.save_sheet(operator.session, operator.job_id, 1, operator.sheet.model_copy(update={"chain": chain}), BY)
    _leave_bench(operator)


def _leave_bench(operator: DemoOperator) -> None:
    bench.turn(operator.session, operator.job_id, operator.state)
