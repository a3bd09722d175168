"""Commands that judge what was measured."""

import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from upper_rook.cli.app import JsonFlag, Refusal, app, bytes_of
from upper_rook.cli.told import echo
from upper_rook.core.common.units import format_db, format_value
from upper_rook.core.signal.trace import Trace

if TYPE_CHECKING:
    from upper_rook.core.judge.examination import Channel


@app.command()
def analyse(
    files: Annotated[list[Path], typer.Argument(metavar="FILE…", help="Scopes’ CSV exports or WAV files.")],
    expect_hz: Annotated[str | None, typer.Option(help="The tone that should be playing, for example 1k.")] = None,
    full_scale_v: Annotated[str | None, typer.Option(help="Volts at a WAV file’s full scale; default: 1 V.")] = None,
    as_json: JsonFlag = False,
) -> None:
    """Judge captured waves, file by file: clean, at the edge or clipped, by how much and how surely."""
    from upper_rook.core.common.units import parse_quantity
    from upper_rook.core.judge.examination import examine_wave

    expected = parse_quantity(expect_hz, "hertz") if expect_hz is not None else None
    full_scale = parse_quantity(full_scale_v, "volts") if full_scale_v is not None else None
    for file in files:
        channels = examine_wave(_traces(file, full_scale), expected).channels
        if as_json:
            # One document alone is laid out to be read; of several each is a line.
            _echo_json(file, channels, indent=2 if len(files) == 1 else None)
            continue
        if len(files) > 1:
            echo(f"{file}")
        _echo_reports(channels)


def _echo_json(file: Path, channels: "tuple[Channel, ...]", indent: int | None) -> None:
    from upper_rook.formats.analysis import analysis

    document = analysis(str(file), channels).model_dump(mode="json")
    echo(json.dumps(document, indent=indent, ensure_ascii=False, allow_nan=False))


def _echo_reports(channels: "tuple[Channel, ...]") -> None:
    for channel in channels:
        report = channel.report
        echo(f"{channel.name}: {report.verdict.words}")
        frequency = f", {format_value(report.frequency_hz, 'Hz')}" if report.frequency_hz else ""
        echo(f"  {format_value(report.v_rms, 'V')} RMS{frequency}, {format_value(report.v_dc, 'V', 3)} DC")
        lines = (*report.reasons, *(channel.sweep.reasons if channel.sweep else ()), *channel.advice)
        # A sweep's reasons are among a wave's already where it isn't a tone.
        for line in dict.fromkeys(lines):
            echo(f"  {line}")


@app.command()
def volume_steps(
    file: Annotated[Path, typer.Argument(metavar="FILE", help="Columns volume and voltage_v.")],
    as_json: JsonFlag = False,
) -> None:
    """Find the clean maximum from volume numbers and volts."""
    from upper_rook.core.judge.volume_steps import judge_volume_steps
    from upper_rook.formats.volume_steps_csv import read_volume_steps

    report = judge_volume_steps(read_volume_steps(bytes_of(file))).report
    if as_json:
        echo(report.model_dump_json(indent=2))
        return
    if report.clean_volume is not None and report.clean_v_rms is not None and report.uncertainty_db is not None:
        clean_maximum = format_value(report.clean_v_rms, "V")
        echo(f"Clean maximum {report.clean_volume}; {clean_maximum} RMS there ± {format_db(report.uncertainty_db, 2)}")
    else:
        echo(report.verdict.words)
    for reason in report.reasons:
        echo(f"  {reason}")


def _traces(file: Path, full_scale_v: float | None) -> list[Trace]:
    """The channels of a capture; a long file's progress goes to standard error."""
    from upper_rook.formats.capture_reader import LARGEST_BYTES, read_capture

    try:
        size = file.stat().st_size
        if size > LARGEST_BYTES:
            raise Refusal(f"{file} has {size / 1e6:.0f} MB; at most {LARGEST_BYTES / 1e6:.0f} MB are read.")
        with file.open("rb") as stream:
            if size < 20_000_000:
                return read_capture(stream, full_scale_v)
            with typer.progressbar(length=size, label=f"reading {file.name}", file=sys.stderr) as bar:
                return read_capture(stream, full_scale_v, lambda done: bar.update(max(0, min(done, size) - bar.pos)))
    except OSError as error:
        raise Refusal(f"Can’t read {file}: {error.strerror}.") from None
