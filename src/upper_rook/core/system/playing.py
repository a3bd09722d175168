"""Ways of playing, and the sides of a pair."""

from enum import StrEnum


class Side(StrEnum):
    """One side of a pair."""

    LEFT = "left"
    RIGHT = "right"


class InputKind(StrEnum):
    """A way of playing."""

    DISC = "disc"
    USB = "usb"
    WIRED_PHONE = "wired_phone"
    WIRELESS_PHONE = "wireless_phone"
    PROJECTION_WIRED = "projection_wired"
    """The phone’s own screen on the receiver, by cable: digital, with a volume of its own."""
    PROJECTION_WIRELESS = "projection_wireless"
    AUXILIARY = "auxiliary"
    RADIO = "radio"


INPUT_WORDS = {
    InputKind.DISC: "disc",
    InputKind.USB: "USB",
    InputKind.WIRED_PHONE: "phone by wire",
    InputKind.WIRELESS_PHONE: "phone, wireless",
    InputKind.PROJECTION_WIRED: "phone projection by cable",
    InputKind.PROJECTION_WIRELESS: "phone projection, wireless",
    InputKind.AUXILIARY: "auxiliary",
    InputKind.RADIO: "radio",
}

TONELESS = frozenset({InputKind.RADIO})
"""Ways that nobody can play a tone by."""
