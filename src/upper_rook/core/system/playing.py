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
    AUXILIARY = "auxiliary"
    RADIO = "radio"


INPUT_WORDS = {
    InputKind.DISC: "disc",
    InputKind.USB: "USB",
    InputKind.WIRED_PHONE: "phone by wire",
    InputKind.WIRELESS_PHONE: "phone, wireless",
    InputKind.AUXILIARY: "auxiliary",
    InputKind.RADIO: "radio",
}
