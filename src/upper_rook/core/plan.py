"""Target volts for every path, with the arithmetic in words and numbers."""

import math
from enum import StrEnum

from upper_rook.core.ceiling import Ceiling, fallback_volume
from upper_rook.core.chain import JobSheet, Mode
from upper_rook.core.crossovers import CrossoverPlan, crossover_plan
from upper_rook.core.figures import Figures, figures
from upper_rook.core.findings import Finding, path_findings
from upper_rook.core.instruments import Limits
from upper_rook.core.knob import Knob, KnobState
from upper_rook.core.levels import wrong_by_db
from upper_rook.core.loads import Band, Load
from upper_rook.core.records import Basis
from upper_rook.core.tones import Tone
from upper_rook.core.units import Frozen, Key, format_hertz, format_value, from_db, ratio_db, volts_for

_WORTH_TELLING_DB, _NOTHING_DB = 0.2, 30.0
"""Between these a tone is heard on the path and would mislead."""
PROBES = {
    Mode.PER_CHANNEL: "across the speaker terminals",
    Mode.BRIDGED: "across the two bridge terminals",
    Mode.STRAPPED: "on one amplifier's own output, both strapped together",
}

# How far from its target a gain may stand (common practice, no source).
BAND_DB = (-0.5, 0.2)


class Target(Frozen):
    """A wanted value, the band accepted around it, and why."""

    value: float
    unit: str
    limits: Limits
    method: str
    because: tuple[str, ...]


class Stage(StrEnum):
    """A course of the tower."""

    SOURCE = "source"
    PROCESSOR = "processor"
    AMPLIFIER = "amplifier"
    SPEAKERS = "speakers"


class Course(Frozen):
    """The level and the clean ceiling after one stage, the source at its clean maximum."""

    stage: Stage
    name: str
    level_v: float
    ceiling_v: float
    level_dbv: float
    ceiling_dbv: float
    headroom_db: float
    limiting: bool


class PathPlan(Frozen):
    """What to set on one path."""

    path: Key
    name: str
    probe: str
    """Where to measure, in words."""
    load_ohm: float
    """What the terminals drive."""
    channel_ohm: float
    """What one channel sees."""
    power_w: float
    power_ohm: float
    """Watts are the square of the measured volts over this."""
    loudness_db: float | None = None
    """SPL at 1 m with that power, where the speakers' sensitivity is known."""
    limited_by: Stage
    target: Target
    tone: Tone
    play: str
    """The tone in words."""
    tone_because: tuple[str, ...] = ()
    """Why at this frequency, where the processor decides it."""
    overlap_db: float
    source_v: float
    """What the source gives at its clean maximum."""
    input_v: float
    """Volts that reach the amplifier at the source's clean maximum."""
    input_basis: Basis | None
    """None while it is only the maker's figure."""
    knob: Knob
    courses: tuple[Course, ...]
    findings: tuple[Finding, ...]


class Plan(Frozen):
    """Everything to set, computed from the sheet and, once measured, the source's clean maximum."""

    paths: tuple[PathPlan, ...]
    crossovers: CrossoverPlan
    fallback_volume: int


def plan(sheet: JobSheet, ceiling: Ceiling | None = None) -> Plan:
    """The plan of `sheet`; `ceiling` replaces the source's rated volts once it is measured."""
    found = [figures(sheet, path, ceiling) for path in sheet.chain.paths]
    composites = {one.path.id: one.levels.composite_db for one in found}
    return Plan(
        paths=tuple(_path_plan(sheet, one, ceiling) for one in found),
        crossovers=crossover_plan(sheet.chain, ceiling, composites),
        fallback_volume=fallback_volume(sheet.chain.sources[0].top_volume),
    )


def path_tone(sheet: JobSheet, load: Load) -> Tone:
    """The tone a path's gain is set with."""
    choices = sheet.choices
    frequency = choices.sub_tone_hz if load.band is Band.SUB else choices.full_tone_hz
    return Tone(frequency_hz=frequency, level_dbfs=choices.tone_level_dbfs)


def _gain_tone(sheet: JobSheet, found: Figures) -> Tone:
    """The tone of habit, or where the processor lets most through: a gain set elsewhere would clip there."""
    tone = path_tone(sheet, found.load)
    peak = found.levels.peak_hz
    return tone if peak is None else tone.model_copy(update={"frequency_hz": float(f"{peak:.3g}")})


def _tone_because(sheet: JobSheet, found: Figures) -> tuple[str, ...]:
    peak = found.levels.peak_hz
    if peak is None:
        return ()
    # Never −0.0.
    highest = round(found.levels.peak_db, 1) + 0.0
    told = [f"equaliser, channel gain and filters are highest at {format_hertz(peak)}: {highest:+.1f} dB"]
    for hertz in sorted({sheet.choices.sub_tone_hz, sheet.choices.full_tone_hz}):
        off = wrong_by_db(found.levels, hertz)
        if _WORTH_TELLING_DB < off < _NOTHING_DB:
            told.append(f"a gain set at {format_hertz(hertz)} would be {off:.1f} dB too high there")
    return tuple(told)


