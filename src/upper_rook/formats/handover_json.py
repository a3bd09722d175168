"""Schemas of the papers as JSON."""

from typing import Any

from upper_rook.core.handover.customer_card import CustomerCard
from upper_rook.core.handover.document import FORMAT, Handover
from upper_rook.formats.document import described


def sheet_schema() -> dict[str, Any]:
    """The JSON Schema of the shop's sheet."""
    schema = described(Handover.model_json_schema(mode="serialization"))
    return schema | {"title": "Upper Rook sheet", "$id": f"upper-rook-sheet-{FORMAT}"}


def card_schema() -> dict[str, Any]:
    """The JSON Schema of the customer's card."""
    schema = described(CustomerCard.model_json_schema(mode="serialization"))
    return schema | {"title": "Upper Rook card", "$id": f"upper-rook-card-{FORMAT}"}
