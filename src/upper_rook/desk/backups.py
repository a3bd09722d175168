"""A backup of everything in one file of open formats, its check, and the way back."""

import errno
import hashlib
import os
import secrets
import time
import zipfile
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager, suppress
from datetime import UTC, datetime
from pathlib import Path
from typing import Literal
from uuid import UUID

from pydantic import ValidationError
from sqlalchemy import Connection, Engine, create_engine, inspect, text
from sqlmodel import Session

from upper_rook import __version__
from upper_rook.core.common.errors import BadInput, Conflict
from upper_rook.core.common.units import Frozen
from upper_rook.desk.scratch import scratch_folder, scratch_name, sweep
from upper_rook.formats.signature import Kind, Signature, signed, signer_of
from upper_rook.store import customers, dumped_rows, dumps, signing
from upper_rook.store.database import head_revision, migrate, present_revision
from upper_rook.store.installation import installation_id

_DUMP = "database.dump"
_MANIFEST = "manifest.json"
_SIGNATURE = "signature.json"
_PIECE = 1 << 20
_KEPT_BY_ITSELF = 10
_MOMENTS = 10
_MOMENT_S = 0.2


class Manifest(Frozen):
    """Contents of a backup, and the digest of each file in it."""

    format: Literal[1] = 1
    app: str
    revision: str | None
    """The database's schema."""
    installation: str | None
    made_at: datetime
    jobs: int
    sources: int | None = None
    """Sheets of the library; None in backups that were made before it was listed."""
    digests: dict[str, str]
    """SHA-256 by name."""


@contextmanager
def _engine(url: str) -> Iterator[Engine]:
    """A way to the database, let go of afterwards."""
    engine = create_engine(url, hide_parameters=True, connect_args={"connect_timeout": 3})
    try:
        yield engine
    finally:
        engine.dispose()


def back_up(url: str, to: Path) -> Manifest:
    """
    Writes the whole database, and every job and source as JSON, as they are at one moment, while others go on working.

    The file is read again from beginning to end before it gets its name, which no other file may have.

    Raises ToolTrouble, and BadInput when the file can't be written or isn't whole.
    """
    if to.exists():
        raise _taken(to)
    part = scratch_name(to)
    try:
        to.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        sweep(to.parent)
        sign = _signing(url)
        with scratch_folder(to.parent) as folder, dumps.steady(url) as (connection, snapshot):
            dump = folder / _DUMP
            dumps.dump(url, snapshot, dump)
            manifest = _write(connection, dump, part, sign)
            dump.unlink()
            _unpack(part, folder)
        _put_in_place(part, to)
    except OSError as error:
        raise BadInput(f"Can’t write {to}: {error.strerror}.") from None
    finally:
        with suppress(OSError):
            part.unlink(missing_ok=True)
    return manifest


def new_name(folder: Path, what: str) -> Path:
    """A name for a backup that no other has, sorted by when it was made."""
    return folder / f"{what}-{datetime.now(UTC):%Y-%m-%d-%H%M%S}-{secrets.token_hex(3)}.zip"


def _put_in_place(part: Path, to: Path) -> None:
    """Gives a file its name, unless that was taken meanwhile: a disk of any kind can do this, unlike a link."""
    try:
        os.close(os.open(to, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600))
    except FileExistsError:
        raise _taken(to) from None
    part.replace(to)


def _taken(to: Path) -> BadInput:
    return BadInput(f"There is a file {to} already: give another name.")


def _signing(url: str) -> Callable[[bytes], Signature] | None:
    """A function that signs a backup's list with the installation's key; None for a schema that knows of no keys."""
    with _engine(url) as engine:
        if not inspect(engine).has_table("signing_secret"):
            return None
        with Session(engine) as session:
            key, installation = signing.signing_key(session), installation_id(session)
            session.commit()
    return lambda manifest: signed(key, installation, {_MANIFEST: manifest}, Kind.BACKUP)


def _write(connection: Connection, dump: Path, to: Path, sign: Callable[[bytes], Signature] | None) -> Manifest:
    digests = {}
    # Nobody else on the machine is to read it.
    with os.fdopen(os.open(to, os.O_CREAT | os.O_EXCL | os.O_RDWR, 0o600), "w+b") as file:
        # The dump is compressed already.
        with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.write(dump, _DUMP, zipfile.ZIP_STORED)
            digests[_DUMP] = _digest(dump)
            for name, told in dumps.documents(connection):
                rows = told.encode()
                archive.writestr(name, rows)
                digests[name] = hashlib.sha256(rows).hexdigest()
            manifest = Manifest(
                app=__version__,
                revision=present_revision(connection),
                installation=_installation(connection),
                made_at=datetime.now(UTC),
                jobs=len(dumps.job_ids(connection)),
                sources=len(dumps.source_ids(connection)),
                digests=digests,
            )
            listed = manifest.model_dump_json(indent=1).encode()
            archive.writestr(_MANIFEST, listed)
            if sign is not None:
                archive.writestr(_SIGNATURE, sign(listed).model_dump_json(indent=1))
        file.flush()
        os.fsync(file.fileno())
    return manifest


