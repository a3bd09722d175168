"""Findings about the chosen methods on a path."""

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.common.units import format_hertz, format_signed, format_value
from upper_rook.core.crossover.tweeters import is_tweeter
from upper_rook.core.plan.figures import Figures
from upper_rook.core.stages.levels import habit_hz
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.methods import GAIN, LOAD

_MUCH_PERCENT = 50.0
"""So far above its rating music already heats a small coil (common practice, no source)."""


def choice_findings(figures: Figures, choices: Choices) -> list[Finding]:
    """Findings about the chosen methods on this path."""
    amplifier = figures.amplifier
    findings = [*_by_gain_method(figures, choices), *_dummy_load(figures, choices), *_misses_peak(figures, choices)]
    if figures.overlap_db > 0.05:
        findings.append(
            Finding(
                kind=FindingKind.LEVEL_OVERLAP,
                severity=Severity.NOTE,
                title=f"{figures.overlap_db:.3g} dB of overlap, by choice",
                reason=f"{_overlap_in_words(figures, choices)}: material at full scale "
                f"drives the amplifier {figures.overlap_db:.3g} dB past the target.",
                remedy="Good for quiet tracks. Use a 0 dBFS tone if nothing may clip.",
                hand_over=True,
            )
        )
    findings += _allowance(figures, choices)
    if figures.power.corrected:
        findings.append(
            Finding(
                kind=FindingKind.RATING_CORRECTED,
                severity=Severity.NOTE,
                title="The rating is for another supply",
                reason=f"{figures.power.corrected[0].upper()}{figures.power.corrected[1:]}.",
                remedy=f"{format_value(figures.power.power_w, 'W', 3)} are planned. In the run the clean wave "
                "shows the real maximum.",
            )
        )
    if not amplifier.regulated:
        findings.append(
            Finding(
                kind=FindingKind.SUPPLY,
                severity=Severity.NOTE,
                title="Output follows the supply",
                reason="An unregulated amplifier makes 15–20 % more at running voltage than on a resting battery"
                + (", and reads high on open terminals." if not LOAD.of(choices).dummy else "."),
                remedy="Set the gain with the engine running or a charger on.",
            )
        )
    return findings


def _allowance(figures: Figures, choices: Choices) -> list[Finding]:
    """Watts above the speakers' rating, by choice; much of it on a tweeter is a risk."""
    if choices.allowance_percent <= 0:
        return []
    aimed, rated = (format_value(watts, "W", 3) for watts in (figures.aimed_w, figures.load.total_w))
    much = choices.allowance_percent >= _MUCH_PERCENT and figures.aimed_w > figures.load.total_w
    if much and is_tweeter(figures.load):
        return [
            Finding(
                kind=FindingKind.TWEETER_OVER,
                severity=Severity.RISK,
                title=f"{aimed} for a tweeter rated {rated}",
                reason="The allowance counts on music, which is far below its peaks on average. A steady tone, or "
                f"clipped music, gives the tweeter all {aimed}.",
                remedy="Keep the tweeter at its rating: set the allowance to 0, or plan its path lower.",
                hand_over=True,
            )
        ]
    return [
        Finding(
            kind=FindingKind.ALLOWANCE,
            severity=Severity.NOTE,
            title=f"{choices.allowance_percent:g} % above the speakers’ rating, by choice",
            reason=f"The target is {aimed}.",
            remedy="Tell the customer, or set the allowance to 0.",
            hand_over=True,
        )
    ]


def _overlap_in_words(figures: Figures, choices: Choices) -> str:
    told = []
    if choices.tone_level_dbfs < 0:
        told.append(f"The gain is set with a tone at {format_signed(choices.tone_level_dbfs)} dBFS")
    in_hand_db = figures.overlap_db + choices.tone_level_dbfs
    if in_hand_db > 0.05:
        told.append(f"gains are set {in_hand_db:.2g} dB below the clean maximum")
    return " and ".join(told)


def _misses_peak(figures: Figures, choices: Choices) -> list[Finding]:
    below_db, levels = figures.gain_tone.below_peak_db, figures.levels
    if below_db < 0.3:
        return []
    better = levels.peak_hz or habit_hz(choices, figures.load)
    return [
        Finding(
            kind=FindingKind.TONE_MISSES_PEAK,
            severity=Severity.RISK,
            title=f"The tone misses the peak by {below_db:.1f} dB",
            reason=f"At {format_hertz(figures.gain_tone.tone.frequency_hz)} the level is lower than at "
            f"{format_hertz(levels.highest_hz)}: the gain would be {below_db:.1f} dB too high.",
            remedy=f"Set it with a tone at {format_hertz(better)}, or with a sweep.",
        )
    ]


def _by_gain_method(figures: Figures, choices: Choices) -> list[Finding]:
    if GAIN.of(choices).by_lamp and not figures.amplifier.clip_lamp:
        return [
            Finding(
                kind=FindingKind.NO_CLIP_LAMP,
                severity=Severity.RISK,
                title="No clip light",
                reason="The chosen method needs a clip light. This amplifier has none.",
                remedy="Set the gain to the rated volts, or use a scope.",
            )
        ]
    if GAIN.of(choices).clips_softly and figures.amplifier_limits:
        return [
            Finding(
                kind=FindingKind.SOFT_CLIP,
                severity=Severity.NOTE,
                title="Slight clipping, by choice",
                reason="At 1 % of distortion the wave is a quarter of a decibel past its clean maximum.",
                remedy="Tell the customer. Lower tones and warm days clip more.",
                hand_over=True,
            )
        ]
    return []


def _dummy_load(figures: Figures, choices: Choices) -> list[Finding]:
    if not LOAD.of(choices).dummy:
        return []
    return [
        Finding(
            kind=FindingKind.DUMMY_LOAD,
            severity=Severity.NOTE,
            title="A dummy load on every output",
            reason=f"{format_value(figures.load.total_ohm, 'Ω', 3)} for at least "
            f"{format_value(figures.aimed_w, 'W', 3)} of steady tone.",
            remedy="Put it on something fireproof, clear of trim and carpet. It gets hot enough to burn skin.",
        )
    ]
