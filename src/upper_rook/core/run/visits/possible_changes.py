"""Things that may have moved since a system was set, and how each shows in a reading."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import format_db, format_hertz
from upper_rook.core.run.readings.step_keys import converter_key, corner_key, gain_key
from upper_rook.core.run.visits.check_point import CheckPoint
from upper_rook.core.signal.filters import BandKind, ChannelFilter, EqualiserBand, FilterPlace, equaliser_db
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.path import Path
from upper_rook.core.system.playing import INPUT_WORDS, InputKind
from upper_rook.core.system.processor import ProcessorKind
from upper_rook.core.system.source import Sides, Source

Array = NDArray[np.float64]
Effect = Callable[[CheckPoint, Array], Array]
"""Decibels that a reading changes by, for each of so many amounts of its unit that the thing moved by."""

_LEVEL_DB, _TURNED_OCTAVES, _TONE_DB, _BALANCE_DB = 1.0, 1 / 3, 6.0, 3.0
"""Smallest changes that a check should see: a knob, a filter's dial, a tone control, the balance (common practice)."""
_BASS_HZ, _TREBLE_HZ, _SHELF_Q = 100.0, 6000.0, 0.7
"""Where tone controls and loudness take hold (common practice, no source)."""
_LEVELS = np.arange(-40.0, 24.1, 0.25)
_OCTAVES = np.arange(-72, 73) / 24
_TONES = np.arange(-16.0, 16.1, 0.5)


@dataclass(frozen=True)
class _ToneControl:
    key: str
    name: str
    shelves: tuple[tuple[BandKind, float, float], ...]
    """Kind, hertz, and part of its amount that it lifts by."""
    weight: float


_TONE_CONTROLS = (
    _ToneControl("bass", "bass or an expander", ((BandKind.LOW_SHELF, _BASS_HZ, 1.0),), 1.0),
    # Ears lose bass before they lose treble (ISO 226).
    _ToneControl(
        "loudness", "loudness", ((BandKind.LOW_SHELF, _BASS_HZ, 1.0), (BandKind.HIGH_SHELF, _TREBLE_HZ, 0.5)), 1.0
    ),
    _ToneControl("treble", "treble", ((BandKind.HIGH_SHELF, _TREBLE_HZ, 1.0),), 0.5),
)


@dataclass(frozen=True)
class PossibleChange:
    """One thing that a hand, a battery or a setting can have moved."""

    key: str
    name: str
    """The thing, in the trade's words."""
    reaches: Callable[[CheckPoint], bool]
    """Whether a point lies behind it."""
    effect: Effect
    """For a point that lies behind it."""
    smallest: tuple[float, ...]
    """Amounts that should be seen, each way it can move."""
    amounts: Array
    """Amounts to explain readings by."""
    in_words: Callable[[float], str]
    """By how much it moved, in words."""
    step: str | None = None
    """The step of the run that sets it; None where it is a setting of the source."""
    weight: float = 1.0
    """How often it is what moved, against a gain (common practice, no source)."""

    def effects(self, point: CheckPoint, amounts: Array | None = None) -> Array:
        """Decibels that a reading changes by, for each of `amounts`; for its own without them."""
        wanted = self.amounts if amounts is None else amounts
        return self.effect(point, wanted) if self.reaches(point) else np.zeros(wanted.shape)

    def shows_at(self, point: CheckPoint) -> bool:
        """Whether its smallest amounts change a reading at all."""
        return self.reaches(point) and bool(np.any(self.effect(point, np.array(self.smallest))))


def possible_changes(chain: Chain, points: tuple[CheckPoint, ...]) -> tuple[PossibleChange, ...]:
    """Everything of a chain that may have moved, as far as any of `points` lies behind it."""
    found = (*_of_sources(chain), *_of_converters(chain), *_of_paths(chain))
    return tuple(change for change in found if any(change.shows_at(point) for point in points))


def _levelled(amount: float) -> str:
    if amount <= 0:
        return f"{format_db(-amount)} less"
    # A level that is raised at the clean maximum clips, and reads less than it was raised.
    return f"{'at least ' if amount > 1 else ''}{format_db(amount)} more"


def _level(key: str, name: str, reaches: Callable[[CheckPoint], bool], step: str | None = None) -> PossibleChange:
    """A level in the signal: every point behind it moves alike."""
    return PossibleChange(
        key=key,
        name=name,
        reaches=reaches,
        effect=lambda _point, amounts: amounts,
        smallest=(-_LEVEL_DB, _LEVEL_DB),
        amounts=_LEVELS,
        in_words=_levelled,
        step=step,
    )


def _of_sources(chain: Chain) -> Iterator[PossibleChange]:
    for source in chain.feeding():
        of = f" of {source.name}" if source.name and len(chain.feeding()) > 1 else ""
        ways: tuple[InputKind | None, ...] = tuple(played.kind for played in source.inputs) or (None,)
        for way in ways:
            yield _of_way(source, way, of)
        outputs = chain.outputs_used(source)
        if len(outputs) > 1:
            for output in outputs:
                yield _of_output(source, output.id, output.name or output.id)
        for control in _TONE_CONTROLS:
            yield _of_tone_control(source, control, of)
        if any(output.sides is Sides.PAIR for output in outputs):
            yield _of_balance(source, of)


