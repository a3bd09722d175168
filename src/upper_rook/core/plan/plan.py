"""Everything to set on a system, with the arithmetic in words and numbers, and what is lacking to tell the rest."""

from typing import Literal

from upper_rook.core.common.cautions import Caution, at_output
from upper_rook.core.common.errors import Lacking, SetByEar
from upper_rook.core.common.finding import Finding
from upper_rook.core.common.units import Frozen, Key, format_value, volts_for
from upper_rook.core.crossover.corners import CrossoverPlan, crossover_plan
from upper_rook.core.crossover.depth import with_depth
from upper_rook.core.plan.causes import by_cause
from upper_rook.core.plan.figures import Figures, figures
from upper_rook.core.plan.findings.path import path_findings
from upper_rook.core.plan.findings.sources import system_findings
from upper_rook.core.plan.input_advice import Advice, input_advice, trim_advice
from upper_rook.core.plan.loudness import Loudness, loudness
from upper_rook.core.plan.not_confirmed import Doubted, doubted, of_path
from upper_rook.core.plan.residual_noise import ResidualNoise, residual_noise
from upper_rook.core.plan.stage_levels import Stage, StageLevel, limited_by, stage_levels
from upper_rook.core.plan.target import Target, target_of
from upper_rook.core.signal.tones import Tone
from upper_rook.core.stages.knob import Knob
from upper_rook.core.stages.shape import shapes
from upper_rook.core.system.amplifier import Mode
from upper_rook.core.system.clean_maxima import UNMEASURED, CleanMaxima, PointCleanMaximum
from upper_rook.core.system.clean_maximum import Basis, fallback_volume
from upper_rook.core.system.job_sheet import JobSheet, Subject
from upper_rook.core.system.methods import LOAD, TOP_VOLUME
from upper_rook.core.system.path import Path
from upper_rook.core.system.source import OutputKind, Source

PROBES = {
    Mode.PER_CHANNEL: "across the speaker terminals",
    Mode.BRIDGED: "across the two bridge terminals",
    Mode.STRAPPED: "on one amplifier’s own output, both strapped together",
}


class PathPlan(Frozen):
    """Settings of one path."""

    path: Key
    name: str
    probe: str
    """Where to measure, in words."""
    load_ohm: float
    """Load at the terminals."""
    channel_ohm: float
    """Load on one channel."""
    power_w: float
    power_ohm: float
    """Watts are the square of the measured volts over this."""
    loudness: Loudness | None = None
    """With that power, where the speakers' sensitivity is known, and what is wanted against it."""
    is_pair: bool = False
    """Whether it has a left and a right channel, each with speakers of its own."""
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
    """Volts of the source at its clean maximum; None while nobody knows."""
    input_v: float | None
    """Volts that reach the amplifier then, at the tone's frequency."""
    input_advice: Advice
    """Input to use, or the reason to change it."""
    trims: tuple[Advice, ...] = ()
    """Trim of each converter on the way."""
    input_basis: Basis | None
    """None while it is only the maker's figure."""
    source_because: str = ""
    """Where the source's volts are only scaled from another output's, in a sentence."""
    knob: Knob
    stage_levels: tuple[StageLevel, ...]
    noise: ResidualNoise | None = None
    """Noise with nothing playing, where the volts and the scale of its input are known."""
    findings: tuple[Finding, ...]
    cautions: tuple[Caution, ...] = ()
    """Cautions at its terminals that don't hold at every other path's."""


class LackingPath(Frozen):
    """A path without volts to set: it can't be planned yet, or is set by ear."""

    path: Key
    name: str
    sentence: str
    """Figure that it lacks, or the way it is set."""
    by_ear: bool = False
    """Whether nothing lacks."""
    field: str = ""
    """Where on the sheet it is filled in, parts by their ids: `loads.front.power_w`."""


class SourcePlan(Frozen):
    """The top volume of one source, by the method chosen."""

    source: Key
    name: str
    fallback_volume: int
    """Three quarters of its scale."""
    volume: int | None
    """None until it is measured."""
    gain_volume: int | None
    """Where gains are set: below it when numbers are kept in hand."""
    sentence: str


