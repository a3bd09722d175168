"""The proof: everything as it will be used, tones over the band of a path compared with what they should give."""

from collections.abc import Iterator

import numpy as np
from typing_extensions import override

from upper_rook.core.common.units import format_hertz, from_db
from upper_rook.core.metrology.comparison import Limits, Turn
from upper_rook.core.plan.figures import Figures
from upper_rook.core.plan.plan import PathPlan
from upper_rook.core.plan.target import Target
from upper_rook.core.run.freshness.dependencies import Dependencies, Dependency, DependencyKind
from upper_rook.core.run.readings.circumstances import Circumstances
from upper_rook.core.run.readings.points import TerminalsPoint
from upper_rook.core.run.readings.records import Reading, standing_volts
from upper_rook.core.run.readings.step_keys import corner_key, gain_key, prove_key
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import diagnostics, rows, volts
from upper_rook.core.run.steps.kind import PROOF, Place
from upper_rook.core.run.steps.step import Row, Step, StepKind, StepState
from upper_rook.core.signal.grid import GRID_HZ
from upper_rook.core.signal.tones import Tone
from upper_rook.core.stages.levels import FLAT_DB
from upper_rook.core.stages.shape import meter_edges_hz, octaves_apart
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.path import Path

_WITHIN_DB = 1.5
"""Dials are off by some per cent, and a slope makes decibels of that (common practice, no source)."""
_DEEP_DB = -12.0
"""A tone further down than this says nothing."""
_MOST_TONES, _APART_OCTAVES = 5, 0.4
_TREBLE_HZ, _BASS_HZ = (4000.0, 12_000.0), (30.0,)
_AT_END = 1.06
"""A band that reaches this near to the end of what the meter promises reaches it."""


def _tones(figures: Figures, choices: Choices) -> list[float]:
    """
    Tones to play: where most comes out first, then the corners, then what spreads over the band.

    All within what the meter at hand promises.
    """
    shape = figures.levels.shape
    level = shape.in_use_db[: GRID_HZ.size] - figures.levels.highest_db
    low, high = meter_edges_hz(choices)
    heard = (level > _DEEP_DB) & (low <= GRID_HZ) & (high >= GRID_HZ)
    if not heard.any():
        return []
    band = GRID_HZ[heard]
    corners = [channel_filter.crossover.corner_hz for channel_filter in figures.path.working]
    most = float(level[heard].max())
    tone = figures.gain_tone.tone.frequency_hz
    at_tone = float(np.interp(np.log(tone), np.log(GRID_HZ), level))
    # The tone of the gain is as good as the top of a plateau.
    highest = tone if at_tone >= most - FLAT_DB and low <= tone <= high else float(band[np.argmax(level[heard])])
    first = low if band[0] < low * _AT_END else float(band[0])
    last = high if band[-1] > high / _AT_END else float(band[-1])
    spread = np.geomspace(first, last, _MOST_TONES).tolist()
    wanted = [
        highest if highest == tone else float(f"{highest:.3g}"),
        *corners,
        *(float(f"{hertz:.2g}") for hertz in spread),
    ]
    found: list[float] = []
    for hertz in wanted:
        inside = first / 1.03 <= hertz <= last * 1.03 and low <= hertz <= high
        if inside and all(octaves_apart(np.array([hertz]), value)[0] > _APART_OCTAVES for value in found):
            found.append(float(hertz))
    return found[:_MOST_TONES]


def _beyond(figures: Figures, choices: Choices) -> list[float]:
    """Tones of the band that lie outside what the meter at hand promises: treble above it, the lowest bass below."""
    shape = figures.levels.shape
    level = shape.in_use_db[: GRID_HZ.size] - figures.levels.highest_db
    low, high = meter_edges_hz(choices)
    heard = GRID_HZ[level > _DEEP_DB]
    if not heard.size:
        return []
    above = [hertz for hertz in _TREBLE_HZ if high * 2**_APART_OCTAVES < hertz <= heard[-1]]
    below = [hertz for hertz in _BASS_HZ if heard[0] <= hertz < low / 2**_APART_OCTAVES]
    return below + above


def _set_v(snapshot: JobSnapshot, plan: PathPlan) -> float:
    """The volts that the gain was left at; what is wanted while it wasn't set."""
    reading = _gain_reading(snapshot, plan.path)
    return reading.value if reading else plan.target.value


def _gain_reading(snapshot: JobSnapshot, path_id: str) -> Reading | None:
    """The reading that a path's gain stands by: today's, or the one that was built on then."""
    key = gain_key(path_id)
    if snapshot.under is not None:
        named = (reading for reading in snapshot.readings if reading.step == key and reading.id in snapshot.under)
        return next((reading for reading in named if reading.circumstances.row is None), None)
    return next(reversed(standing_volts(snapshot.readings, key)), None)


