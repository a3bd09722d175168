"""The sheet of a job: the document that is edited, versioned and exchanged."""

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from upper_rook.core.common.labels import labelled
from upper_rook.core.common.units import Frozen, Name, Text
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.confirmation import Unconfirmed
from upper_rook.core.system.older_formats import brought_up

FORMAT: Literal[3] = 3


class JobSheet(Frozen):
    """What is known and chosen about one job: the document that is edited, versioned and exchanged."""

    model_config = labelled(
        "",
        format="Format",
        vehicle="Vehicle",
        note="Note",
        chain="System",
        choices="Schools",
        not_confirmed="Not confirmed",
    )
    format: Literal[3] = FORMAT
    vehicle: Name = ""
    note: Text = ""
    chain: Chain
    choices: Choices = Choices()
    not_confirmed: Annotated[tuple[Unconfirmed, ...], Field(max_length=2000)] = ()
    """Values that came with a layout or a default and that nobody has looked at."""

    @model_validator(mode="before")
    @classmethod
    def _older(cls, document: Any) -> Any:
        return brought_up(document)