class Plan(Frozen):
    """Everything to set, computed from the sheet and, once measured, the sources' clean maxima."""

    contract: Literal[1] = 1
    """Counts up when something here changes its meaning or goes."""
    paths: tuple[PathPlan, ...]
    lacking: tuple[LackingPath, ...] = ()
    causes: tuple[Finding, ...] = ()
    """Every finding of the whole plan once, consequences under their causes, the gravest first."""
    findings: tuple[Finding, ...] = ()
    """Findings that concern no single path."""
    not_confirmed: tuple[Doubted, ...] = ()
    """Values that count and that nobody has confirmed: they came with a layout or a default."""
    crossovers: CrossoverPlan
    sources: tuple[SourcePlan, ...]
    """Those that feed a path."""
    common_cautions: tuple[Caution, ...] = ()
    """Cautions at the terminals of every path; a caution of one path stands with it."""

    @property
    def unplanned(self) -> tuple[LackingPath, ...]:
        """The paths of which something has to be filled in."""
        return tuple(lacking for lacking in self.lacking if not lacking.by_ear)

    def cautions_of(self, path: str) -> tuple[Caution, ...]:
        """Everything that can hurt at the terminals of one path."""
        own = next((path_plan.cautions for path_plan in self.paths if path_plan.path == path), ())
        return (*own, *self.common_cautions)


def plan(sheet: JobSheet, clean_maxima: CleanMaxima = UNMEASURED) -> Plan:
    """
    The plan of `sheet`; `clean_maxima` replace the sources' rated volts once they are measured.

    Behind a source on its own there is nothing to set.
    """
    if sheet.subject is Subject.SOURCE:
        return _NOTHING
    # Everything below works with what a part can do, and with each filter's depth as the chosen method takes it.
    told_chain = sheet.chain
    counted = told_chain.model_copy(update={"paths": tuple(told_chain.counted(path) for path in told_chain.paths)})
    sheet = sheet.model_copy(update={"chain": with_depth(counted, sheet.choices)})
    worked_out, lacking = [], []
    shaped = shapes(sheet.chain, sheet.choices)
    for path, shape in zip(sheet.chain.paths, shaped, strict=True):
        try:
            worked_out.append(figures(sheet, path, clean_maxima.of_path(sheet.chain, path), shape))
        except Lacking as lack:
            lacking.append(
                LackingPath(
                    path=path.id,
                    name=path.name or "Speakers",
                    sentence=lack.sentence,
                    by_ear=isinstance(lack, SetByEar),
                    field=_field_of(path, lack.field),
                )
            )
    warnings = [_cautions(sheet, figures) for figures in worked_out]
    common = [warning for warning in warnings[0] if all(warning in path for path in warnings)] if warnings else []
    doubts = doubted(sheet)
    paths = tuple(
        _path_plan(sheet, figures, tuple(told for told in own if told not in common), of_path(doubts, figures.path.id))
        for figures, own in zip(worked_out, warnings, strict=True)
    )
    crossovers = crossover_plan(sheet, clean_maxima, shaped)
    whole = system_findings(told_chain, clean_maxima)
    return Plan(
        paths=paths,
        common_cautions=tuple(common),
        lacking=tuple(lacking),
        causes=by_cause((*whole, *(found for path in paths for found in path.findings), *crossovers.findings)),
        findings=whole,
        not_confirmed=doubts,
        crossovers=crossovers,
        sources=tuple(_source_plan(sheet, source, clean_maxima) for source in sheet.chain.feeding()),
    )


def _field_of(path: Path, lacking: str | None) -> str:
    """The place of a lacking value among a path's own parts."""
    kind, _, field = (lacking or "").partition(".")
    parts = {"loads": path.load, "amplifiers": path.amplifier, "processors": path.id}
    if kind not in parts:
        return ""
    return f"{kind}.{parts[kind]}.{field}" if field else f"paths.{path.id}.through"


_NOTHING = Plan(
    paths=(),
    sources=(),
    crossovers=CrossoverPlan(frequencies_hz=(), responses=(), groups=(), corners=(), proposals=(), findings=()),
)


