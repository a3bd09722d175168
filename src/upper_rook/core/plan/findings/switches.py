"""Switches and boosts on the amplifier: routing against leads, filters that a switch leaves in or takes out."""

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.common.units import format_hertz, format_signed, from_db
from upper_rook.core.plan.figures import Figures
from upper_rook.core.signal.filters import ChannelFilter, FilterPlace, Pass, SwitchPosition
from upper_rook.core.system.amplifier import Mode, Routing
from upper_rook.core.system.loads import Band
from upper_rook.core.system.path import Path
from upper_rook.core.system.source import Sides

_UNEXPECTED = {
    (Pass.HIGH, SwitchPosition.FLAT),
    (Pass.LOW, SwitchPosition.FLAT),
    (Pass.HIGH, SwitchPosition.LOW),
    (Pass.LOW, SwitchPosition.HIGH),
}
"""Where nobody expects a filter to be in the signal."""


def switch_findings(figures: Figures) -> list[Finding]:
    """Findings about the amplifier's switches, and the leads plugged into it, on one path."""
    path = figures.path
    return [
        *_sides(figures),
        *_trims(figures),
        *_routing(figures),
        *_boost(path),
        *_level_knob(figures),
        *_filter_switch(path),
    ]


def _sides(figures: Figures) -> list[Finding]:
    """One side of the music where both are wanted."""
    sides, path = figures.sides, figures.path
    if sides not in (Sides.LEFT, Sides.RIGHT):
        return []
    name = figures.output.name or "The output"
    missing = "right" if sides is Sides.LEFT else "left"
    # A speaker of one side on an amplifier of its own hears all it should where another plays the other side.
    single = path.mode is not Mode.PER_CHANNEL or figures.amplifier.channels == 1
    if single and figures.other_side and figures.load.band is not Band.SUB:
        return []
    whole = path.mode is not Mode.PER_CHANNEL or figures.amplifier.channels == 1 or figures.load.band is Band.SUB
    if not whole and path.leads == 1:
        return []
    return [
        Finding(
            kind=FindingKind.HALF_OF_MUSIC,
            severity=Severity.RISK,
            title="Half of the music",
            reason=f"{name} carries the {sides.value} side only"
            + (", and these speakers are to play both." if whole else f"; the {missing} channel gets nothing."),
            remedy=f"Connect the {missing} side too: both leads into the amplifier’s pair, or a mono output.",
        )
    ]


def _trims(figures: Figures) -> list[Finding]:
    """Findings about differences between left and right of a pair."""
    path = figures.path
    if not figures.is_pair:
        return []
    findings = []
    if path.sides_apart_db:
        louder = path.louder.value
        findings.append(
            Finding(
                kind=FindingKind.SIDES_APART,
                severity=Severity.NOTE,
                title=f"Left and right are set {path.sides_apart_db:g} dB apart",
                reason=f"The {louder} side is louder and clips first. Set the gain on it.",
                remedy=f"The other then shows {100 * from_db(-path.sides_apart_db):.0f} % of its volts.",
            )
        )
    if path.left.inverted != path.right.inverted:
        findings.append(
            Finding(
                kind=FindingKind.SIDE_INVERTED,
                severity=Severity.RISK,
                title="One side has reversed polarity",
                reason="Left and right cancel in the bass, and the centre image is lost (common practice, no source).",
                remedy="Turn it back, unless that speaker is wired in reverse.",
            )
        )
    return findings


def _level_knob(figures: Figures) -> list[Finding]:
    """A remote level knob that can be turned up past where the gain was set."""
    knob = figures.amplifier.bass_knob
    if knob is None or knob.highest_db <= knob.stands_db:
        return []
    more = knob.highest_db - knob.stands_db
    return [
        Finding(
            kind=FindingKind.LEVEL_KNOB,
            severity=Severity.RISK,
            title=f"The remote level knob can add {more:g} dB",
            reason=f"The gain is set with it at {format_signed(knob.stands_db)} dB and it goes up to "
            f"{format_signed(knob.highest_db)} dB: turned up, the rest clips that much earlier.",
            remedy="Set the gain with it fully up. Then it can only lower the level.",
            hand_over=True,
        )
    ]


