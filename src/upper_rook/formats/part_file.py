"""Parts of the shop as open files."""

from typing import Any

from upper_rook.core.parts.shop_part import FORMAT, ShopPart
from upper_rook.formats.document import Kind

PART_FILE = Kind(model=ShopPart, noun="part", format=FORMAT)


def read_part(text: bytes) -> ShopPart:
    """The part in `text`. Raises BadInput with a sentence and the field."""
    return PART_FILE.read(text)


def write_part(part: ShopPart) -> str:
    """The part as JSON text."""
    return part.model_dump_json(indent=2) + "\n"


def part_schema() -> dict[str, Any]:
    """The JSON Schema of a part file."""
    return PART_FILE.schema()
