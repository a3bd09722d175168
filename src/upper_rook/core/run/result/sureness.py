"""
How sure one is that nothing clips at the number never to pass.

Every place that could clip is a margin with a doubt; all of them are drawn together (JCGM 101, Monte Carlo).
The figure is how often none of them clips past 1 % of distortion, where a rating ends. The overlap kept on purpose
past full scale is left out: that is chosen, not doubted. The widths are common practice, no source.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import Frozen, format_db, ratio_db
from upper_rook.core.plan.figures import Figures
from upper_rook.core.run.readings.records import Evidence, Eye, Reading, last_verdict, standing_volts
from upper_rook.core.run.readings.step_keys import gain_key
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.snapshot.safe_volume import safe_volume
from upper_rook.core.run.steps.with_load import clips_at_v, clips_with_resistors_v
from upper_rook.core.signal.clipped_sine import EDGE_DB
from upper_rook.core.stages.levels import StageLevel
from upper_rook.core.system.amplifier import Mode
from upper_rook.core.system.clean_maxima import PointCleanMaximum
from upper_rook.core.system.clean_maximum import Basis
from upper_rook.core.system.job_sheet import Subject
from upper_rook.core.system.source import Source

Array = NDArray[np.float64]
_DRAWS, _SEED = 10_000, 20_000
_UNSEEN_DB = {
    Evidence.CAPTURE: 0.05,
    Evidence.SECOND_METER: 0.2,
    Evidence.EYE: 0.25,
    Evidence.LAMP: 0.3,
    Evidence.EAR: 0.8,
}
"""How far a wave may clip before it is reported, as a standard deviation."""
_STEP_DB = 1.0
"""A volume number."""
_BENDS = (0.72, 0.92)
"""Where on the scale a source bends that nobody has looked at."""
_RESERVE_DB, _RESERVE_SPREAD_DB = 0.4, 0.4
"""Power beyond the rating of amplifiers, and volts beyond that of processors: mostly more, sometimes less."""
_LOADED_SPREAD_DB = 0.2
"""How well two ratings tell what a load takes from the rails, as a standard deviation."""
_BY_VOLTS_DB = 0.2
"""How well a bend is judged by volts alone, as a standard deviation."""
_NOT_MEASURED_DB = 1.0
_AT_MAXIMUM_DB = 0.3
_LIKELY_DB = 2.0
"""Rated volts of a source hold to so much, as a standard deviation."""
_UNITS_DB = 0.3
"""How far apart two units of a source bend whose volts agree, as a standard deviation."""


class Weak(Frozen):
    """A place that could clip."""

    where: str
    margin_db: float
    """Half of the draws lie above it."""
    chance_percent: float
    """How often it clips."""
    surer: str


class Sureness(Frozen):
    """How sure one is that nothing clips at the number handed over."""

    percent: float
    sentence: str
    places: tuple[Weak, ...]
    """The likeliest to clip first."""


@dataclass(frozen=True)
class _Place:
    where: str
    margins_db: Array
    surer: str


def sureness(snapshot: JobSnapshot, source: Source) -> Sureness | None:
    """For the number to hand over of a source; None while there is none."""
    found = safe_volume(snapshot, source)
    if found is None:
        return None
    dice = np.random.default_rng(_SEED)
    places = list(_places(snapshot, source, found.below_db, dice))
    if not places:
        return None
    clean = np.min([place.margins_db for place in places], axis=0) >= -EDGE_DB
    percent = 100 * float(np.mean(clean))
    rows = [_weak(place) for place in places]
    # Where hardly anything clips the nearest still is what a person wants to know.
    rows.sort(key=lambda weak: (-round(weak.chance_percent, 1), weak.margin_db))
    return Sureness(percent=percent, sentence=_sentence(percent, rows[0]), places=tuple(rows))


def _weak(place: _Place) -> Weak:
    return Weak(
        where=place.where,
        margin_db=float(np.median(place.margins_db)),
        chance_percent=100 * float(np.mean(place.margins_db < -EDGE_DB)),
        surer=place.surer,
    )


def _sentence(percent: float, nearest: Weak) -> str:
    shown = "more than 99 %" if percent > 99 else "less than 1 %" if percent < 1 else f"{percent:.0f} %"
    side = f"{format_db(nearest.margin_db)}" if nearest.margin_db >= 0 else f"{format_db(-nearest.margin_db)} over"
    surer = f" To be surer, {nearest.surer}." if percent < 99 else ""
    return f"{shown} sure that nothing clips there. Least headroom: {nearest.where}, {side}.{surer}"


def _places(snapshot: JobSnapshot, source: Source, in_hand_db: float, dice: np.random.Generator) -> Iterator[_Place]:
    governing = snapshot.clean_maxima.governing(source.id)
    if governing is not None:
        margin_db, surer = _of_source(snapshot, source, governing, dice)
        yield _Place(source.name or "the source", margin_db + in_hand_db, surer)
    alone = snapshot.sheet.subject is Subject.SOURCE
    for path in (path for path in snapshot.sheet.chain.paths if path.source == source.id and not alone):
        figures = snapshot.figures(path.id)
        if figures is None:
            continue
        name = path.name or "a path"
        reading = next(reversed(standing_volts(snapshot.readings, gain_key(path.id))), None)
        heard = last_verdict(snapshot.readings, gain_key(path.id))
        seen = _seen_clean(reading or heard, dice)
        for stage in figures.levels.stages:
            margins = _of_stage(stage, dice)
            if margins is not None:
                where = f"{stage.processor.name or 'the processor'} for {name}"
                tone_db = stage.overdriven_db
                # What was seen clean at the tone was seen behind the processor too, as far as the tone asks most of it.
                margins = margins if seen is None or tone_db else np.maximum(margins, seen)
                yield _Place(where, margins + in_hand_db, f"look at the wave at {name}’s terminals with a scope")
        yield _Place(
            f"{name}’s amplifier",
            _of_amplifier(snapshot, figures, reading, seen, dice) + in_hand_db,
            f"look at the wave at {name}’s terminals with a scope"
            if heard or (reading and seen is None)
            else f"set {name}’s gain"
            if reading is None
            else f"measure {name} on a dummy load",
        )


def _of_source(
    snapshot: JobSnapshot, source: Source, governing: PointCleanMaximum, dice: np.random.Generator
) -> tuple[Array, str]:
    """How far below its own clipping the source is at its clean maximum, and what would tell more."""
    clean_maximum = governing.clean_maximum
    if clean_maximum.basis is Basis.GUESS:
        bends = dice.uniform(*_BENDS, _DRAWS) * source.top_volume
        return (bends - clean_maximum.volume) * _STEP_DB, "look at the source’s wave with a scope"
    if clean_maximum.basis is Basis.RATED:
        return dice.normal(0.0, _LIKELY_DB, _DRAWS), "look at the source’s wave with a scope"
    reading = next((reading for reading in snapshot.readings if reading.id in governing.records), None)
    if clean_maximum.basis is Basis.SHEET:
        # The other unit's last step, as far as this one is like it.
        doubt_db = ratio_db(1 + (clean_maximum.uncertainty_v or 0.0) / clean_maximum.voltage_v, 1.0) / 2
        spread_db = float(np.hypot(doubt_db, _UNITS_DB))
        margins = dice.uniform(0.0, _STEP_DB, _DRAWS) + dice.normal(0.0, spread_db, _DRAWS)
        return margins, "measure it number by number"
    # It bends somewhere in the step above the clean maximum.
    above = dice.uniform(0.0, _STEP_DB, _DRAWS)
    if clean_maximum.basis is Basis.JUDGED:
        return above + dice.normal(0.0, _BY_VOLTS_DB, _DRAWS), "look at the source’s wave with a scope"
    return above - _missed(reading, dice), "save a capture at the source’s clean maximum"


def _missed(reading: Reading | None, dice: np.random.Generator) -> Array:
    """How far a wave that was called clean may clip all the same."""
    told = (reading.evidence if reading else None) or Evidence.EYE
    return np.abs(dice.normal(0.0, _UNSEEN_DB.get(told, _UNSEEN_DB[Evidence.EYE]), _DRAWS))


def _seen_clean(reading: Reading | None, dice: np.random.Generator) -> Array | None:
    """The least margin behind a wave that was seen clean at the terminals."""
    return -_missed(reading, dice) if reading and reading.seen is Eye.CLEAN else None


def _of_stage(stage: StageLevel, dice: np.random.Generator) -> Array | None:
    if stage.output_v is None:
        return None
    planned_db = ratio_db(stage.processor.highest_output_v, stage.output_v) - stage.overdriven_db
    if stage.input_v is None:
        # Fed by numbers its full scale is its highest output: that is no matter of a rating.
        return np.full(_DRAWS, planned_db)
    return np.asarray(planned_db + dice.normal(_RESERVE_DB, _RESERVE_SPREAD_DB, _DRAWS))


def _of_amplifier(
    snapshot: JobSnapshot, figures: Figures, reading: Reading | None, seen: Array | None, dice: np.random.Generator
) -> Array:
    """How far below its rails an amplifier is, everything in use."""
    share = 2 if figures.path.mode is Mode.STRAPPED else 1
    wanted_v = figures.target_v / share
    set_v = reading.value if reading else wanted_v
    doubt_db = _NOT_MEASURED_DB
    if reading is not None:
        doubt_db = ratio_db(1 + (reading.uncertainty or 0.05 * set_v) / 2 / set_v, 1.0)
    key = gain_key(figures.path.id)
    loaded_v = clips_with_resistors_v(snapshot, key)
    if loaded_v is not None:
        below_db = ratio_db(loaded_v, set_v)
        return np.asarray(dice.uniform(0.0, _AT_MAXIMUM_DB, _DRAWS) + below_db - _missed(reading, dice))
    clips_at = clips_at_v(snapshot, key)
    if clips_at is not None:
        # Seen at open terminals; the load takes its part of that.
        below_db = ratio_db(clips_at, set_v) - figures.load_takes_db
        doubt = dice.normal(0.0, _LOADED_SPREAD_DB, _DRAWS) - _missed(reading, dice)
        return np.asarray(dice.uniform(0.0, _AT_MAXIMUM_DB, _DRAWS) + below_db + doubt)
    # Where more comes through than at the tone it is nearer to its rails than there.
    shape = figures.levels.shape
    at_tone = float(shape.opened_db[shape.place(figures.gain_tone.tone.frequency_hz)])
    past_db = max(0.0, figures.levels.highest_db - at_tone)
    # The rating holds under load; the tone level and numbers in hand are chosen.
    rated_db = ratio_db(figures.rated_v / share, set_v) - past_db
    reserve = dice.normal(_RESERVE_DB, _RESERVE_SPREAD_DB, _DRAWS) + dice.normal(0.0, doubt_db, _DRAWS)
    margins = rated_db + reserve
    return (
        margins
        if seen is None
        else np.maximum(margins, seen - dice.uniform(0.0, figures.load_takes_db, _DRAWS) - past_db)
    )
