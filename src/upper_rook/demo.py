"""Demo data: an invented workshop on a coast that does not exist, worked on the simulated bench."""

import hashlib
import io
import pathlib
from collections.abc import Callable, Iterable
from datetime import UTC, datetime, timedelta
from tempfile import NamedTemporaryFile
from uuid import UUID, uuid5

import numpy as np
import soundfile
from numpy.typing import NDArray
from sqlalchemy import Engine
from sqlmodel import Session

from upper_rook.core.common.stated import Stated
from upper_rook.core.run.circumstances import Circumstances
from upper_rook.core.run.kept_captures import NewCapture
from upper_rook.core.run.progress import Run
from upper_rook.core.run.records import Answer, Eye, NewMark, NewReading, Quantity, Reading
from upper_rook.core.run.step import Row, Step, StepKind
from upper_rook.core.signal.filters import EqualiserBand
from upper_rook.core.system.amplifier import Amplifier, BassKnob, GainRange, Mode, Rating
from upper_rook.core.system.ceiling import Basis
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.layouts import templates
from upper_rook.core.system.loads import Band, Load
from upper_rook.core.system.path import Path
from upper_rook.core.system.source import Output, Source
from upper_rook.desk import bench, captures, jobs, records, runs
from upper_rook.instruments.careful import halved
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
from upper_rook.store import jobs as stored_jobs
from upper_rook.store.database import make_engine

_SPACE = UUID("6f1c5b1e-52a1-4c52-9d6b-8a0f3a3b7a10")
_BY = "Wren"


def _receiver(name: str, volts: float, top_volume: int) -> Source:
    line = Output(id="line", name="Line out", rated=Stated(volts=volts))
    return Source(id="source", name=name, top_volume=top_volume, outputs=(line,))


FINISHED = JobSheet(
    vehicle="Gannet 6 camper “Marmalade”",
    note="Two door speakers, amplifier under the bench seat. Keys on hook 4.",
    chain=Chain(
        sources=(_receiver("Lanthorn R4", 4.0, 38),),
        amplifiers=(
            Amplifier(
                id="amplifier",
                name="Brackwater Twin 75",
                ratings=(Rating(power_w=75, load_ohm=4), Rating(power_w=110, load_ohm=2)),
                lowest_load_ohm=2,
                gain_range=GainRange(down_v=6.0, up_v=0.2),
                clip_lamp=True,
                bass_knob=BassKnob(),
            ),
        ),
        loads=(Load(id="front", name="Osier 165", impedance_ohm=4, power_w=50),),
        paths=(Path(id="front", name="Front", source="source", output="line", amplifier="amplifier", load="front"),),
    ),
)

HALFWAY = JobSheet(
    vehicle="Heron minibus, ferry line 3",
    note="Four ceiling speakers, announcements and radio. Back on the road Friday.",
    chain=Chain(
        sources=(_receiver("Lanthorn R2", 2.0, 62),),
        amplifiers=(
            Amplifier(
                id="amplifier",
                name="Brackwater Twin 50",
                ratings=(Rating(power_w=50, load_ohm=4), Rating(power_w=75, load_ohm=2)),
                lowest_load_ohm=2,
                regulated=True,
            ),
        ),
        loads=(Load(id="front", name="Marram 130", impedance_ohm=8, power_w=20, count=2),),
        paths=(Path(id="front", name="Saloon", source="source", output="line", amplifier="amplifier", load="front"),),
    ),
)

PLANNED = JobSheet(
    vehicle="Skerry panel van, new build",
    note="One ported box behind the partition. Customer likes it loud.",
    chain=Chain(
        sources=(_receiver("Lanthorn R4", 4.0, 38),),
        amplifiers=(
            Amplifier(
                id="amplifier",
                name="Brackwater Twin 300",
                ratings=(Rating(power_w=300, load_ohm=4), Rating(power_w=1000, load_ohm=4, mode=Mode.BRIDGED)),
                lowest_load_ohm=2,
                gain_range=GainRange(down_v=8.0, up_v=0.25),
            ),
        ),
        loads=(Load(id="front", name="Groundswell 400", band=Band.SUB, impedance_ohm=4, power_w=400),),
        paths=(
            Path(
                id="front",
                name="Sub",
                source="source",
                output="line",
                amplifier="amplifier",
                load="front",
                mode=Mode.BRIDGED,
            ),
        ),
    ),
    choices=Choices(sub_tone_hz=40.0),
)


def _laid_out(layout: str, vehicle: str, note: str, names: dict[str, str]) -> JobSheet:
    """A sheet from a layout, its parts called by what they are on this coast."""
    chain = next(one.chain for one in templates() if one.key == layout)
    renamed = {
        kind: tuple(
            part.model_copy(update={"name": names.get(part.id, names.get(kind, part.name))})
            for part in getattr(chain, kind)
        )
        for kind in ("sources", "processors", "amplifiers", "loads")
    }
    return JobSheet(vehicle=vehicle, note=note, chain=chain.model_copy(update=renamed))


