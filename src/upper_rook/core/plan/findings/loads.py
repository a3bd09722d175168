"""Whether an amplifier can drive what hangs on it, and what it is counted on for there."""

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.common.units import format_db, format_hertz, format_value
from upper_rook.core.plan.figures import Figures
from upper_rook.core.plan.loudness import loudness
from upper_rook.core.stages.ratings import contradiction, lowest_rated_ohm
from upper_rook.core.system.amplifier import Mode
from upper_rook.core.system.loads import Load, rewired, wiring_words

_MAY_DIP = 0.8
"""Of the rated impedance (IEC 60268-5, from memory)."""
_STRONG_AMPLIFIER, _WEAK_AMPLIFIER = 2.0, 0.5
"""Ratios at which the trade starts to worry (common practice, no source)."""
_ENOUGH = 0.98
"""A load this near to the least is the least."""


def load_findings(figures: Figures, wanted_db: float | None = None) -> list[Finding]:
    """Findings where load and ratings don't fit."""
    return [
        *_too_low(figures),
        *_together(figures),
        *_dips(figures),
        *_proportion(figures, wanted_db),
        *_unlike(figures),
        *_rating(figures),
        *_one_driven(figures),
    ]


def _one_driven(figures: Figures) -> list[Finding]:
    """Watts that hold for one channel alone, where others share its supply."""
    if not figures.power.one_driven:
        return []
    return [
        Finding(
            kind=FindingKind.ONE_DRIVEN,
            severity=Severity.NOTE,
            title="Rated with one channel driven",
            reason=f"Its {figures.amplifier.all_channels} channels share a supply: together each gives less than "
            f"{format_value(figures.power.power_w, 'W')}, and clips about {format_db(figures.load_takes_db)} "
            "lower than "
            "with nothing at its terminals.",
            remedy="Take the watts with all channels driven, where the data sheet has them, or check the gain with a "
            "load resistor on every channel.",
        )
    ]


def _floor_ohm(figures: Figures) -> float:
    """The least that a channel of its amplifier is made for, as far as anybody says."""
    return max(lowest_rated_ohm(figures.amplifier) or 0.0, figures.amplifier.lowest_load_ohm or 0.0)


def _together(figures: Figures) -> list[Finding]:
    """Drivers behind capacitors that pull the load down where they come in."""
    load = figures.load
    if not load.others:
        return []
    floor_ohm = _floor_ohm(figures)
    least_ohm = load.least_ohm / figures.path.mode.amplifiers
    if least_ohm >= _ENOUGH * floor_ohm or figures.channel_ohm < _ENOUGH * floor_ohm:
        return []
    return [
        Finding(
            kind=FindingKind.LOAD_TOO_LOW_ABOVE,
            severity=Severity.STOP,
            title="Load below the amplifier’s lowest where the further drivers come in",
            reason=f"Above their capacitors’ corners all of them in parallel are "
            f"{format_value(least_ohm, 'Ω')} a channel. The amplifier needs {format_value(floor_ohm, 'Ω')} or more.",
            remedy="Use a passive crossover, or drive the further drivers from their own channel.",
        )
    ]


def _unlike(figures: Figures) -> list[Finding]:
    """Drivers of one channel of which one ends the others."""
    load = figures.load
    if not load.others or load.passive_hz or load.power_w is None:
        return []
    own_v = (load.power_w * load.count * load.total_ohm_of_equal) ** 0.5
    takes_v = (load.total_w * load.total_ohm) ** 0.5
    behind = [driver.name or "the further driver" for driver in load.others if driver.series_capacitor_uf]
    findings = []
    if takes_v < 0.99 * own_v:
        findings.append(
            Finding(
                kind=FindingKind.UNLIKE_DRIVERS,
                severity=Severity.NOTE,
                title="A further driver reaches its power limit first",
                reason=f"In parallel all get the same volts. Its limit is {format_value(takes_v, 'V', 3)}, "
                f"the speakers’ {format_value(own_v, 'V', 3)}.",
                remedy="It limits this channel. Drive it from its own channel for more.",
            )
        )
    if behind:
        findings.append(
            Finding(
                kind=FindingKind.BEHIND_CAPACITOR,
                severity=Severity.NOTE,
                title="A driver behind a capacitor is left out of the power",
                reason=f"{' and '.join(behind)}: music has little energy there, a steady tone has all of it.",
                remedy="Never play a sweep or tone above its corner with speakers connected.",
            )
        )
    return findings


def _dips(figures: Figures) -> list[Finding]:
    """Speakers that fall further below their rated impedance than a rated impedance allows."""
    load = figures.load
    falls_to, point = load.falls_to_ohm, load.lowest_point
    if falls_to is None or load.impedance_ohm is None or falls_to >= _MAY_DIP * load.speaker_ohm:
        return []
    where = f" at {format_hertz(point.frequency_hz)}" if point and point.ohm == falls_to else " at the least"
    return [
        Finding(
            kind=FindingKind.IMPEDANCE_DIPS,
            severity=Severity.RISK,
            title="Its impedance dips below its rating",
            reason=f"{format_value(falls_to, 'Ω')}{where}; a speaker of "
            f"{format_value(load.speaker_ohm, 'Ω')} may dip to {100 * _MAY_DIP:.0f} % of that.",
            remedy=f"Treat it as {format_value(falls_to / _MAY_DIP, 'Ω', 2)} when you choose the amplifier.",
        )
    ]


