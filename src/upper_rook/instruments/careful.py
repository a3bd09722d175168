"""
A careful person at the simulated bench, held against what is really on it.

Works a run step by step as it is asked for, by the same steps and the same judge as anybody.
"""

import itertools
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from uuid import UUID, uuid5

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import Frozen, Key, ratio_db
from upper_rook.core.judge.wave import judge
from upper_rook.core.judge.wave_report import Verdict
from upper_rook.core.run.circumstances import Circumstances
from upper_rook.core.run.points import Point, SupplyPoint
from upper_rook.core.run.progress import Run, progress
from upper_rook.core.run.records import Answer, Eye, Mark, Outcome, Quantity, Reading
from upper_rook.core.run.step import Row, State, Step, StepKind, StepState
from upper_rook.core.run.step_keys import corner_key
from upper_rook.core.run.steps.corner import NOW, OPEN
from upper_rook.core.signal.filters import Pass
from upper_rook.core.signal.trace import Trace
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.path import Path
from upper_rook.instruments.bench_parts import dials_of
from upper_rook.instruments.simulated import (
    BenchState,
    Probe,
    SimulatedMeter,
    bench_for,
    probe_at,
    scope_trace,
    starting_state,
)

_BEGAN = datetime(2026, 1, 1, tzinfo=UTC)
_NAMES = UUID(int=0)
_TURNS = 18
"""Halvings of a knob's travel until it stands."""
_FLAT = 0.02
"""A wave with more of its samples at its peak than this is clipped: of a sine's 1,000 a handful are."""


class SetPath(Frozen):
    """How one path was left, and what is really so."""

    path: Key
    name: str
    wanted_v: float
    set_v: float
    """Really at its terminals, with the gain where it was left."""
    off_db: float
    settled: str
    """Why it was left though it missed; empty where it met its target."""
    clips: bool
    """Whether it clips anywhere at the number handed over."""
    clips_before: bool
    """Whether the person saw something before the amplifier clip, which no gain mends."""


class SetCorner(Frozen):
    """Where a filter was left."""

    path: Key
    name: str
    wanted_hz: float
    set_hz: float
    """Where it really stands."""
    off_percent: float
    settled: str


class Handed(Frozen):
    """The number never to pass of a source."""

    source: Key
    volume: int
    last_clean: int
    """Really the last clean one."""


class Simulation(Frozen):
    """What a careful person made of a job on the simulated bench."""

    seed: int
    scope: bool
    complete: bool
    paths: tuple[SetPath, ...]
    corners: tuple[SetCorner, ...]
    numbers: tuple[Handed, ...]
    open: tuple[str, ...]
    """What couldn't be done, in words."""


def simulate(sheet: JobSheet, seed: int = 1, *, scope: bool = True) -> Simulation:
    """
    Works the whole run of `sheet`, with a scope at hand or with a meter alone.

    Raises:
        BadInput: when nothing of it can be planned.
    """
    person = _Person(sheet, seed, scope=scope)
    run = person.work()
    return person.held_against_the_truth(run)


