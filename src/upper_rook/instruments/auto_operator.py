"""
A careful person at the simulated bench, compared with what is really on it.

Works a run step by step as it is asked for, by the same steps and the same judge as anybody.
"""

import itertools
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from uuid import UUID, uuid5

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import ratio_db
from upper_rook.core.judge.wave import judge
from upper_rook.core.judge.wave_report import Verdict
from upper_rook.core.run.readings.circumstances import Circumstances
from upper_rook.core.run.readings.points import Point, SupplyPoint
from upper_rook.core.run.readings.records import Answer, Eye, Mark, Outcome, Quantity, Reading
from upper_rook.core.run.readings.step_keys import corner_key, plug_key
from upper_rook.core.run.result.progress import Run, run_of
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.corner import NOW, OPEN
from upper_rook.core.run.steps.diagnostics import clips_by_half
from upper_rook.core.run.steps.extra_readings import CLIPS, HALF, KNOB
from upper_rook.core.run.steps.step import Row, State, Step, StepKind, StepState
from upper_rook.core.signal.filters import Pass
from upper_rook.core.signal.trace import Trace
from upper_rook.core.stages.knob import KNOB_HALF_HOURS
from upper_rook.core.system.choices import Meter as MeterChoice
from upper_rook.core.system.clean_maximum import Basis
from upper_rook.core.system.job_sheet import JobSheet, Subject
from upper_rook.core.system.path import Path
from upper_rook.core.system.processor import ProcessorKind
from upper_rook.instruments.ears import Ears
from upper_rook.instruments.halving import halved
from upper_rook.instruments.mistakes import Mistakes
from upper_rook.instruments.simulated import (
    BenchState,
    Fault,
    Probe,
    SimulatedMeter,
    bench_for,
    dials_of,
    probe_at,
    scope_trace,
    starting_state,
)
from upper_rook.instruments.trims import with_trim
from upper_rook.instruments.wires import shown, wires_of

_BEGAN = datetime(2026, 1, 1, tzinfo=UTC)
_NAMES = UUID(int=0)
_DISTORTED = (Verdict.EDGE, Verdict.CLIPPED, Verdict.SQUARE, Verdict.DISTORTED)
_LOOKS, _HAIR = 3, 0.003


