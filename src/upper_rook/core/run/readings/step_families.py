"""Steps of one kind over all jobs: what their keys begin with, and its name."""

FAMILY_NAMES = {
    "safe": "Make it safe",
    "flat-source": "Source flat",
    "flat-amplifier": "Amplifiers flat",
    "supply": "Supply",
    "ceiling": "Clean maximum",
    "other-ways": "Other ways of playing",
    "trims": "Trims",
    "factory": "Factory wires",
    "plug": "Factory plugs",
    "survey": "Factory speakers",
    "connect": "Connect",
    "converter": "Converter output",
    "gain": "Gain",
    "match": "Other channel",
    "corner": "Filter",
    "prove": "Proof",
    "listen": "Reconnect and listen",
    "blend": "Blend",
    "cabin": "Cabin",
    "seal": "Knob positions",
    "check": "Check of a visit",
    "source-sweep": "Whole band",
    "lacking": "Set by ear",
}


def family_name(family: str) -> str:
    """
    Name of the steps whose keys begin with `family`.

    >>> family_name("ceiling"), family_name("new-kind")
    ('Clean maximum', 'New kind')
    """
    return FAMILY_NAMES.get(family, family.replace("-", " ").capitalize())
