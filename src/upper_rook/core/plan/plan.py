"""Everything to set on a system, with the arithmetic in words and numbers, and what is lacking to tell the rest."""

import math

from upper_rook.core.common.errors import Lacking
from upper_rook.core.common.finding import Finding
from upper_rook.core.common.units import Frozen, Key, format_value
from upper_rook.core.crossover.corners import CrossoverPlan, crossover_plan
from upper_rook.core.crossover.depth import with_depth
from upper_rook.core.plan.courses import Course, Stage, courses, limited_by
from upper_rook.core.plan.figures import Figures, figures
from upper_rook.core.plan.findings.path import path_findings
from upper_rook.core.plan.findings.sources import system_findings
from upper_rook.core.plan.input_advice import Advice, input_advice, trim_advice
from upper_rook.core.plan.target import Target, target_of
from upper_rook.core.signal.tones import Tone
from upper_rook.core.stages.knob import Knob
from upper_rook.core.stages.levels import composites
from upper_rook.core.system.amplifier import Mode
from upper_rook.core.system.ceiling import Basis, Ceiling, fallback_volume
from upper_rook.core.system.choices import TopVolumeSchool
from upper_rook.core.system.job_sheet import JobSheet

PROBES = {
    Mode.PER_CHANNEL: "across the speaker terminals",
    Mode.BRIDGED: "across the two bridge terminals",
    Mode.STRAPPED: "on one amplifier's own output, both strapped together",
}


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
    """Why at this frequency, where equaliser, gains or boost decide it."""
    overlap_db: float
    """How far material at full scale goes past the target."""
    source_v: float | None
    """What the source gives at its clean maximum; None while nobody knows."""
    input_v: float | None
    """Volts that reach the amplifier then, at the tone's frequency."""
    input_advice: Advice
    """Which input, or why the other."""
    trims: tuple[Advice, ...] = ()
    """What each converter on the way is trimmed to."""
    input_basis: Basis | None
    """None while it is only the maker's figure."""
    knob: Knob
    courses: tuple[Course, ...]
    findings: tuple[Finding, ...]


class LackingPath(Frozen):
    """A path that can't be planned yet, and what it lacks."""

    path: Key
    name: str
    sentence: str


class TopVolume(Frozen):
    """The source's top volume, by the school chosen."""

    volume: int | None
    """None until it is measured."""
    gain_volume: int | None
    """Where gains are set: below it when numbers are kept in hand."""
    sentence: str


class Plan(Frozen):
    """Everything to set, computed from the sheet and, once measured, the source's clean maximum."""

    paths: tuple[PathPlan, ...]
    lacking: tuple[LackingPath, ...] = ()
    findings: tuple[Finding, ...] = ()
    """What concerns no single path."""
    crossovers: CrossoverPlan
    fallback_volume: int
    top_volume: TopVolume


def plan(sheet: JobSheet, ceiling: Ceiling | None = None) -> Plan:
    """The plan of `sheet`; `ceiling` replaces the source's rated volts once it is measured."""
    # Everything below works with each filter's depth as the chosen school takes it.
    sheet = sheet.model_copy(update={"chain": with_depth(sheet.chain, sheet.choices.depth)})
    found, lacking = [], []
    shaped = composites(sheet.chain.paths)
    for path, composite in zip(sheet.chain.paths, shaped, strict=True):
        try:
            found.append(figures(sheet, path, ceiling, composite))
        except Lacking as lack:
            lacking.append(LackingPath(path=path.id, name=path.name or "Speakers", sentence=lack.sentence))
    return Plan(
        paths=tuple(_path_plan(sheet, one, ceiling) for one in found),
        lacking=tuple(lacking),
        findings=system_findings(sheet.chain, ceiling),
        crossovers=crossover_plan(sheet, ceiling, shaped),
        fallback_volume=fallback_volume(sheet.chain.source_of(sheet.chain.paths[0]).top_volume),
        top_volume=_top_volume(sheet, ceiling),
    )


def _top_volume(sheet: JobSheet, ceiling: Ceiling | None) -> TopVolume:
    chain, school = sheet.chain, sheet.choices.top_volume
    if ceiling:
        at = ceiling.gain_point
        told = f"{ceiling.volume} gives {format_value(ceiling.voltage_v, 'V')}."
        if at.volume != ceiling.volume:
            told += f" Gains are set at {at.volume}, {format_value(at.voltage_v, 'V')}: the rest is kept in hand."
        return TopVolume(volume=ceiling.volume, gain_volume=at.volume, sentence=told)
    source = chain.source_of(chain.paths[0])
    guess = fallback_volume(source.top_volume)
    sentence = {
        TopVolumeSchool.MEASURED: "To be measured: the highest number that is clean.",
        TopVolumeSchool.THREE_QUARTERS: f"Three quarters of {source.top_volume}, rounded down: {guess}. A guess.",
        TopVolumeSchool.RATED_VOLTS: "To be measured: the number that reaches "
        f"{chain.output_of(chain.paths[0]).rated.label}, which nobody has seen to be clean.",
        TopVolumeSchool.IN_HAND: "To be measured: the highest number that is clean; gains are set "
        f"{sheet.choices.clicks_in_hand} below it.",
    }[school]
    guessed = guess if school is TopVolumeSchool.THREE_QUARTERS else None
    return TopVolume(volume=guessed, gain_volume=guessed, sentence=sentence)


def _path_plan(sheet: JobSheet, found: Figures, ceiling: Ceiling | None) -> PathPlan:
    path, tone = found.path, found.gain_tone
    return PathPlan(
        path=path.id,
        name=path.name or "Speakers",
        probe=PROBES[path.mode],
        load_ohm=found.load.total_ohm,
        channel_ohm=found.channel_ohm,
        power_w=found.aimed_w,
        power_ohm=found.load.total_ohm / (4 if path.mode is Mode.STRAPPED else 1),
        loudness_db=_loudness(found),
        limited_by=limited_by(found),
        target=target_of(found, sheet.choices),
        tone=tone.tone,
        play=tone.tone.label,
        tone_because=tone.because,
        overlap_db=found.overlap_db,
        source_v=found.source_v,
        input_v=found.input_v,
        input_advice=input_advice(found),
        trims=trim_advice(found, sheet.choices),
        input_basis=ceiling.basis if ceiling else None,
        knob=found.knob,
        courses=courses(found),
        findings=path_findings(found, sheet.choices),
    )


def _loudness(found: Figures) -> float | None:
    """Sensitivity plus 10·log10 of the watts; equal speakers in phase add 10·log10 of their number."""
    load = found.load
    if load.sensitivity_db is None:
        return None
    return load.sensitivity_db + 10 * math.log10(found.aimed_w) + 10 * math.log10(load.count)
