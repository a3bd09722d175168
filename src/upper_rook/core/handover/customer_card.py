"""The customer's card: in plain words the number, what to leave alone, and when to come back."""

from datetime import date

from upper_rook.core.common.moments import format_day
from upper_rook.core.common.units import Frozen
from upper_rook.core.handover.document import Handover, Number

COME_BACK = (
    "something in the system was changed, repaired or disconnected",
    "it sounds harsh, hums, or plays quieter than it did",
    "a tweeter or another speaker has gone silent",
)
"""When to come back (common practice, no source)."""
_OF_THE_SHOP = "every knob and switch of the amplifiers, and of what is between them and the source"


class CardNumber(Frozen):
    """The number never to pass of a source."""

    source: str
    volume: int | None
    """None while nobody knows."""
    by_way: tuple[str, ...]
    """By way of playing, where those differ."""

    @property
    def sentence(self) -> str:
        """The number in words."""
        return f"never pass {self.volume}" if self.volume is not None else "the highest number isn’t known yet"


class CustomerCard(Frozen):
    """One small page in plain words; nothing on it needs a reader who knows the trade."""

    vehicle: str
    day: date
    """The day of the newest reading; of the document where nothing was read."""
    numbers: tuple[CardNumber, ...]
    leave_alone: tuple[str, ...]
    come_back: tuple[str, ...]
    practice: bool
    unfinished: bool
    """Whether the work isn't complete."""

    @property
    def text(self) -> str:
        """All of it as lines of text."""
        return "\n".join((*self._head(), f"Leave as it is: {'; '.join(self.leave_alone)}.", self._come_back()))

    @property
    def short_text(self) -> str:
        """The same without what is to be left alone, for where there is no room for everything."""
        return "\n".join((*self._head(), self._come_back()))

    def _head(self) -> tuple[str, ...]:
        numbers = (
            f"{number.source}: {number.sentence}{f' ({ways})' if (ways := ', '.join(number.by_way)) else ''}"
            for number in self.numbers
        )
        return (
            f"{self.vehicle or 'Your vehicle'}, {format_day(self.day)}",
            *numbers,
            *(("Practice: no vehicle was set by this card.",) if self.practice else ()),
            *(("The work isn’t finished.",) if self.unfinished else ()),
        )

    def _come_back(self) -> str:
        return f"Come back if {'; '.join(self.come_back)}."


def customer_card(document: Handover) -> CustomerCard:
    """The card of a handover document."""
    settings = dict.fromkeys(setting for number in document.numbers for setting in number.source_settings)
    return CustomerCard(
        vehicle=document.vehicle,
        day=document.measured_on or document.day,
        numbers=tuple(_number(number) for number in document.numbers),
        leave_alone=(*settings, _OF_THE_SHOP),
        come_back=COME_BACK,
        practice=document.practice,
        unfinished=not document.complete,
    )


def _number(number: Number) -> CardNumber:
    return CardNumber(source=number.source, volume=number.volume, by_way=number.by_way)