def _of_way(source: Source, way: InputKind | None, of: str) -> PossibleChange:
    name = f"level of {INPUT_WORDS[way]}{of}" if way else f"the source’s level{of}"
    return _level(
        f"way.{source.id}.{way.value if way else 'any'}",
        f"{name} (trim, player or track)",
        lambda point: point.source == source.id and (way is None or point.way in (None, way)),
    )


def _of_output(source: Source, output: str, name: str) -> PossibleChange:
    return _level(
        f"output.{source.id}.{output}",
        f"level of {name} (fader or sub level)",
        lambda point: (point.source, point.output) == (source.id, output),
    )


def _of_tone_control(source: Source, control: _ToneControl, of: str) -> PossibleChange:
    def effect(point: CheckPoint, amounts: Array) -> Array:
        return np.array([_lifted_db(control.shelves, float(amount), point.hertz) for amount in amounts])

    return PossibleChange(
        key=f"{control.key}.{source.id}",
        name=f"{control.name}{of}",
        reaches=lambda point: point.source == source.id,
        effect=effect,
        smallest=(_TONE_DB,),
        amounts=_TONES,
        in_words=_levelled,
        weight=control.weight,
    )


@lru_cache(maxsize=4096)
def _lifted_db(shelves: tuple[tuple[BandKind, float, float], ...], amount: float, frequency_hz: float) -> float:
    """Decibels that shelves lift a tone by; every check asks for the same few tones."""
    bands = tuple(
        EqualiserBand(kind=kind, frequency_hz=hertz, gain_db=part * amount, q=_SHELF_Q) for kind, hertz, part in shelves
    )
    return float(equaliser_db(bands, np.array([frequency_hz]))[0])


def _of_balance(source: Source, of: str) -> PossibleChange:
    def effect(point: CheckPoint, amounts: Array) -> Array:
        # Turned to one side, the other side loses; the side that it is turned to stays.
        return np.minimum(0.0, amounts if point.is_right else -amounts)

    return PossibleChange(
        key=f"balance.{source.id}",
        name=f"balance{of}",
        reaches=lambda point: point.source == source.id,
        effect=effect,
        smallest=(-_BALANCE_DB,),
        amounts=_LEVELS,
        in_words=lambda amount: f"{_levelled(-abs(amount))} on the {'left' if amount > 0 else 'right'}",
        weight=0.5,
    )


def _of_converters(chain: Chain) -> Iterator[PossibleChange]:
    seen: set[tuple[str, str]] = set()
    for path in chain.paths:
        for part in chain.processors_of(path):
            trim = part.id, path.converter_output
            if part.kind is not ProcessorKind.CONVERTER or trim in seen:
                continue
            seen.add(trim)
            behind = {
                other.id
                for other in chain.paths
                if part.id in other.through and other.converter_output == path.converter_output
            }
            yield _level(
                f"converter.{part.id}.{path.id}",
                f"trim of {part.name or 'the converter'}",
                lambda point, behind=behind: point.path in behind,  # type: ignore[misc]
                converter_key(part.id, path.id),
            )


def _of_paths(chain: Chain) -> Iterator[PossibleChange]:
    for path in chain.paths:
        name = path.name or "the path"
        yield _level(f"gain.{path.id}", f"gain of {name}", _at_terminals_of(path), gain_key(path.id))
        for place, channel_filter in enumerate(path.filters):
            if path.works(channel_filter):
                yield _of_filter(path, place, channel_filter)


def _at_terminals_of(path: Path) -> Callable[[CheckPoint], bool]:
    return lambda point: point.path == path.id


def _of_filter(path: Path, place: int, channel_filter: ChannelFilter) -> PossibleChange:
    crossover = channel_filter.crossover
    has_step = channel_filter.place is FilterPlace.AMPLIFIER

    def effect(point: CheckPoint, octaves: Array) -> Array:
        # A filter that is turned up passes what it passed of a tone as much lower.
        there = crossover.level_db(point.hertz / 2.0**octaves)
        return np.asarray(there - crossover.level_db(np.array([point.hertz]))[0])

    return PossibleChange(
        key=f"filter.{path.id}.{place}",
        name=f"{crossover.kind.value}-pass of {path.name or 'the path'}",
        reaches=_at_terminals_of(path),
        effect=effect,
        smallest=(-_TURNED_OCTAVES, _TURNED_OCTAVES),
        amounts=_OCTAVES,
        in_words=lambda octaves: (
            f"at about {format_hertz(crossover.corner_hz * 2**octaves, 2)} "
            f"instead of {format_hertz(crossover.corner_hz)}"
        ),
        step=corner_key(path.id, place) if has_step else None,
    )
