"""The command line: everything the core does, and the server."""

import ipaddress
import json
import re
import socket
import sys
from datetime import UTC, datetime
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from upper_rook.core.common.errors import RookError
from upper_rook.core.common.units import format_signed, format_value
from upper_rook.core.signal.trace import Trace

if TYPE_CHECKING:
    from upper_rook.core.judge.examination import Channel
    from upper_rook.web.network import Wanted
    from upper_rook.web.settings import Settings

JsonFlag = Annotated[bool, typer.Option("--json", help="One JSON document on standard output.")]

app = typer.Typer(
    help="Upper Rook: set a car audio system’s levels and crossovers by measurement.",
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    add_completion=False,
)


class SchemaOf(StrEnum):
    """Document with a published schema."""

    JOB = "job"
    PLAN = "plan"
    SOURCE = "source"


class Refusal(RookError):
    """A refusal of the command line itself."""


@app.command()
def serve(  # noqa: PLR0917
    port: Annotated[int | None, typer.Option(help="Port, 8765 unless given.", min=1, max=65535)] = None,
    lan: Annotated[
        bool, typer.Option("--lan", help="On the workshop’s network: over TLS, and everybody has to sign in.")
    ] = False,
    name: Annotated[str | None, typer.Option(help="With --lan: found on the network as NAME.local.")] = None,
    certificate: Annotated[Path | None, typer.Option(help="Another certificate than the workshop’s own.")] = None,
    key: Annotated[Path | None, typer.Option(help="Its key.")] = None,
    behind_proxy: Annotated[
        str | None,
        typer.Option(metavar="ADDRESSES", help="A proxy of your own does TLS and asks from there; everybody signs in."),
    ] = None,
    host_name: Annotated[str | None, typer.Option(help="With --behind-proxy: the name it is asked under.")] = None,
) -> None:
    """Start the app on DATABASE_URL."""
    _refuse_mismatched(lan=lan, name=name, pair=(certificate, key), proxy=behind_proxy, host_name=host_name)
    from upper_rook.web.network import Wanted

    wanted = Wanted(
        certificate=(certificate, key) if certificate and key else None,
        name=name,
        proxies=tuple(behind_proxy.replace(",", " ").split()) if behind_proxy else (),
        host=host_name,
    )
    _serve(port, demo=False, wanted=wanted if lan or behind_proxy else None)


def _refuse_mismatched(
    *, lan: bool, name: str | None, pair: tuple[Path | None, Path | None], proxy: str | None, host_name: str | None
) -> None:
    """Words of `serve` that don't go together."""
    if (pair[0] is None) != (pair[1] is None):
        raise Refusal("A certificate goes with its key: give both, or neither.")
    if pair[0] is not None and not lan:
        raise Refusal("Only --lan is asked over TLS: add it, or leave the certificate out.")
    if name is not None and (not lan or not re.fullmatch(r"[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?", name)):
        raise Refusal("A name on the network goes with --lan and has small letters, digits and hyphens: --name rook.")
    if lan and proxy is not None:
        raise Refusal("Either this app does TLS (--lan) or a proxy before it does (--behind-proxy): leave one out.")
    if (proxy is None) != (host_name is None):
        raise Refusal(
            "Behind a proxy goes with the name that it is asked under: --behind-proxy 127.0.0.1 --host-name …"
        )
    for one in (proxy or "").replace(",", " ").split():
        try:
            ipaddress.ip_network(one)
        except ValueError:
            raise Refusal(f"“{one}” is no address of a proxy: give numbers such as 127.0.0.1, never a name.") from None


@app.command()
def demo(port: Annotated[int | None, typer.Option(help="Port on 127.0.0.1.", min=1, max=65535)] = None) -> None:
    """Start the app on DATABASE_URL with demo data; what is there already stays as it is."""
    _serve(port, demo=True)


@app.command("let-in")
def let_in(
    role: Annotated[str, typer.Option(help="owner, fitter, apprentice or looker_on.")] = "owner",
    person: Annotated[str | None, typer.Option("--for", help="Somebody who is here, with a new password.")] = None,
    device: Annotated[bool, typer.Option("--device", help="A device alone, within ten minutes.")] = False,
) -> None:
    """Print a one-time sign-in link, valid for 24 hours."""
    from sqlmodel import Session

    from upper_rook.core.common.roles import Role
    from upper_rook.desk.auth.links import AT_THE_MACHINE, invite
    from upper_rook.store.database import make_engine
    from upper_rook.store.links import Link
    from upper_rook.store.people import called

    if role not in set(Role):
        raise Refusal(f"There is no role “{role}”: it is one of {', '.join(Role)}.")
    engine = make_engine(_settings().database_url)
    try:
        with Session(engine) as session:
            link = Link() if device else Link(role=Role(role))
            if person is not None:
                link = Link(person=called(session, person).id)
            typer.echo(f"/come-in#{invite(session, AT_THE_MACHINE, link)}")
    finally:
        engine.dispose()


