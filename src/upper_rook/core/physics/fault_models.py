"""Models of faults: each changes the parts on the bench."""

from collections.abc import Callable

from upper_rook.core.common.units import from_db
from upper_rook.core.physics.bench import BenchModel
from upper_rook.core.physics.faults import Fault
from upper_rook.core.signal.filters import BandKind, Crossover, EqualiserBand, Pass

_NOTHING_DB = -70.0
"""Part of the signal that leaks where nothing is connected."""
_LOUDNESS = (
    EqualiserBand(kind=BandKind.LOW_SHELF, frequency_hz=100, gain_db=8, q=0.7),
    EqualiserBand(kind=BandKind.HIGH_SHELF, frequency_hz=8000, gain_db=4, q=0.7),
)


def _source(**changes: object) -> Callable[[BenchModel], BenchModel]:
    return lambda model: model.model_copy(update={"source": model.source.model_copy(update=changes)})


def _lifted(*bands: EqualiserBand) -> Callable[[BenchModel], BenchModel]:
    return _source(lifts=bands)


def _amplifier(**changes: object) -> Callable[[BenchModel], BenchModel]:
    return lambda model: model.model_copy(update={"amplifier": model.amplifier.model_copy(update=changes)})


def _bench(**changes: object) -> Callable[[BenchModel], BenchModel]:
    return lambda model: model.model_copy(update=changes)


def _weak_source(model: BenchModel) -> BenchModel:
    return _source(clean_v=model.source.clean_v / 2)(model)


def _weak_amplifier(model: BenchModel) -> BenchModel:
    return _amplifier(rail_peak_v=model.amplifier.rail_peak_v * from_db(-3))(model)


def _early_limiter(model: BenchModel) -> BenchModel:
    return _amplifier(rail_peak_v=model.amplifier.rail_peak_v * from_db(-4), limiter=True)(model)


def _at_flat(model: BenchModel) -> BenchModel:
    filters = tuple(dial_model.model_copy(update={"bypassed": True}) for dial_model in model.filters)
    return model.model_copy(update={"filters": filters})


def _stacked(model: BenchModel) -> BenchModel:
    """The filter that leaves nothing of the first one's band comes in with it."""
    if not model.filters:
        return model
    first = model.filters[0].crossover
    over = Pass.LOW if first.kind is Pass.HIGH else Pass.HIGH
    away = 1 / 2.5 if over is Pass.LOW else 2.5
    corner = min(20_000.0, max(5.0, first.corner_hz * away))
    return model.model_copy(update={"stuck": (Crossover(kind=over, corner_hz=corner, order=8),)})


def _converter(**changes: object) -> Callable[[BenchModel], BenchModel]:
    def broken(model: BenchModel) -> BenchModel:
        if not model.converter:
            return model
        place = model.converter - 1
        stages = list(model.through)
        stages[place] = stages[place].model_copy(update=changes)
        return model.model_copy(update={"through": tuple(stages)})

    return broken


_EFFECTS: dict[Fault, Callable[[BenchModel], BenchModel]] = {
    Fault.NORMALISER: _source(player_db=-7.0),
    Fault.PHONE_VOLUME: _source(player_db=-12.0),
    Fault.LEVEL_TRIM: _source(player_db=-8.0),
    Fault.LOUDNESS: _lifted(*_LOUDNESS),
    Fault.BASS_UP: _lifted(EqualiserBand(kind=BandKind.LOW_SHELF, frequency_hz=120, gain_db=10, q=0.7)),
    Fault.TREBLE_UP: _lifted(EqualiserBand(kind=BandKind.HIGH_SHELF, frequency_hz=4000, gain_db=10, q=0.7)),
    Fault.FADER: _source(output_db=-9.0),
    Fault.BALANCE: _bench(right_db=6.0),
    Fault.WEAK_SOURCE: _weak_source,
    Fault.OTHER_TRACK: _bench(octaves=1.0),
    Fault.QUIET_TRACK: _bench(track_db=10.0),
    Fault.HALF_IN: _bench(line_db=-12.0),
    Fault.LEAD_OFF: _bench(line_db=_NOTHING_DB),
    Fault.RIGHT_OFF: _bench(right_db=-_NOTHING_DB),
    Fault.WRONG_PAIR: _bench(elsewhere=True),
    Fault.ROUTING: _bench(line_db=_NOTHING_DB),
    Fault.FILTERED_LOW: _bench(stuck=(Crossover(kind=Pass.HIGH, corner_hz=120, order=4),)),
    Fault.FILTERED_HIGH: _bench(stuck=(Crossover(kind=Pass.LOW, corner_hz=50, order=4),)),
    Fault.BOOST_IN: _bench(boosts=(EqualiserBand(frequency_hz=45, gain_db=9, q=1),)),
    Fault.KNOB_DOWN: _bench(line_db=-18.0),
    Fault.WEAK_AMPLIFIER: _weak_amplifier,
    Fault.EARLY_LIMITER: _early_limiter,
    Fault.GAIN_DEAD: _amplifier(reaches=0.0),
    Fault.FILTER_AT_FLAT: _at_flat,
    Fault.STACKED_FILTER: _stacked,
    Fault.ROLL_OFF: _converter(filters=(Crossover(kind=Pass.HIGH, corner_hz=60, order=2),)),
    Fault.ASLEEP: _converter(asleep=True),
    Fault.TIRED_BATTERY: _bench(supply_off_v=-2.3),
    Fault.OVERCHARGED: _bench(supply_off_v=1.7),
}


def broken(model: BenchModel, faults: tuple[Fault, ...]) -> BenchModel:
    """A bench with these faults on it."""
    for fault in faults:
        model = _EFFECTS[fault](model)
    return model
