"""The keys of steps, from the ids of what they are about; none is ever cut."""

from upper_rook.core.system.playing import InputKind, Side

_SECOND_TONE = ".second-tone"


def second_tone_key(key: str) -> str:
    """The same volume steps with the other of the job's two tones."""
    return key + _SECOND_TONE


def is_of_second_tone(key: str) -> bool:
    """Whether volume steps are those with the other of the job's two tones."""
    return key.endswith(_SECOND_TONE)


def clean_maximum_key(source: str, output: str, way: InputKind | None = None, side: Side | None = None) -> str:
    """The volume steps at an output of a source, by a way of playing and at a side where those are known."""
    own = f"ceiling.{source}.{output}"
    told = own if way is None else f"{own}.{way.value.replace('_', '-')}"
    return told if side is None else f"{told}.{side.value}-side"


def gain_key(path: str) -> str:
    """The gain of a path."""
    return f"gain.{path}"


def lacking_key(path: str) -> str:
    """A path that can't be planned yet."""
    return f"lacking.{path}"


def match_key(path: str) -> str:
    """The other channel of a path."""
    return f"match.{path}"


def factory_key(source: str, output: str) -> str:
    """The wires of a factory system."""
    return f"factory.{source}.{output}"


def plug_key(source: str, plug: str) -> str:
    """The wires of a plug of a factory system."""
    return f"plug.{source}.{plug}"


def survey_key(source: str) -> str:
    """The speakers of a factory system."""
    return f"survey.{source}"


BLEND_KEY, CABIN_KEY, KNOB_POSITIONS_KEY = "blend", "cabin", "seal"
SAFE_KEY, SPEAKERS_OFF = "safe", "speakers-off"
"""The checklist that comes first, and its line about the speakers."""


def trims_key(source: str) -> str:
    """Key of the trims and settings of a source."""
    return f"trims.{source}"


def source_sweep_key(source: str) -> str:
    """The whole band of a source."""
    return f"source-sweep.{source}"


def other_ways_key(source: str) -> str:
    """The ways of a source that play no tone."""
    return f"other-ways.{source}"


def converter_key(processor: str, path: str) -> str:
    """The output of a converter on a path."""
    return f"converter.{processor}.{path}"


def corner_key(path: str, place: int) -> str:
    """A filter of a path, by its place among them."""
    return f"corner.{path}.{place}"


def prove_key(path: str) -> str:
    """Everything in use on a path."""
    return f"prove.{path}"
