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


class CardNumber(Frozen):
    """The number never to pass."""

    source: str
    volume: str
    """"31", or that nobody knows."""
    further: tuple[str, ...]


class CustomerCard(Frozen):
    """One small page in plain words; nothing on it needs a reader who knows the trade."""

    vehicle: str
    day: date
    numbers: tuple[CardNumber, ...]
    leave_alone: tuple[str, ...]
    come_back: tuple[str, ...]
    practice: bool
    unfinished: bool
    """Whether the work isn't complete."""

    @property
    def text(self) -> str:
        """All of it as lines of text: what a code on the card holds."""
        lines = [f"{self.vehicle or 'Your vehicle'}, {format_day(self.day)}"]
        lines += [
            f"{one.source}: never pass {one.volume}{f' ({join})' if (join := ', '.join(one.further)) else ''}"
            for one in self.numbers
        ]
        if self.practice:
            lines.append("Practice: no vehicle was set by this card.")
        if self.unfinished:
            lines.append("The work isn’t finished.")
        if self.leave_alone:
            lines.append(f"Leave as it is: {'; '.join(self.leave_alone)}")
        lines.append(f"Come back if {'; '.join(self.come_back)}.")
        return "\n".join(lines)


def customer_card(document: Handover) -> CustomerCard:
    """The card of a handover document."""
    held = dict.fromkeys(setting for number in document.numbers for setting in number.holds_with)
    return CustomerCard(
        vehicle=document.vehicle,
        day=document.day,
        numbers=tuple(_number(one) for one in document.numbers),
        leave_alone=(*held, "gains, filters and switches of the amplifiers"),
        come_back=COME_BACK,
        practice=document.practice,
        unfinished=not document.complete,
    )


def _number(number: Number) -> CardNumber:
    return CardNumber(
        source=number.source,
        volume="not measured yet" if number.volume is None else str(number.volume),
        further=number.further,
    )