def _rows(snapshot: JobSnapshot, path: Path, plan: PathPlan, figures: Figures) -> Iterator[Row]:
    shape, at_gain = figures.levels.shape, figures.gain_tone.tone
    opened_db = float(shape.opened_db[shape.place(at_gain.frequency_hz)])
    set_v = _set_v(snapshot, plan)
    point = TerminalsPoint(path=path.id, terminals=volts.terminals_of(snapshot, path))
    choices = snapshot.sheet.choices_of(path)
    beyond, way = _beyond(figures, choices), volts.gain_way(snapshot, path)
    for hertz in (*_tones(figures, choices), *beyond):
        tone = Tone(frequency_hz=hertz, level_dbfs=at_gain.level_dbfs)
        away_db = float(np.interp(np.log(hertz), np.log(GRID_HZ), shape.in_use_db[: GRID_HZ.size])) - opened_db
        wanted = set_v * from_db(away_db)
        wants = Circumstances(tone=tone, volume=volts.gain_volume(snapshot, path), way=way)
        yield Row(
            key=f"at-{hertz:g}".replace(".", "-"),
            name=format_hertz(hertz),
            point=point,
            wants=wants,
            play=wants.play,
            target=Target(
                value=wanted,
                unit="V",
                limits=Limits(low=wanted * from_db(-_WITHIN_DB), high=wanted * from_db(_WITHIN_DB)),
                method="Response",
                turn=Turn(below="less than the filters should pass", above="more than the filters should pass"),
                because=(f"{away_db:+.1f} dB against the gain’s tone".replace("-", "−"),),
                not_confirmed=plan.target.not_confirmed,
            ),
            # Past what its data sheet promises a meter still tells a boost from none.
            optional=hertz in beyond,
        )


def _plan_of(snapshot: JobSnapshot, step: Step) -> PathPlan | None:
    return next((plan for plan in snapshot.plan.paths if plan.path == step.path), None)


class Proofs(rows.RowsKind):
    kind = StepKind.PROVE

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        for number, path, plan in volts.planned(snapshot):
            figures = snapshot.figures(path.id)
            if figures is None:
                continue
            found = tuple(_rows(snapshot, path, plan, figures))
            if not found:
                continue
            source, gain = snapshot.sheet.chain.source_of(path), _gain_reading(snapshot, path.id)
            yield (
                (PROOF, number),
                Step(
                    key=prove_key(path.id),
                    kind=StepKind.PROVE,
                    path=path.id,
                    along=path.id,
                    name=f"Prove {plan.name}",
                    title=f"Prove it: {plan.name}",
                    do=(
                        "Set equaliser, filters and tone controls as the customer will use them. Speakers still off.",
                        "Play each tone and save the volts. The first tone is the loudest.",
                    ),
                    probe=volts.probe_of(snapshot, path),
                    point=TerminalsPoint(path=path.id, terminals=volts.terminals_of(snapshot, path)),
                    wants=found[0].wants,
                    top_volume=source.top_volume,
                    play=found[0].play,
                    rows=found,
                    cautions=snapshot.plan.cautions_of(path.id),
                    builds_on=(*volts.builds_on(snapshot, path), *((gain.id,) if gain else ())),
                    after=(
                        gain_key(path.id),
                        *(corner_key(path.id, place) for place, _ in enumerate(path.filters)),
                    ),
                    needs=volts.needs(snapshot, path),
                    optional=all(row.optional for row in found),
                ),
            )

    @override
    def rests_on(self, snapshot: JobSnapshot, step: Step) -> Dependencies:
        plan = _plan_of(snapshot, step)
        if plan is None:
            return ()
        return (
            *volts.rests_on(snapshot, plan.path),
            Dependency(
                place="set", label="volts its gain was set to", value=_set_v(snapshot, plan), kind=DependencyKind.VOLTS
            ),
        )

    @override
    def counts(self, then: JobSnapshot, step: Step) -> bool:
        return not volts.is_too_early(then, step.path or "")

    @override
    def meaning(self, snapshot: JobSnapshot, step: Step, row: Row, reading: Reading) -> tuple[str, ...]:
        plan = _plan_of(snapshot, step)
        if plan is None or row.target is None:
            return ()
        limit_v = volts.proof_limit_v(snapshot, plan.path, plan.target)
        return diagnostics.of_tone(reading.value, row.target, over=volts.is_over(reading, limit_v))

    @override
    def left(self, snapshot: JobSnapshot, step: Step, state: StepState) -> str:
        return ""