@app.command()
def backup(
    file: Annotated[Path | None, typer.Argument(metavar="FILE", help="Among the app’s data unless given.")] = None,
) -> None:
    """Write everything in DATABASE_URL to one file of open formats, while the app goes on working."""
    from upper_rook.desk.backups import back_up, in_words

    settings = _settings()
    target = file or settings.data / "backups" / f"rook-{datetime.now(UTC):%Y-%m-%d-%H%M%S}.zip"
    manifest = back_up(settings.database_url, target)
    typer.echo(f"{target}: {in_words(manifest)}")


@app.command()
def verify(file: Annotated[Path, typer.Argument(metavar="FILE")]) -> None:
    """Read a backup from its beginning to its end and say what it holds."""
    from upper_rook.desk.backups import in_words
    from upper_rook.desk.backups import verify as read

    typer.echo(f"{file} is whole: {in_words(read(file))}")


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(metavar="FILE")],
    over: Annotated[bool, typer.Option("--over", help="Even if there are jobs; they are backed up first.")] = False,
) -> None:
    """Put a backup in place of what DATABASE_URL holds, and compare everything with it."""
    from upper_rook.desk.backups import in_words
    from upper_rook.desk.backups import restore as put_back

    settings = _settings()
    owner = _ask_the_owner(settings.database_url)
    aside = settings.data / "backups" / f"before-a-restore-{datetime.now(UTC):%Y-%m-%d-%H%M%S}.zip" if over else None
    manifest = put_back(settings.database_url, file, aside)
    _note_a_restore(settings.database_url, owner, file.name)
    typer.echo(f"Restored and compared: {in_words(manifest)}")
    if aside is not None and aside.exists():
        typer.echo(f"The former data is in {aside}")


def _ask_the_owner(url: str) -> str:
    """Person who restores a backup: where people sign in, the owner has to confirm it."""
    from sqlalchemy import inspect
    from sqlmodel import Session

    from upper_rook.desk.auth.password_sign_in import confirm_owner
    from upper_rook.store.database import make_engine
    from upper_rook.store.people import has_owner

    engine = make_engine(url)
    try:
        with Session(engine) as session:
            if not inspect(engine).has_table("password") or not has_owner(session):
                return ""
            typer.echo("A restore replaces all data. The owner has to agree.", err=True)
            name = typer.prompt("Owner’s name", err=True)
            return confirm_owner(session, name, typer.prompt("Password", hide_input=True, err=True)).name
    finally:
        engine.dispose()


def _note_a_restore(url: str, owner: str, file: str) -> None:
    from sqlmodel import Session

    from upper_rook.desk.transaction import transaction
    from upper_rook.store.database import make_engine
    from upper_rook.store.trail import Act, By, note

    engine = make_engine(url)
    try:
        with Session(engine) as session, transaction(session):
            note(session, By(owner, "at the machine"), Act.RESTORED, file)
    finally:
        engine.dispose()


@app.command()
def openapi() -> None:
    """Print the OpenAPI schema of the app."""
    from upper_rook.web.app import create_app
    from upper_rook.web.settings import Settings

    typer.echo(json.dumps(create_app(Settings()).openapi(), indent=2, ensure_ascii=False))


@app.command()
def schema(
    of: Annotated[
        SchemaOf, typer.Argument(help="Of a job file, of a source file, or of what plan --json prints.")
    ] = SchemaOf.JOB,
) -> None:
    """Print the JSON Schema of a job file, of a source file or of a plan."""
    from upper_rook.formats.job_file import job_schema, plan_schema
    from upper_rook.formats.source_file import source_schema

    schemas = {SchemaOf.JOB: job_schema, SchemaOf.PLAN: plan_schema, SchemaOf.SOURCE: source_schema}
    typer.echo(json.dumps(schemas[of](), indent=2, ensure_ascii=False))


