"""The sheet of a job: the document that is edited, versioned and exchanged."""

from enum import StrEnum
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from upper_rook.core.common.labels import labelled
from upper_rook.core.common.units import Frozen, Name, Text
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.choices import Choices, Extent, GainMethod
from upper_rook.core.system.confirmation import Unconfirmed
from upper_rook.core.system.older_formats import brought_up
from upper_rook.core.system.path import Path
from upper_rook.core.system.source import Source
from upper_rook.core.system.source_only import with_stand_ins

FORMAT: Literal[4] = 4


class Subject(StrEnum):
    """Subject of a job."""

    SYSTEM = "system"
    """A vehicle's whole system."""
    SOURCE = "source"
    """A source on its own, on the bench."""


class JobSheet(Frozen):
    """Sheet of one job: the document that is edited, versioned and exchanged."""

    model_config = labelled(
        "",
        format="Format",
        subject="Subject",
        practice="Practice",
        vehicle="Vehicle",
        note="Note",
        chain="System",
        choices="Methods",
        not_confirmed="Not confirmed",
    )
    format: Literal[4] = FORMAT
    subject: Subject = Subject.SYSTEM
    practice: bool = False
    """Nothing in it is of a real vehicle or unit: it stays so, is not signed off and tells the library nothing."""
    vehicle: Name = ""
    """Of a source on its own: which unit."""
    note: Text = ""
    chain: Chain
    choices: Choices = Choices()
    not_confirmed: Annotated[tuple[Unconfirmed, ...], Field(max_length=2000)] = ()
    """Values that came with a layout or a default and that nobody has looked at."""

    @model_validator(mode="before")
    @classmethod
    def _older(cls, document: Any) -> Any:
        return brought_up(document)

    def choices_of(self, path: Path) -> Choices:
        """Methods that a path follows; volts that were typed for it are set as those of the ratings are."""
        typed = {} if path.wanted_v is None else {"gain": GainMethod.RATINGS}
        return self.choices.followed_by(path.own.model_copy(update=typed))

    @model_validator(mode="before")
    @classmethod
    def _alone(cls, document: Any) -> Any:
        """A source on its own needs nothing behind it; the stand-ins there are made from its outputs."""
        if not isinstance(document, dict) or document.get("subject") != Subject.SOURCE:
            return document
        chain = document.get("chain")
        plain = chain.model_dump() if isinstance(chain, Chain) else chain
        return document | {"chain": with_stand_ins(plain)} if isinstance(plain, dict) else document


def alone(source: Source, unit: str) -> JobSheet:
    """A job about one unit of a source on its own: everything of it is to be measured anew."""
    return JobSheet.model_validate(
        {
            "subject": Subject.SOURCE,
            "vehicle": unit,
            "chain": {"sources": [source.model_copy(update={"from_sheet": None}).model_dump()]},
            "choices": Choices(extent=Extent.EVERYTHING),
        }
    )