def verify(file: Path) -> Manifest:
    """Reads a backup from its beginning to its end. Raises BadInput when anything in it isn't what was written."""
    with scratch_folder() as folder:
        return _unpack(file, folder)


def restore(url: str, file: Path, aside: Path | None) -> Manifest:
    """
    Puts a backup in place of what the database holds, and compares every job, source and part with it afterwards.

    The former content of the database is backed up to `aside` first; without `aside` it must hold none.

    Raises:
        BadInput: when the backup is damaged, or holds what it can't.
        Conflict: when somebody works on the database, or it isn't empty.
        TooNew: when the backup is of a newer version of the app.
        ToolTrouble: when PostgreSQL refuses.
    """
    with scratch_folder() as folder:
        manifest = _unpack(file, folder)
        _make_room(url, aside)
        taken_out = _fill(url, folder / _DUMP, manifest)
    migrate(url)
    _take_out_again(url, taken_out)
    return manifest


def _take_out_again(url: str, taken_out: Mapping[UUID, datetime]) -> None:
    """Keeps the list of customers who were taken out over a backup of a schema that has no place for it."""
    with _engine(url) as engine, engine.begin() as connection:
        customers.take_out_again(connection, taken_out)


def _fill(url: str, dump: Path, manifest: Manifest) -> Mapping[UUID, datetime]:
    """
    Puts a dump in place of what the database holds and compares it, wholly or not at all.

    Gives the customers who had been taken out before, which the dump brings none of.
    """
    with _engine(url) as engine, engine.begin() as connection:
        taken_out = customers.taken_out(connection)
        dumped_rows.load(connection, dump, manifest.revision)
        differing = _compare(connection, manifest)
        customers.take_out_again(connection, taken_out)
        if differing:
            raise BadInput(
                f"The restored data differs from the backup in {len(differing)} places: {differing[0]} first."
            )
        return taken_out


def before_a_migration(url: str, folder: Path, say: Callable[[str], None]) -> Path | None:
    """Backs up a database whose schema is about to change, and does away with the oldest such backups."""
    with _engine(url) as engine, engine.connect() as connection:
        revision = present_revision(connection)
        kept = _kept(connection)
    if revision is None or revision == head_revision() or not kept:
        return None
    file = _by_itself(url, folder, "before-an-update")
    say(f"The data was backed up to {file} before it is brought up to this version.")
    return file


def before_a_purge(url: str, folder: Path) -> Path:
    """Backs up a database from which jobs are about to go for good, and does away with the oldest such backups."""
    return _by_itself(url, folder, "before-emptying-the-bin")


def _by_itself(url: str, folder: Path, why: str) -> Path:
    file = new_name(folder, why)
    back_up(url, file)
    for old in sorted(folder.glob(f"{why}-*.zip"))[:-_KEPT_BY_ITSELF]:
        old.unlink()
    return file


def _unpack(file: Path, folder: Path) -> Manifest:
    try:
        with zipfile.ZipFile(file) as archive:
            manifest = Manifest.model_validate_json(archive.read(_MANIFEST))
            _signer_in(archive)
            for name, digest in manifest.digests.items():
                if _digest_in(archive, name, folder / _DUMP if name == _DUMP else None) != digest:
                    raise BadInput(f"This backup is damaged: {name} in it isn’t what was written.")
            jobs = [name for name in manifest.digests if name.startswith("jobs/")]
            sources = [name for name in manifest.digests if name.startswith("sources/")]
            counted = (len(jobs), len(sources)) == (manifest.jobs, manifest.sources or 0)
            if not counted or _DUMP not in manifest.digests:
                raise BadInput("This backup isn’t whole.")
    except FileNotFoundError:
        raise BadInput(f"There is no file {file}.") from None
    except ValidationError:
        raise BadInput("This backup is of a newer version of Upper Rook, or none: bring the app up to date.") from None
    except OSError as error:
        if error.errno in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG):
            raise BadInput(f"There is no room in {folder.parent} to unpack this backup: free some of it.") from None
        raise BadInput(f"This isn’t a whole backup: {str(error).rstrip('.')}.") from None
    except (zipfile.BadZipFile, KeyError, EOFError, NotImplementedError, RuntimeError) as error:
        raise BadInput(f"This isn’t a whole backup: {str(error).rstrip('.')}.") from None
    try:
        dumps.check(folder / _DUMP)
    except dumps.ToolTrouble as error:
        raise BadInput(f"This backup’s dump can’t be read: {error.sentence}") from None
    return manifest