def _source_plan(sheet: JobSheet, source: Source, clean_maxima: CleanMaxima) -> SourcePlan:
    name, guess = source.name or "Source", fallback_volume(source.top_volume)
    governing, gain_volume = clean_maxima.governing(source.id), clean_maxima.gain_volume(source.id)
    volume: int | None
    if governing:
        volume, volts = governing.clean_maximum.volume, governing.clean_maximum.voltage_v
        sentence = f"{volume} gives {format_value(volts, 'V')}{_by_sheet(source, governing)}."
        if gain_volume is not None and gain_volume != volume:
            there = format_value(governing.volts_at(gain_volume), "V")
            sentence += f" Gains are set at {gain_volume}, {there}: the rest is reserve."
    else:
        # Only a guess can be told before anything was measured.
        numbers = all(output.kind is OutputKind.DIGITAL for output in sheet.chain.outputs_used(source))
        volume = gain_volume = source.top_volume if numbers else guess if TOP_VOLUME.of(sheet.choices).guessed else None
        sentence = _DIGITAL.format(top=source.top_volume) if numbers else _to_be_measured(sheet, source, guess)
    return SourcePlan(
        source=source.id,
        name=name,
        fallback_volume=guess,
        volume=volume,
        gain_volume=gain_volume,
        sentence=sentence,
    )


def _by_sheet(source: Source, governing: PointCleanMaximum) -> str:
    """Parts of a clean maximum that come from another unit: the number, and before it was checked the volts as well."""
    if governing.clean_maximum.basis is not Basis.SHEET or source.from_sheet is None:
        return ""
    return f"; the number is from {source.from_sheet.words}" if governing.records else f", by {source.from_sheet.words}"


_DIGITAL = (
    "Digital: nothing to measure before the processor. Full scale comes at {top}; above zero its tone controls clip it."
)


def _to_be_measured(sheet: JobSheet, source: Source, guess: int) -> str:
    rated = " or ".join(dict.fromkeys(output.rated.label for output in sheet.chain.outputs_used(source)))
    return TOP_VOLUME.of(sheet.choices).sentence.format(
        top=source.top_volume, guess=guess, rated=rated, clicks=sheet.choices.clicks_in_hand
    )


def _cautions(sheet: JobSheet, path_figures: Figures) -> tuple[Caution, ...]:
    """Cautions at the terminals. Strapped, the whole voltage is twice the measured one."""
    whole_v = volts_for(path_figures.aimed_w, path_figures.load.total_ohm)
    return at_output(whole_v, on_dummy_load=LOAD.of(sheet.choices).dummy)


def _path_plan(
    sheet: JobSheet, path_figures: Figures, own_cautions: tuple[Caution, ...], doubts: tuple[Doubted, ...]
) -> PathPlan:
    path, tone, clean_maximum = path_figures.path, path_figures.gain_tone, path_figures.clean_maximum
    return PathPlan(
        path=path.id,
        name=path.name or "Speakers",
        probe=PROBES[path.mode],
        load_ohm=path_figures.load.total_ohm,
        channel_ohm=path_figures.channel_ohm,
        power_w=path_figures.aimed_w,
        power_ohm=path_figures.load.total_ohm / (4 if path.mode is Mode.STRAPPED else 1),
        loudness=loudness(path_figures, sheet.choices.wanted_db),
        is_pair=path_figures.is_pair,
        limited_by=limited_by(path_figures),
        target=target_of(path_figures, sheet.choices_of(path_figures.path), doubts),
        tone=tone.tone,
        play=tone.tone.label,
        tone_because=tone.because,
        overlap_db=path_figures.overlap_db,
        source_v=path_figures.source_v,
        input_v=path_figures.input_v,
        input_advice=input_advice(path_figures),
        trims=trim_advice(path_figures, sheet.choices_of(path_figures.path)),
        input_basis=clean_maximum.basis if clean_maximum else None,
        source_because=_scaled_in_words(path_figures),
        knob=path_figures.knob,
        stage_levels=stage_levels(path_figures),
        noise=residual_noise(sheet, path_figures),
        findings=path_findings(path_figures, sheet.choices_of(path_figures.path)),
        cautions=own_cautions,
    )


def _scaled_in_words(path_figures: Figures) -> str:
    """That a path's volts were measured at another output, or on another unit, where they were."""
    clean_maximum, sheet = path_figures.clean_maximum, path_figures.source.from_sheet
    if clean_maximum is None:
        return ""
    if clean_maximum.scaled_from is None:
        return f"From {sheet.words}, not checked here yet." if clean_maximum.by_sheet and sheet else ""
    outputs = {output.id: output.name for output in path_figures.source.outputs}
    measured = outputs.get(clean_maximum.scaled_from.output) or "another output"
    own = path_figures.output.name or "this output"
    if clean_maximum.voltage_v is None:
        return f"Measured at {measured} only; {own} uses its rated volts."
    return f"Measured at {measured} only; {own} is scaled from it by the ratings."
