"""Report on a recorded sweep, in figures and in words."""

from upper_rook.core.common.units import Frozen, format_db, format_hertz, format_value
from upper_rook.core.judge.conclusion import amount
from upper_rook.core.judge.in_words import InWords


class SweepFinding(InWords):
    """Verdict on a recorded sweep."""

    CLEAN = "clean"
    UNSEEN = "unseen"
    """Nothing clips where it would show, and in most of the pass band it would not."""
    CLIPPED = "clipped"
    OVER_RANGE = "over_range"
    """The recording itself was driven to the converter's limits."""
    NOT_A_SWEEP = "not_a_sweep"


class SweepPoint(Frozen):
    """One twelfth of an octave."""

    frequency_hz: float
    v_rms: float
    over_db: float | None = None
    """How far past its clean maximum it is driven; None when no flat top shows."""
    over_db_uncertainty: float | None = None


class ClippedRange(Frozen):
    """Neighbouring bands that clip."""

    low_hz: float
    high_hz: float
    worst_hz: float
    over_db: float
    over_db_uncertainty: float
    clean_v_rms: float
    """The clean maximum at the worst frequency."""


class HiddenRange(Frozen):
    """Neighbouring bands where the path leaves too little of the harmonics for half a decibel of clipping to show."""

    low_hz: float
    high_hz: float


class SweepReport(Frozen):
    """Report on a recorded sweep."""

    verdict: SweepFinding
    low_hz: float | None = None
    """The lowest and highest frequency that was heard."""
    high_hz: float | None = None
    seconds_an_octave: float | None = None
    points: tuple[SweepPoint, ...] = ()
    clipped: tuple[ClippedRange, ...] = ()
    pass_band_v: float | None = None
    """Level of the pass band, volts RMS."""
    flatness_db: float | None = None
    """Largest departure from it, half an octave inside the corners."""
    low_corner_hz: float | None = None
    """Where the level is 3 dB below the pass band; None when the sweep doesn't get there."""
    high_corner_hz: float | None = None
    blind_above_hz: float | None = None
    """Above it the third harmonic lies beyond the recording, so clipping can't be seen."""
    hidden: tuple[HiddenRange, ...] = ()
    """Ranges where clipping can't be seen."""
    reasons: tuple[str, ...] = ()


def sweep_reasons(report: SweepReport) -> tuple[str, ...]:
    """The report in sentences."""
    told = []
    if report.verdict is SweepFinding.OVER_RANGE:
        told.append("The recording itself reaches the converter’s limits: choose a larger range and record again.")
    told += [
        f"It clips between {format_hertz(stretch.low_hz)} and {format_hertz(stretch.high_hz)}, by "
        f"{amount(stretch.over_db, stretch.over_db_uncertainty)} at {format_hertz(stretch.worst_hz)}, "
        f"past {format_value(stretch.clean_v_rms, 'V')} RMS."
        for stretch in report.clipped
    ]
    if not report.clipped:
        told.append("No clipping where it would show.")
    corners = [format_hertz(value) for value in (report.low_corner_hz, report.high_corner_hz) if value is not None]
    if corners:
        told.append(f"3 dB below the pass band at {' and '.join(corners)}.")
    if report.flatness_db is not None:
        told.append(f"The pass band is flat within ± {format_db(max(0.1, report.flatness_db))}.")
    told += [
        f"Between {format_hertz(stretch.low_hz)} and {format_hertz(stretch.high_hz)} a filter or the noise hides the "
        "harmonics: clipping there can’t be seen."
        for stretch in report.hidden
    ]
    if report.blind_above_hz is not None:
        told.append(
            f"Above {format_hertz(report.blind_above_hz)} harmonics lie beyond this recording, "
            "so clipping there can’t be seen."
        )
    return tuple(told)
