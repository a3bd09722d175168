"""The stages of the signal chain: level, clean maximum and headroom after every stage of a path."""

from enum import StrEnum

from upper_rook.core.common.units import Frozen, from_db, ratio_db, volts_for
from upper_rook.core.plan.figures import Figures
from upper_rook.core.stages.knob import KnobState


class Stage(StrEnum):
    """A stage of the signal chain."""

    SOURCE = "source"
    PROCESSOR = "processor"
    AMPLIFIER = "amplifier"
    SPEAKERS = "speakers"


class StageLevel(Frozen):
    """
    The level and the clean maximum after one stage, with the gain set as well as it goes.

    `level` is while the gain is set, with the tone at its level; `full` with the source at its clean maximum and a
    tone at full scale, as the stages would give it if none of them clipped.
    """

    stage: Stage
    name: str
    level_v: float
    full_v: float
    clean_maximum_v: float
    level_dbv: float
    full_dbv: float
    clean_maximum_dbv: float
    headroom_db: float
    """At the tone."""
    full_headroom_db: float
    """At full scale: below 0 where it clips."""
    limiting: bool


def limited_by(figures: Figures) -> Stage:
    """Part that sets the target: amplifier or speakers."""
    return Stage.AMPLIFIER if figures.amplifier_limits else Stage.SPEAKERS


def stage_levels(figures: Figures) -> tuple[StageLevel, ...]:
    """The signal chain from the source up; what lies before an input of unknown volts is left out."""
    weak = figures.knob.state is KnobState.SHORT or (figures.volume_only and figures.knob.miss_db < 0)
    reached_v = figures.target_v * from_db(-abs(figures.knob.miss_db)) if weak else figures.target_v
    limiting = Stage.SOURCE if weak else limited_by(figures)
    speakers_v = volts_for(figures.load.total_w, figures.load.total_ohm)
    down = from_db(-figures.overlap_db)
    # Everything before the amplifier is known at full scale, everything after it at the tone.
    before = [
        # The output of an amplifier inside the source is the amplifier's.
        (Stage.SOURCE, figures.source.name or "Source", *2 * ((None if figures.volume_only else figures.source_v),)),
        *(
            (Stage.PROCESSOR, stage.processor.name or "Processor", stage.output_v, stage.processor.highest_output_v)
            for stage in figures.levels.stages
        ),
    ]
    # Where more is asked of a stage than it gives clean, it is shown going past its clean maximum.
    asked_db = [0.0, *(stage.overdriven_db for stage in figures.levels.stages)]
    rows = [
        *(
            (stage, name, full * down, top * from_db(over_db) if over_db else full, top)
            for (stage, name, full, top), over_db in zip(before, asked_db, strict=True)
            if full is not None and top
        ),
        (Stage.AMPLIFIER, figures.amplifier.name or "Amplifier", reached_v, reached_v / down, figures.rated_v),
        (Stage.SPEAKERS, figures.load.name or "Speakers", reached_v, reached_v / down, speakers_v),
    ]
    return tuple(
        StageLevel(
            stage=stage,
            name=name,
            level_v=level,
            full_v=full,
            clean_maximum_v=top,
            level_dbv=ratio_db(level, 1.0),
            full_dbv=ratio_db(full, 1.0),
            clean_maximum_dbv=ratio_db(top, 1.0),
            headroom_db=ratio_db(top, level),
            full_headroom_db=ratio_db(top, full),
            limiting=stage is limiting,
        )
        for stage, name, level, full, top in rows
    )
