"""What differs between two documents, value by value."""

from collections.abc import Iterator
from typing import Any

from pydantic import BaseModel

from upper_rook.core.common.units import Frozen

Plain = str | float | int | bool | None


class Change(Frozen):
    """One value that differs: its dotted place, what it was and what it is."""

    place: str
    was: Plain
    now: Plain


def changes(before: BaseModel, after: BaseModel) -> tuple[Change, ...]:
    """Every plain value that differs between two models, in the order of their fields."""
    was, now = dict(_leaves(before.model_dump(mode="json"))), dict(_leaves(after.model_dump(mode="json")))
    return tuple(
        Change(place=place, was=was.get(place), now=now.get(place))
        for place in {**was, **now}
        if was.get(place) != now.get(place) or (place in was) != (place in now)
    )


def _leaves(value: Any, place: str = "") -> Iterator[tuple[str, Plain]]:
    if isinstance(value, dict):
        for key, inner in value.items():
            yield from _leaves(inner, f"{place}.{key}" if place else key)
    elif isinstance(value, list):
        for index, inner in enumerate(value):
            yield from _leaves(inner, f"{place}.{index}")
    else:
        yield place, value
