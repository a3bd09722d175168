"""Commands that compute: plans, source sheets, the simulated bench, tones, schemas."""

import json
from collections.abc import Iterator
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from upper_rook.cli.app import JsonFlag, Refusal, app, bytes_of
from upper_rook.cli.told import echo
from upper_rook.core.common.units import format_signed, format_value

if TYPE_CHECKING:
    from upper_rook.formats.signal_file import AudioFile


class SchemaOf(StrEnum):
    """Document with a published schema."""

    JOB = "job"
    PLAN = "plan"
    SOURCE = "source"
    PART = "part"
    ANALYSIS = "analysis"
    ARCHIVE = "archive"
    SHEET = "sheet"
    CARD = "card"


@app.command()
def openapi() -> None:
    """Print the OpenAPI schema of the app."""
    from upper_rook.web.app import create_app
    from upper_rook.web.settings import Settings

    echo(json.dumps(create_app(Settings()).openapi(), indent=2, ensure_ascii=False))


@app.command()
def schema(
    of: Annotated[
        SchemaOf,
        typer.Argument(
            help="Of a job, source or part file, of what plan or analyse --json prints, of the archive.json in a job’s "
            "archive, or of the sheet or card that sheet writes as JSON."
        ),
    ] = SchemaOf.JOB,
) -> None:
    """Print the JSON Schema of a file that the app reads or writes."""
    from upper_rook.formats.analysis import analysis_schema
    from upper_rook.formats.handover_json import card_schema, sheet_schema
    from upper_rook.formats.job_archive import archive_schema
    from upper_rook.formats.job_file import job_schema, plan_schema
    from upper_rook.formats.part_file import part_schema
    from upper_rook.formats.source_file import source_schema

    schemas = {
        SchemaOf.JOB: job_schema,
        SchemaOf.PLAN: plan_schema,
        SchemaOf.SOURCE: source_schema,
        SchemaOf.PART: part_schema,
        SchemaOf.ANALYSIS: analysis_schema,
        SchemaOf.ARCHIVE: archive_schema,
        SchemaOf.SHEET: sheet_schema,
        SchemaOf.CARD: card_schema,
    }
    echo(json.dumps(schemas[of](), indent=2, ensure_ascii=False))


@app.command()
def plan(
    file: Annotated[Path, typer.Argument(metavar="JOB.json")],
    as_json: JsonFlag = False,
) -> None:
    """Compute the plan of a job file."""
    from upper_rook.core.plan import plan as core
    from upper_rook.core.plan.text import plan_text
    from upper_rook.formats.job_file import read_job

    planned = core.plan(read_job(bytes_of(file)))
    if as_json:
        echo(planned.model_dump_json(indent=2))
        return
    for line in plan_text(planned):
        echo(line)


@app.command()
def source(
    file: Annotated[Path, typer.Argument(metavar="NAME.source.json")],
    unit: Annotated[str | None, typer.Option(help="The id of a unit; default: the last one measured.")] = None,
    as_json: JsonFlag = False,
) -> None:
    """Print a source sheet: what it really delivers, and the best combinations of trim, sub level and volume."""
    from upper_rook.core.sources.source_report import report
    from upper_rook.core.sources.text import source_text
    from upper_rook.formats.source_file import read_source

    sheet = read_source(bytes_of(file))
    if unit is not None and sheet.unit(unit) is None:
        raise Refusal(f"{file} has no unit “{unit}”: it has {', '.join(known.id for known in sheet.units) or 'none'}.")
    measured = report(sheet, unit)
    if as_json:
        echo(measured.model_dump_json(indent=2))
        return
    for line in source_text(sheet, measured):
        echo(line)


@app.command()
def simulate(
    file: Annotated[Path, typer.Argument(metavar="JOB.json")],
    *,
    seed: Annotated[int, typer.Option(min=0, help="Picks the specimens of the parts.")] = 1,
    meter_only: Annotated[bool, typer.Option("--meter-only/--scope", help="Without a scope.")] = False,
    fault: Annotated[
        list[str] | None, typer.Option("--fault", help="Something wrong on the bench; --fault list names them.")
    ] = None,
    mistakes: Annotated[bool, typer.Option("--mistakes", help="With ordinary mistakes, drawn by the seed.")] = False,
    as_json: JsonFlag = False,
) -> None:
    """Run a job on the simulated bench and compare the results with the true values."""
    from upper_rook.formats.job_file import read_job
    from upper_rook.instruments.simulated import FAULT_WORDS, Fault
    from upper_rook.instruments.simulation import simulate as work

    if fault == ["list"]:
        echo("\n".join(f"{known.value}: {words}" for known, words in FAULT_WORDS.items()))
        return
    unknown = set(fault or ()) - {known.value for known in Fault}
    if unknown:
        raise Refusal(f"There is no fault “{min(unknown)}”: --fault list names them.")
    faults = tuple(Fault(name) for name in fault or ())
    done = work(read_job(bytes_of(file)), seed, scope=not meter_only, faults=faults, mistakes=mistakes)
    if as_json:
        echo(done.model_dump_json(indent=2))
        return
    if done.mistakes:
        echo(f"{done.mistakes} mistakes made")
    for number in done.numbers:
        echo(f"{number.source}: never pass {number.volume}; true clean maximum {number.last_clean}")
    for path in done.paths:
        note = f", left: {path.settled.replace('_', ' ')}" if path.settled else ""
        clips = ", something before its amplifier clips" if path.clips_before else ", clips" if path.clips else ""
        echo(
            f"{path.name}: wanted {format_value(path.wanted_v, 'V')}, set to {format_value(path.set_v, 'V')} "
            f"({format_signed(path.off_db, 2)} dB){note}{clips}"
        )
    for corner in done.corners:
        echo(
            f"{corner.name}: wanted {format_value(corner.wanted_hz, 'Hz')}, set at "
            f"{format_value(corner.set_hz, 'Hz', 3)} ({format_signed(corner.off_percent, 1)} %)"
        )
    for line in done.open:
        echo(f"Open: {line}")