class AutoOperator:
    """Knows of the bench what its meter and its scope show, and nothing else."""

    def __init__(
        self,
        sheet: JobSheet,
        seed: int,
        *,
        scope: bool,
        faults: tuple[Fault, ...] = (),
        meter: str = "simulated",
        mistakes: bool = False,
    ) -> None:
        self.sheet, self.seed, self.scope = sheet, seed, scope
        self.mistakes = Mistakes(seed, made=mistakes)
        self.ears = Ears(seed) if sheet.choices.meter is MeterChoice.EAR else None
        self.state = starting_state(sheet).model_copy(update={"faults": faults})
        self.readings: list[Reading] = []
        self.marks: list[Mark] = []
        self.gains: dict[str, float] = {}
        self.dials: dict[str, list[float | None]] = {}
        self.before: set[str] = set()
        """Paths on which something before the amplifier clips."""
        self._count = itertools.count(1)
        self._at = 0
        self._known: tuple[int, Run] | None = None
        self._called = meter
        self._take_up_instruments()

    def _take_up_instruments(self) -> None:
        """Meter and scope at the bench as the sheet is: what the meter promises nothing for is read on the scope."""
        self.meter, self._on_scope = (
            SimulatedMeter(self.sheet, self.seed, lambda: self.state, lambda: float(self._at), meter=text)
            for text in (self._called, "scope")
        )

    def run(self) -> Run:
        """The run as it is."""
        known = len(self.readings) + len(self.marks)
        if self._known is None or self._known[0] != known:
            self._known = known, run_of(self.snapshot())
        return self._known[1]

    def snapshot(self) -> JobSnapshot:
        """The job as it is."""
        return JobSnapshot(self.sheet, tuple(self.readings), tuple(self.marks), lambda _version: self.sheet)

    def work(self) -> Run:
        """Does what is to be done, step by step, each once."""
        run, tried = self.run(), set[str]()
        if not run.plan.paths and self.sheet.subject is Subject.SYSTEM:
            raise BadInput("Nothing of this system can be planned yet: fill in what its paths lack.", "chain")
        for step in run.steps:
            # Nothing on this bench can be heard.
            if step.optional and step.kind is not StepKind.BLEND:
                self._do(step)
        while True:
            ready = [redo.step for redo in run.redo if redo.step not in tried and redo.waits_for in (None, *tried)]
            if not ready:
                return run
            tried.add(ready[0])
            self._do(next(step for step in run.steps if step.key == ready[0]))
            run = self.run()

    def _do(self, step: Step) -> None:
        acts: dict[StepKind, Callable[[Step], None]] = {
            StepKind.CHECKLIST: self._answer,
            StepKind.VOLUME_STEPS: self._climb,
            StepKind.GAIN: self._set_gain,
            StepKind.MATCH: self._look,
            StepKind.CORNER: self._set_corner,
            StepKind.CONVERTER: self._trim,
        }
        acts.get(step.kind, self._read_rows)(step)

    def _answer(self, step: Step) -> None:
        for item in step.items:
            self._say(step, item=item.key, answer=Answer.DONE)

    def _agrees_with_its_sheet(self, step: Step) -> bool:
        """Whether one reading was enough."""
        volume_steps = self._state_of(step).volume_steps
        return volume_steps is not None and volume_steps.sheet is not None and volume_steps.sheet.agrees is True

    def _climb(self, step: Step) -> None:
        """Up number by number until it clips, or left out where it follows another; with a meter alone to the top."""
        before = self._state_of(step).volume_steps
        if before and before.offers and before.offers[0].basis is Basis.FOLLOWS:
            self._say(step, basis=Basis.FOLLOWS, volume=before.offers[0].volume)
            return
        wants, top = step.wants or Circumstances(), step.top_volume or 0
        probe = probe_at(step.point) if step.point else Probe.SOURCE
        self.turn(path=step.along, probe=probe, tone=wants.tone, way=wants.way)
        by_sheet = before is not None and before.sheet is not None
        number, late = wants.volume or top // 2, self.mistakes.stops_late()
        while 1 <= number <= top:
            self.turn(volume=number)
            seen = self._eye()
            if late and seen is Eye.CLIPPED:
                seen, late = Eye.CLEAN, False
            self._read(step, step.point, wants, seen=seen)
            if by_sheet and self._agrees_with_its_sheet(step):
                break
            if seen is Eye.CLIPPED:
                clean = [reading for reading in self.readings if reading.step == step.key and reading.seen is Eye.CLEAN]
                if clean:
                    break
                number -= 1
                continue
            number += 1
        volume_steps = self._state_of(step).volume_steps
        if volume_steps and volume_steps.offers:
            self._say(step, basis=volume_steps.offers[0].basis, volume=volume_steps.offers[0].volume)

    def _trim(self, step: Step) -> None:
        """A converter's output: up until its volts show, then everything that is asked for."""
        wanted = next((row.target.value for row in step.rows if row.target), None)
        if wanted is None or step.wants is None or step.along is None:
            return
        own, wants = step.along, step.wants
        self.turn(path=own, probe=Probe.CONVERTER, tone=wants.tone, volume=wants.volume, way=wants.way)

        def low(turned: float) -> bool:
            self.turn(trims={**self.state.trims, own: turned})
            return self._shown() < wanted

        self.turn(trims={**self.state.trims, own: halved(low)})
        self._read_rows(step)

    def _set_gain(self, step: Step) -> None:
        """Up until the target shows; where it clips first, back until it is clean."""
        if step.target is None or step.wants is None or step.path is None:
            return
        self.at_terminals(step)
        if step.by_ear:
            knob = self._last_clean_position()
            self.turn(gain=knob)
            self.gains[step.path] = knob
            self._read(step, step.point, step.wants, seen=self._eye())
            return
        wanted = step.target.value

        def low(knob: float) -> bool:
            self.turn(gain=knob)
            return self._shown() < wanted

        knob = halved(low)
        self.turn(gain=knob)
        clipped_first = not self._is_clean(knob)
        # What clips with the gain fully down as well clips before the amplifier, unless that is seen clean: no gain
        # corrects that.
        before = clipped_first and not self._is_clean(0.0) and not self._is_fed_clean(step)
        if before:
            self.before.add(step.path)
        elif clipped_first:
            knob = min(knob, self._last_clean_position())
        if not before:
            # Also where it clips just above the target: turned back it is in range, and its load takes more.
            self._read_where_it_clips(step)
        knob, seen = (knob, self._eye_at(knob)) if before else self._looked_at(knob)
        self.gains[step.path] = knob
        self._read(step, step.point, step.wants, seen=seen)
        if not self.scope:
            self._read_half(step)
        self._note_position(step, knob)
        state = self._state_of(step)
        if state.state is not State.DONE and state.turn_down_to_v is None:
            self._say(step, outcome=Outcome.CLIPPED_FIRST if clipped_first else Outcome.AT_STOP)
        self._turn_down_for_the_load(step)

    def _is_fed_clean(self, step: Step) -> bool:
        """Whether what reaches the amplifier is seen clean; False where nothing before it can be probed."""
        path = self.path(step.path)
        kinds = [processor.kind for processor in self.sheet.chain.processors_of(path)]
        if not self.scope or ProcessorKind.PROCESSOR in kinds:
            return False
        there = self.state.probe
        self.turn(probe=Probe.CONVERTER if kinds else Probe.SOURCE)
        clean = self._eye() is not Eye.CLIPPED
        self.turn(probe=there)
        return clean

    def _read_where_it_clips(self, step: Step) -> None:
        """With a scope: the gain further up to the last clean volts, where the step offers to keep them."""
        row = next((row for row in step.beside if row.key == CLIPS), None)
        if row is None or not self.scope or self._is_clean(1.0):
            return
        self.turn(gain=self._last_clean_position())
        self._read(step, row.point, row.wants, row=row)

    def _eye_at(self, knob: float) -> Eye:
        self.turn(gain=knob)
        return self._eye()

    def _looked_at(self, knob: float) -> tuple[float, Eye]:
        """A knob's position and what is seen there; what looks clipped is turned back before it is saved."""
        seen = self._eye_at(knob)
        while seen is Eye.CLIPPED and knob > 0:
            knob = max(0.0, knob - _HAIR)
            seen = self._eye_at(knob)
        return knob, seen

    def _last_clean_position(self) -> float:
        """Where the wave stays clean: at the edge itself one look says so and the next one not."""
        knob = halved(self._is_clean)
        while knob > 0 and not all(self._is_clean(knob) for _ in range(_LOOKS)):
            knob = max(0.0, knob - _HAIR)
        return knob

    def _turn_down_for_the_load(self, step: Step) -> None:
        """Open terminals are clean further up than the speakers leave them: down to the volts that the step names."""
        to_v = self._state_of(step).turn_down_to_v
        if to_v is None or step.path is None or step.wants is None:
            return

        def low(knob: float) -> bool:
            self.turn(gain=knob)
            return self._shown() < to_v

        knob, seen = self._looked_at(halved(low))
        self.gains[step.path] = knob
        self._read(step, step.point, step.wants, seen=seen)
        self._note_position(step, knob)
        if self._state_of(step).turn_down_to_v is not None:
            self._say(step, outcome=Outcome.AT_STOP)

    def _note_position(self, step: Step, knob: float) -> None:
        """Position of the knob, as well as a person reads a knob without a scale: to half an hour of a clock."""
        if step.point is None:
            return
        seen = round(knob * KNOB_HALF_HOURS) / KNOB_HALF_HOURS
        told = Circumstances(volume=self.state.volume, row=KNOB)
        self._keep(step, step.point, told, quantity=Quantity.POSITION, value=seen)

    def _read_half(self, step: Step) -> None:
        """The tone 6 dB lower, for those who can't see the wave."""
        full = self.state.tone
        self.turn(tone=full.model_copy(update={"level_dbfs": full.level_dbfs - 6}))
        wants = step.wants or Circumstances()
        if step.point is not None:
            half = Row(key=HALF, name="", point=step.point, wants=wants)
            self._read(step, step.point, wants, row=half)
        self.turn(tone=full)

    def _is_clean(self, knob: float) -> bool:
        """By the scope's picture; with a meter alone by what a tone 6 dB lower gives."""
        self.turn(gain=knob)
        if self.scope or self.ears:
            return self._eye() is not Eye.CLIPPED
        full, tone = self._shown(), self.state.tone
        self.turn(tone=tone.model_copy(update={"level_dbfs": tone.level_dbfs - 6}))
        half = self._shown()
        self.turn(tone=tone)
        return half <= 0 or not clips_by_half(ratio_db(full, half))

    def _look(self, step: Step) -> None:
        if step.wants is None or step.path is None:
            return
        self.at_terminals(step)
        self.turn(gain=self.gains.get(step.path, 0.0))
        self._read(step, step.point, step.wants)
        if self._state_of(step).state is not State.DONE:
            self._say(step, skipped=True, note="the channels differ")

    def _set_corner(self, step: Step) -> None:
        path = self.path(step.path)
        place = next((number for number, _ in enumerate(path.filters) if corner_key(path.id, number) == step.key), None)
        if step.wants is None or place is None:
            return
        filters = dials_of(path)
        own = filters.index(path.filters[place])
        self.at_terminals(step)
        dials = self.dials.setdefault(path.id, [None] * len(filters))
        dials[own] = None
        self.turn(gain=self.gains.get(path.id, 0.0), dials=tuple(dials))
        opened, now = (next(row for row in step.rows if row.key == key) for key in (OPEN, NOW))
        self._read(step, opened.point, opened.wants, row=opened)
        target = next(row for row in self._step(step.key).rows if row.key == now.key).target
        if target is None:
            return

        def below_its_corner(turned: float) -> bool:
            dials[own] = turned
            self.turn(dials=tuple(dials))
            # A high-pass leaves less the further up it is, a low-pass more.
            high_pass = filters[own].crossover.kind is Pass.HIGH
            return (self._shown() > target.value) is high_pass

        dials[own] = halved(below_its_corner)
        self.turn(dials=tuple(dials))
        self._read(step, now.point, now.wants, row=now)
        self._leave_what_missed(step)

    def _read_rows(self, step: Step) -> None:
        if step.path is not None:
            path = self.path(step.path)
            self.at_terminals(step)
            self.turn(gain=self.gains.get(path.id, 0.0), dials=tuple(self.dials.get(path.id, ())))
        elif step.along is not None:
            self.turn(path=step.along)
        if step.kind is StepKind.PLUG:
            self._hunt_wires(step)
            return
        for row in step.rows:
            if row.wants.trim_db is not None:
                self._try_trim(step, row)
                continue
            if row.quantity not in (Quantity.AC_VOLTS, Quantity.DC_VOLTS) or (
                row.quantity is Quantity.DC_VOLTS and not isinstance(row.point, SupplyPoint)
            ):
                # Nothing on this bench has ohms between two wires, or falls asleep.
                continue
            self.turn(probe=probe_at(row.point))
            self.turn(tone=row.wants.tone, volume=row.wants.volume, way=row.wants.way)
            self._read(step, row.point, row.wants, row=row)
        self._leave_what_missed(step)

    def _hunt_wires(self, step: Step) -> None:
        """Every reading that is asked for of a plug's wires, and those that say what a turn-on lead can do."""
        plugs = ((source, plug) for source in self.sheet.chain.sources for plug in source.plugs)
        plug = next(plug for source, plug in plugs if plug_key(source.id, plug.id) == step.key)
        on_bench = {wire_on_bench.wire.id: wire_on_bench for wire_on_bench in wires_of(plug, self.seed)}
        for row in step.rows:
            wire, _, measure = row.key.rpartition("-")
            value = shown(on_bench[wire], measure)
            so = row.wants.model_copy(update={"row": row.key})
            self._keep(step, row.point, so, quantity=row.quantity, value=value)

    def _try_trim(self, step: Step, row: Row) -> None:
        """A level trim at another value: up number by number to its own clean maximum; with a scope alone."""
        if not self.scope or row.wants.way is None:
            return
        as_it_was, trim_db = self.sheet, row.wants.trim_db
        self.sheet = with_trim(as_it_was, step.along, row.wants.way, trim_db or 0.0)
        self._take_up_instruments()
        self.turn(path=step.along, probe=probe_at(row.point), tone=row.wants.tone, way=row.wants.way)
        number, top = (step.top_volume or 2) // 2, step.top_volume or 0
        self.turn(volume=number)
        while number < top and self._eye() is not Eye.CLIPPED:
            number += 1
            self.turn(volume=number)
        if self._eye() is Eye.CLIPPED:
            self.turn(volume=number - 1)
        self._read(step, row.point, row.wants, row=row)
        self.sheet = as_it_was
        self._take_up_instruments()

    def _leave_what_missed(self, step: Step) -> None:
        state = self._state_of(step)
        if state.state is State.DONE:
            return
        for row in state.rows:
            if row.reading is not None and row.comparison is not None:
                self._say(step, item=row.row, answer=Answer.LEFT, note="as near as it comes")

    def at_terminals(self, step: Step) -> None:
        """Brings a step's amplifier onto the bench, its filters out, with the probe where the step wants it."""
        wants = step.wants or Circumstances()
        probe = probe_at(step.point) if step.point else Probe.LEFT
        self.turn(path=step.path, probe=probe, tone=wants.tone, volume=wants.volume, way=wants.way, dials=())

    def turn(self, **knobs: object) -> None:
        """Turns what is named on the bench; what is None stays as it is."""
        said = {name: value for name, value in knobs.items() if value is not None}
        self.state = BenchState.model_validate(self.state.model_dump() | said)

    def _shown(self) -> float:
        self._at += 1
        return self._instrument().read().value_v

    def _instrument(self) -> SimulatedMeter:
        """The meter, or the scope's RMS figure at a tone that the meter isn't made for."""
        promised = self.meter.profile.promise(self.state.tone.frequency_hz) is not None
        return self.meter if promised or not self.scope else self._on_scope

    def _eye(self) -> Eye:
        """Verdict of a person on the scope's picture, or by ear; unseen without either, or where it shows no tone."""
        if self.ears:
            return Eye.CLIPPED if self.ears.is_harsh(self.wave()) else Eye.CLEAN
        if not self.scope:
            return Eye.UNSEEN
        self._at += 1
        rate, volts = scope_trace(bench_for(self.sheet, self.seed, self.state), self.state, self._at)
        verdict = judge(Trace(volts=volts, rate_hz=rate), self.state.tone.frequency_hz).report.verdict
        if verdict in _DISTORTED:
            return Eye.CLIPPED
        return Eye.CLEAN if verdict is Verdict.CLEAN else Eye.UNSEEN

    def _read(
        self, step: Step, point: Point | None, wants: Circumstances, *, row: Row | None = None, seen: Eye = Eye.UNSEEN
    ) -> None:
        if point is None:
            return
        self._at += 1
        if step.by_ear and row is None:
            so = wants.model_copy(update={"volume": self.state.volume, "tone": self.state.tone})
            self._keep(step, point, so, quantity=Quantity.VERDICT, value=0.0, seen=seen)
            return
        sample = self._instrument().read()
        told = {"volume": self.state.volume, "tone": sample.tone, "row": row.key if row else None}
        so = wants.model_copy(update=told)
        quantity = row.quantity if row else Quantity.AC_VOLTS
        value, doubt = max(self.mistakes.read(sample.value_v), 1e-5), sample.uncertainty_v
        self._keep(step, point, so, quantity=quantity, value=value, uncertainty=doubt, seen=seen)

    def _keep(
        self,
        step: Step,
        point: Point,
        so: Circumstances,
        *,
        quantity: Quantity,
        value: float,
        uncertainty: float | None = None,
        seen: Eye = Eye.UNSEEN,
    ) -> None:
        self.readings.append(
            Reading(
                id=uuid5(_NAMES, str(next(self._count))),
                step=step.key,
                quantity=quantity,
                value=value,
                instrument=self._instrument().profile.id,
                circumstances=so,
                seen=seen,
                builds_on=step.builds_on,
                sheet_version=1,
                taken_at=_BEGAN + timedelta(seconds=self._at),
                point=point,
                uncertainty=uncertainty,
                arrival=next(self._count),
            )
        )

    def _say(self, step: Step, **said: object) -> None:
        self.keep_mark(step.key, **said)

    def keep_mark(self, step: str, **said: object) -> None:
        """Says something about a step, by its key."""
        fields = {
            "id": uuid5(_NAMES, str(next(self._count))),
            "step": step,
            "sheet_version": 1,
            "taken_at": _BEGAN,
            "arrival": next(self._count),
        }
        self.marks.append(Mark.model_validate(fields | said))

    def _step(self, key: str) -> Step:
        return next(step for step in self.run().steps if step.key == key)

    def _state_of(self, step: Step) -> StepState:
        return next(state for state in self.run().states if state.step == step.key)

    def path(self, path_id: str | None) -> Path:
        """A path of the sheet."""
        return next(path for path in self.sheet.chain.paths if path.id == path_id)

    def wave(self) -> NDArray[np.float64]:
        """Real signal at the probe."""
        return bench_for(self.sheet, self.seed, self.state).cycle(self.state)

    def is_clean(self) -> bool:
        """Whether everything before the probe really is clean."""
        return bench_for(self.sheet, self.seed, self.state).is_clean(self.state)
