"""Switches and boosts on the amplifier: routing against leads, filters that a switch leaves in or takes out."""

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.units import format_hertz, format_signed
from upper_rook.core.plan.figures import Figures
from upper_rook.core.signal.filters import ChannelFilter, FilterPlace, Pass, SwitchPosition
from upper_rook.core.system.amplifier import Mode, Routing
from upper_rook.core.system.chain import Path
from upper_rook.core.system.loads import Band
from upper_rook.core.system.source import Sides

_UNEXPECTED = {
    (Pass.HIGH, SwitchPosition.FLAT),
    (Pass.LOW, SwitchPosition.FLAT),
    (Pass.HIGH, SwitchPosition.LOW),
    (Pass.LOW, SwitchPosition.HIGH),
}
"""Where nobody expects a filter to be in the signal."""


def switch_findings(figures: Figures) -> list[Finding]:
    """What the amplifier's switches, and the leads plugged into it, do to one path."""
    path = figures.path
    return [*_sides(figures), *_routing(figures), *_boost(path), *_filter_switch(path)]


def _sides(figures: Figures) -> list[Finding]:
    """One side of the music where both are wanted."""
    sides, path = figures.output.sides, figures.path
    if sides not in (Sides.LEFT, Sides.RIGHT):
        return []
    name = figures.output.name or "The output"
    missing = "right" if sides is Sides.LEFT else "left"
    whole = path.mode is not Mode.PER_CHANNEL or figures.amplifier.channels == 1 or figures.load.band is Band.SUB
    if not whole and path.leads == 1:
        return []
    return [
        Finding(
            key="half-of-music",
            severity=Severity.RISK,
            title="Half of the music",
            reason=f"{name} carries the {sides.value} side only"
            + (", and these speakers are to play both." if whole else f"; the {missing} channel gets nothing."),
            remedy=f"Bring the {missing} side as well: both leads into the amplifier's pair, or a mono output.",
        )
    ]


def _routing(figures: Figures) -> list[Finding]:
    path = figures.path
    if path.leads == 0 and path.routing is not Routing.SHARED:
        return [
            Finding(
                key="no-signal",
                severity=Severity.STOP,
                title="No signal reaches this pair",
                reason="No lead is plugged in"
                + (" and the routing switch stands at its own inputs." if path.routing else "."),
                remedy="Plug a lead in, or set the routing switch so that the first pair's inputs feed it.",
            )
        ]
    if path.routing is Routing.SHARED and path.leads:
        return [
            Finding(
                key="leads-unused",
                severity=Severity.RISK,
                title="Leads that the routing switch ignores",
                reason="The switch takes this pair's signal from the first pair; what is plugged in here isn't heard.",
                remedy="Set the switch to own inputs, or leave these leads out.",
            )
        ]
    # A mono amplifier has one input, and one side alone is told already.
    one_side = figures.output.sides is not Sides.PAIR
    if path.leads == 1 and figures.amplifier.channels == 2 and not one_side:
        return [
            Finding(
                key="one-lead",
                severity=Severity.NOTE,
                title="One lead for the pair",
                reason="The other channel gets nothing unless its routing switch or a splitter brings it over.",
                remedy="Check the second channel in the run, or split the lead.",
            )
        ]
    return []


def _boost(path: Path) -> list[Finding]:
    if path.boost is None or not path.boost.gain_db:
        return []
    hertz, gain_db = format_hertz(path.boost.frequency_hz), path.boost.gain_db
    return [
        Finding(
            key="boost",
            severity=Severity.RISK,
            title=f"Boost of {format_signed(gain_db)} dB in use",
            reason=f"Round {hertz} the amplifier gives {gain_db:g} dB more than a gain set elsewhere shows.",
            remedy=f"Turn it to zero; if it must stay, set the gain at {hertz}.",
            hand_over=True,
        )
    ]


def _filter_switch(path: Path) -> list[Finding]:
    findings = []
    for place, one in enumerate(path.filters):
        if one.place is not FilterPlace.AMPLIFIER or not one.active_in or path.filter_switch is None:
            continue
        if not path.works(one):
            findings.append(
                Finding(
                    key=f"idle-filter-{place}",
                    severity=Severity.RISK,
                    title=f"The {_named(one)} does nothing",
                    reason=f"The filter switch stands at {path.filter_switch.value}, which takes it out.",
                    remedy=f"Set the switch to {' or '.join(one.active_in)}, or take the filter away.",
                )
            )
        elif (one.crossover.kind, path.filter_switch) in _UNEXPECTED:
            findings.append(
                Finding(
                    key=f"stays-active-{place}",
                    severity=Severity.NOTE,
                    title=f"The {_named(one)} stays active",
                    reason=f"With the filter switch at {path.filter_switch.value} nobody would expect it.",
                    remedy="It is counted here; for measuring the gain turn it wide open.",
                )
            )
    return findings


def _named(one: ChannelFilter) -> str:
    return f"{one.crossover.kind.value}-pass at {format_hertz(one.crossover.corner_hz)}"