def _signer_in(archive: zipfile.ZipFile) -> bytes | None:
    """The public key that signed a backup; None without a signature. Raises BadInput for one that was changed."""
    if _SIGNATURE not in archive.namelist():
        return None
    return signer_of(archive.read(_SIGNATURE), {_MANIFEST: archive.read(_MANIFEST)}, Kind.BACKUP)


def signed_in_words(file: Path, own: frozenset[bytes] = frozenset()) -> str:
    """Signer of a backup that was checked, in words; `own` are the keys of this installation, where they are known."""
    with zipfile.ZipFile(file) as archive:
        signer = _signer_in(archive)
    if signer is None:
        return "nobody signed it: anybody may have written it"
    key = f"key {signing.fingerprint(signer)}"
    if not own:
        return f"signed with the {key}: compare it with the one that was printed when it was made"
    return f"signed by {'this' if signer in own else 'another'} installation, {key}"


def own_keys(url: str) -> frozenset[bytes]:
    """Keys that this installation signed with; none in an empty database or an earlier schema."""
    with _engine(url) as engine:
        if not inspect(engine).has_table("signing_key"):
            return frozenset()
        with Session(engine) as session:
            return signing.own_keys(session)


def _alone(url: str) -> bool:
    """Whether nobody else is connected; who has just let go is given a moment to be gone."""
    for _ in range(_MOMENTS):
        with dumps.steady(url) as (connection, _snapshot):
            if not dumps.others_connected(connection):
                return True
        time.sleep(_MOMENT_S)
    return False


def _make_room(url: str, aside: Path | None) -> None:
    with dumps.steady(url) as (connection, _):
        kept = _kept(connection)
    if not _alone(url):
        raise Conflict("The app, or something else, is connected to this database: stop it first.")
    if kept and aside is None:
        raise Conflict(f"This database holds {kept}: nothing was touched. Give --over to put the backup in place.")
    if kept and aside is not None:
        back_up(url, aside)


def _kept(connection: Connection) -> str:
    """Contents of a database in words; empty where it holds nothing."""
    counts = (
        (len(dumps.job_ids(connection)), "job"),
        (len(dumps.source_ids(connection)), "source"),
        (len(dumps.part_ids(connection)), "part"),
    )
    return " and ".join(f"{count} {noun}{'' if count == 1 else 's'}" for count, noun in counts if count)


def _compare(connection: Connection, manifest: Manifest) -> list[str]:
    """The jobs, sources and parts that aren't as they were backed up."""
    now = {
        name: hashlib.sha256(rows.encode()).hexdigest()
        for name, rows in dumps.documents(connection)
        # Backups that were made before sources were listed have them in the dump alone.
        if manifest.sources is not None or name.startswith("jobs/")
    }
    was = {name: digest for name, digest in manifest.digests.items() if name != _DUMP}
    return sorted(name for name in was.keys() | now.keys() if was.get(name) != now.get(name))


def _installation(connection: Connection) -> str | None:
    if not inspect(connection).has_table("installation"):
        return None
    return str(connection.execute(text("select id from installation")).scalar())


def _digest(file: Path) -> str:
    with file.open("rb") as opened:
        return hashlib.file_digest(opened, "sha256").hexdigest()


def _digest_in(archive: zipfile.ZipFile, name: str, copy: Path | None) -> str:
    digest = hashlib.sha256()
    with archive.open(name) as file, copy.open("wb") if copy else open(os.devnull, "wb") as to:  # noqa: PTH123
        for piece in iter(lambda: file.read(_PIECE), b""):
            digest.update(piece)
            to.write(piece)
    return digest.hexdigest()


def in_words(manifest: Manifest) -> str:
    """Contents of a backup in a line."""
    made = manifest.made_at.strftime("%Y-%m-%d %H:%M UTC")
    sources = f", {manifest.sources} source{'' if manifest.sources == 1 else 's'}" if manifest.sources else ""
    return f"{manifest.jobs} job{'' if manifest.jobs == 1 else 's'}{sources}, made {made} by version {manifest.app}"
