"""Findings about a target that was typed, or that rests on the amplifier alone."""

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.common.units import format_db, format_value, ratio_db
from upper_rook.core.plan.figures import Figures
from upper_rook.core.plan.target import HIGH_DB

_UNDER_DB = -3.0
"""Half of the watts: less by a slip as often as by intent (common practice, no source)."""


def target_findings(figures: Figures) -> list[Finding]:
    """Findings about where the target comes from."""
    return [*_unknown(figures), *_typed(figures)]


def _unknown(figures: Figures) -> list[Finding]:
    if not figures.speakers_unknown:
        return []
    watts = format_value(figures.aimed_w, "W", 3)
    return [
        Finding(
            kind=FindingKind.SPEAKERS_UNKNOWN,
            severity=Severity.RISK,
            title="The speakers’ watts aren’t known",
            reason=f"The target is {watts}, whatever the speakers take. Speakers that take less can burn.",
            remedy="Find their rated watts and type them before music is played loud.",
            hand_over=True,
        )
    ]


def _typed(figures: Figures) -> list[Finding]:
    if figures.path.wanted_v is None:
        return []
    off_db = ratio_db(figures.target_v, figures.rated_target_v)
    rated_v = format_value(figures.rated_target_v, "V")
    rated = f"√(watts × ohms) gives {rated_v}"
    limit = "amplifier" if figures.amplifier_limits else "speakers"
    volts = format_value(figures.target_v, "V")
    if off_db > HIGH_DB:
        return [
            Finding(
                kind=FindingKind.TARGET_TYPED,
                severity=Severity.RISK,
                title=f"The typed {volts} are {format_db(off_db)} above the ratings",
                reason=f"{rated}, set by the {limit}.",
                remedy=f"Check the figure and where it is from. Clear it to use {rated_v}.",
                hand_over=True,
            )
        ]
    if off_db < _UNDER_DB:
        return [
            Finding(
                kind=FindingKind.TARGET_TYPED,
                severity=Severity.NOTE,
                title=f"The typed {volts} are {format_db(-off_db)} below the ratings",
                reason=f"{rated}.",
                remedy="Check the figure, or leave it where less is wanted.",
            )
        ]
    return []
