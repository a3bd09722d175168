"""Figures of an amplifier that a run has measured: real watts, its gain's scale, its filters' dials."""

import math
from collections.abc import Collection, Iterator
from datetime import date

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import (
    LONGEST_NAME,
    Key,
    format_hertz,
    format_value,
    from_db,
    parse_quantity,
    ratio_db,
)
from upper_rook.core.parts.shop_part import FigureKind, PartFigure
from upper_rook.core.run.readings.circumstances import Hanging
from upper_rook.core.run.readings.records import Reading, standing, standing_volts
from upper_rook.core.run.readings.step_keys import KNOB_POSITIONS_KEY, corner_key, gain_key
from upper_rook.core.run.result.progress import Run
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.corner import found_corners
from upper_rook.core.run.steps.extra_readings import CLIPS, KNOB, LOADED, noted
from upper_rook.core.run.steps.step import State
from upper_rook.core.run.steps.with_load import clips_at_v, clips_with_resistors_v
from upper_rook.core.stages.knob import KNOB_HALF_HOURS, KnobState
from upper_rook.core.stages.ratings import channel_ratings, preferred, same_load
from upper_rook.core.system.path import Path


def amplifier_figures(snapshot: JobSnapshot, run: Run, amplifier: Key) -> tuple[PartFigure, ...]:
    """
    Every figure of an amplifier that readings tell, path by path; none before anything was measured.

    Readings of a step that is to redo tell nothing: they were taken of another load, tone or setting.
    """
    holds = {state.step for state in run.states if state.state is not State.OUTDATED}
    paths = [path for path in snapshot.sheet.chain.paths if path.amplifier == amplifier]
    return tuple(figure for path in paths for figure in _of_path(snapshot, path, holds))


def _of_path(snapshot: JobSnapshot, path: Path, holds: Collection[str]) -> Iterator[PartFigure]:
    if gain_key(path.id) in holds:
        yield from _watts(snapshot, path)
        yield from _gain(snapshot, path)
    yield from (figure for step, figure in _dials(snapshot, path) if step in holds)


def _watts(snapshot: JobSnapshot, path: Path) -> Iterator[PartFigure]:
    """Highest clean volts, only where somebody saw it clip: else nobody knows how far it goes."""
    figures, key = snapshot.figures(path.id), gain_key(path.id)
    last = _last_volts(snapshot, key)
    if figures is None or last is None:
        return
    ohms = figures.load.total_ohm
    for volts, row in ((clips_at_v(snapshot, key), CLIPS), (clips_with_resistors_v(snapshot, key), LOADED)):
        if volts is None:
            continue
        taken = noted(snapshot, key, row) or last
        loaded = row == LOADED or taken.circumstances.hanging is Hanging.DUMMY
        load_db = 0.0 if loaded else figures.load_takes_db
        watts = (volts * from_db(-load_db)) ** 2 / ohms
        off = taken.uncertainty / taken.value if taken.uncertainty else None
        # Nobody saw what the load takes: all of it is in doubt.
        of_load = from_db(2 * load_db) - 1
        yield PartFigure(
            kind=FigureKind.LOADED_WATTS if loaded else FigureKind.OPEN_WATTS,
            at=_load_words(path, ohms),
            stated=_stated_w(snapshot, path, ohms),
            measured=watts,
            doubt=math.hypot(2 * off, of_load) * watts if off is not None else None,
            **_taken(taken),
        )


def _load_words(path: Path, ohms: float) -> str:
    return f"into {format_value(ohms, 'Ω', 3)}{path.mode.words}"


def _stated_w(snapshot: JobSnapshot, path: Path, ohms: float) -> float | None:
    """The rating at this very load, as watts into it; None where the data sheet has none."""
    ratings = channel_ratings(snapshot.sheet.chain.amplifier_of(path))
    share = path.mode.amplifiers
    same = [rating for rating in ratings if same_load(rating.ohms, ohms / share)]
    return preferred(same, path.mode).watts * share if same else None


def _gain(snapshot: JobSnapshot, path: Path) -> Iterator[PartFigure]:
    """Volts for full output where the gain was left, and those that the scale says there."""
    figures, key = snapshot.figures(path.id), gain_key(path.id)
    knob, last = noted(snapshot, key, KNOB), _last_volts(snapshot, key)
    if figures is None or knob is None or last is None or last.value <= 0:
        return
    amplifier, printed = figures.amplifier, figures.knob.printed_v
    scale = amplifier.range_of(path.input)
    if scale is None or printed is None or figures.knob.state is KnobState.UNKNOWN or not 0 < knob.value < 1:
        return
    span = math.log(scale.down_v / scale.up_v)
    true_v = printed * figures.target_v / last.value
    of_volts = last.uncertainty / last.value if last.uncertainty else 0.0
    yield PartFigure(
        kind=FigureKind.GAIN_SCALE,
        at=f"where its scale says {format_value(_at(knob.value, scale.down_v, span), 'V', 2)}",
        stated=_at(knob.value, scale.down_v, span),
        measured=true_v,
        # A place is read to half of its half hour.
        doubt=true_v * math.hypot(span / KNOB_HALF_HOURS / 2, of_volts),
        **_taken(last),
    )


def _at(travel: float, down_v: float, span: float) -> float:
    return down_v * math.exp(-span * travel)


def _dials(snapshot: JobSnapshot, path: Path) -> Iterator[tuple[str, PartFigure]]:
    """Corners beside the hertz that somebody read off the dial, each with the step that measured it."""
    said = {mark.item: mark.note for mark in standing(snapshot.marks, KNOB_POSITIONS_KEY) if mark.answer is not None}
    for corner in found_corners(snapshot):
        if corner.path.id != path.id:
            continue
        shown = _hertz(said.get(f"dial.{path.id}.{corner.place}", ""))
        if shown is None:
            continue
        off = corner.now.uncertainty / corner.now.value if corner.now.uncertainty else None
        # Round its corner a filter of order n falls by n·10/ln 10 dB for each e-fold of frequency.
        slope_db = corner.filter.crossover.order * 10 / math.log(10)
        doubt = corner.hertz * ratio_db(1 + math.sqrt(2) * off, 1) / slope_db if off is not None else None
        figure = PartFigure(
            kind=FigureKind.DIAL,
            at=f"{corner.filter.crossover.kind.value}-pass dial at {format_hertz(shown)}",
            stated=shown,
            measured=corner.hertz,
            doubt=doubt,
            **_taken(corner.now),
        )
        yield corner_key(path.id, corner.place), figure


def _hertz(note: str) -> float | None:
    """The hertz in what somebody typed of a dial's place; None for a clock position or a word."""
    if "hz" not in note.lower():
        return None
    try:
        return parse_quantity(note, "hertz")
    except BadInput:
        return None


def _last_volts(snapshot: JobSnapshot, key: str) -> Reading | None:
    return next(reversed(standing_volts(snapshot.readings, key)), None)


def _taken(reading: Reading) -> dict[str, date | str]:
    return {"taken_on": reading.taken_at.date(), "by": reading.by[:LONGEST_NAME]}