def _routing(figures: Figures) -> list[Finding]:
    path, routing = figures.path, figures.amplifier.routing
    sections = figures.amplifier.sections
    # Where the first pair's inputs feed everything, it is on them that a lead hangs.
    takes_over = routing is Routing.SHARED and not (sections and path.section == sections[0].id)
    if path.leads == 0 and not takes_over:
        return [
            Finding(
                kind=FindingKind.NO_SIGNAL,
                severity=Severity.STOP,
                title="No signal reaches this pair",
                reason="No signal lead plugged in" + _why_not(routing),
                remedy="Plug a signal lead in, or set the routing switch to the first pair."
                if routing is not Routing.SHARED
                else "Plug a lead into the first pair.",
            )
        ]
    if takes_over and path.leads:
        return [
            Finding(
                kind=FindingKind.LEADS_UNUSED,
                severity=Severity.RISK,
                title="Unused signal leads",
                reason="The routing switch uses the first pair’s signal. These leads do nothing.",
                remedy="Set the switch to own inputs, or unplug these leads.",
            )
        ]
    # A mono amplifier has one input, and one side alone is told already.
    one_side = figures.sides is not Sides.PAIR
    if path.leads == 1 and figures.amplifier.channels == 2 and not one_side:
        return [
            Finding(
                kind=FindingKind.ONE_LEAD,
                severity=Severity.NOTE,
                title="One signal lead for the pair",
                reason="The other channel has no signal without a splitter or the routing switch.",
                remedy="Check the second channel in the run, or use a splitter.",
            )
        ]
    return []


def _why_not(routing: Routing | None) -> str:
    if routing is Routing.OWN:
        return " and the routing switch is at own inputs."
    return ", and the first pair’s inputs feed the whole amplifier." if routing is Routing.SHARED else "."


def _boost(path: Path) -> list[Finding]:
    if path.boost is None or not path.boost.gain_db:
        return []
    hertz, gain_db = format_hertz(path.boost.frequency_hz), path.boost.gain_db
    return [
        Finding(
            kind=FindingKind.BOOST,
            severity=Severity.RISK,
            title=f"Boost of {format_signed(gain_db)} dB in use",
            reason=f"At {hertz} the output is {gain_db:g} dB above the gain set elsewhere.",
            remedy=f"Turn it to zero. If it must stay, set the gain at {hertz}.",
            hand_over=True,
        )
    ]


def _filter_switch(path: Path) -> list[Finding]:
    findings = []
    for place, channel_filter in enumerate(path.filters):
        if (
            channel_filter.place is not FilterPlace.AMPLIFIER
            or not channel_filter.active_in
            or path.filter_switch is None
        ):
            continue
        if not path.works(channel_filter):
            findings.append(
                Finding(
                    kind=FindingKind.IDLE_FILTER,
                    about=(place,),
                    severity=Severity.RISK,
                    title=f"The {_named(channel_filter)} does nothing",
                    reason=f"The filter switch is at {path.filter_switch.value}, so the filter is off.",
                    remedy=f"Set the switch to {' or '.join(channel_filter.active_in)}, or remove the filter.",
                )
            )
        elif (channel_filter.crossover.kind, path.filter_switch) in _UNEXPECTED:
            findings.append(
                Finding(
                    kind=FindingKind.STAYS_ACTIVE,
                    about=(place,),
                    severity=Severity.NOTE,
                    title=f"The {_named(channel_filter)} stays active",
                    reason=f"It stays in with the filter switch at {path.filter_switch.value}.",
                    remedy="It counts here. Turn it wide open for the gain.",
                )
            )
    return findings


def _named(channel_filter: ChannelFilter) -> str:
    return f"{channel_filter.crossover.kind.value}-pass at {format_hertz(channel_filter.crossover.corner_hz)}"
