"""
Optional readings beside the volts of a gain.

The place of its knob, the volts with the tone 6 dB lower, and the volts where it clips with the gain turned further up:
with nothing at its terminals, and with load resistors.
"""

from collections.abc import Iterator

from upper_rook.core.common.cautions import DUMMY_LOAD
from upper_rook.core.common.units import format_value, ratio_db
from upper_rook.core.plan.figures import Figures
from upper_rook.core.plan.plan import PathPlan
from upper_rook.core.run.readings.circumstances import Circumstances, Hanging
from upper_rook.core.run.readings.points import TerminalsPoint
from upper_rook.core.run.readings.records import Quantity, Reading
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import diagnostics, rows
from upper_rook.core.run.steps.step import Row, RowChoice
from upper_rook.core.stages.knob import KNOB_HALF_HOURS, o_clock

KNOB, HALF, CLIPS, LOADED = "knob", "half", "clips", "loaded"
"""
Rows beside the volts: the place of the knob, the volts with the tone 6 dB lower, and those where it clips, with nothing
at its terminals and with a load resistor on every channel.
"""
_LOWER_DB, _SAME_LEVEL_DB = 6.0, 0.5
_WEAKER_DB = 3.0
"""So much less than rated amplifiers give at worst (common practice, no source)."""
_ELSEWHERE_DB = 6.0
"""So far from where it is expected a knob's scale alone doesn't account for (common practice, no source)."""


def extra_rows(plan: PathPlan, figures: Figures | None, point: TerminalsPoint, wants: Circumstances) -> Iterator[Row]:
    """All that apply to the step of a path's gain."""
    lower = plan.tone.model_copy(update={"level_dbfs": plan.tone.level_dbfs - _LOWER_DB})
    lowered = wants.model_copy(update={"tone": lower})
    yield Row(
        key=HALF,
        name="With the tone 6 dB lower",
        point=point,
        wants=lowered,
        play=lowered.play,
        optional=True,
    )
    if figures is not None and _is_near_its_rails(figures):
        yield Row(
            key=CLIPS,
            name="Where it clips, the gain turned further up",
            point=point,
            wants=wants,
            play=wants.play,
            optional=True,
        )
        yield Row(
            key=LOADED,
            name="Where it clips with load resistors",
            note=f"{format_value(plan.load_ohm, 'Ω')} for {format_value(figures.aimed_w, 'W', 2)} and more on every "
            f"channel of the amplifier, all playing, a few seconds at a time. {DUMMY_LOAD.text}",
            point=point,
            wants=wants.model_copy(update={"hanging": Hanging.DUMMY}),
            play=wants.play,
            optional=True,
        )
    yield Row(
        key=KNOB,
        name="Knob position",
        quantity=Quantity.POSITION,
        unit="",
        point=point,
        wants=wants,
        optional=True,
        choices=tuple(
            RowChoice(value=half / KNOB_HALF_HOURS, text=o_clock(half / KNOB_HALF_HOURS))
            for half in range(KNOB_HALF_HOURS + 1)
        ),
    )


def _is_near_its_rails(figures: Figures) -> bool:
    """Whether an amplifier somewhat weaker than rated would clip at the target with its speakers on."""
    reserve_db = ratio_db(figures.rated_v, figures.target_v)
    return figures.load_takes_db > 0 and reserve_db < figures.load_takes_db + _WEAKER_DB


def noted(snapshot: JobSnapshot, key: str, what: str) -> Reading | None:
    """Last reading of KNOB or HALF beside the volts of a step."""
    return rows.last_readings(snapshot, key).get(what)


def read_since(last: Reading, half: Reading | None) -> Reading | None:
    """The volts with the lower tone, if they were read since the others were taken."""
    return half if half is not None and half.arrival > last.arrival and half.value > 0 else None


def was_lowered(last: Reading, half: Reading) -> bool:
    """Whether the tone was 6 dB lower, as far as the meter or the person says."""
    if last.tone is None or half.tone is None:
        return True
    return abs(last.tone.level_dbfs - half.tone.level_dbfs - _LOWER_DB) < _SAME_LEVEL_DB


def fell_db(last: Reading, half: Reading | None) -> float | None:
    """By how much the volts fell with the tone 6 dB lower; None where nobody read that."""
    if half is None or not was_lowered(last, half):
        return None
    return ratio_db(last.value, half.value)


def knob_elsewhere(snapshot: JobSnapshot, path_id: str, position: Reading | None) -> tuple[str, ...]:
    """Meaning of a knob far from its expected place although its target is met."""
    plan = next((path for path in snapshot.plan.paths if path.path == path_id), None)
    path = snapshot.path(path_id)
    if position is None or plan is None or path is None or plan.knob.travel is None:
        return ()
    scale = snapshot.sheet.chain.amplifier_of(path).range_of(path.input)
    if scale is None:
        return ()
    more_db = (position.value - plan.knob.travel) * ratio_db(scale.down_v, scale.up_v)
    return diagnostics.of_knob(more_db) if abs(more_db) > _ELSEWHERE_DB else ()
