"""The demo's systems: what stands in the vans and buses of a coast that does not exist."""

from typing import TypeVar

from pydantic import BaseModel

from upper_rook.core.common.stated import Stated
from upper_rook.core.signal.filters import EqualiserBand
from upper_rook.core.sources.for_a_job import with_source
from upper_rook.core.system.amplifier import Amplifier, BassKnob, GainRange, Mode, Rating
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.layouts import templates
from upper_rook.core.system.loads import Band, Load
from upper_rook.core.system.path import Path
from upper_rook.core.system.source import Output, Source


def _receiver(name: str, volts: float, top_volume: int) -> Source:
    line = Output(id="line", name="Line out", rated=Stated(volts=volts))
    return Source(id="source", name=name, top_volume=top_volume, outputs=(line,))


FINISHED = JobSheet(
    vehicle="Gannet 6 camper “Marmalade”",
    note="Two door speakers, amplifier under the bench seat. Keys on hook 4.",
    chain=Chain(
        sources=(_receiver("Lanthorn R4", 4.2, 44),),
        amplifiers=(
            Amplifier(
                id="amplifier",
                name="Brackwater Twin 75",
                ratings=(Rating(power_w=75, load_ohm=4), Rating(power_w=110, load_ohm=2)),
                lowest_load_ohm=2,
                gain_range=GainRange(down_v=6.0, up_v=0.2),
                clip_lamp=True,
                bass_knob=BassKnob(),
            ),
        ),
        loads=(Load(id="front", name="Osier 165", impedance_ohm=4, power_w=65),),
        paths=(Path(id="front", name="Front", source="source", output="line", amplifier="amplifier", load="front"),),
    ),
)

HALFWAY = JobSheet(
    vehicle="Heron minibus, ferry line 3",
    note="Four roof speakers, announcements and radio. Back on the road Friday.",
    chain=Chain(
        sources=(_receiver("Lanthorn R2", 2.2, 62),),
        amplifiers=(
            Amplifier(
                id="amplifier",
                name="Brackwater Twin 55",
                ratings=(Rating(power_w=55, load_ohm=4), Rating(power_w=82, load_ohm=2)),
                lowest_load_ohm=2,
                regulated=True,
            ),
        ),
        loads=(Load(id="front", name="Marram 130", impedance_ohm=8, power_w=20, count=2),),
        paths=(Path(id="front", name="Saloon", source="source", output="line", amplifier="amplifier", load="front"),),
    ),
)

PLANNED = JobSheet(
    vehicle="Skerry panel van, new build",
    note="One ported box behind the partition. Customer likes it loud.",
    chain=Chain(
        sources=(_receiver("Lanthorn R5", 4.8, 35),),
        amplifiers=(
            Amplifier(
                id="amplifier",
                name="Brackwater Twin 300",
                ratings=(Rating(power_w=300, load_ohm=4), Rating(power_w=1000, load_ohm=4, mode=Mode.BRIDGED)),
                lowest_load_ohm=2,
                gain_range=GainRange(down_v=8.0, up_v=0.25),
            ),
        ),
        loads=(Load(id="front", name="Groundswell 400", band=Band.SUB, impedance_ohm=4, power_w=400),),
        paths=(
            Path(
                id="front",
                name="Sub",
                source="source",
                output="line",
                amplifier="amplifier",
                load="front",
                mode=Mode.BRIDGED,
            ),
        ),
    ),
    choices=Choices(sub_tone_hz=40.0),
)


PartT = TypeVar("PartT", bound=BaseModel)


def _laid_out(
    layout: str,
    vehicle: str,
    note: str,
    *,
    names: dict[str, str],
    figures: dict[str, float],
    source: dict[str, object],
) -> JobSheet:
    """
    A sheet from a layout, its parts called by what they are on this coast.

    `figures` are a factor of an amplifier's or a section's ratings, and the watts of speakers.
    """
    chain = next(template.chain for template in templates() if template.key == layout)

    def named(kind: str, part: PartT, **also: object) -> PartT:
        key = getattr(part, "id", "")
        return part.model_copy(update={"name": names.get(key, names.get(kind, getattr(part, "name", ""))), **also})

    def rated(ratings: tuple[Rating, ...], times: float) -> tuple[Rating, ...]:
        return tuple(rating.model_copy(update={"power_w": round(rating.power_w * times)}) for rating in ratings)

    def amplifier(other: Amplifier) -> Amplifier:
        times = figures.get(other.id, 1.0)
        sections = tuple(
            section.model_copy(update={"ratings": rated(section.ratings, figures.get(section.id, 1.0))})
            for section in other.sections
        )
        return named("amplifiers", other, ratings=rated(other.ratings, times), sections=sections)

    changed = {
        "sources": tuple(named("sources", other, **source) for other in chain.sources),
        "processors": tuple(named("processors", processor) for processor in chain.processors),
        "amplifiers": tuple(amplifier(other) for other in chain.amplifiers),
        "loads": tuple(named("loads", load, power_w=figures.get(load.id, load.power_w)) for load in chain.loads),
    }
    return JobSheet(vehicle=vehicle, note=note, chain=chain.model_copy(update=changed))


