"""How deep a filter is at its marked corner, by the method chosen."""

from upper_rook.core.signal.filters import ChannelFilter, FilterPlace
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.methods import DEPTH
from upper_rook.core.system.path import Path


def with_depth(chain: Chain, choices: Choices) -> Chain:
    """`chain` with the amplifiers' filters as deep as the method takes them, but for those whose depth is known."""
    depth_db = DEPTH.of(choices).depth_db
    if depth_db is None:
        return chain
    return chain.model_copy(update={"paths": tuple(_path(path, depth_db) for path in chain.paths)})


def _path(path: Path, depth_db: float) -> Path:
    return path.model_copy(
        update={"filters": tuple(_filter(channel_filter, depth_db) for channel_filter in path.filters)}
    )


def _filter(channel_filter: ChannelFilter, depth_db: float) -> ChannelFilter:
    if channel_filter.place is not FilterPlace.AMPLIFIER or channel_filter.crossover.depth_db is not None:
        return channel_filter
    return channel_filter.model_copy(
        update={"crossover": channel_filter.crossover.model_copy(update={"depth_db": depth_db})}
    )
