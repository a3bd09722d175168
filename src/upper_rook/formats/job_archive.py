"""
A job with everything that belongs to it, as a zip file of open formats.

`archive.json` holds the sheets, readings, marks, captures and photos, `schema.json` its JSON Schema, `readings.csv` the
readings for a spreadsheet, `files/` the captures' files unchanged, `photos/` the photos, `signature.json` the
signature.
"""

import csv
import hashlib
import io
import json
import zipfile
import zlib
from collections.abc import Callable, Iterable, Iterator
from functools import cache
from itertools import product
from typing import Any, BinaryIO
from uuid import UUID, uuid5

from pydantic import ValidationError

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.refusals import refusals
from upper_rook.core.run.readings.archived_job import FORMAT, ArchivedCapture, ArchivedJob, photo_place
from upper_rook.core.run.readings.photos import LONGEST_SIDE, SMALL_SIDE, Photo
from upper_rook.core.run.readings.records import Reading
from upper_rook.formats.capture_reader import LARGEST_BYTES
from upper_rook.formats.cells import plain_cell
from upper_rook.formats.photo_file import LARGEST_KEPT, check_kept
from upper_rook.formats.signature import Kind, Signature, signer_of

LARGEST_ARCHIVE = 2_000_000_000
_LARGEST_DOCUMENT = 32_000_000
"""Some 40,000 readings."""
_LARGEST_DIRECTORY = 8_000_000
_LARGEST_SIGNATURE = 10_000
_DOCUMENT, _SIGNATURE = "archive.json", "signature.json"
_PIECE = 1 << 20
_QUICKLY = 1
"""Compression level of text: a fifth larger in a third of the time."""
_LAST_RECORD_BYTES = 22
TOO_LARGE = "This job archive is too large to be read."
_DAMAGED = (zipfile.BadZipFile, zipfile.LargeZipFile, zlib.error, EOFError, OSError, NotImplementedError, RuntimeError)


def archive_schema() -> dict[str, Any]:
    """The JSON Schema of `archive.json`."""
    return ArchivedJob.model_json_schema() | {"title": "Upper Rook job archive", "$id": f"upper-rook-archive-{FORMAT}"}


@cache
def _schema_text() -> bytes:
    return json.dumps(archive_schema(), indent=1).encode()


