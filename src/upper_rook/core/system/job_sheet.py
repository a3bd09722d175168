"""The sheet of a job: the document that is edited, versioned and exchanged."""

from typing import Any, Literal

from pydantic import model_validator

from upper_rook.core.common.labels import labelled
from upper_rook.core.common.units import Frozen, Name, Text
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.older_formats import brought_up

FORMAT: Literal[2] = 2


class JobSheet(Frozen):
    """What is known and chosen about one job: the document that is edited, versioned and exchanged."""

    model_config = labelled(
        "",
        format="Format",
        vehicle="Vehicle",
        note="Note",
        chain="System",
        choices="Schools",
    )
    format: Literal[2] = FORMAT
    vehicle: Name = ""
    note: Text = ""
    chain: Chain
    choices: Choices = Choices()

    @model_validator(mode="before")
    @classmethod
    def _older(cls, document: Any) -> Any:
        return brought_up(document)
