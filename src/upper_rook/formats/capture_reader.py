"""A captured wave in a file of any kind: what it is shows in its first bytes, not in its name."""

from typing import BinaryIO

from upper_rook.core.common.errors import BadInput
from upper_rook.core.run.readings.kept_captures import CaptureKind
from upper_rook.core.signal.trace import Trace
from upper_rook.formats import dialect
from upper_rook.formats.progress import Progress
from upper_rook.formats.scope_binary import is_binary, read_scope_binary
from upper_rook.formats.volume_steps_csv import looks_like_volume_steps
from upper_rook.formats.wav import read_wav

LARGEST_BYTES = 200_000_000
HEAD_BYTES = 16_384


def is_wav(head: bytes) -> bool:
    """Whether a file begins as RIFF or its large relative does."""
    return head[:4] in (b"RIFF", b"RF64", b"RIFX")


def is_volume_steps(head: bytes) -> bool:
    """Whether a file holds volume steps: by its heading, or, when short, by counting volume numbers."""
    try:
        return not is_wav(head) and looks_like_volume_steps(dialect.decode(head)[0], whole=len(head) < HEAD_BYTES)
    except BadInput:
        return False


def kind_of(head: bytes) -> CaptureKind:
    """Kind of a file by its first bytes."""
    if is_wav(head):
        return CaptureKind.WAV
    if is_binary(head):
        return CaptureKind.BINARY
    return CaptureKind.VOLUME_STEPS if is_volume_steps(head) else CaptureKind.CSV


def read_capture(file: BinaryIO, full_scale_v: float | None = None, progress: Progress | None = None) -> list[Trace]:
    """
    The channels in a seekable `file`; `full_scale_v` is what a WAV file's full scale means, 1 V unless given.

    Raises:
        BadInput: with one sentence that says what was expected.
    """
    head = file.read(HEAD_BYTES)
    file.seek(0)
    if not head:
        raise BadInput("The file is empty: a scope’s CSV export or a WAV file is expected.")
    if is_wav(head):
        return read_wav(file, full_scale_v or 1.0, progress)
    if is_volume_steps(head):
        raise BadInput("This file has volume numbers and volts, not a wave. Use upper-rook volume-steps FILE.")
    if is_binary(head):
        return read_scope_binary(file)
    # Arrow takes a while to load, which a start need not wait for.
    from upper_rook.formats.scope_csv import read_scope_csv

    return read_scope_csv(file, progress)