def _too_low(figures: Figures) -> list[Finding]:
    amplifier, seen_ohm = figures.amplifier, figures.channel_ohm
    rated_ohm, lowest_ohm, floor_ohm = lowest_rated_ohm(amplifier), amplifier.lowest_load_ohm, _floor_ohm(figures)
    if seen_ohm >= _ENOUGH * floor_ohm:
        return []
    made_for_it = lowest_ohm is not None and seen_ohm >= _ENOUGH * lowest_ohm
    if lowest_ohm and not made_for_it:
        known = f"it is made for {format_value(lowest_ohm, 'Ω')} and up"
    else:
        lowest = "Its lowest load allows it" if made_for_it else "Its lowest load isn’t known"
        known = f"no rating goes below {format_value(rated_ohm or 0, 'Ω')}. {lowest}"
    return [
        Finding(
            kind=FindingKind.LOAD_TOO_LOW,
            # What its maker allows harms nothing; nobody says how much it gives there.
            severity=Severity.RISK if made_for_it else Severity.STOP,
            title="Load below the amplifier’s ratings" if made_for_it else "Load below the amplifier’s lowest",
            reason=f"Each channel would see {format_value(seen_ohm, 'Ω')}; {known}.",
            remedy=_rewiring(figures, floor_ohm),
        )
    ]


def _rewiring(figures: Figures, floor_ohm: float) -> str:
    """How the same drivers fit, or the same amplifier is used otherwise."""
    load, mode = figures.load, figures.path.mode
    told = []
    fitting = [other for other in rewired(load) if other.total_ohm / mode.amplifiers >= _ENOUGH * floor_ohm]
    if fitting:
        best = min(fitting, key=lambda load: load.total_ohm)
        seen = _seen(best, mode)
        told.append(f"Join {wiring_words(best)}: {format_value(best.total_ohm, 'Ω')}{seen}")
    if mode is not Mode.PER_CHANNEL and load.total_ohm >= _ENOUGH * floor_ohm:
        without = "from one channel instead of bridged" if mode is Mode.BRIDGED else "from one amplifier alone"
        told.append(f"{'or drive' if told else 'Drive'} it {without}: {format_value(load.total_ohm, 'Ω')}")
    if not told:
        return (
            f"These speakers can’t be joined to give it {format_value(floor_ohm * mode.amplifiers, 'Ω')} or more: "
            "use fewer of them, others, or an amplifier made for it. Don’t switch it on like this."
        )
    return "; ".join(told) + "."


def _seen(load: Load, mode: Mode) -> str:
    text = format_value(load.total_ohm / mode.amplifiers, "Ω")
    return f", {text} for each channel" if mode.amplifiers > 1 else ""


def _proportion(figures: Figures, wanted_db: float | None) -> list[Finding]:
    power_w, takes_w = figures.power.power_w, figures.load.total_w
    ratio = power_w / takes_w
    compared = f"{format_value(power_w, 'W', 3)} against {format_value(takes_w, 'W', 3)}"
    if ratio >= _STRONG_AMPLIFIER:
        return [
            Finding(
                kind=FindingKind.AMPLIFIER_STRONG,
                severity=Severity.RISK,
                title="Amplifier far above the speakers",
                reason=f"{compared}: {ratio:.1f} times the speakers’ rating.",
                remedy="Set the gain to the target and mark the knob. Turned up, it burns the speakers.",
            )
        ]
    if ratio <= _WEAK_AMPLIFIER and not _is_loud_enough(figures, wanted_db):
        return [
            Finding(
                kind=FindingKind.AMPLIFIER_WEAK,
                severity=Severity.NOTE,
                title="Amplifier far below the speakers",
                reason=f"{compared}.",
                remedy="Past the target it only clips. Tell the customer.",
            )
        ]
    return []


def _is_loud_enough(figures: Figures, wanted_db: float | None) -> bool:
    """Whether the wanted loudness is reached with the watts that there are."""
    loud = loudness(figures, wanted_db)
    return loud is not None and loud.room_db is not None and loud.room_db >= 0


def _rating(figures: Figures) -> list[Finding]:
    power, findings = figures.power, []
    against = contradiction(figures.amplifier)
    if against:
        findings.append(
            Finding(
                kind=FindingKind.RATINGS_CONTRADICT,
                severity=Severity.RISK,
                title="Two ratings contradict each other",
                reason=f"{against}.",
                remedy="Check the data sheet and remove the other. Until then the lower one counts.",
            )
        )
    if power.distorted_percent:
        findings.append(
            Finding(
                kind=FindingKind.RATING_DISTORTED,
                severity=Severity.RISK,
                title=f"Rated at {power.distorted_percent:g} % distortion only",
                reason=f"That is clipped. Clean power is about {format_value(power.power_w, 'W', 3)}.",
                remedy="Look for a figure at 1 % or less. In the run the clean wave decides.",
            )
        )
    if power.estimated:
        findings.append(
            Finding(
                kind=FindingKind.RATING_ESTIMATED,
                severity=Severity.NOTE,
                title="No rating for this load",
                reason=power.because[0].upper() + power.because[1:] + ".",
                remedy="Look for the maker’s figure at this load and mode. In the run the clean wave decides.",
            )
        )
    return findings
