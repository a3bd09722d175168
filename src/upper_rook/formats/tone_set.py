"""A job's tones as a numbered set of WAV or FLAC files with titles, pink noise, and a list of what each is for."""

import io
import zipfile
from collections.abc import Iterator

from typing_extensions import override

from upper_rook.core.run.result.tone_set import NumberedTone
from upper_rook.core.signal.played_signal import HIGHEST_HZ, PlayedSignal, SignalKind
from upper_rook.formats.signal_file import AudioFile, Tags, signal_file, signal_file_name

LIST = "00-which-is-for-what.txt"
PINK = "pink noise"
_ALBUM = "Test tones"
_NO_FILE = ": no file, since one of 48 kHz ends at about 21.8 kHz"


def tone_files(
    tones: tuple[NumberedTone, ...], seconds: float, kind: AudioFile = AudioFile.WAV
) -> Iterator[tuple[str, bytes]]:
    """Name and contents of every file, in the order of their names; a player that sorts by name keeps the order."""
    yield LIST, tone_list(tones).encode()
    for numbered in tones:
        if not _is_held(numbered):
            continue
        signal = PlayedSignal.of(numbered.tone, seconds)
        tags = Tags(f"{numbered.number:02} {signal.label}", numbered.number, _ALBUM)
        yield f"{numbered.number:02}-{signal_file_name(signal, kind)}", signal_file(signal, kind, tags)
    last = len(tones) + 1
    noise = signal_file(
        PlayedSignal(kind=SignalKind.PINK_NOISE, seconds=seconds), kind, Tags(f"{last:02} {PINK}", last, _ALBUM)
    )
    yield f"{last:02}-{PINK.replace(' ', '-')}.{kind.value}", noise


def _is_held(numbered: NumberedTone) -> bool:
    return numbered.tone.swept or numbered.tone.frequency_hz <= HIGHEST_HZ


def tone_list(tones: tuple[NumberedTone, ...]) -> str:
    """Text of the list: number, tone and steps."""
    lines = [
        f"{numbered.number:02}  {numbered.tone.label}{'' if _is_held(numbered) else _NO_FILE}\n"
        f"    {'; '.join(numbered.steps)}"
        for numbered in tones
    ]
    noise = f"{len(tones) + 1:02}  {PINK}\n    Spectrum of factory wires, and of the cabin"
    return "\n".join((*lines, noise, ""))


class _Pieces(io.RawIOBase):
    """Something to write to that hands over what was written."""

    def __init__(self) -> None:
        super().__init__()
        self._kept: list[bytes] = []

    @override
    def writable(self) -> bool:
        return True

    @override
    def write(self, piece: object, /) -> int:
        data = bytes(memoryview(piece))  # type: ignore[arg-type]
        self._kept.append(data)
        return len(data)

    def taken(self) -> bytes:
        """Everything since the last time."""
        data, self._kept = b"".join(self._kept), []
        return data


def tone_archive(tones: tuple[NumberedTone, ...], seconds: float, kind: AudioFile = AudioFile.WAV) -> Iterator[bytes]:
    """A ZIP of the set, piece by piece: no more than one file of it is in memory."""
    pieces = _Pieces()
    with zipfile.ZipFile(pieces, "w", zipfile.ZIP_STORED) as archive:
        for name, data in tone_files(tones, seconds, kind):
            archive.writestr(name, data)
            yield pieces.taken()
    yield pieces.taken()
