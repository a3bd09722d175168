"""Findings that concern no single path: the sources and their settings, and parts that are wired to nothing."""

from upper_rook.core.common.finding import Finding, Severity, ranked
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.common.units import format_signed, format_value
from upper_rook.core.plan.findings.chassis import chassis_findings
from upper_rook.core.plan.findings.converters import converter_findings
from upper_rook.core.plan.findings.part_location import part_location_findings
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.clean_maxima import CleanMaxima, PointCleanMaximum
from upper_rook.core.system.clean_maximum import Basis
from upper_rook.core.system.playing import INPUT_WORDS
from upper_rook.core.system.source import OutputKind, Source

SOURCE_FAR_OFF = (0.6, 1.4)
"""Ratios at which the trade starts to worry (common practice, no source)."""
_KINDS = {"source": "source", "processor": "converter or processor", "amplifier": "amplifier", "load": "speakers"}


def system_findings(chain: Chain, clean_maxima: CleanMaxima) -> tuple[Finding, ...]:
    """The gravest first."""
    findings = [finding for measured in clean_maxima for finding in _far_off(chain, measured)]
    findings += part_location_findings(chain)
    findings += chassis_findings(chain)
    findings += converter_findings(chain)
    for source in chain.sources:
        findings += _settings(source)
        findings += _unlikely(source)
    for place, (kind, name) in enumerate(chain.idle()):
        findings.append(
            Finding(
                kind=FindingKind.IDLE,
                about=(place,),
                severity=Severity.NOTE,
                title=f"{name} isn’t connected",
                reason=f"No path uses this {_KINDS[kind]}.",
                remedy="Assign it to a path, or remove it.",
            )
        )
    return ranked(findings)


_MOST_LINE_V = 20.0
"""More than any line output gives: balanced ones end at some 16 V (common practice, no source)."""


def _unlikely(source: Source) -> list[Finding]:
    """Line outputs whose volts look like a slip of the decimal mark, or like a speaker output's."""
    return [
        Finding(
            kind=FindingKind.UNLIKELY,
            about=(source.id, output.id),
            severity=Severity.RISK,
            title=f"{output.name or 'An output'}: is it really {format_value(output.rated.v, 'V', 3)}?",
            reason="Line outputs give 1 to 10 V at most. The plan uses this figure.",
            remedy="Correct the volts, or choose speaker level.",
        )
        for output in source.outputs
        if output.kind is OutputKind.LINE and output.rated.v is not None and output.rated.v > _MOST_LINE_V
    ]


def _settings(source: Source) -> list[Finding]:
    name, findings = source.name or "The source", []
    if source.tone.unflat:
        findings.append(
            Finding(
                kind=FindingKind.NOT_FLAT,
                about=(source.id,),
                severity=Severity.RISK,
                title=f"{name} isn’t flat",
                reason=f"{', '.join(source.tone.unflat)}: each changes the clean maximum, loudness most.",
                remedy="Set it to zero or off before measuring, and leave it there.",
            )
        )
    if not source.keeps_settings:
        findings.append(
            Finding(
                kind=FindingKind.FORGETS,
                about=(source.id,),
                severity=Severity.RISK,
                title=f"{name} forgets its settings",
                reason="A level that resets itself wastes readings.",
                remedy="Check its settings before each reading. Tell the customer what to set again.",
            )
        )
    trimmed = [
        f"{INPUT_WORDS[playing.kind]} at {format_signed(playing.trim_db)} dB"
        for playing in source.inputs
        if playing.trim_db
    ]
    if trimmed:
        findings.append(
            Finding(
                kind=FindingKind.TRIMS,
                about=(source.id,),
                severity=Severity.NOTE,
                title=f"{name}: level trims away from zero",
                reason=f"{', '.join(trimmed)}. A trim and a volume together may give more clean volts.",
                remedy="Measure with the final trims. A later change makes the clean maximum outdated.",
            )
        )
    lifted = [output for output in source.outputs if output.level_db > 0]
    findings += [
        Finding(
            kind=FindingKind.LEVEL_LIFTED,
            about=(source.id, output.id),
            severity=Severity.NOTE,
            title=f"{name}, {output.name or 'its output'}: its level is raised by {output.level_db:g} dB",
            reason="It may clip at a lower number than the other outputs.",
            remedy="Measure its clean maximum too, or set its level to zero.",
        )
        for output in lifted
    ]
    told = {clean.way for clean in source.from_sheet.clean} if source.from_sheet else set()
    if len(source.played) > 1 and not told.issuperset(playing.kind for playing in source.played):
        ways = ", ".join(INPUT_WORDS[playing.kind] for playing in source.played)
        findings.append(
            Finding(
                kind=FindingKind.WAYS,
                about=(source.id,),
                severity=Severity.NOTE,
                title=f"{name}: {len(source.played)} ways of playing",
                reason=f"{ways}: their clean numbers differ.",
                remedy="Measure each. The lowest clean number counts.",
            )
        )
    return findings


def _far_off(chain: Chain, measured: PointCleanMaximum) -> list[Finding]:
    """The measured clean maximum against what the maker states for that output."""
    point, clean_maximum = measured.point, measured.clean_maximum
    outputs = (
        (source, output)
        for source in chain.sources
        for output in source.outputs
        if (source.id, output.id) == (point.source, point.output)
    )
    source, output = next(outputs, (None, None))
    expected_v = output.expected_v if output else None
    if source is None or expected_v is None or clean_maximum.basis is Basis.RATED:
        return []
    ratio = clean_maximum.voltage_v / expected_v
    if SOURCE_FAR_OFF[0] <= ratio <= SOURCE_FAR_OFF[1]:
        return []
    return [
        Finding(
            kind=FindingKind.SOURCE_FAR_OFF,
            about=(point.source, point.output),
            severity=Severity.RISK,
            title=f"{source.name or 'Source'} far from its rated volts",
            reason=f"{format_value(clean_maximum.voltage_v, 'V', 3)} measured at its clean maximum, "
            f"{format_value(expected_v, 'V', 3)} rated.",
            remedy="Check level trim, loudness normalisation, tone controls and the meter before going on.",
            paths=tuple(path.id for path in chain.paths if (path.source, path.output) == (point.source, point.output)),
        )
    ]