@app.command()
def plan(
    file: Annotated[Path, typer.Argument(metavar="JOB.json")],
    as_json: JsonFlag = False,
) -> None:
    """Compute the plan of a job file."""
    from upper_rook.core.plan import plan as core
    from upper_rook.core.plan.text import plan_text
    from upper_rook.formats.job_file import read_job

    planned = core.plan(read_job(_bytes_of(file)))
    if as_json:
        typer.echo(planned.model_dump_json(indent=2))
        return
    for line in plan_text(planned):
        typer.echo(line)


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

    sheet = read_source(_bytes_of(file))
    if unit is not None and sheet.unit(unit) is None:
        raise Refusal(f"{file} has no unit “{unit}”: it has {', '.join(one.id for one in sheet.units) or 'none'}.")
    told = report(sheet, unit)
    if as_json:
        typer.echo(told.model_dump_json(indent=2))
        return
    for line in source_text(sheet, told):
        typer.echo(line)


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
            typer.echo(f"{file}")
        _echo_reports(channels)


def _echo_json(file: Path, channels: "tuple[Channel, ...]", indent: int | None) -> None:
    rows = [
        {"name": channel.name}
        | channel.report.model_dump(mode="json")
        | {"clean_v_uncertainty": channel.clean_v_uncertainty}
        for channel in channels
    ]
    told = {"file": str(file), "channels": rows}
    typer.echo(json.dumps(told, indent=indent, ensure_ascii=False, allow_nan=False))


def _echo_reports(channels: "tuple[Channel, ...]") -> None:
    for name, report in ((channel.name, channel.report) for channel in channels):
        typer.echo(f"{name}: {report.verdict.words}")
        frequency = f", {format_value(report.frequency_hz, 'Hz')}" if report.frequency_hz else ""
        typer.echo(f"  {format_value(report.v_rms, 'V')} RMS{frequency}, {format_value(report.v_dc, 'V', 3)} DC")
        for reason in report.reasons:
            typer.echo(f"  {reason}")


@app.command()
def volume_steps(
    file: Annotated[Path, typer.Argument(metavar="FILE", help="Columns volume and voltage_v.")],
    as_json: JsonFlag = False,
) -> None:
    """Find the clean maximum from volume numbers and volts."""
    from upper_rook.core.judge.volume_steps import judge_volume_steps
    from upper_rook.formats.volume_steps_csv import read_volume_steps

    report = judge_volume_steps(read_volume_steps(_bytes_of(file))).report
    if as_json:
        typer.echo(report.model_dump_json(indent=2))
        return
    if report.clean_volume is not None and report.clean_v_rms is not None and report.uncertainty_db is not None:
        clean_maximum = format_value(report.clean_v_rms, "V")
        typer.echo(f"Clean maximum {report.clean_volume}; {clean_maximum} RMS there ± {report.uncertainty_db:.2f} dB")
    else:
        typer.echo(report.verdict.words)
    for reason in report.reasons:
        typer.echo(f"  {reason}")


@app.command()
def simulate(
    file: Annotated[Path, typer.Argument(metavar="JOB.json")],
    seed: Annotated[int, typer.Option(min=0, help="Picks the specimens of the parts.")] = 1,
    meter_only: Annotated[bool, typer.Option("--meter-only/--scope", help="Without a scope.")] = False,
    fault: Annotated[
        list[str] | None, typer.Option("--fault", help="Something wrong on the bench; --fault list names them.")
    ] = None,
    as_json: JsonFlag = False,
) -> None:
    """Run a job on the simulated bench and compare the results with the true values."""
    from upper_rook.formats.job_file import read_job
    from upper_rook.instruments.simulated import FAULT_WORDS, Fault
    from upper_rook.instruments.simulation import simulate as work

    if fault == ["list"]:
        typer.echo("\n".join(f"{one.value}: {words}" for one, words in FAULT_WORDS.items()))
        return
    unknown = set(fault or ()) - {one.value for one in Fault}
    if unknown:
        raise Refusal(f"There is no fault “{min(unknown)}”: --fault list names them.")
    faults = tuple(Fault(one) for one in fault or ())
    done = work(read_job(_bytes_of(file)), seed, scope=not meter_only, faults=faults)
    if as_json:
        typer.echo(done.model_dump_json(indent=2))
        return
    for number in done.numbers:
        typer.echo(f"{number.source}: never pass {number.volume}; true clean maximum {number.last_clean}")
    for path in done.paths:
        note = f", left: {path.settled.replace('_', ' ')}" if path.settled else ""
        clips = ", something before its amplifier clips" if path.clips_before else ", clips" if path.clips else ""
        typer.echo(
            f"{path.name}: wanted {format_value(path.wanted_v, 'V')}, set to {format_value(path.set_v, 'V')} "
            f"({format_signed(path.off_db, 2)} dB){note}{clips}"
        )
    for corner in done.corners:
        typer.echo(
            f"{corner.name}: wanted {format_value(corner.wanted_hz, 'Hz')}, set at "
            f"{format_value(corner.set_hz, 'Hz', 3)} ({format_signed(corner.off_percent, 1)} %)"
        )
    for line in done.open:
        typer.echo(f"Open: {line}")


