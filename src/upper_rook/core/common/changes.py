"""Differences between two documents, value by value; parts are matched by their ids, never by their places."""

from collections.abc import Iterator
from typing import Any

from pydantic import BaseModel

from upper_rook.core.common.labels import label_at
from upper_rook.core.common.units import Frozen

Plain = str | float | int | bool | None


class Change(Frozen):
    """
    One value that differs: its dotted place, what it was and what it is.

    A part that has an id is named by it: `chain.loads.front.power_w`. A part that came or went is one change, named by
    its name; `was` or `now` is then None.
    """

    place: str
    was: Plain
    now: Plain
    label: str = ""
    """Name of the place; worked out when it is shown."""


def with_label(change: Change, model: type[BaseModel]) -> Change:
    """A change of a document of `model`, with what its place is called."""
    return change.model_copy(update={"label": label_at(model, change.place)})


def changes(before: BaseModel, after: BaseModel) -> tuple[Change, ...]:
    """Every plain value that differs between two models, in the order of their fields."""
    differing = _differ(before.model_dump(mode="json"), after.model_dump(mode="json"), "")
    return tuple(with_label(change, type(after)) for change in differing)


def _differ(was: Any, now: Any, place: str) -> Iterator[Change]:
    if was == now:
        return
    if isinstance(was, dict) and isinstance(now, dict):
        for key in {**was, **now}:
            yield from _differ(was.get(key), now.get(key), f"{place}.{key}" if place else key)
    elif isinstance(was, list) and isinstance(now, list):
        yield from _lists_differ(was, now, place)
    elif isinstance(was, dict | list) or isinstance(now, dict | list):
        yield Change(place=place, was=_in_short(was), now=_in_short(now))
    elif was != now:
        yield Change(place=place, was=was, now=now)


def _lists_differ(was: list[Any], now: list[Any], place: str) -> Iterator[Change]:
    before, after = _keyed(was), _keyed(now)
    for key in {**before, **after}:
        yield from _differ(before.get(key), after.get(key), f"{place}.{key}")
    shared = [key for key in before if key in after]
    if shared != [key for key in after if key in before]:
        order = [", ".join(str(key) for key in rows) for rows in (before, after)]
        yield Change(place=f"{place}.order", was=order[0], now=order[1])


def _keyed(rows: list[Any]) -> dict[str | int, Any]:
    """Rows by the id of each; rows without one, or that share one, by their places."""
    ids = [row.get("id") if isinstance(row, dict) else None for row in rows]
    if all(isinstance(key, str) for key in ids) and len(set(ids)) == len(ids):
        return {str(key): row for key, row in zip(ids, rows, strict=True)}
    return dict(enumerate(rows))


def _in_short(value: Any) -> Plain:
    """A part as one word: its name or id, or how many values it has."""
    if isinstance(value, dict):
        return str(value.get("name") or value.get("id") or ", ".join(f"{key} {inner}" for key, inner in value.items()))
    if isinstance(value, list):
        return f"{len(value)} of them"
    plain: Plain = value
    return plain
