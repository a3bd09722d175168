"""Which readings a change has spoiled, and by what."""

from collections.abc import Iterable

from upper_rook.core.common.units import Frozen
from upper_rook.core.run.records import Setting


class Spoiled(Frozen):
    """A setting that a reading depends on and that differs now."""

    label: str
    was: str
    now: str


def spoiled_by(taken_under: Iterable[Setting], now: Iterable[Setting]) -> tuple[Spoiled, ...]:
    """The settings of `taken_under` that differ from `now`; one that is gone counts as differing."""
    current = {setting.key: setting for setting in now}
    return tuple(
        Spoiled(
            label=setting.label, was=setting.value, now=current[setting.key].value if setting.key in current else "gone"
        )
        for setting in taken_under
        if setting.key not in current or current[setting.key].value != setting.value
    )