@app.command()
def tones(
    folder: Annotated[Path, typer.Argument(metavar="DIR")],
    job: Annotated[
        Path | None, typer.Option(metavar="JOB.json", help="Only the tones of this job, numbered in its order.")
    ] = None,
    flac: Annotated[bool, typer.Option("--flac", help="FLAC instead of WAV.")] = False,
) -> None:
    """Write the test tones and pink noise as audio files, or those of one job as a numbered set."""
    from upper_rook.formats.signal_file import AudioFile

    kind = AudioFile.FLAC if flac else AudioFile.WAV
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for name, data in _tones_of(job, kind) if job else _usual_tones(kind):
            file = folder / name
            file.write_bytes(data)
            echo(file)
    except OSError as error:
        raise Refusal(f"Can’t write to {folder}: {error.strerror}.") from None


_TONE_S = 60.0


def _usual_tones(kind: "AudioFile") -> Iterator[tuple[str, bytes]]:
    from upper_rook.core.signal.played_signal import PlayedSignal, SignalKind
    from upper_rook.formats.signal_file import signal_file, signal_file_name

    levels = (0.0, -3.0, -5.0, -10.0)
    signals = [
        *(
            PlayedSignal(frequency_hz=hertz, level_dbfs=level, seconds=_TONE_S)
            for hertz in (40.0, 50.0, 60.0, 80.0, 1000.0)
            for level in levels
        ),
        *(PlayedSignal(kind=SignalKind.SWEEP, level_dbfs=level) for level in levels),
        PlayedSignal(kind=SignalKind.PINK_NOISE, seconds=_TONE_S),
    ]
    for signal in signals:
        yield signal_file_name(signal, kind), signal_file(signal, kind)


def _tones_of(job: Path, kind: "AudioFile") -> Iterator[tuple[str, bytes]]:
    from upper_rook.core.run.result.tone_set import tone_set
    from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
    from upper_rook.core.run.steps import run_sheet
    from upper_rook.formats.job_file import read_job
    from upper_rook.formats.tone_set import tone_files

    sheet = read_job(bytes_of(job))
    yield from tone_files(tone_set(run_sheet(JobSnapshot(sheet=sheet))), _TONE_S, kind)


@app.command()
def sheet(
    file: Annotated[Path, typer.Argument(metavar="JOB", help="A job file, or a job’s archive with its readings.")],
    out: Annotated[Path, typer.Argument(metavar="OUT", help="Ends in .pdf, .html or .json.")],
    card: Annotated[bool, typer.Option("--card", help="The customer’s card instead of the shop’s sheet.")] = False,
    letter: Annotated[bool, typer.Option("--letter", help="Letter paper instead of A4.")] = False,
) -> None:
    """Write the sheet that leaves with the vehicle, or the customer's card."""
    from upper_rook.cli.papers import papers_in
    from upper_rook.core.handover.customer_card import customer_card
    from upper_rook.formats.handover_html import Paper, card_html, sheet_html
    from upper_rook.formats.pdf import pdf

    if out.suffix not in (".pdf", ".html", ".json"):
        raise Refusal(f"{out} has to end in .pdf, .html or .json.")
    document, photos = papers_in(bytes_of(file))
    paper = Paper.LETTER if letter else Paper.A4
    if out.suffix == ".json":
        written = (customer_card(document) if card else document).model_dump_json(indent=2).encode()
    else:
        html = card_html(customer_card(document), paper) if card else sheet_html(document, paper, photos)
        written = pdf(html) if out.suffix == ".pdf" else html.encode()
    try:
        out.write_bytes(written)
    except OSError as error:
        raise Refusal(f"{out} can’t be written: {error.strerror}.") from None
    echo(f"{out} written.")