class _Person:
    """Knows of the bench what its meter and its scope show, and nothing else."""

    def __init__(self, sheet: JobSheet, seed: int, *, scope: bool) -> None:
        self.sheet, self.seed, self.scope = sheet, seed, scope
        self.state = starting_state(sheet)
        self.readings: list[Reading] = []
        self.marks: list[Mark] = []
        self.gains: dict[str, float] = {}
        self.dials: dict[str, list[float | None]] = {}
        self.before: set[str] = set()
        """Paths on which something before the amplifier clips."""
        self._count = itertools.count(1)
        self._at = 0
        self._known: tuple[int, Run] | None = None
        self.meter = SimulatedMeter(sheet, seed, lambda: self.state, lambda: float(self._at))

    def run(self) -> Run:
        """The run as it stands."""
        known = len(self.readings) + len(self.marks)
        if self._known is None or self._known[0] != known:
            self._known = known, progress(self.sheet, tuple(self.readings), tuple(self.marks))
        return self._known[1]

    def work(self) -> Run:
        """Does what is to be done, step by step, each once."""
        run, tried = self.run(), set[str]()
        if not run.plan.paths:
            raise BadInput("Nothing of this system can be planned yet: fill in what its paths lack.", "chain")
        for step in run.steps:
            # Nothing on this bench can be heard.
            if step.optional and step.kind is not StepKind.BLEND:
                self._do(step)
        while True:
            ready = [one.step for one in run.redo if one.step not in tried and one.waits_for in (None, *tried)]
            if not ready:
                return run
            tried.add(ready[0])
            self._do(next(one for one in run.steps if one.key == ready[0]))
            run = self.run()

    def _do(self, step: Step) -> None:
        acts: dict[StepKind, Callable[[Step], None]] = {
            StepKind.CHECKLIST: self._answer,
            StepKind.LADDER: self._climb,
            StepKind.GAIN: self._set_gain,
            StepKind.MATCH: self._look,
            StepKind.CORNER: self._set_corner,
        }
        acts.get(step.kind, self._read_rows)(step)

    def _answer(self, step: Step) -> None:
        for item in step.items:
            self._say(step, item=item.key, answer=Answer.DONE)

    def _climb(self, step: Step) -> None:
        """Up number by number until it clips; with a meter alone to the top."""
        wants, top = step.wants or Circumstances(), step.top_volume or 0
        self._turn(path=step.along, probe=Probe.SOURCE, tone=wants.tone)
        number = wants.volume or top // 2
        while 1 <= number <= top:
            self._turn(volume=number)
            seen = self._eye()
            self._read(step, step.point, wants, seen=seen)
            if seen is Eye.CLIPPED:
                clean = [one for one in self.readings if one.step == step.key and one.seen is Eye.CLEAN]
                if clean:
                    break
                number -= 1
                continue
            number += 1
        ladder = self._state_of(step).ladder
        if ladder and ladder.offers:
            self._say(step, basis=ladder.offers[0].basis, volume=ladder.offers[0].volume)

    def _set_gain(self, step: Step) -> None:
        """Up until the target shows; where it clips first, back until it is clean."""
        if step.target is None or step.wants is None or step.path is None:
            return
        self._at_terminals(step)
        wanted = step.target.value

        def low(knob: float) -> bool:
            self._turn(gain=knob)
            return self._shown() < wanted

        knob = _halved(low)
        self._turn(gain=knob)
        clipped_first = self._eye() is Eye.CLIPPED
        # What clips with the gain fully down as well clips before the amplifier: no gain mends that.
        before = clipped_first and not self._is_clean(0.0)
        if before:
            self.before.add(step.path)
        elif clipped_first:
            knob = _halved(self._is_clean)
        self._turn(gain=knob)
        self.gains[step.path] = knob
        self._read(step, step.point, step.wants)
        state = self._state_of(step)
        if state.state is not State.DONE:
            self._say(step, outcome=Outcome.CLIPPED_FIRST if clipped_first else Outcome.AT_STOP)

    def _is_clean(self, knob: float) -> bool:
        self._turn(gain=knob)
        return self._eye() is Eye.CLEAN

    def _look(self, step: Step) -> None:
        if step.wants is None or step.path is None:
            return
        self._at_terminals(step)
        self._turn(gain=self.gains.get(step.path, 0.0))
        self._read(step, step.point, step.wants)
        if self._state_of(step).state is not State.DONE:
            self._say(step, skipped=True, note="the channels differ")

    def _set_corner(self, step: Step) -> None:
        path = self._path(step.path)
        place = next((one for one, _ in enumerate(path.filters) if corner_key(path.id, one) == step.key), None)
        if step.wants is None or place is None:
            return
        filters = dials_of(path)
        own = filters.index(path.filters[place])
        self._at_terminals(step)
        dials = self.dials.setdefault(path.id, [None] * len(filters))
        dials[own] = None
        self._turn(gain=self.gains.get(path.id, 0.0), dials=tuple(dials))
        opened, now = (next(one for one in step.rows if one.key == key) for key in (OPEN, NOW))
        self._read(step, opened.point, opened.wants, row=opened)
        target = next(one for one in self._step(step.key).rows if one.key == now.key).target
        if target is None:
            return

        def below_its_corner(turned: float) -> bool:
            dials[own] = turned
            self._turn(dials=tuple(dials))
            # A high-pass leaves less the further up it is, a low-pass more.
            high_pass = filters[own].crossover.kind is Pass.HIGH
            return (self._shown() > target.value) is high_pass

        dials[own] = _halved(below_its_corner)
        self._turn(dials=tuple(dials))
        self._read(step, now.point, now.wants, row=now)
        self._leave_what_missed(step)

    def _read_rows(self, step: Step) -> None:
        if step.path is not None:
            path = self._path(step.path)
            self._at_terminals(step)
            self._turn(gain=self.gains.get(path.id, 0.0), dials=tuple(self.dials.get(path.id, ())))
        elif step.along is not None:
            self._turn(path=step.along)
        for row in step.rows:
            if row.quantity not in (Quantity.AC_VOLTS, Quantity.DC_VOLTS) or (
                row.quantity is Quantity.DC_VOLTS and not isinstance(row.point, SupplyPoint)
            ):
                # Nothing on this bench has ohms between two wires, or falls asleep.
                continue
            self._turn(probe=probe_at(row.point))
            if row.wants.tone is not None:
                self._turn(tone=row.wants.tone)
            if row.wants.volume is not None:
                self._turn(volume=row.wants.volume)
            self._read(step, row.point, row.wants, row=row)
        self._leave_what_missed(step)

    def _leave_what_missed(self, step: Step) -> None:
        state = self._state_of(step)
        if state.state is State.DONE:
            return
        for one in state.rows:
            if one.reading is not None and one.comparison is not None:
                self._say(step, item=one.row, answer=Answer.LEFT, note="as near as it comes")

    def _at_terminals(self, step: Step) -> None:
        wants = step.wants or Circumstances()
        probe = probe_at(step.point) if step.point else Probe.LEFT
        self._turn(path=step.path, probe=probe, tone=wants.tone, volume=wants.volume, dials=())

    def _turn(self, **knobs: object) -> None:
        said = {name: value for name, value in knobs.items() if value is not None}
        self.state = BenchState.model_validate(self.state.model_dump() | said)

    def _shown(self) -> float:
        self._at += 1
        return self.meter.read().value_v

    def _eye(self) -> Eye:
        """What the scope's picture is judged to be; nothing without one."""
        if not self.scope:
            return Eye.UNSEEN
        self._at += 1
        rate, volts = scope_trace(bench_for(self.sheet, self.seed, self.state), self.state, self._at)
        verdict = judge(Trace(volts=volts, rate_hz=rate), self.state.tone.frequency_hz).report.verdict
        return Eye.CLEAN if verdict is Verdict.CLEAN else Eye.CLIPPED

    def _read(
        self, step: Step, point: Point | None, wants: Circumstances, *, row: Row | None = None, seen: Eye = Eye.UNSEEN
    ) -> None:
        if point is None:
            return
        self._at += 1
        sample = self.meter.read()
        told = {"volume": self.state.volume, "tone": sample.tone, "row": row.key if row else None}
        self.readings.append(
            Reading(
                id=uuid5(_NAMES, str(next(self._count))),
                step=step.key,
                quantity=row.quantity if row else Quantity.AC_VOLTS,
                value=max(sample.value_v, 1e-5),
                instrument=self.meter.profile.id,
                circumstances=wants.model_copy(update=told),
                seen=seen,
                builds_on=step.builds_on,
                sheet_version=1,
                taken_at=_BEGAN + timedelta(seconds=self._at),
                point=point,
                uncertainty=sample.uncertainty_v,
                arrival=next(self._count),
            )
        )

    def _say(self, step: Step, **said: object) -> None:
        fields = {
            "id": uuid5(_NAMES, str(next(self._count))),
            "step": step.key,
            "sheet_version": 1,
            "taken_at": _BEGAN,
            "arrival": next(self._count),
        }
        self.marks.append(Mark.model_validate(fields | said))

    def _step(self, key: str) -> Step:
        return next(one for one in self.run().steps if one.key == key)

    def _state_of(self, step: Step) -> StepState:
        return next(one for one in self.run().states if one.step == step.key)

    def _path(self, path_id: str | None) -> Path:
        return next(one for one in self.sheet.chain.paths if one.id == path_id)

    def held_against_the_truth(self, run: Run) -> Simulation:
        """What was set against what is really so."""
        states = {one.step: one for one in run.states}
        paths, corners = [], []
        for step in run.steps:
            if step.kind is StepKind.GAIN and step.path is not None and step.target is not None:
                paths.append(self._set(step, states[step.key]))
            if step.kind is StepKind.CORNER and step.path is not None:
                corners.append(self._corner(step, states[step.key]))
        return Simulation(
            seed=self.seed,
            scope=self.scope,
            complete=run.complete,
            paths=tuple(paths),
            corners=tuple(one for one in corners if one is not None),
            numbers=tuple(self._numbers(run)),
            open=tuple(
                f"{step.title}: {states[step.key].sentence}"
                for step in run.steps
                if states[step.key].state is State.OPEN and not step.optional
            ),
        )

    def _set(self, step: Step, state: StepState) -> SetPath:
        path, target = self._path(step.path), step.target
        wanted = target.value if target else 0.0
        self._at_terminals(step)
        self._turn(gain=self.gains.get(path.id, 0.0))
        really = _rms(self._wave())
        # At the number handed over, with the speakers off and the engine running.
        source = next((one for one in self.run().plan.sources if one.source == path.source), None)
        self._turn(volume=source.volume if source and source.volume else self.state.volume)
        return SetPath(
            path=path.id,
            name=path.name or "Speakers",
            wanted_v=wanted,
            set_v=really,
            off_db=ratio_db(really, wanted) if really > 0 else -120.0,
            settled=_settled(state),
            clips_before=path.id in self.before,
            clips=_is_flat(self._wave()),
        )

    def _corner(self, step: Step, state: StepState) -> SetCorner | None:
        path = self._path(step.path)
        place = next(one for one, _ in enumerate(path.filters) if corner_key(path.id, one) == step.key)
        own = dials_of(path).index(path.filters[place])
        turned = self.dials.get(path.id, [None] * (own + 1))[own]
        if turned is None:
            return None
        self._turn(path=path.id)
        model = bench_for(self.sheet, self.seed, self.state)
        wanted, really = path.filters[place].crossover.corner_hz, model.filters[own].corner_hz(turned)
        return SetCorner(
            path=path.id,
            name=step.name,
            wanted_hz=wanted,
            set_hz=really,
            off_percent=100 * (really / wanted - 1),
            settled=" ".join(one.left for one in state.rows if one.left),
        )

    def _numbers(self, run: Run) -> list[Handed]:
        found = []
        for source in run.plan.sources:
            path = next((one for one in self.sheet.chain.paths if one.source == source.source), None)
            ladder = next(
                (one for one in run.steps if one.kind is StepKind.LADDER and path and one.along == path.id), None
            )
            if path is None or ladder is None or source.volume is None or ladder.wants is None:
                continue
            self._turn(path=path.id, probe=Probe.SOURCE, tone=ladder.wants.tone)
            clean = 0
            for number in range(1, (ladder.top_volume or 0) + 1):
                self._turn(volume=number)
                clean = clean if _is_flat(self._wave()) else number
            found.append(Handed(source=source.source, volume=source.volume, last_clean=clean))
        return found

    def _wave(self) -> NDArray[np.float64]:
        return bench_for(self.sheet, self.seed, self.state).cycle(self.state)


def _settled(state: StepState) -> str:
    if state.outcome is not None:
        return state.outcome.value
    return "" if state.state is State.DONE else "open"


def _halved(is_below: Callable[[float], bool]) -> float:
    """The highest position of a knob that is still below, by halving."""
    low, high = 0.0, 1.0
    if is_below(high):
        return high
    for _ in range(_TURNS):
        middle = (low + high) / 2
        if is_below(middle):
            low = middle
        else:
            high = middle
    return low


def _rms(wave: NDArray[np.float64]) -> float:
    return float(np.sqrt(np.mean(wave**2)))


def _is_flat(wave: NDArray[np.float64]) -> bool:
    height = np.abs(wave)
    return bool(np.mean(height > 0.9999 * height.max()) > _FLAT) if height.max() > 0 else False
