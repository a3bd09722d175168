"""Refusals of a model in the words of this app: every value with its place, none of the library's own words."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from upper_rook.core.common.errors import field_within


@dataclass(frozen=True)
class Refused:
    """A value that can't be used: its dotted place, and what is wrong with it."""

    place: str
    sentence: str


_PLAIN = {
    "missing": "is missing",
    "finite_number": "must be a finite number",
    "float_type": "must be a number",
    "float_parsing": "must be a number",
    "int_type": "must be a whole number",
    "int_parsing": "must be a whole number",
    "int_from_float": "must be a whole number",
    "bool_type": "must be true or false",
    "bool_parsing": "must be true or false",
    "string_type": "must be a text",
    "string_pattern_mismatch": "may have only small letters, digits and hyphens, 40 at most",
    "model_type": "must be a group of values, each with its name",
    "model_attributes_type": "must be a group of values, each with its name",
    "dict_type": "must be a group of values, each with its name",
    "tuple_type": "must be a list",
    "list_type": "must be a list",
    "extra_forbidden": "isn’t known here",
    "uuid_parsing": "must be an id of the usual form, 32 digits and letters in five groups",
    "uuid_type": "must be an id of the usual form, 32 digits and letters in five groups",
    "datetime_parsing": "must be a date and time, as 2026-05-03T14:30:00Z",
    "datetime_from_date_parsing": "must be a date and time, as 2026-05-03T14:30:00Z",
    "timezone_aware": "must say its time zone, as 2026-05-03T14:30:00Z",
    "date_parsing": "must be a day, as 2026-05-03",
    "date_from_datetime_parsing": "must be a day, as 2026-05-03",
    "date_from_datetime_inexact": "must be a day, as 2026-05-03",
    "date_type": "must be a day, as 2026-05-03",
    "json_invalid": "isn’t JSON",
}


def refusals(errors: Sequence[Any], skip: Sequence[str] = ()) -> list[Refused]:
    """Each of Pydantic's error entries with its place, without the steps named in `skip`."""
    return [Refused(_place(cause, skip), _sentence(cause)) for cause in _causes(errors)]


def _causes(errors: Sequence[Any]) -> list[Any]:
    """The errors without those of a list that only lacks what was refused within it."""
    places = [error["loc"] for error in errors]
    return [
        error
        for error in errors
        if error["type"] != "too_short"
        or not any(len(place) > len(error["loc"]) and place[: len(error["loc"])] == error["loc"] for place in places)
    ]


def _place(error: dict[str, Any], skip: Sequence[str]) -> str:
    """Where the value stands; a refusal of a whole value may know the place within it."""
    parts = [str(part) for part in error["loc"] if part not in skip]
    return ".".join((*parts, *field_within(error)))


def _sentence(error: dict[str, Any]) -> str:
    kind, context = error["type"], error.get("ctx", {})
    if kind in _PLAIN:
        return _PLAIN[kind]
    given = error.get("input")
    shown = f" (it is {given!r})"[:60] if isinstance(given, int | float | str) else ""
    bounds = {
        "greater_than_equal": ("at least", "ge"),
        "greater_than": ("more than", "gt"),
        "less_than_equal": ("at most", "le"),
        "less_than": ("less than", "lt"),
    }
    if kind in bounds:
        words, key = bounds[kind]
        return f"must be {words} {context[key]:g}{shown}"
    if kind in ("enum", "literal_error"):
        return f"must be {context['expected']}{shown}"
    if kind == "string_too_long":
        return f"has at most {context['max_length']} characters"
    if kind == "too_long":
        return f"has at most {context['max_length']} entries"
    if kind == "too_short":
        return f"needs at least {context['min_length']} {'entry' if context['min_length'] == 1 else 'entries'}"
    if kind == "value_error":
        return str(context.get("error", error["msg"]))
    return f"can’t be used{shown}"