TOURER = _laid_out(
    "five-channel",
    "Curlew tourer, the Sandpipers’ bus",
    "Front, rear and a ported box. They play every weekend.",
    {
        "sources": "Lanthorn R4",
        "amplifiers": "Brackwater Five",
        "speakers-front": "Osier 165",
        "speakers-rear": "Marram 165",
        "speakers-sub": "Groundswell 400",
    },
)
ACTIVE = _laid_out(
    "active-three",
    "Petrel studio van",
    "Three ways, every driver on its own channel. A boost at 2.2 kHz that the owner swears by.",
    {
        "sources": "Lanthorn R4",
        "processors": "Tidewright 8",
        "amplifiers": "Brackwater Twin 75",
        "speakers-bass": "Osier 165",
        "speakers-mid": "Osier 80",
        "speakers-tweeter": "Reedling 25",
    },
)
BI_AMPLIFIED = _laid_out(
    "bi-amplified-three",
    "Dunlin day van",
    "Mid-basses on their own channels, midranges and tweeters behind passive crossovers.",
    {
        "sources": "Lanthorn R4",
        "amplifiers": "Brackwater Twin 75",
        "speakers-bass": "Osier 165",
        "speakers-mids": "Osier 80 with Reedling 25",
    },
)
FACTORY = _laid_out(
    "converter",
    "Avocet people carrier",
    "Factory radio stays; its speaker leads feed a converter.",
    {"processors": "Lowline 2", "amplifiers": "Brackwater Twin 75", "loads": "Marram 165"},
)
STRAPPED = _laid_out(
    "strapped-sub",
    "Skua display bus",
    "Two mono amplifiers strapped onto one box. Well above 30 V.",
    {"sources": "Lanthorn R4", "amplifiers": "Brackwater Solo 1000", "loads": "Groundswell 2500"},
)


def _boosted(sheet: JobSheet) -> JobSheet:
    """The same with a boosted band on its middle way."""
    band = EqualiserBand(frequency_hz=2200, gain_db=5.0, q=1.4)
    paths = tuple(
        path.model_copy(update={"equaliser": (band,)}) if path.id == "mid" else path for path in sheet.chain.paths
    )
    return sheet.model_copy(update={"chain": sheet.chain.model_copy(update={"paths": paths})})


def fill(url: str) -> None:
    """Adds the demo's jobs to the database at `url`; one that is there already is left alone."""
    engine = make_engine(url)
    try:
        for name, sheet, work in (
            ("strapped", STRAPPED, None),
            ("factory", FACTORY, None),
            ("bi-amplified", BI_AMPLIFIED, None),
            ("active", _boosted(ACTIVE), None),
            ("tourer", TOURER, None),
            ("planned", PLANNED, None),
            ("finished", FINISHED, _finish),
            ("halfway", HALFWAY, _half_do),
        ):
            _begin(engine, uuid5(_SPACE, name), sheet, work)
    finally:
        engine.dispose()


def _begin(engine: Engine, job_id: UUID, sheet: JobSheet, work: "Callable[[_Hand], None] | None") -> None:
    with Session(engine) as session:
        if stored_jobs.has_job(session, job_id):
            return
        jobs.begin_with(session, job_id, sheet, _BY)
        if work:
            work(_Hand(session, job_id, sheet))


class _Hand:
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
        """The end of the scale that is in hand."""
        return self.sheet.chain.source_of(path_on_bench(self.sheet, self.state)).top_volume

    def cycle(self) -> NDArray[np.float64]:
        """One cycle of volts at the probe."""
        return bench_for(self.sheet, self.seed, self.state).cycle(self.state)

    def run(self) -> Run:
        """The run as it stands."""
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
        for step in (one for one in steps if one.kind is StepKind.CHECKLIST):
            for item in step.items:
                reason = "glued in place, customer's wish" if item.key in left else ""
                self.mark(step, item=item.key, answer=Answer.LEFT if reason else Answer.DONE, note=reason)

    def mark(self, step: Step, **said: object) -> None:
        """Says something about a step."""
        self.now += timedelta(seconds=4)
        fields = {"id": self._next_id(), "step": step.key, "sheet_version": 1, "taken_at": self.now, "by": _BY}
        records.say(self.session, self.job_id, NewMark.model_validate(fields | said))

    def read(self, step: Step, seen: Eye = Eye.UNSEEN, row: Row | None = None) -> Reading:
        """Takes the meter's reading for a step, or for one of the several that it asks for."""
        self.now += timedelta(seconds=5)
        sample = self.meter.read()
        new = NewReading(
            id=self._next_id(),
            step=step.key,
            value=sample.value_v,
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
            by=_BY,
        )
        return records.take_reading(self.session, self.job_id, new)

    def keep_wave(self, name: str, reading: Reading | None = None) -> None:
        """Keeps what the scope shows, attached to a reading."""
        model = bench_for(self.sheet, self.seed, self.state)
        self.keep(name, scope_export(model, self.state, self.now.second), reading)

    def keep(self, name: str, data: bytes, reading: Reading | None = None, full_scale_v: float | None = None) -> None:
        """Keeps a file with what it came to."""
        self.now += timedelta(seconds=3)
        new = NewCapture(id=self._next_id(), name=name, full_scale_v=full_scale_v, taken_at=self.now, by=_BY)
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