def _path_plan(sheet: JobSheet, found: Figures, ceiling: Ceiling | None) -> PathPlan:
    path, tone = found.path, _gain_tone(sheet, found)
    return PathPlan(
        path=path.id,
        name=path.name or "Speakers",
        probe=PROBES[path.mode],
        load_ohm=found.load.total_ohm,
        channel_ohm=found.channel_ohm,
        power_w=found.aimed_w,
        power_ohm=found.load.total_ohm / (4 if path.mode is Mode.STRAPPED else 1),
        loudness_db=_loudness(found),
        limited_by=_limited_by(found),
        target=_target(found, sheet.choices.allowance_percent),
        tone=tone,
        play=tone.label,
        tone_because=_tone_because(sheet, found),
        overlap_db=-sheet.choices.tone_level_dbfs,
        source_v=found.source_v,
        input_v=found.input_v,
        input_basis=ceiling.basis if ceiling else None,
        knob=found.knob,
        courses=_courses(found),
        findings=path_findings(found, sheet.choices),
    )


def _loudness(found: Figures) -> float | None:
    """Sensitivity plus 10·log10 of the watts; equal speakers in phase add 10·log10 of their number."""
    load = found.load
    if load.sensitivity_db is None:
        return None
    return load.sensitivity_db + 10 * math.log10(found.aimed_w) + 10 * math.log10(load.count)


def _limited_by(found: Figures) -> Stage:
    return Stage.AMPLIFIER if found.power.power_w <= found.speakers_w else Stage.SPEAKERS


def _target(found: Figures, allowance_percent: float) -> Target:
    strapped = found.path.mode is Mode.STRAPPED
    target_v, watts = found.target_v / (2 if strapped else 1), format_value(found.aimed_w, "W")
    total = f"√({watts} × {format_value(found.load.total_ohm, 'Ω')}) = {format_value(found.target_v, 'V')}"
    half = f"strapped: each amplifier gives half of the voltage, {format_value(target_v, 'V')}, into half of the load"
    return Target(
        value=target_v,
        unit="V",
        limits=Limits(low=target_v * from_db(BAND_DB[0]), high=target_v * from_db(BAND_DB[1])),
        method="√(watts × ohms)",
        because=(
            _load_in_words(found),
            found.power.because,
            _speakers_in_words(found.load, allowance_percent),
            f"aim for the lesser: {watts}, set by the {_limited_by(found).value}",
            total,
            *((half,) if strapped else ()),
            f"accepted from −{-BAND_DB[0]:g} dB to +{BAND_DB[1]:g} dB (common practice)",
        ),
    )


def _load_in_words(found: Figures) -> str:
    load = found.load
    where = {Mode.BRIDGED: "across the bridge", Mode.STRAPPED: "across both amplifiers"}.get(
        found.path.mode, "on the channel"
    )
    if load.count == 1:
        return f"load: one speaker of {format_value(load.impedance_ohm, 'Ω')} {where}"
    how = load.wiring.value.replace("_", "-")
    group = f"{load.count} × {format_value(load.impedance_ohm, 'Ω')} in {how}"
    return f"load: {group} = {format_value(load.total_ohm, 'Ω')} {where}"


def _speakers_in_words(load: Load, allowance: float) -> str:
    group = f"{load.count} × " if load.count > 1 else ""
    told = f"speakers: {group}{format_value(load.power_w, 'W')}"
    if not allowance:
        return told if load.count == 1 else f"{told} = {format_value(load.total_w, 'W')}"
    return f"{told} {allowance:+g} % by choice = {format_value(load.total_w * (1 + allowance / 100), 'W')}"


def _courses(found: Figures) -> tuple[Course, ...]:
    """The tower: levels with the source at its clean maximum and the gain set as well as it goes."""
    weak = found.knob.state is KnobState.SHORT
    reached_v = found.target_v * from_db(-found.knob.miss_db) if weak else found.target_v
    limiting = Stage.SOURCE if weak else _limited_by(found)
    speakers_v = volts_for(found.load.total_w, found.load.total_ohm)
    rows = (
        (Stage.SOURCE, found.source.name or "Source", found.source_v, found.source_v),
        *(
            (Stage.PROCESSOR, one.processor.name or "Processor", one.output_v, one.processor.highest_output_v)
            for one in found.levels.stages
        ),
        (Stage.AMPLIFIER, found.amplifier.name or "Amplifier", reached_v, found.rated_v),
        (Stage.SPEAKERS, found.load.name or "Speakers", reached_v, speakers_v),
    )
    return tuple(
        Course(
            stage=stage,
            name=name,
            level_v=level,
            ceiling_v=top,
            level_dbv=ratio_db(level, 1.0),
            ceiling_dbv=ratio_db(top, 1.0),
            headroom_db=ratio_db(top, level),
            limiting=stage is limiting,
        )
        for stage, name, level, top in rows
    )
