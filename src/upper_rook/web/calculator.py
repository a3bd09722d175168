"""The quick calculator: no job, nothing kept."""

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from upper_rook.core.stages.calculator import (
    AmplifierOutput,
    CornerVolts,
    LevelRatio,
    corner_of,
    impedance_from,
    in_words,
    level_of,
    output_of,
)
from upper_rook.core.system.amplifier import Mode
from upper_rook.web import acts
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api/calculator", tags=["calculator"], dependencies=[acts.WORK])

Watts = Annotated[float, Query(gt=0, le=100_000, allow_inf_nan=False)]
Ohms = Annotated[float, Query(gt=0, le=10_000, allow_inf_nan=False)]
Volts = Annotated[float, Query(gt=0, le=10_000, allow_inf_nan=False)]
Decibels = Annotated[float, Query(ge=-200, le=200, allow_inf_nan=False)]
Ratio = Annotated[float, Query(gt=0, le=1e9, allow_inf_nan=False)]


class ImpedanceAnswer(BaseModel):
    """The rated impedance of a speaker, as its resistance tells."""

    nominal_ohm: float | None
    sentence: str


@router.get("/output", responses=responses())
def output(
    watts: Watts | None = None, ohms: Ohms | None = None, volts: Volts | None = None, mode: Mode = Mode.PER_CHANNEL
) -> AmplifierOutput:
    """The third of watts, ohms and volts."""
    return output_of(watts, ohms, volts, mode)


@router.get("/level", responses=responses())
def level(db: Decibels | None = None, ratio: Ratio | None = None) -> LevelRatio:
    """Decibels and ratios."""
    return level_of(db, ratio)


@router.get("/corner", responses=responses())
def corner(volts: Volts, depth_db: Annotated[float, Query(gt=0, le=60)] = 3.0103) -> CornerVolts:
    """The volts at a filter's corner."""
    return corner_of(volts, depth_db)


@router.get("/impedance", responses=responses())
def impedance(ohms: Annotated[float, Query(ge=0, le=1e6, allow_inf_nan=False)]) -> ImpedanceAnswer:
    """The rated impedance from a meter's ohms."""
    found = impedance_from(ohms)
    return ImpedanceAnswer(nominal_ohm=found.nominal_ohm, sentence=in_words(found))