def write_archive(
    job: ArchivedJob,
    file_of: Callable[[UUID], Iterable[bytes]],
    to: BinaryIO,
    photo_of: Callable[[UUID, bool], bytes],
    sign: Callable[[dict[str, bytes]], Signature] | None = None,
) -> None:
    """
    Writes the archive to `to`.

    `file_of` gives a capture's file piece by piece, `photo_of` a photo's file or its small copy, `sign` the signature
    of the rest.
    """
    entries = {
        _DOCUMENT: job.model_dump_json(indent=1).encode(),
        "schema.json": _schema_text(),
        "readings.csv": readings_csv(job.readings).encode(),
    }
    with zipfile.ZipFile(to, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in entries.items():
            archive.writestr(name, data, compresslevel=_QUICKLY)
        if sign is not None:
            archive.writestr(_SIGNATURE, sign(entries).model_dump_json(indent=1))
        for capture in job.captures:
            with archive.open(capture.file, "w", force_zip64=True) as file:
                for piece in file_of(capture.id):
                    file.write(piece)
        for photo, small in product(job.photos, (False, True)):
            # It is compressed already.
            archive.writestr(photo_place(photo.id, small=small), photo_of(photo.id, small), zipfile.ZIP_STORED)


def readings_csv(readings: Iterable[Reading]) -> str:
    """Readings as a table, nothing rounded."""
    table = io.StringIO()
    rows = csv.writer(table)
    head = ("taken_at", "step", "quantity", "value", "uncertainty", "volume", "tone_hz", "seen", "instrument", "by")
    rows.writerow((*head, "sheet_version", "struck", "id"))
    for reading in readings:
        tone = reading.tone.frequency_hz if reading.tone else None
        values = (
            reading.taken_at.isoformat(),
            reading.step,
            reading.quantity.value,
            reading.value,
            reading.uncertainty,
            reading.volume,
            tone,
        )
        typed = (plain_cell(reading.instrument), plain_cell(reading.by))
        rest = (reading.sheet_version, plain_cell(reading.struck), reading.id)
        rows.writerow((*values, reading.seen.value, *typed, *rest))
    return table.getvalue()


class ReadArchive:
    """An archive that was read: the job, and its files one by one."""

    def __init__(self, file: BinaryIO) -> None:
        """Raises BadInput when it isn't one, or is damaged."""
        try:
            if _directory_bytes(file) > _LARGEST_DIRECTORY:
                raise BadInput(TOO_LARGE)
            self._zip = zipfile.ZipFile(file)
            text = _document_in(self._zip)
            self.signer = _signer_in(self._zip, text)
            """Public key that signed the archive; None without a signature."""
            self.job = _job_of(text)
            # Before any of them is unpacked. What the job doesn't name is never read.
            if sum(capture.size for capture in self.job.captures) > LARGEST_ARCHIVE:
                raise BadInput(TOO_LARGE)
            for capture in self.job.captures:
                _check(self._zip, capture)
            for photo in self.job.photos:
                self._check_photo(photo)
        except _DAMAGED as error:
            raise BadInput(f"This isn’t a whole job archive: {str(error).rstrip('.')}.") from None

    def pieces(self, capture: ArchivedCapture) -> Iterator[bytes]:
        """The capture's file, piece by piece."""
        with self._zip.open(capture.file) as file:
            yield from iter(lambda: file.read(_PIECE), b"")

    def photo_files(self, photo: Photo) -> tuple[bytes, bytes]:
        """A photo's file and its small copy."""
        return self._photo_file(photo, small=False), self._photo_file(photo, small=True)

    def look_at_photos(self) -> None:
        """Reads every photo's pixels, in a child process alone. Raises BadInput for one that none of ours would be."""
        for photo in self.job.photos:
            full, small = self.photo_files(photo)
            check_kept(full, LONGEST_SIDE, (photo.width, photo.height))
            check_kept(small, SMALL_SIDE)

    def _check_photo(self, photo: Photo) -> None:
        digests = tuple(hashlib.sha256(data).hexdigest() for data in self.photo_files(photo))
        if digests != (photo.digest, photo.small_digest):
            raise BadInput(f"The file of a photo{_called(photo)} is not the one that was archived.")

    def _photo_file(self, photo: Photo, *, small: bool) -> bytes:
        place = photo_place(photo.id, small=small)
        try:
            size = self._zip.getinfo(place).file_size
        except KeyError:
            raise BadInput(f"The archive lacks the file of a photo{_called(photo)}.") from None
        if size > LARGEST_KEPT:
            raise BadInput(f"The file of a photo{_called(photo)} is not the one that was archived.")
        return self._zip.read(place)


def _called(photo: Photo) -> str:
    return f" “{photo.name}”" if photo.name else ""


def _directory_bytes(file: BinaryIO) -> int:
    """Size of a zip file's list of contents by its last record (PKWARE's APPNOTE, 4.3.16); 0 where it has none."""
    file.seek(0, io.SEEK_END)
    file.seek(max(0, file.tell() - _LAST_RECORD_BYTES - 0xFFFF))
    end = file.read()
    place = end.rfind(b"PK\x05\x06")
    file.seek(0)
    return 0 if place < 0 else int.from_bytes(end[place + 12 : place + 16], "little")


def _document_in(archive: zipfile.ZipFile) -> bytes:
    document = _entry(archive, _DOCUMENT)
    if document is None:
        raise BadInput("This isn’t a job archive: archive.json is missing in it.")
    if document.file_size > _LARGEST_DOCUMENT:
        raise BadInput(TOO_LARGE)
    return archive.read(document)


def _signer_in(archive: zipfile.ZipFile, document: bytes) -> bytes | None:
    signature = _entry(archive, _SIGNATURE)
    if signature is None:
        return None
    if signature.file_size > _LARGEST_SIGNATURE:
        raise BadInput(Kind.ARCHIVE.changed)
    return signer_of(archive.read(signature), {_DOCUMENT: document})


def _entry(archive: zipfile.ZipFile, name: str) -> zipfile.ZipInfo | None:
    return next((member for member in archive.infolist() if member.filename == name), None)


def _job_of(text: bytes) -> ArchivedJob:
    try:
        return ArchivedJob.model_validate_json(text)
    except ValidationError as error:
        first, *_ = refusals(error.errors(include_url=False))
        if first.place == "format":
            raise BadInput("This job archive is of a newer version of Upper Rook: bring the app up to date.") from None
        raise BadInput(
            f"Not a job archive that this version reads: {first.place or 'archive.json'} {first.sentence}.", first.place
        ) from None


def _check(archive: zipfile.ZipFile, capture: ArchivedCapture) -> None:
    try:
        size = archive.getinfo(capture.file).file_size
    except KeyError:
        raise BadInput(f"The archive lacks the file of the capture “{capture.name}”.") from None
    if size != capture.size or size > LARGEST_BYTES:
        raise BadInput(f"The file of the capture “{capture.name}” is not the one that was archived.")
    digest = hashlib.sha256()
    with archive.open(capture.file) as file:
        for piece in iter(lambda: file.read(_PIECE), b""):
            digest.update(piece)
    if digest.hexdigest() != capture.digest:
        raise BadInput(f"The file of the capture “{capture.name}” is not the one that was archived.")


def renamed(job: ArchivedJob, new_id: UUID) -> ArchivedJob:
    """The same job under another id, with ids of their own for all its records."""

    def named(old: UUID | None) -> UUID | None:
        return uuid5(new_id, str(old)) if old else None

    return job.model_copy(
        update={
            "id": new_id,
            "readings": tuple(
                reading.model_copy(
                    update={
                        "id": named(reading.id),
                        "builds_on": None
                        if reading.builds_on is None
                        else tuple(named(old) for old in reading.builds_on),
                    }
                )
                for reading in job.readings
            ),
            "marks": tuple(mark.model_copy(update={"id": named(mark.id)}) for mark in job.marks),
            "photos": tuple(photo.model_copy(update={"id": named(photo.id)}) for photo in job.photos),
            "captures": tuple(
                capture.model_copy(update={"id": named(capture.id), "reading_id": named(capture.reading_id)})
                for capture in job.captures
            ),
        }
    )
