"""Advice after a capture was judged."""

from upper_rook.core.common.units import format_hertz, format_value
from upper_rook.core.judge.spectrum import Carries, SpectrumReport
from upper_rook.core.judge.sweep_report import SweepFinding, SweepReport
from upper_rook.core.judge.wave_report import Verdict, WaveReport

_TURN_DOWN = "Turn the stage that clips down until the flat top is gone, or use the clean maximum below."

_WORTH_TELLING = 0.01

_SAID: dict[Verdict, tuple[str, ...]] = {
    Verdict.CLEAN: ("Go one step up and capture again until a flat top shows. The step before is the clean maximum.",),
    Verdict.UNSEEN: ("Capture it again as the reason says. Until then nothing is settled.",),
    Verdict.EDGE: ("This is the edge. Stay here if slight clipping is accepted, else go one step down.",),
    Verdict.CLIPPED: (_TURN_DOWN,),
    Verdict.SQUARE: (_TURN_DOWN, "Driven this far, check for an earlier stage that is set far too high."),
    Verdict.DISTORTED: (
        "This isn’t plain clipping. Lower the level by 6 dB and capture again. If the harmonics keep their share, the "
        "stage itself distorts, or an equaliser, loudness or expander is on.",
    ),
    Verdict.OVER_RANGE: ("Choose a larger range on the instrument, or a ×10 probe, and capture again.",),
    Verdict.WRONG_TONE: ("Start the right track and capture again.",),
    Verdict.NOT_A_TONE: ("Play a steady test tone and capture again.",),
    Verdict.SILENT: ("Check the tone, the mute, and the probe’s position.",),
    Verdict.TOO_SHORT: ("Capture it again with five to ten cycles, and 20 samples or more in each.",),
}


def wave_advice(
    report: WaveReport, sweep: SweepReport | None = None, spectrum: SpectrumReport | None = None
) -> tuple[str, ...]:
    """Short orders that follow from a report."""
    if sweep:
        return _sweep_advice(sweep)
    if spectrum:
        return _spectrum_advice(spectrum)
    said = _SAID[report.verdict]
    share = distortion_share(report.thd_percent or 0.0)
    if report.verdict in (Verdict.CLIPPED, Verdict.SQUARE) and share > _WORTH_TELLING:
        said = (*said, f"Of its watts about {100 * (1 - share):.0f} % are the tone, {100 * share:.0f} % distortion.")
    if report.verdict in (Verdict.CLIPPED, Verdict.SQUARE) and report.clean_v_rms is not None:
        said = (*said, f"Clean maximum here: {format_value(report.clean_v_rms, 'V')} RMS.")
    return said


def distortion_share(thd_percent: float) -> float:
    """
    Share of a wave's power that is not its tone, from the harmonics over the fundamental.

    >>> round(distortion_share(48.3), 3)
    0.189
    """
    ratio = (thd_percent / 100) ** 2
    return ratio / (1 + ratio)


def _sweep_advice(sweep: SweepReport) -> tuple[str, ...]:
    if sweep.verdict is SweepFinding.OVER_RANGE:
        return _SAID[Verdict.OVER_RANGE]
    if sweep.verdict is SweepFinding.CLIPPED:
        worst = max(sweep.clipped, key=lambda clipped_range: clipped_range.over_db)
        return (
            f"Set the gain again with a tone at {format_hertz(worst.worst_hz)}, where it clips most, "
            "or remove the boost there.",
        )
    if sweep.hidden or sweep.blind_above_hz:
        return (
            "Where clipping would show, nothing clips. Check the rest with a tone before the filter, or record faster.",
            "Write down the volume and save the recording with the job.",
        )
    return ("Nothing clips at this setting. Write down the volume and save the recording with the job.",)


def _spectrum_advice(spectrum: SpectrumReport) -> tuple[str, ...]:
    if spectrum.carries is Carries.FULL_RANGE:
        return ("Full range: this tap can feed any amplifier.",)
    if spectrum.carries is Carries.BASS:
        return ("Use this tap for a subwoofer only, or sum it with one that carries the rest.",)
    return ("Part of the range is missing. Look for a filter before this point, or a second tap to sum.",)
