"""The document of `analyse --json`: everything that the text says of a capture, channel by channel."""

from typing import Any, Literal

from upper_rook.core.common.units import Frozen
from upper_rook.core.judge.examination import Channel, ChannelFigures
from upper_rook.core.judge.wave_report import WaveReport
from upper_rook.formats.document import described

_LEFT_OUT = {"report", "drawing"}


class AnalysedChannel(WaveReport, ChannelFigures):
    """The report on one channel, with what else its capture shows."""


class Analysis(Frozen):
    """The analysis of one file."""

    contract: Literal[1] = 1
    """Counts up when something here changes its meaning or goes."""
    file: str
    channels: tuple[AnalysedChannel, ...]


def analysis(file: str, channels: tuple[Channel, ...]) -> Analysis:
    """The document of one file."""
    rows = (
        AnalysedChannel.model_validate(channel.report.model_dump() | channel.model_dump(exclude=_LEFT_OUT))
        for channel in channels
    )
    return Analysis(file=file, channels=tuple(rows))


def analysis_schema() -> dict[str, Any]:
    """The JSON Schema of what `analyse --json` prints."""
    contract = Analysis.model_fields["contract"].default
    schema = described(Analysis.model_json_schema(mode="serialization"))
    return schema | {"title": "Upper Rook analysis", "$id": f"upper-rook-analysis-{contract}"}
