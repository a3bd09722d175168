"""Whether anybody plays the bass and the treble, and whether anything divides a sub from the rest."""

from collections.abc import Iterator

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.common.units import format_hertz
from upper_rook.core.crossover.driver_groups import is_sub, named
from upper_rook.core.crossover.tweeters import is_tweeter, may_be_tweeter
from upper_rook.core.signal.filters import Pass
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.path import Path

_BASS_HZ, _TREBLE_HZ = 110.0, 10_000.0
"""Music without what lies below or above these lacks something (common practice, no source)."""


def coverage_findings(chain: Chain) -> Iterator[Finding]:
    """Bands that nobody plays; a system of subs alone is part of something larger."""
    mains = [path for path in chain.paths if not is_sub(chain, path)]
    if not mains:
        return
    yield from _end(chain, chain.paths, Pass.HIGH)
    yield from _end(chain, tuple(mains), Pass.LOW)
    yield from _undivided(chain, mains)


def _end(chain: Chain, paths: tuple[Path, ...], kind: Pass) -> Iterator[Finding]:
    """The end of the whole system's band: the bass by its high-passes, the treble by its low-passes."""
    bass = kind is Pass.HIGH
    edges = [(*_edge(chain, path, kind), path) for path in paths]
    hertz, made, path = (min if bass else max)(edges, key=lambda row: row[0])
    if hertz <= _BASS_HZ if bass else hertz >= _TREBLE_HZ:
        return
    filtered = hertz > made if bass else hertz < made
    # A filter is only in the way of speakers that play what is missing: opening a tweeter's would burn it.
    reaches = filtered and (made <= _BASS_HZ and not _may_be_tweeter(chain, path) if bass else made >= _TREBLE_HZ)
    what, beyond, filter_name = ("bass", "below", "high-pass") if bass else ("treble", "above", "low-pass")
    yield Finding(
        kind=FindingKind.NO_BASS if bass else FindingKind.NO_TREBLE,
        severity=Severity.RISK if reaches else Severity.NOTE,
        title=f"No speaker plays the {what}",
        reason=f"{named(path)} {'reaches lowest' if bass else 'reaches highest'}, and nothing plays {beyond} "
        f"{format_hertz(hertz)}: "
        + (f"its {filter_name} ends there." if filtered else "its speakers or its source end there."),
        remedy=f"Set that {filter_name} {'lower' if bass else 'higher'} or open it, as far as the speakers play."
        if reaches
        else f"Fine if that is wanted; else it needs {'a sub or a woofer' if bass else 'a tweeter'}.",
        paths=(path.id,),
    )


def _may_be_tweeter(chain: Chain, path: Path) -> bool:
    load = chain.load_of(path)
    return is_tweeter(load) or may_be_tweeter(path, load)


def _edge(chain: Chain, path: Path, kind: Pass) -> tuple[float, float]:
    """Where a path ends on one side, and where its speakers or its source end without its filters."""
    load, outputs = chain.load_of(path), chain.outputs_of(path)
    corners = [
        channel_filter.crossover.corner_hz for channel_filter in path.working if channel_filter.crossover.kind is kind
    ]
    if kind is Pass.HIGH:
        carried = min(output.lowest_hz or 0.0 for output in outputs)
        made, set_to = max(load.lowest_hz or 0.0, carried), max(corners, default=0.0)
        return max(made, set_to), made
    carried = max(output.highest_hz or 20_000.0 for output in outputs)
    made, set_to = min(load.highest_hz or 20_000.0, carried), min(corners, default=20_000.0)
    return min(made, set_to), made


def _undivided(chain: Chain, mains: list[Path]) -> Iterator[Finding]:
    """Subs and others that nothing divides: both play everything."""
    subs = [path for path in chain.paths if is_sub(chain, path)]
    for sub in subs:
        if not any(channel_filter.crossover.kind is Pass.LOW for channel_filter in sub.working):
            yield Finding(
                kind=FindingKind.NO_LOW_PASS,
                about=(sub.id,),
                severity=Severity.RISK,
                title=f"{named(sub)}: no crossover",
                reason="A sub without a low-pass plays voices too.",
                remedy="Set a low-pass, usually 80 Hz.",
                paths=(sub.id,),
            )
    if subs and not any(
        channel_filter.crossover.kind is Pass.HIGH for path in mains for channel_filter in path.working
    ):
        yield Finding(
            kind=FindingKind.NO_HIGH_PASS,
            severity=Severity.NOTE,
            title="No high-pass on the other speakers",
            reason="There is a sub, but the other speakers play its band too.",
            remedy="Set a high-pass for them where the sub ends, usually 80 Hz.",
            paths=tuple(path.id for path in mains),
        )