def _climb(hand: _Hand, numbers: Iterable[int]) -> None:
    step = hand.step(StepKind.LADDER)
    for number in numbers:
        hand.turn(volume=number, probe=Probe.SOURCE)
        clipped = is_flat(hand.cycle())
        reading = hand.read(step, Eye.CLIPPED if clipped else Eye.CLEAN)
        if clipped:
            hand.keep_wave(f"source at {number}.csv", reading)
            break
    ladder = next(state.ladder for state in hand.run().states if state.step == step.key)
    clean = ladder.last_clean if ladder else None
    if clean:
        hand.mark(step, basis=Basis.MARKED, volume=clean.volume)
        hand.turn(volume=clean.volume)


def _set_gain(hand: _Hand) -> None:
    step = hand.step(StepKind.GAIN)
    if step.target is None or step.wants is None:
        raise ValueError("a gain step without a target")
    hand.turn(probe=Probe.LEFT, tone=step.wants.tone)
    wanted = 0.99 * step.target.value

    def is_below(knob: float) -> bool:
        hand.turn(gain=knob)
        return hand.meter.read().value_v <= wanted

    hand.turn(gain=halved(is_below))
    hand.keep_wave("front left, gain set.csv", hand.read(step))


def _measure_supply(hand: _Hand) -> None:
    step = hand.step(StepKind.SUPPLY)
    hand.turn(probe=Probe.SUPPLY)
    hand.read(step, row=step.rows[0])


def _prove(hand: _Hand) -> None:
    """Every tone of the proof, with everything as it was left."""
    step = hand.step(StepKind.PROVE)
    for row in step.rows:
        hand.turn(probe=Probe.LEFT, tone=row.wants.tone)
        hand.read(step, row=row)
    # As for the gain, which the first of them is.
    hand.turn(tone=step.rows[0].wants.tone)


def _keep_ladder(hand: _Hand, numbers: Iterable[int]) -> None:
    """A ladder taken with the meter alone, on a phone in the footwell."""
    lines = []
    for number in numbers:
        hand.turn(volume=number, probe=Probe.SOURCE)
        lines.append(f"{number};{hand.meter.read().value_v:.3f}".replace(".", ","))
    text = "\n".join(("volume;volts", *lines, ""))
    hand.keep("line out, meter only", text.encode())


def _keep_sweep(hand: _Hand) -> None:
    """A sweep through the whole chain, with a bass boost that nobody had noticed."""
    volts = swept(20.0, 48_000, 17.0, boost_db=6.0, boost_hz=48.0, ceiling_v=24.5)
    noise = np.random.default_rng(48).normal(0, 0.004, volts.size)
    file = io.BytesIO()
    soundfile.write(file, (volts + noise) / _RECORDER_V, 48_000, subtype="PCM_16", format="WAV")
    hand.keep("sweep, boost on.wav", file.getvalue(), full_scale_v=_RECORDER_V)


def _finish(hand: _Hand) -> None:
    hand.answer(hand.run().steps, "remote-level")
    _measure_supply(hand)
    top = hand.state.volume * 2
    _climb(hand, range(hand.state.volume, top + 1))
    clean = hand.state.volume
    _keep_ladder(hand, range(clean - 8, min(top, clean + 5) + 1))
    hand.turn(volume=clean)
    _set_gain(hand)
    _keep_sweep(hand)
    hand.turn(probe=Probe.RIGHT)
    hand.read(hand.step(StepKind.MATCH))
    _prove(hand)
    _seal(hand)
    _leave_bench(hand)


def _seal(hand: _Hand) -> None:
    seal = hand.step(StepKind.SEAL)
    for item in seal.items:
        hand.mark(seal, item=item.key, answer=Answer.DONE, note="a white dot on the panel")


def _half_do(hand: _Hand) -> None:
    """Works up to the gain; then the speakers turn out to be rated higher, which spoils it."""
    hand.answer(step for step in hand.run().steps if step.key != "listen")
    top = hand.top_volume
    _climb(hand, [*range(top // 2, int(top * 0.7), 4), *range(int(top * 0.7), top + 1)])
    _set_gain(hand)
    loads = tuple(load.model_copy(update={"power_w": 25.0}) for load in hand.sheet.chain.loads)
    chain = hand.sheet.chain.model_copy(update={"loads": loads})
    jobs.save_sheet(hand.session, hand.job_id, 1, hand.sheet.model_copy(update={"chain": chain}), _BY)
    _leave_bench(hand)


def _leave_bench(hand: _Hand) -> None:
    bench.turn(hand.session, hand.job_id, hand.state)