TOURER = _laid_out(
    "five-channel",
    "Curlew tourer, the Sandpipers’ bus",
    "Front, rear and a ported box. They play every weekend.",
    names={
        "amplifiers": "Brackwater Five",
        "speakers-front": "Osier 165",
        "speakers-rear": "Marram 165",
        "speakers-sub": "Groundswell 400",
    },
    figures={"amplifier": 0.92, "sub": 1.1, "speakers-front": 80, "speakers-rear": 45, "speakers-sub": 350},
    source={"name": "Lanthorn R4", "top_volume": 44},
)
ACTIVE = _laid_out(
    "active-three",
    "Petrel studio van",
    "Three ways, every driver on its own channel. A boost at 2.2 kHz that the owner swears by.",
    names={
        "processors": "Tidewright 8",
        "amplifiers": "Brackwater Twin 75",
        "amplifier-bass": "Brackwater Twin 105",
        "amplifier-tweeter": "Brackwater Twin 45",
        "speakers-bass": "Osier 165",
        "speakers-mid": "Osier 80",
        "speakers-tweeter": "Reedling 25",
    },
    figures={
        "amplifier-bass": 1.4,
        "amplifier-tweeter": 0.6,
        "speakers-bass": 110,
        "speakers-mid": 55,
        "speakers-tweeter": 25,
    },
    source={"name": "Lanthorn R7", "top_volume": 60},
)
BI_AMPLIFIED = _laid_out(
    "bi-amplified-three",
    "Dunlin day van",
    "Mid-basses on their own channels, midranges and tweeters behind passive crossovers.",
    names={
        "amplifier-bass": "Brackwater Twin 90",
        "amplifier-mids": "Brackwater Twin 60",
        "speakers-bass": "Osier 165",
        "speakers-mids": "Osier 80 with Reedling 25",
    },
    figures={"amplifier-bass": 1.2, "amplifier-mids": 0.8, "speakers-bass": 90, "speakers-mids": 35},
    source={"name": "Lanthorn R5", "top_volume": 35},
)
FACTORY = _laid_out(
    "converter",
    "Avocet people carrier",
    "Factory radio stays; its speaker leads feed a converter.",
    names={"processors": "Lowline 2", "amplifiers": "Brackwater Twin 66", "loads": "Marram 165"},
    figures={"amplifier": 0.88, "front": 70},
    source={"name": "Factory radio", "top_volume": 31},
)
STRAPPED = _laid_out(
    "strapped-sub",
    "Skua display bus",
    "Two mono amplifiers strapped onto one box. Well above 30 V.",
    names={"amplifiers": "Brackwater Solo 1150", "loads": "Groundswell 2500"},
    figures={"amplifier-sub": 1.15, "speakers-sub": 2100},
    source={"name": "Lanthorn R2", "top_volume": 62},
)


PRACTICE = _laid_out(
    "front-rear",
    "The board by the window",
    "Two pairs screwed to a board, for learners.",
    names={"amplifiers": "Brackwater Twin 30", "loads": "Marram 100"},
    figures={"amplifier-front": 0.42, "amplifier-rear": 0.42, "speakers-front": 32, "speakers-rear": 28},
    source={"name": "Lanthorn R1", "top_volume": 30},
).model_copy(update={"practice": True})


def boosted(sheet: JobSheet) -> JobSheet:
    """The same with a boosted band on its middle way."""
    band = EqualiserBand(frequency_hz=2200, gain_db=5.0, q=1.4)
    paths = tuple(
        path.model_copy(update={"equaliser": (band,)}) if path.id == "mid" else path for path in sheet.chain.paths
    )
    return sheet.model_copy(update={"chain": sheet.chain.model_copy(update={"paths": paths})})


def from_the_shelf(source: Source) -> JobSheet:
    """A front and a rear behind a source of the library."""
    sheet = _laid_out(
        "front-rear",
        "Turnstone pick-up",
        "Its receiver is one of those on the shelf.",
        names={"amplifiers": "Brackwater Twin 55", "loads": "Marram 130"},
        figures={"amplifier-front": 0.73, "amplifier-rear": 0.73, "speakers-front": 55, "speakers-rear": 40},
        source={},
    )
    return sheet.model_copy(update={"chain": with_source(sheet.chain, source)})
