"""Findings about the outputs of a path: the band they carry, and whether several may be joined."""

from itertools import pairwise

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.common.units import format_db, format_hertz, ratio_db
from upper_rook.core.crossover.played_band import played_band_hz
from upper_rook.core.plan.figures import Figures
from upper_rook.core.system.source import Output, OutputKind

_APART_DB = 3.0
"""Taps this far apart don't sum to what was there before they were divided (common practice, no source)."""


def tap_findings(figures: Figures) -> list[Finding]:
    """Findings about the outputs that feed one path, alone or summed."""
    return [*_joined(figures), *_carried(figures)]


def _joined(figures: Figures) -> list[Finding]:
    outputs = figures.outputs
    if len(outputs) < 2:
        return []
    findings, names = [], " and ".join(output.name or output.id for output in outputs)
    if not figures.path.through:
        speaker = any(output.kind is OutputKind.SPEAKER for output in outputs)
        findings.append(
            Finding(
                kind=FindingKind.JOINED,
                severity=Severity.STOP if speaker else Severity.RISK,
                title="Outputs joined without a summing stage",
                reason=f"{names}: each would drive the other"
                + (", and an amplifier’s output into another’s is a short circuit." if speaker else "."),
                remedy="Use a converter or processor with summing inputs.",
            )
        )
    volts = [output.expected_v for output in outputs if output.expected_v]
    apart = ratio_db(max(volts), min(volts)) if len(volts) == len(outputs) else 0.0
    if apart >= _APART_DB:
        findings.append(
            Finding(
                kind=FindingKind.TAPS_APART,
                severity=Severity.NOTE,
                title=f"The summed outputs are {format_db(apart)} apart",
                reason=f"{names}: by their ratings one part of the band is that much louder.",
                remedy="Match them at the summing inputs’ trims, or by the equaliser after a sweep.",
            )
        )
    bands = sorted((output.lowest_hz or 0.0, output.highest_hz or 1e6) for output in outputs)
    for (_, top), (bottom, _) in pairwise(bands):
        if bottom > 1.2 * top:
            findings.append(
                Finding(
                    kind=FindingKind.TAPS_GAP,
                    severity=Severity.RISK,
                    title="The summed outputs leave a gap",
                    reason=f"No output carries {format_hertz(top)} to {format_hertz(bottom)}.",
                    remedy="Find the tap that carries it, or tap the signal before it is divided.",
                )
            )
    return findings


def _carried(figures: Figures) -> list[Finding]:
    """Speakers that are to play what their outputs don't carry."""
    low, high = carried(figures.outputs)
    path, load = figures.path, figures.load
    lacks: list[str] = []
    plays_low, plays_high = played_band_hz(path, load)
    if low and plays_low and low > 1.2 * plays_low:
        lacks.append(f"below {format_hertz(low)}, and the speakers play from {format_hertz(plays_low)}")
    if high and plays_high > 1.2 * high:
        lacks.append(f"above {format_hertz(high)}, and the speakers play up to {format_hertz(plays_high)}")
    return [
        Finding(
            kind=FindingKind.TAP_BAND,
            about=(number,),
            severity=Severity.RISK,
            title="The source doesn’t carry the whole band",
            reason=f"Nothing comes {text}.",
            remedy="Sum it with the tap that carries the rest, or tap the signal before it is divided.",
        )
        for number, text in enumerate(lacks)
    ]


def carried(outputs: tuple[Output, ...]) -> tuple[float | None, float | None]:
    """The lowest and the highest that outputs carry together; None where they end nowhere that is known."""
    lows, highs = [output.lowest_hz for output in outputs], [output.highest_hz for output in outputs]
    low = None if None in lows else min(value for value in lows if value is not None)
    high = None if None in highs else max(value for value in highs if value is not None)
    return low, high