@app.command()
def tones(folder: Annotated[Path, typer.Argument(metavar="DIR")]) -> None:
    """Write the test tones as WAV files."""
    from upper_rook.core.signal.tones import Tone
    from upper_rook.formats.wav import tone_file_name, tone_wav

    tones = [(hertz, False) for hertz in (40.0, 50.0, 60.0, 80.0, 1000.0)]
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for hertz, swept in (*tones, (1000.0, True)):
            for level in (0.0, -3.0, -5.0, -10.0):
                tone = Tone(frequency_hz=hertz, level_dbfs=level, swept=swept)
                file = folder / tone_file_name(tone)
                file.write_bytes(tone_wav(tone, seconds=60))
                typer.echo(file)
    except OSError as error:
        raise Refusal(f"Can’t write to {folder}: {error.strerror}.") from None


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


def _bytes_of(file: Path) -> bytes:
    try:
        return file.read_bytes()
    except OSError as error:
        raise Refusal(f"Can’t read {file}: {error.strerror}.") from None


def _settings() -> "Settings":
    from upper_rook.web.settings import Settings

    settings = Settings()
    if not settings.database_url:
        raise Refusal("DATABASE_URL is not set: start it as ./rook serve or ./rook demo, which bring a database.")
    return settings


def _serve(port: int | None, *, demo: bool, wanted: "Wanted | None" = None) -> None:
    from sqlalchemy.exc import OperationalError

    from upper_rook.desk.backups import before_a_migration
    from upper_rook.store.database import migrate
    from upper_rook.web.server import run

    changed: dict[str, Any] = {"demo": demo} | ({"port": port} if port else {})
    settings = _settings().model_copy(update=changed)
    tls = None
    if wanted is None or wanted.proxies:
        _refuse_open_doors(settings.host)
    if wanted is not None:
        from upper_rook.web.network import announced, behind_a_proxy, on_the_network

        if wanted.proxies:
            settings = behind_a_proxy(settings, wanted)
        else:
            settings, tls = on_the_network(settings, wanted)
    _refuse_taken_port(settings.host, settings.port)
    try:
        before_a_migration(settings.database_url, settings.data / "backups", lambda told: typer.echo(told, err=True))
        migrate(settings.database_url)
        if demo:
            from upper_rook.demo import fill

            fill(settings.database_url)
        if wanted is not None:
            if settings.fingerprint:
                typer.echo(f"Devices have to trust {settings.authority} once; its fingerprint (SHA-256):")
                typer.echo(f"  {settings.fingerprint}")
            _tell_the_first(settings)
    except OperationalError as error:
        raise Refusal(f"The database can’t be reached: {str(error.orig).strip().splitlines()[-1]}") from None
    if wanted is None:
        run(settings, typer.echo)
        return
    with announced(settings, wanted.name):
        run(settings, typer.echo, tls)


def _tell_the_first(settings: "Settings") -> None:
    """Prints the link by which the first owner comes in, as long as there is none."""
    from upper_rook.web.network import as_code, first_link

    end = first_link(settings)
    if end is None:
        return
    # Behind the hash nothing of it reaches a log.
    address = f"{settings.addresses[0]}{end}"
    typer.echo(f"The owner comes in here, once, within a day:\n{as_code(address)}\n  {address}")


def _refuse_open_doors(host: str) -> None:
    """Nobody has to sign in, so nobody else may come in."""
    if host not in ("127.0.0.1", "localhost", "::1"):
        raise Refusal(
            f"ROOK_HOST is {host}: without sign-in the app listens on this machine only (127.0.0.1). "
            "Use serve --lan for the network."
        )


def _refuse_taken_port(host: str, port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            raise Refusal(
                f"Port {port} can’t be used ({error.strerror}): stop what uses it, or give another with --port."
            ) from None


def main() -> None:
    """Entry point: 0 done, 2 bad input with one sentence on standard error, 1 a bug."""
    try:
        app()
    except RookError as error:
        typer.echo(f"upper-rook: {error.sentence}", err=True)
        sys.exit(2)
